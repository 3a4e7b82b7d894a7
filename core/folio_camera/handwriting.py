"""Writing answers on a sheet: fonts as pens, lines that wander, labels in the margin."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from .figures import FIGURE_MM, FIGURES
from .solutions import Answer

_FONTS = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "@fontsource"
# All under the SIL Open Font License 1.1, from the npm registry (web/package.json).
HANDS = {
    "kalam": ("kalam/files/kalam-latin-400-normal.woff", 1.0),
    "caveat": ("caveat/files/caveat-latin-500-normal.woff", 1.25),
    "patrick": ("patrick-hand/files/patrick-hand-latin-400-normal.woff", 1.1),
    "indie": ("indie-flower/files/indie-flower-latin-400-normal.woff", 1.05),
    "gochi": ("gochi-hand/files/gochi-hand-latin-400-normal.woff", 1.1),
}
BLUE_PEN, BLACK_PEN, RED_PEN = (28, 44, 120), (30, 30, 36), (168, 30, 34)
PENCIL, FAINT_PENCIL = (104, 104, 108), (206, 206, 204)
SHEET_DPI = 250
_MM = SHEET_DPI / 25.4
A4_MM, LETTER_MM = (210.0, 297.0), (215.9, 279.4)  # ISO 216; ANSI/ASME Y14.1
SHEET_SIZE = (round(210 * _MM), round(297 * _MM))
_LINE_MM = 8.0  # ruled paper, common practice
_INKED = 40  # grey levels from which a pixel is ink


@dataclass(frozen=True, slots=True)
class LabelAt:
    """A label and how far down the sheet its answer begins, 0 at the top, 1 at the bottom."""

    label: str
    top: float


@dataclass(frozen=True, slots=True)
class WrittenSheet:
    """``pixels``: height × width × 3 RGB; ``ink``: height × width, True where pen or pencil lies; ``outline``: 255
    where there is paper, None where that is all of it."""

    pixels: NDArray[np.uint8]
    ink: NDArray[np.bool_]
    labels: tuple[LabelAt, ...]
    outline: NDArray[np.uint8] | None = None


class Habit(StrEnum):
    DRAWS = "draws"  # the figures of the answers
    CROSSES_OUT = "crosses_out"  # a first try, struck through
    MARGIN_NOTES = "margin_notes"
    FOLDS = "folds"  # the sheet was folded once across


@dataclass(frozen=True, slots=True)
class Style:
    hand: str = "kalam"
    pen: tuple[int, int, int] = BLUE_PEN
    paper: str = "ruled"  # ruled, squared, plain
    paper_colour: tuple[int, int, int] = (250, 249, 244)
    second_pen: tuple[int, int, int] | None = None  # every other answer is written with it
    habits: tuple[Habit, ...] = ()
    size_mm: tuple[float, float] = A4_MM


def file_of(hand: str) -> Path:
    return _FONTS / HANDS[hand][0]


@cache
def _font(hand: str, size: int) -> ImageFont.FreeTypeFont:
    file, factor = file_of(hand), HANDS[hand][1]
    if not file.exists():
        raise FileNotFoundError(
            f"The handwriting font {file} is missing. Run ./folio setup to install the web packages."
        )
    return ImageFont.truetype(str(file), round(size * factor))


def write_sheet(answers: Sequence[Answer], style: Style, seed: int, *, heading: str = "") -> WrittenSheet:
    """Write the answers one below the other. What does not fit is an error of the caller (ValueError)."""
    chance = random.Random(seed)
    habit = random.Random(seed * 7919)  # its own, so that a sheet without habits is the same as ever
    width, height = (round(side * _MM) for side in style.size_mm)
    strokes = [Image.new("L", (width, height), 0) for _ in range(2)]
    line = _LINE_MM * _MM
    left = 30 * _MM
    y = 24 * _MM
    if heading:
        _write(strokes[0], heading, (left, y - 1.2 * line), style.hand, round(4.6 * _MM), chance)
    labels = []
    for number, answer in enumerate(answers):
        figure = FIGURES.get(answer.figure) if Habit.DRAWS in style.habits else None
        if y + line * len(answer.lines) + (FIGURE_MM * _MM if figure else 0) > height - 12 * _MM:
            raise ValueError(f"The answer to {answer.label} does not fit on this sheet.")
        on = strokes[number % 2 if style.second_pen else 0]
        labels.append(LabelAt(answer.label, y / height))
        _write(on, answer.label, (13 * _MM, y), style.hand, round(6 * _MM), chance)
        if Habit.CROSSES_OUT in style.habits and habit.random() < 0.5 and y + line * (len(answer.lines) + 1) < height:
            _first_try(on, answer.lines[-1], (left, y), style.hand, habit)
            y += line
        for text in answer.lines:
            indent = chance.uniform(0, 6) * _MM
            _write(on, text, (left + indent, y), style.hand, round(5.4 * _MM), chance)
            y += line
        if figure:
            figure(ImageDraw.Draw(on), (left, y + 2 * _MM), _MM, round(0.5 * _MM), habit)
            y += FIGURE_MM * _MM
        if Habit.MARGIN_NOTES in style.habits and habit.random() < 0.4:
            _write(on, habit.choice(_NOTES), (width - 52 * _MM, y - line), style.hand, round(3.8 * _MM), habit)
        y += line * 0.8
    pixels = paper_of(style, (width, height), chance)
    covered = np.zeros((height, width), np.float32)
    for layer, pen in zip(strokes, (style.pen, style.second_pen or style.pen), strict=True):
        ink = np.asarray(layer, np.float32) / 255
        alpha = ink[..., None] * np.float32(chance.uniform(0.86, 0.96))
        pixels = (pixels * (1 - alpha) + np.asarray(pen, np.float32) * alpha).astype(np.float32)
        covered = np.maximum(covered, ink)
    if Habit.FOLDS in style.habits:
        _fold(pixels, habit)
    return WrittenSheet(np.rint(pixels).astype(np.uint8), covered > 0.5, tuple(labels))


_NOTES = ("see table", "units!", "checked", "sign?", "from 1a")


def _first_try(strokes: Image.Image, text: str, at: tuple[float, float], hand: str, chance: random.Random) -> None:
    """A line with other digits in it, struck through."""
    wrong = "".join(str((int(one) + 3) % 10) if one.isdecimal() and chance.random() < 0.5 else one for one in text)
    size = round(5.4 * _MM)
    _write(strokes, wrong, at, hand, size, chance)
    width = sum(_font(hand, size).getlength(word) + size * 0.3 for word in wrong.split(" "))
    draw = ImageDraw.Draw(strokes)
    for by in (-0.6, 0.9):
        y = at[1] + 0.55 * _LINE_MM * _MM + by * _MM
        draw.line([(at[0], y), (at[0] + width, y + chance.uniform(-1, 1) * _MM)], fill=255, width=round(0.5 * _MM))


def _fold(pixels: NDArray[np.float32], chance: random.Random) -> None:
    """A crease across the middle: a thin dark line, and the lower half a little darker."""
    middle = round(pixels.shape[0] * chance.uniform(0.48, 0.52))
    pixels[middle:] *= 0.965
    pixels[middle - 2 : middle + 2] *= 0.86


def _write(
    strokes: Image.Image, text: str, at: tuple[float, float], hand: str, size: int, chance: random.Random
) -> None:
    x, y = at
    slope = chance.uniform(-0.006, 0.006)
    draw = ImageDraw.Draw(strokes)
    for word in text.split(" "):
        font = _font(hand, max(8, round(size * chance.uniform(0.95, 1.05))))
        baseline = y + slope * (x - at[0]) + chance.uniform(-0.3, 0.3) * _MM + 0.75 * _LINE_MM * _MM
        draw.text((x, baseline), word, font=font, fill=255, anchor="ls")
        x += draw.textlength(word, font=font) + size * chance.uniform(0.26, 0.38)


def paper_of(style: Style, size: tuple[int, int], chance: random.Random) -> NDArray[np.float32]:
    """Blank paper of the style, height × width × 3."""
    width, height = size
    paper = np.empty((height, width, 3), np.float32)
    paper[:] = style.paper_colour
    grain = np.random.default_rng(chance.randrange(2**32)).normal(0, 1.4, (height // 2, width // 2)).astype(np.float32)
    paper += np.asarray(Image.fromarray(grain).resize((width, height)))[..., None]
    pale_blue = np.array([178, 200, 226], np.float32)
    step = _LINE_MM * _MM if style.paper == "ruled" else 5 * _MM
    if style.paper in ("ruled", "squared"):
        for row in np.arange(24 * _MM, height, step):
            paper[int(row) : int(row) + 2] = pale_blue
    if style.paper == "squared":
        for column in np.arange(0, width, step):
            paper[:, int(column) : int(column) + 2] = pale_blue
    if style.paper == "ruled":
        paper[:, int(26 * _MM) : int(26 * _MM) + 2] = (226, 160, 160)
    return paper


def trimmed(ink: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A written sign without the blank paper around it; 255 is ink."""
    rows, columns = (np.flatnonzero(ink.max(axis) > _INKED) for axis in (1, 0))
    return ink[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
