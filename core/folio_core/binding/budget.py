"""Keeping a bound document to a size that can be mailed: a little less quality, never less than can be read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from .bound import BoundPage

BYTES_PER_PAGE = 15_000_000 // 20  # the usual budget: 15 MB for 20 pages
READABLE_LONG_SIDE_PX = 1754  # A4 at 150 dpi: a 0.3 mm pen stroke is 1.8 px wide; common practice, no source
_JPEG = b"\xff\xd8"


@dataclass(frozen=True, slots=True)
class Step:
    """``quality`` of JPEG; ``smaller``: no more pixels than `READABLE_LONG_SIDE_PX` asks for."""

    quality: int
    smaller: bool


STEPS = (Step(75, False), Step(65, False), Step(75, True), Step(60, True))


def within(pages: Sequence[BoundPage], budget_bytes: int, folder: Path) -> list[BoundPage]:
    """The pages as they are where they fit; else all at the first step of quality at which they do, else at the last.

    One-bit and drawn pages are small and stay so. ``folder``: where pages written anew lie until they are bound.
    """
    sizes = [page.bytes for page in pages]
    if sum(sizes) <= budget_bytes:
        return list(pages)
    for step in STEPS[STEPS.index(_likely_step(pages, sizes, budget_bytes)) :]:
        lesser = [_written(page, folder / f"{number}.jpg", step) for number, page in enumerate(pages)]
        if sum(page.bytes for page in lesser) <= budget_bytes:
            break
    return lesser


def _likely_step(pages: Sequence[BoundPage], sizes: Sequence[int], budget_bytes: int) -> Step:
    """By the page of middling size, so that all are written once and not once a step."""
    typical = pages[sorted(range(len(pages)), key=sizes.__getitem__)[len(pages) // 2]].image()
    wanted = len(typical) * budget_bytes / sum(sizes)
    return next((step for step in STEPS if len(encoded(typical, step)) <= wanted), STEPS[-1])


def _written(page: BoundPage, file: Path, step: Step) -> BoundPage:
    if page.drawn:
        return page
    file.write_bytes(encoded(page.image(), step))
    return replace(page, image=file.read_bytes)


def encoded(image: bytes, step: Step) -> bytes:
    """Never larger than it was, never smaller in pixels than can be read."""
    if not image.startswith(_JPEG):
        return image
    picture = cv2.imdecode(np.frombuffer(image, np.uint8), cv2.IMREAD_UNCHANGED)
    if picture is None:
        return image
    height, width = picture.shape[:2]
    scale = READABLE_LONG_SIDE_PX / max(height, width)
    if step.smaller and scale < 1:
        size = (round(width * scale), round(height * scale))
        picture = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    done, data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, step.quality])
    return min(image, data.tobytes(), key=len) if done else image
