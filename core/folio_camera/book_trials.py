"""Trials for paper that does not lie flat: open books and bent sheets, each a pure function of condition and seed."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from .bound_book import BentPaper, bent
from .photograph import Photograph, photograph
from .scene import Scene
from .surfaces import DESKS
from .trials import Plan, style_of, written

Floats = NDArray[np.float64]

# Paper, how many pages it has, and whether it lies sideways in the picture.
CONDITIONS = {
    "book: ruled": ("ruled", 2, False),
    "book: squared": ("squared", 2, False),
    "book: plain": ("plain", 2, False),
    "book: sideways": ("ruled", 2, True),
    "bent sheet: ruled": ("ruled", 1, False),
    "bent sheet: squared": ("squared", 1, False),
    "bent sheet: plain": ("plain", 1, False),
}


@dataclass(frozen=True, slots=True)
class BookTrial:
    """``turns``: clockwise quarter turns by which the paper lies; ``size``: width and height of the picture."""

    condition: str
    shot: Photograph
    paper: BentPaper
    turns: int
    size: tuple[int, int]

    @property
    def pages(self) -> int:
        return len(self.paper.pages)


def make(condition: str, seed: int) -> BookTrial:
    paper, pages, sideways = CONDITIONS[condition]
    chance = np.random.default_rng(seed)
    style = replace(style_of(Plan(), chance), paper=paper)
    sheets = [written(style, 2 * seed + page, chance, None) for page in range(pages)]
    curled = bent(sheets, float(chance.uniform(8, 20)), chance)
    turns = int(chance.choice([1, 3])) if sideways else 0
    size = (2592, 1944) if pages == 2 and not sideways else (1944, 2592)
    scene = Scene(
        desk=str(chance.choice(DESKS)), size=size, fill=float(chance.uniform(0.75, 0.98)),
        tilt=float(chance.uniform(0.03, 0.2)), rotation_deg=float(chance.choice([3.0, 8.0])), quarter_turns=turns,
        light=float(chance.uniform(0.1, 0.4)), blur_sigma_px=float(chance.uniform(0.5, 0.9)),
        noise=float(chance.uniform(1.5, 3.5)),
    )  # fmt: skip
    return BookTrial(condition, photograph(curled.sheet, scene, seed), curled, turns, size)


def seen_at(paper: BentPaper, shot: Photograph, turns: int, page: int, points: Floats) -> Floats:
    """n × 2 shares of a flat page → pixels of the picture, but for the lens's slight bend."""
    x, y = paper.seen_at(page, points).T
    for _ in range(turns):
        x, y = 1 - y, x
    square = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], np.float32)
    there = cv2.getPerspectiveTransform(square, np.array(shot.corners, np.float32))
    return np.asarray(cv2.perspectiveTransform(np.stack([x, y], axis=1)[None], there)[0], np.float64)
