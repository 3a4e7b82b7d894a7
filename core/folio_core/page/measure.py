"""Numbers about one straightened page, before its tone is changed."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from . import limits
from .letters import letter_heights
from .light import Writing
from .strokes import sharpness

Image = NDArray[np.uint8]
Box = tuple[float, float, float, float]  # left, top, width, height as shares of the page


@dataclass(frozen=True, slots=True)
class Measures:
    """``blur_sigma_px``: spread of the strokes' edges, in pixels of the prepared page. ``motion_ratio``: the spread
    along ``motion_deg`` (0 is across the page, 90 down it) over the spread at a right angle to that. ``ink_contrast``:
    how much darker ink is than its paper, 0–1. ``paper_level``: brightness of the paper, 0–1. ``clipped_share``:
    share of the page that is as bright as the camera can tell. ``glare_share``: share under bright spots.
    ``light_evenness``: darkest paper over brightest, 0–1. ``shadow_step``: the largest change of the paper's light
    over 2 % of the page, natural log. ``resolution_dpi``: source pixels an inch if the sheet's long side is A4's.
    ``writing_height_px``: median height of the letters in source pixels. ``ink_share``: share of the page under
    ink. ``letters``: how many marks have the size of letters. ``sheet_share``: share of the picture that is the sheet.
    ``colour_spread``: how much the ground's colour varies, 0–1. ``bend_mm``: how far lines depart from straight, if the
    page is as high as A4; 0 where they were straightened."""

    blur_sigma_px: float
    motion_ratio: float
    motion_deg: float
    ink_contrast: float
    paper_level: float
    clipped_share: float
    glare_share: float
    light_evenness: float
    shadow_step: float
    resolution_dpi: float
    writing_height_px: float
    ink_share: float
    letters: int
    sheet_share: float
    colour_spread: float
    bend_mm: float


@dataclass(frozen=True, slots=True)
class Places:
    """Where on the page something is seen; None where it is not, or is everywhere."""

    glare: Box | None
    shadow: Box | None


def measure(
    page: Image, small: Image, writing: Writing, source_long_side_px: float, sheet_share: float, bend_mm: float = 0.0
) -> tuple[Measures, Places]:
    """``page``: the straightened RGB page; ``small``: the same at the size of ``writing``."""
    light = cv2.cvtColor(writing.light, cv2.COLOR_RGB2GRAY)
    inner = light[2:-2, 2:-2] if min(light.shape) > 5 else light
    low, high = np.percentile(inner, (2, 98))
    sharp = sharpness(page, writing.ink)
    clipped = cv2.inRange(small, (limits.CLIPPED_LEVEL,) * 3, (255, 255, 255)) // 255
    glare, glare_at = _glare(clipped, float(np.median(inner)))
    step, step_at = _shadow(light)
    colour_spread = _colour_spread(writing.light)
    letters, height = _letters(writing.ink)
    measures = Measures(
        blur_sigma_px=round(sharp.sigma_px, 2), motion_ratio=round(sharp.motion_ratio, 2),
        motion_deg=round(sharp.motion_deg, 1), ink_contrast=round(writing.depth, 3),
        paper_level=round(float(np.median(inner)) / 255, 3),
        clipped_share=round(cv2.countNonZero(clipped) / clipped.size, 4),
        glare_share=round(glare, 4), light_evenness=round(float(low / max(high, 1)), 3), shadow_step=round(step, 3),
        resolution_dpi=round(source_long_side_px / (limits.A4_MM[1] / limits.MM_PER_INCH), 1),
        writing_height_px=round(height * source_long_side_px / max(small.shape[:2]), 1),
        letters=letters, ink_share=round(cv2.countNonZero(writing.ink) / writing.ink.size, 5),
        sheet_share=round(sheet_share, 3),
        colour_spread=round(colour_spread, 3), bend_mm=bend_mm,
    )  # fmt: skip
    return measures, Places(glare_at, step_at)


def _glare(clipped: Image, paper_level: float) -> tuple[float, Box | None]:
    """Bright spots on paper that is otherwise not so bright."""
    if paper_level >= limits.GLARE_PAPER_LEVEL:
        return 0.0, None
    tidy = cv2.morphologyEx(clipped, cv2.MORPH_OPEN, np.ones((9, 9), np.uint8))
    share = cv2.countNonZero(tidy) / tidy.size
    return share, _box(tidy) if share > 0 else None


def _shadow(light: Image) -> tuple[float, Box | None]:
    reach = max(1, max(light.shape) // 50)
    logs = np.log(np.maximum(light[1:-1, 1:-1].astype(np.float32), 8))
    if min(logs.shape) <= 4 * reach:
        return 0.0, None
    down = np.abs(logs[2 * reach :, reach:-reach] - logs[: -2 * reach, reach:-reach])
    across = np.abs(logs[reach:-reach, 2 * reach :] - logs[reach:-reach, : -2 * reach])
    change = cv2.blur(np.maximum(down, across), (5, 5))
    step = float(np.percentile(change, 99))
    return step, _box(np.pad(change > 0.6 * step, reach + 1).astype(np.uint8))


def _box(mask: Image) -> Box | None:
    x, y, width, height = cv2.boundingRect(mask)
    rows, columns = mask.shape
    if width * height == 0:
        return None
    return (round(x / columns, 3), round(y / rows, 3), round(width / columns, 3), round(height / rows, 3))


def _letters(ink: Image) -> tuple[int, float]:
    """How many connected strokes have the size of letters, and their median height in pixels of the mask."""
    heights = letter_heights(ink)
    return len(heights), float(np.median(heights)) if len(heights) >= 8 else 0.0


def _colour_spread(light: Image) -> float:
    """Spread of the ground's chromaticity (its colour without its brightness), 10th to 90th percentile."""
    bright = light.reshape(-1, 3).astype(np.float32)
    total = np.maximum(bright.sum(axis=1), 30)
    parts = bright[:, :2] / total[:, None]
    spread = np.percentile(parts, 90, axis=0) - np.percentile(parts, 10, axis=0)
    return float(math.hypot(*spread)) * 3
