"""What students draw beside their lines: a spherical triangle, a tide curve. Wobbly, by hand."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterable

from PIL import ImageDraw

Point = tuple[float, float]
FIGURE_MM = 46.0  # height on the sheet, with the room around it


def _stroke(draw: ImageDraw.ImageDraw, points: Iterable[Point], width: int, chance: random.Random) -> None:
    wobble = width * 0.35
    draw.line(
        [(x + chance.uniform(-wobble, wobble), y + chance.uniform(-wobble, wobble)) for x, y in points],
        fill=255, width=width, joint="curve",
    )  # fmt: skip


def triangle(draw: ImageDraw.ImageDraw, at: Point, mm: float, width: int, chance: random.Random) -> None:
    """Pole and two places, joined by arcs that bulge outwards."""
    x, y = at
    corners = [(x + 34 * mm, y + 2 * mm), (x + 6 * mm, y + 36 * mm), (x + 66 * mm, y + 32 * mm)]
    for (x0, y0), (x1, y1), bulge in zip(corners, corners[1:] + corners[:1], (-6, 7, -6), strict=True):
        middle = ((x0 + x1) / 2 + bulge * mm, (y0 + y1) / 2 + abs(bulge) * 0.6 * mm)
        curve = [
            (
                (1 - t) ** 2 * x0 + 2 * t * (1 - t) * middle[0] + t**2 * x1,
                (1 - t) ** 2 * y0 + 2 * t * (1 - t) * middle[1] + t**2 * y1,
            )
            for t in (step / 16 for step in range(17))
        ]
        _stroke(draw, curve, width, chance)


def tide(draw: ImageDraw.ImageDraw, at: Point, mm: float, width: int, chance: random.Random) -> None:
    """Height over the hours, with its axes and a mark an hour."""
    x, y = at
    _stroke(draw, [(x, y + 2 * mm), (x, y + 38 * mm), (x + 92 * mm, y + 38 * mm)], width, chance)
    for hour in range(7):
        _stroke(draw, [(x + hour * 14 * mm, y + 37 * mm), (x + hour * 14 * mm, y + 39.5 * mm)], width, chance)
    curve = [(x + t * 84 * mm, y + (20 + 15 * math.cos(math.pi * t)) * mm) for t in (step / 40 for step in range(41))]
    _stroke(draw, curve, width, chance)


FIGURES: dict[str, Callable[[ImageDraw.ImageDraw, Point, float, int, random.Random], None]] = {
    "triangle": triangle,
    "tide": tide,
}
