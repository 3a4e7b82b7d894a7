"""The boxes for a student's number that are printed over a form's first page, and the digits written in them.

What is read is a check only, against the numbers of the roster: whose sheet this seems to be.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.light import evened, paper_light
from folio_core.reading.finding import Start, crop
from folio_core.reading.page_reading import Engine

from .blank import POINT_PX, BlankPage, Homography, Image

BOXES, BOX_WIDE_PT, BOX_HIGH_PT = 8, 15.0, 18.0
EDGE_PT, CODE_PT = 20.0, 58.0  # printers leave the outermost 5 to 7 mm white; in two corners stands a code of ours
WORD_PT = 24.0  # "No.", left of the first box
_CLEAR_PT, _DEEPEST_PT = 3.0, 110.0  # white around; so far from head and foot a place is looked for
_PRINTED = 225  # grey levels from which on a page is print

_PX_A_POINT = 4.0
_REACH_PT = 5.0  # so far the frames may lie from where they should: creased sheets, registered within 1.5 mm
_ASKEW_PT = 2.0  # one box against all of them: a sheet that is bent, a lens
_FRAME_PT = 1.4  # of a box's edge is frame
_INK, _LEAST_INK_PT2, _LEAST_HIGH_PT = 70, 1.5, 4.0  # below the paper; less is a speck, or dirt of the frame
_LEAST = 1e-4  # so improbable anything may be: a digit that was badly written is no proof


def place_on(page: BlankPage) -> tuple[float, float] | None:
    """Where on a form's first page its boxes are printed: left and top of the first, in points from the page's upper
    left corner; None where no place is free. A pure function of the form: a photograph is read at the same place."""
    wide, last = BOXES * BOX_WIDE_PT, page.height_pt - EDGE_PT - BOX_HIGH_PT
    steps = np.arange(EDGE_PT, _DEEPEST_PT, 4.0)
    for top in (*steps, *(last + EDGE_PT - steps)):
        for left in np.arange(page.width_pt - EDGE_PT - wide, EDGE_PT + WORD_PT, -6.0):
            if is_free(page, left - WORD_PT, top, left + wide, top + BOX_HIGH_PT):
                return float(left), float(top)
    return None


def is_free(page: BlankPage, left: float, top: float, right: float, bottom: float) -> bool:
    """Whether nothing is printed there on the page, by anybody, and it lies on it. In points."""
    if left < EDGE_PT / 2 or top < 0 or right > page.width_pt or bottom > page.height_pt:
        return False
    in_code = (right > page.width_pt - CODE_PT and top < CODE_PT) or (
        left < CODE_PT and bottom > page.height_pt - CODE_PT
    )
    x, y, to_x, to_y = (
        round(side * POINT_PX) for side in (left - _CLEAR_PT, top - _CLEAR_PT, right + _CLEAR_PT, bottom + _CLEAR_PT)
    )
    return not in_code and bool((page.grey[max(0, y) : to_y, max(0, x) : to_x] >= _PRINTED).all())


def number_boxes(place: tuple[float, float]) -> list[tuple[float, float, float, float]]:
    """Left, top, right and bottom of each, in points from the page's upper left corner."""
    left, top = place
    return [(left + at * BOX_WIDE_PT, top, left + (at + 1) * BOX_WIDE_PT, top + BOX_HIGH_PT) for at in range(BOXES)]


def digits_in(
    pixels: NDArray[np.uint8], page: BlankPage, homography: Homography, engine: Engine
) -> list[list[float] | None]:
    """For each box how probable each of the ten digits is, or None where nothing is written in it; nothing where the
    page has no boxes. ``pixels``: the photograph, RGB; ``homography``: its pixels → points of the page."""
    place = place_on(page)
    if place is None:
        return []
    boxes = number_boxes(place)
    left, top = boxes[0][0] - 2 * _REACH_PT, boxes[0][1] - 2 * _REACH_PT
    wide, high = boxes[-1][2] - left + 2 * _REACH_PT, boxes[-1][3] - top + 2 * _REACH_PT
    to_strip = np.array([[_PX_A_POINT, 0, -left * _PX_A_POINT], [0, _PX_A_POINT, -top * _PX_A_POINT], [0, 0, 1]])
    size = (round(wide * _PX_A_POINT), round(high * _PX_A_POINT))
    strip = cv2.warpPerspective(pixels, to_strip @ homography, size, borderMode=cv2.BORDER_REPLICATE)
    grey = np.asarray(cv2.cvtColor(strip, cv2.COLOR_RGB2GRAY), np.uint8)
    even = evened(grey, paper_light(grey))
    x, y = _frames_at(even)
    cells = [_cell(even, x + at * BOX_WIDE_PT * _PX_A_POINT, y) for at in range(BOXES)]
    written = [(at, cell, start) for at, cell in enumerate(cells) if (start := _written(cell)) is not None]
    said: list[list[float] | None] = [None] * BOXES
    if not written:
        return said
    digit = float(np.median([start.bottom - start.top for _, _, start in written]))
    read = engine.digits(np.stack([crop(*_behind_a_digit(cell, start, digit), digit) for _, cell, start in written]))
    for (at, _, _), chances in zip(written, read, strict=True):
        said[at] = [round(float(one), 5) for one in chances]
    return said


def _behind_a_digit(cell: Image, start: Start, digit: float) -> tuple[Image, Start]:
    """A 1 is drawn before it: the engine reads labels, and no label begins with 0."""
    room = round(0.75 * digit)
    both = cv2.copyMakeBorder(cell, 0, 0, room, 0, cv2.BORDER_CONSTANT, value=255)
    left = round(start.left + room - 0.45 * digit)
    middle, half = (start.top + start.bottom) / 2, digit / 2
    foot, head = (left, round(middle + half)), (left + round(0.06 * digit), round(middle - half))
    cv2.line(both, foot, head, 60, max(2, round(0.09 * digit)), cv2.LINE_AA)
    top, bottom = min(start.top, head[1]), max(start.bottom, foot[1])
    return both, Start(float(left), start.right + room, top, bottom, 0, True)


def likeliest(digits: Sequence[Sequence[float] | None], numbers: Iterable[str]) -> tuple[str, float] | None:
    """Of some numbers that which is written, with its probability among them; None where nothing is. A number begins in
    the first box that is written in."""
    written = [one for one in digits if one is not None]
    if not written:
        return None
    fitting = {one for one in numbers if one.isascii() and one.isdigit() and len(one) == len(written)}
    worths = {
        number: math.prod(max(_LEAST, chances[int(digit)]) for chances, digit in zip(written, number, strict=True))
        for number in fitting
    }
    if not worths:
        return None
    nobody = 0.1 ** len(written)  # any other number
    best = max(worths, key=lambda number: worths[number])
    return best, worths[best] / (sum(worths.values()) + nobody)


def _frames_at(even: Image) -> tuple[float, float]:
    """Upper left corner of the first box, in the strip: where the printed frames fit best."""
    wide, high = round(BOXES * BOX_WIDE_PT * _PX_A_POINT), round(BOX_HIGH_PT * _PX_A_POINT)
    frames = np.zeros((high + 1, wide + 1), np.float32)
    frames[[0, 1, -2, -1]] = 1
    for at in range(BOXES + 1):
        middle = min(wide, round(at * BOX_WIDE_PT * _PX_A_POINT))
        frames[:, max(0, middle - 1) : middle + 1] = 1
    frames = cv2.GaussianBlur(frames, (0, 0), 1.2)
    dark = cv2.GaussianBlur(np.minimum(255 - even, 120).astype(np.float32), (0, 0), 0.8)
    start = round(2 * _REACH_PT * _PX_A_POINT)
    reach = round(_REACH_PT * _PX_A_POINT)
    window = dark[start - reach : start + high + reach + 1, start - reach : start + wide + reach + 1]
    fit = cv2.matchTemplate(np.ascontiguousarray(window), frames, cv2.TM_CCOEFF_NORMED)
    _, _, _, (x, y) = cv2.minMaxLoc(fit)
    return float(start - reach + x), float(start - reach + y)


def _cell(even: Image, x: float, y: float) -> Image:
    """What is within the frame of one box; the frame itself, where it is printed about there, is paper."""
    wide, high = round(BOX_WIDE_PT * _PX_A_POINT), round(BOX_HIGH_PT * _PX_A_POINT)
    around = round(_ASKEW_PT * _PX_A_POINT)
    frame = np.zeros((high + 1, wide + 1), np.float32)
    frame[[0, 1, -2, -1]] = frame[:, [0, 1, -2, -1]] = 1
    left, top = round(x), round(y)
    near = even[top - around : top + high + 1 + around, left - around : left + wide + 1 + around]
    dark = np.minimum(255 - near, 120).astype(np.float32)
    fit = cv2.matchTemplate(dark, cv2.GaussianBlur(frame, (0, 0), 1.0), cv2.TM_CCOEFF_NORMED)
    _, _, _, (dx, dy) = cv2.minMaxLoc(fit)
    cell = near[dy : dy + high + 1, dx : dx + wide + 1]
    edge = round(_FRAME_PT * _PX_A_POINT)
    framed = np.full_like(cell, 255)
    framed[edge:-edge, edge:-edge] = cell[edge:-edge, edge:-edge]
    return framed


def _written(cell: Image) -> Start | None:
    ink = np.where(cell < 255 - _INK, 255, 0).astype(np.uint8)
    many, _, sizes, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    strokes = sizes[1:many][sizes[1:many, cv2.CC_STAT_AREA] >= _LEAST_INK_PT2 * _PX_A_POINT**2]
    if len(strokes) == 0:
        return None
    left, top = strokes[:, cv2.CC_STAT_LEFT].min(), strokes[:, cv2.CC_STAT_TOP].min()
    right = (strokes[:, cv2.CC_STAT_LEFT] + strokes[:, cv2.CC_STAT_WIDTH]).max()
    bottom = (strokes[:, cv2.CC_STAT_TOP] + strokes[:, cv2.CC_STAT_HEIGHT]).max()
    if bottom - top < _LEAST_HIGH_PT * _PX_A_POINT:
        return None
    return Start(float(left), float(right), float(top), float(bottom), 0, True)
