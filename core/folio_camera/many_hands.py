"""Pages in any handwriting font, of every kind that students send: for which way up, bound books and curved paper.

A page is a pure function of its kind, its hand and its seed. Everything on it is invented.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from .figures import FIGURES
from .folio_writer import working
from .handwriting import A4_MM, BLACK_PEN, BLUE_PEN, LETTER_MM, PENCIL, SHEET_DPI, Style, WrittenSheet, paper_of

_MM = SHEET_DPI / 25.4
_LINE = 8.0  # mm from line to line
_EDGE = 10.0  # mm that stay free


@dataclass(frozen=True, slots=True)
class Kind:
    """``lines``: how many are written, as far as they fit. ``width``, ``weight``, ``height_mm``: of the letters.

    ``share``: of the sheet's width that a line fills. ``says``: mixed, maths, prose or numbers.
    """

    says: str = "mixed"
    lines: tuple[int, int] = (6, 26)
    height_mm: tuple[float, float] = (3.2, 4.6)
    width: tuple[float, float] = (0.92, 1.12)
    bold: bool = False
    capitals: bool = False
    share: tuple[float, float] = (0.25, 0.95)
    figures: int = 0
    table: bool = False
    lying: bool = False  # the sheet is used across
    first_mm: tuple[float, float] = (14.0, 40.0)  # where the first line stands


KINDS: dict[str, Kind] = {
    "mixed": Kind(),
    "prose": Kind(says="prose", share=(0.75, 0.98)),
    "bold capitals": Kind(bold=True, capitals=True, says="prose"),
    "capitals, few": Kind(capitals=True, lines=(3, 7)),
    "small": Kind(height_mm=(2.1, 2.8), lines=(8, 34)),
    "wide": Kind(width=(1.3, 1.65)),
    "narrow": Kind(width=(0.68, 0.82)),
    "few lines": Kind(lines=(1, 4)),
    "few lines, low": Kind(lines=(2, 5), first_mm=(90.0, 230.0)),
    "short lines": Kind(share=(0.12, 0.35)),
    "drawings": Kind(lines=(4, 10), figures=2),
    "table": Kind(says="numbers", lines=(3, 8), table=True),
    "maths only": Kind(says="maths"),
    "across": Kind(lying=True, lines=(4, 18)),
}  # fmt: skip
_TALK = (
    "the tide falls for six hours and runs hardest in the third and fourth so we wait until slack water before "
    "the bar each force is balanced by another because the body is at rest we take moments about the hinge where "
    "two of them vanish from the graph it can be seen that growth slows when food becomes scarce this agrees with "
    "what was measured in water under pressure heat lost to the air was not counted which explains why our value "
    "lies below that of the tables suppose there were only finitely many then their product plus one has another "
    "divisor and we have a contradiction if the reaction is of first order half of what is left decays in equal "
    "times "
)
_WORDS = tuple(_TALK.split())
_HEADS = ("Problem {n}", "{n}a", "{n}.", "Question {n}", "Q{n}", "{n})", "Exercise {n}")
_ANNOTATIONS = ("x", "y", "A", "B", "h = 4.2 m", "t in h", "max", "45°", "F", "N", "v0", "90°", "P")


def page_in_hand(kind: str, hand: Path, seed: int, paper: str = "") -> WrittenSheet:
    """One sheet. ``hand``: a font's file; ``paper``: ruled, squared or plain; "" is any."""
    chance = random.Random(f"{kind} {seed}")
    wanted = KINDS[kind]
    size_mm = chance.choice((A4_MM, A4_MM, A4_MM, LETTER_MM))
    if wanted.lying:
        size_mm = size_mm[1], size_mm[0]
    style = Style(
        pen=chance.choice((BLUE_PEN, BLACK_PEN, BLACK_PEN, PENCIL)), size_mm=size_mm,
        paper=paper or chance.choice(("ruled", "ruled", "squared", "plain", "plain")),
        paper_colour=chance.choice(((250, 249, 244), (252, 252, 250), (246, 246, 248), (250, 244, 226))),
    )  # fmt: skip
    width, height = (round(side * _MM) for side in size_mm)
    ink = np.zeros((height, width), np.uint8)
    pen = Pen(ink, hand, wanted, chance)
    _fill(pen, wanted, size_mm, chance)
    blank = paper_of(style, (width, height), chance)
    if style.paper != "plain" and wanted.lying:  # the rules run along the short side, whichever way one writes
        upright = paper_of(replace(style, size_mm=size_mm[::-1]), (height, width), chance)
        blank = np.ascontiguousarray(np.rot90(upright))
    inked = ink > 0
    alpha = (ink[inked].astype(np.float32) / 255 * np.float32(chance.uniform(0.86, 0.96)))[:, None]
    blank[inked] += alpha * (np.asarray(style.pen, np.float32) - blank[inked])
    return WrittenSheet(np.rint(blank, out=blank).astype(np.uint8), ink > 127, ())


class Pen:
    """Writes lines on a layer of ink (255), with a slant, a weight and a steadiness of its own."""

    def __init__(self, ink: NDArray[np.uint8], hand: Path, kind: Kind, chance: random.Random) -> None:
        self.ink, self.hand, self.kind, self.chance = ink, hand, kind, chance
        self.height = chance.uniform(*kind.height_mm) * _MM
        self.stretch = chance.uniform(*kind.width)
        self.slant = chance.gauss(0, 0.12)
        self.rise = chance.gauss(0, 0.012)
        self.unsteady = chance.uniform(0.01, 0.07)
        self.weight = chance.randint(4, 8) if kind.bold else chance.choice((0, 0, 0, 1, 2))
        box = ImageFont.truetype(str(hand), 200).getbbox("5", anchor="ls")
        self.size = max(12, round(self.height * 200 / max(40, -box[1])))

    def write(self, text: str, x: float, baseline: float, factor: float = 1.0) -> float:
        """Returns where it ends. All in pixels; what goes over the sheet's edge is left out."""
        chance = self.chance
        text = text.upper() if self.kind.capitals else text
        begun = x
        for word in text.split(" "):
            size = max(12, round(self.size * factor * (1 + chance.gauss(0, self.unsteady / 2)) / 4) * 4)
            stamp, up, left = self._word(word, size)
            y = baseline - self.rise * (x - begun) + chance.gauss(0, self.unsteady) * self.height
            if x + stamp.shape[1] > self.ink.shape[1] - _EDGE * _MM / 2:
                break
            _lay(self.ink, stamp, round(x - left), round(y - up))
            x += stamp.shape[1] - 2 * left + self.height * factor * chance.uniform(0.4, 0.7)
        return x

    def _word(self, word: str, size: int) -> tuple[NDArray[np.uint8], int, int]:
        """Its ink, how far its baseline lies below its top, and how much room stands on its left."""
        face = _face(self.hand, size)
        room = size // 3
        wide, high = math.ceil(face.getlength(word)) + 2 * room, 2 * size
        base = round(1.3 * size)
        image = Image.new("L", (wide, high), 0)
        ImageDraw.Draw(image).text((room, base), word, font=face, fill=255, anchor="ls", stroke_width=self.weight)
        bent = np.array([[self.stretch, -self.slant, self.slant * base], [0, 1, 0]], np.float32)
        stamp = cv2.warpAffine(np.asarray(image), bent, (math.ceil(wide * self.stretch), high))
        return _wavy(stamp, size, self.chance), base, round(room * self.stretch)

    def draw(self, figure: str, x: float, y: float) -> None:
        """A figure with a few words at it. Height as `figures.FIGURE_MM`."""
        image = Image.fromarray(self.ink)
        FIGURES[figure](ImageDraw.Draw(image), (x, y), _MM, max(3, round(0.45 * _MM)), self.chance)
        self.ink[:] = np.asarray(image)
        for _ in range(self.chance.randint(1, 4)):
            self.write(
                self.chance.choice(_ANNOTATIONS), x + self.chance.uniform(0, 80) * _MM,
                y + self.chance.uniform(4, 42) * _MM, 0.85,
            )  # fmt: skip

    def table(self, x: float, y: float, columns: int, rows: int, cell: tuple[float, float]) -> None:
        thick = max(2, round(0.35 * _MM))
        for row in range(rows + 1):
            at = round(y + row * cell[1])
            cv2.line(
                self.ink, (round(x), at), (round(x + columns * cell[0]), at + self.chance.randint(-4, 4)), 255, thick
            )
        for column in range(columns + 1):
            at = round(x + column * cell[0])
            cv2.line(self.ink, (at, round(y)), (at + self.chance.randint(-4, 4), round(y + rows * cell[1])), 255, thick)
        for row in range(rows):
            for column in range(columns):
                said = self.chance.choice("xytvFhn") if row == 0 else f"{self.chance.uniform(0, 99):.1f}"
                self.write(said, x + (column + 0.18) * cell[0], y + (row + 0.75) * cell[1], 0.9)


@lru_cache(64)
def _face(hand: Path, size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(hand), size)


def _lay(ink: NDArray[np.uint8], stamp: NDArray[np.uint8], x: int, y: int) -> None:
    top, left = max(0, y), max(0, x)
    bottom, right = min(ink.shape[0], y + stamp.shape[0]), min(ink.shape[1], x + stamp.shape[1])
    if bottom > top and right > left:
        into = ink[top:bottom, left:right]
        np.maximum(into, stamp[top - y : bottom - y, left - x : right - x], out=into)


def _wavy(stamp: NDArray[np.uint8], size: int, chance: random.Random) -> NDArray[np.uint8]:
    """Drawn elastically (Simard, Steinkraus and Platt, ICDAR 2003), so that no two letters are the same."""
    high, wide = stamp.shape
    noise = np.random.default_rng(chance.randrange(2**32))
    coarse = noise.normal(0, 0.035 * size, (2, max(2, high * 2 // size + 1), max(2, wide * 2 // size + 1)))
    across, down = (cv2.resize(one.astype(np.float32), (wide, high), interpolation=cv2.INTER_CUBIC) for one in coarse)
    y, x = np.mgrid[0:high, 0:wide].astype(np.float32)
    return np.asarray(cv2.remap(stamp, x + across, y + down, cv2.INTER_LINEAR), np.uint8)


def _fill(pen: Pen, kind: Kind, size_mm: tuple[float, float], chance: random.Random) -> None:
    width, height = (side * _MM for side in size_mm)
    left = chance.uniform(18, 34) * _MM
    y = chance.uniform(*kind.first_mm) * _MM
    step = _LINE * _MM * (chance.choice((1.0, 1.0, 1.25, 0.8)) if kind.height_mm[0] > 3 else 0.8)
    lines, number = chance.randint(*kind.lines), chance.randint(1, 6)
    drawn = sorted(chance.sample(range(1, lines + 1), min(kind.figures, lines)))
    for line in range(lines):
        if y > height - _EDGE * _MM:
            break
        if line in drawn and y + 52 * _MM < height:
            pen.draw(chance.choice(list(FIGURES)), left + chance.uniform(0, 60) * _MM, y)
            y += 50 * _MM
        if line == 1 and kind.table and y + 80 * _MM < height:
            rows = chance.randint(3, 7)
            pen.table(left, y, chance.randint(2, 6), rows, (chance.uniform(18, 26) * _MM, 9.5 * _MM))
            y += (rows * 9.5 + 12) * _MM
        if line % max(1, lines // 3) == 0 and chance.random() < 0.8:
            pen.write(chance.choice(_HEADS).format(n=number), max(8 * _MM, left - chance.uniform(8, 18) * _MM), y)
            number += 1
            if kind.says != "maths" and chance.random() < 0.4:
                y += step
        _line(pen, kind, left + chance.choice((0, 0, 0, 1, 2)) * 6 * _MM, y, width, chance)
        y += step


def _line(pen: Pen, kind: Kind, x: float, y: float, width: float, chance: random.Random) -> None:
    until = x + (width - x) * chance.uniform(*kind.share)
    says = chance.choice(("maths", "prose")) if kind.says == "mixed" else kind.says
    first = True
    while x < until:
        before = x
        x = pen.write(_said(says, chance, first), x, y)
        first = False
        if x == before or says in ("maths", "numbers"):
            break


def _said(says: str, chance: random.Random, first: bool) -> str:
    if says == "maths":
        return working(chance)
    if says == "numbers":
        return f"{chance.choice('xytvFh')} = {chance.uniform(0, 99):.1f} {chance.choice(('m', 's', 'N', 'kg'))}"
    at = chance.randrange(len(_WORDS) - 3)
    words = " ".join(_WORDS[at : at + chance.randint(1, 3)])
    return words.capitalize() if first and chance.random() < 0.5 else words
