"""What stands in an answer and is numbered or lettered but names no question: graphs, tables, figures, worked examples,
numbered steps, final answers that are set off."""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Callable, Sequence
from typing import Protocol

from PIL import ImageDraw

from .handwriting import SHEET_DPI

_MM = SHEET_DPI / 25.4
_SMALL = 0.8  # of the writing's size: numbers in drawings
Point = tuple[float, float]


class Hand(Protocol):
    """Who draws: in mm, from the page's upper left corner. ``size``: of a digit; ``pitch``: of lines."""

    chance: random.Random
    size: float
    pitch: float

    @property
    def drawing(self) -> ImageDraw.ImageDraw: ...

    def write(self, text: str, x: float, y: float, size: float) -> float: ...

    def work(self) -> str: ...


def distract(hand: Hand, left: float, top: float, room: float) -> float:
    """Draws one that fits into ``room`` mm below ``top``; returns how high it is, 0 where none fits."""
    kinds: Sequence[tuple[float, Callable[[Hand, float, float], float]]] = (
        (64.0, _graph), (44.0, _table), (56.0, _figure), (5 * hand.pitch, _example), (4 * hand.pitch, _steps),
        (2 * hand.pitch, _final_answer),
    )  # fmt: skip
    fitting = [draw for high, draw in kinds if high < room]
    return hand.chance.choice(fitting)(hand, left, top) if fitting else 0.0


def _graph(hand: Hand, left: float, top: float) -> float:
    """Axes with numbers along them, and a curve."""
    chance = hand.chance
    x, y = left + chance.uniform(8, 30), top + 3
    high, wide = chance.uniform(32, 46), chance.uniform(45, 80)
    foot = y + high
    _stroke(hand, [(x, y), (x, foot)])
    _stroke(hand, [(x - 1, foot), (x + wide, foot)])
    step, count = chance.choice((0.5, 1, 2, 5, 10)), chance.randint(3, 6)
    for at in range(1, count + 1):
        tick = foot - at * (high - 4) / count
        text = f"{at * step:g}"
        hand.write(text, x - hand.size * (0.75 * len(text) + 0.5), tick - 0.45 * hand.pitch, hand.size * _SMALL)
        if chance.random() < 0.5:
            _stroke(hand, [(x - 1, tick), (x + 1, tick)])
    step, count = chance.choice((1, 1, 2, 10)), chance.randint(3, 6)
    for at in range(1, count + 1):
        text = f"{at * step:g}"
        hand.write(text, x + at * (wide - 4) / count - hand.size / 2, foot + 0.4, hand.size * _SMALL)
    bend = chance.uniform(0.4, 2.5)
    _stroke(hand, [(x + wide * t, foot - (high - 4) * t**bend) for t in (at / 24 for at in range(1, 23))])
    return foot - top + hand.pitch + 4


def _table(hand: Hand, left: float, top: float) -> float:
    """A row or a column of numbers that count up, beside others."""
    chance = hand.chance
    lying = chance.random() < 0.5
    rows, columns = (2, chance.randint(4, 6)) if lying else (chance.randint(3, 5), chance.randint(2, 3))
    wide, high, x = chance.uniform(14, 19), hand.pitch, left + chance.uniform(0, 12)
    for row in range(rows + 1):
        if chance.random() < 0.9:
            _stroke(hand, [(x, top + row * high), (x + columns * wide, top + row * high)])
    for column in range(columns + 1):
        if 0 < column < columns or chance.random() < 0.8:
            _stroke(hand, [(x + column * wide, top), (x + column * wide, top + rows * high)])
    for row in range(rows):
        for column in range(columns):
            along, other = (column, row) if lying else (row, column)
            text = str(along) if other == 0 else str(chance.randint(2, 90))
            if along == 0:
                text = "xyz"[other]
            hand.write(text, x + column * wide + 4, top + row * high - 0.5, hand.size * 0.9)
    return rows * high + 4


def _figure(hand: Hand, left: float, top: float) -> float:
    """A triangle, its corners lettered and its sides measured."""
    chance = hand.chance
    x, foot = left + chance.uniform(10, 50), top + 40
    corners = [(x, foot), (x + chance.uniform(40, 65), foot), (x + chance.uniform(5, 45), top + 6)]
    _stroke(hand, [*corners, corners[0]])
    middle = (sum(one[0] for one in corners) / 3, sum(one[1] for one in corners) / 3)
    for letter, (cx, cy) in zip("ABC", corners, strict=True):
        away = math.hypot(cx - middle[0], cy - middle[1])
        out = [cx + 4 * (cx - middle[0]) / away, cy + 4 * (cy - middle[1]) / away]
        hand.write(letter, out[0] - hand.size / 2, out[1] - 0.5 * hand.pitch, hand.size)
    for one, other in ((0, 1), (0, 2)):
        cx, cy = ((corners[one][at] + corners[other][at]) / 2 for at in (0, 1))
        hand.write(str(chance.randint(2, 20)), cx - (0 if one + other == 1 else 7), cy - 1, hand.size * _SMALL)
    return foot - top + hand.pitch + 3


def _example(hand: Hand, left: float, top: float) -> float:
    """With labels of its own, further in."""
    chance = hand.chance
    x = left + chance.uniform(8, 16)
    name = chance.choice(("Example", "Ex.", "e.g.", "From the notes, example"))
    hand.write(f"{name} {chance.randint(1, 6)}: {hand.work()}", x, top, hand.size)
    for at, letter in enumerate("ab", 1):
        hand.write(f"({letter}) {hand.work()}", x + 4, top + at * hand.pitch, hand.size)
    return 3.5 * hand.pitch


def _steps(hand: Hand, left: float, top: float) -> float:
    """Numbered, further in."""
    x = left + hand.chance.uniform(8, 16)
    for at in range(3):
        hand.write(f"{at + 1}. {hand.work()}", x, top + at * hand.pitch, hand.size)
    return 3.2 * hand.pitch


def _final_answer(hand: Hand, left: float, top: float) -> float:
    """A number with a ring or a box around it, on a line of its own."""
    chance = hand.chance
    x = left + chance.uniform(12, 60)
    text = chance.choice(("{n}", "x = {n}", "{n} m", "{n}.{k}")).format(n=chance.randint(1, 60), k=chance.randint(1, 9))
    end = hand.write(text, x, top, hand.size)
    base = top + 0.75 * hand.pitch
    box = [side * _MM for side in (x - 2, base - hand.size - 1.6, end + 2, base + 1.6)]
    if chance.random() < 0.5:
        hand.drawing.rectangle(box, outline=255, width=_pen())
    else:
        hand.drawing.ellipse([box[0] - 8, box[1] - 6, box[2] + 8, box[3] + 6], outline=255, width=_pen())
    return 1.5 * hand.pitch


def _pen() -> int:
    return max(2, round(0.35 * _MM))


def _stroke(hand: Hand, points: Sequence[Point]) -> None:
    """A line as somebody draws it, not quite straight."""
    drawn: list[Point] = []
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        parts = max(1, round(math.hypot(x1 - x0, y1 - y0) / 8))
        for at in range(parts):
            share = at / parts
            drawn.append((x0 + share * (x1 - x0), y0 + share * (y1 - y0)))
    drawn.append(points[-1])
    shaken = [((x + hand.chance.gauss(0, 0.12)) * _MM, (y + hand.chance.gauss(0, 0.12)) * _MM) for x, y in drawn]
    hand.drawing.line(shaken, fill=255, width=_pen(), joint="curve")
