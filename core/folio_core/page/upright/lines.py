"""What a reader makes of some lines of a page, in each way that they may run."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from ..letters import letter_heights
from ..recogniser import signs_of

Grey = NDArray[np.uint8]

_MOST_LINES = 6
_LEAST_LETTERS = 4
_WIDE, _HIGH = 8.0, 0.95  # of a piece, in heights of a letter; the second up and down from the line's middle
_APART = 0.8  # of a letter's height between lines
_LEAST_INK = 2.0  # grey levels of a row of a piece
_MOST_WIDTH = 320
_SIGNS = frozenset("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789=+()/.,-")
_SURE = 0.9
_NOTHING = -1.5  # in place of the mean log chance of signs, where there are none


def read(page: Grey, ink: Grey, ways: NDArray[np.bool_]) -> NDArray[np.float64]:
    """4 × 3, a row for each clockwise turn by 0, 90, 180, 270 degrees: how many signs were read, how many of them
    surely (both log), and the mean log chance of all. ``ways``: which turns are looked at; the others' rows are 0."""
    told = np.zeros((4, 3))
    heights = letter_heights(ink)
    if len(heights) < _LEAST_LETTERS:
        return told
    height = float(np.median(heights))
    for sideways in (0, 1):
        if not ways[sideways] and not ways[sideways + 2]:
            continue
        layers = [np.ascontiguousarray(np.rot90(layer, -sideways)) for layer in (page, ink)]
        pieces = pieces_of_lines(layers[0], layers[1], height)
        for upside_down in (0, 1):
            way = sideways + 2 * upside_down
            if ways[way]:
                shown = [np.ascontiguousarray(piece[::-1, ::-1]) for piece in pieces] if upside_down else pieces
                told[way] = _told([sign for piece in shown for sign in signs_of(piece, _MOST_WIDTH)])
    return told


def _told(signs: list[tuple[str, float]]) -> tuple[float, float, float]:
    known = [sure for sign, sure in signs if sign in _SIGNS]
    logs = [math.log(sure) for sign, sure in signs if sign != " "]
    mean = sum(logs) / len(logs) if logs else _NOTHING
    return math.log1p(sum(sure * sure for sure in known)), math.log1p(sum(sure > _SURE for sure in known)), mean


def pieces_of_lines(page: Grey, ink: Grey, letter: float) -> list[Grey]:
    """The clearest pieces of lines that run across, as if they did: where ink gathers in a row between emptier ones."""
    height, width = ink.shape
    wide = min(int(_WIDE * letter), width - 1)
    found: list[tuple[float, int, int]] = []
    for begin in (0, wide // 2):
        columns = (width - begin) // wide
        if columns < 1:
            continue
        part = np.ascontiguousarray(ink[:, begin : begin + columns * wide])
        rows = cv2.resize(part, (columns, height), interpolation=cv2.INTER_AREA).astype(np.float32)
        rows = cv2.GaussianBlur(rows, (1, 1 | int(2 * letter)), 0, sigmaY=0.3 * letter)
        near = np.ones((2 * max(1, int(0.9 * letter)) + 1, 1), np.uint8)
        apart = int(1.15 * letter)
        beside = np.pad(rows, ((apart, apart), (0, 0)))
        clear = rows - 0.5 * np.maximum(beside[:height], beside[2 * apart :])
        peaks = (rows >= cv2.dilate(rows, near)) & (rows > _LEAST_INK) & (clear > 0)
        found += [(float(clear[y, x]), int(y), begin + int(x) * wide) for y, x in zip(*np.nonzero(peaks), strict=True)]
    chosen: list[tuple[int, int]] = []
    for _, y, x in sorted(found, reverse=True):
        if all(abs(y - other_y) > _APART * letter or abs(x - other_x) >= wide for other_y, other_x in chosen):
            chosen.append((y, x))
        if len(chosen) == _MOST_LINES:
            break
    return [_piece(page, y, x, wide, letter) for y, x in chosen]


def _piece(page: Grey, y: int, x: int, wide: int, letter: float) -> Grey:
    top, bottom = max(0, int(y - _HIGH * letter)), min(page.shape[0], int(y + _HIGH * letter) + 1)
    more = int(0.4 * letter)
    return page[top:bottom, max(0, x - more) : x + wide + more]
