"""Numbers about one straightened page, before its tone is changed."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .limits import A4_MM, MM_PER_INCH


@dataclass(frozen=True, slots=True)
class Measures:
    """``blur_sigma_px``: spread of the strokes' edges, in pixels of the prepared page. ``ink_contrast``: how much
    darker ink is than its paper, 0–1. ``light_evenness``: darkest paper over brightest, 0–1. ``resolution_dpi``:
    source pixels an inch if the sheet's long side is A4's. ``ink_share``: share of the page under ink."""

    blur_sigma_px: float
    ink_contrast: float
    light_evenness: float
    resolution_dpi: float
    ink_share: float


def resolution_dpi(long_side_px: float) -> float:
    return long_side_px / (A4_MM[1] / MM_PER_INCH)


def measure(page: NDArray[np.uint8], light: NDArray[np.uint8], source_long_side_px: float) -> Measures:
    """Measure a straightened RGB page with its `tone.paper_light`."""
    grey = cv2.cvtColor(page, cv2.COLOR_RGB2GRAY)
    light_grey = cv2.cvtColor(light, cv2.COLOR_RGB2GRAY)
    height, width = grey.shape
    background = cv2.resize(light_grey, (width, height), interpolation=cv2.INTER_LINEAR)
    depth = cv2.subtract(background, grey)  # how far below the paper, in grey levels
    inset = (slice(height // 40, height - height // 40), slice(width // 40, width - width // 40))
    ink = cv2.threshold(depth, _ink_depth(depth[inset]), 255, cv2.THRESH_BINARY)[1]
    ink_share = cv2.countNonZero(ink[inset]) / ink.size
    low, high = np.percentile(light_grey[2:-2, 2:-2], (2, 98)) if min(light_grey.shape) > 5 else (1, 1)
    return Measures(
        blur_sigma_px=round(_blur_sigma_px(grey, depth, ink), 2),
        ink_contrast=round(_ink_contrast(depth, background, ink), 3),
        light_evenness=round(float(low / max(high, 1)), 3),
        resolution_dpi=round(resolution_dpi(source_long_side_px), 1),
        ink_share=round(ink_share, 5),
    )


def _ink_depth(depth: NDArray[np.uint8]) -> float:
    """How far below the paper ink begins: above the noise, and between noise and the strokes' own depth (Otsu)."""
    histogram = cv2.calcHist([depth], [0], None, [256], [0, 256]).ravel()
    median = int(np.searchsorted(histogram.cumsum(), histogram.sum() / 2))
    noise = max(6, 3 * median + 4)
    above = histogram.copy()
    above[: noise + 1] = 0
    return max(noise, 0.8 * otsu_of(above)) if above.sum() > 50 else noise


def otsu_of(histogram: NDArray[np.float32]) -> float:
    """Otsu's threshold from a 256-bin histogram: values above it are the upper class.

    The split with the largest variance between the classes (Otsu, IEEE Trans. SMC 9, 1979).
    """
    levels = np.arange(256)
    below = histogram.cumsum(dtype=np.float64)
    mass = (histogram * levels).cumsum(dtype=np.float64)
    above = below[-1] - below
    with np.errstate(divide="ignore", invalid="ignore"):
        between = (mass[-1] * below - mass * below[-1]) ** 2 / (below * above)
    return float(np.nanargmax(np.where(np.isfinite(between), between, -1)))


def _ink_contrast(depth: NDArray[np.uint8], background: NDArray[np.uint8], ink: NDArray[np.uint8]) -> float:
    inked = ink > 0
    if not inked.any():
        return 0.0
    return float(np.percentile(depth[inked].astype(np.float32) / np.maximum(background[inked], 1), 75))


def _blur_sigma_px(grey: NDArray[np.uint8], depth: NDArray[np.uint8], ink: NDArray[np.uint8]) -> float:
    """A step of height c seen through a Gaussian of spread s has the steepest slope c / (s·√(2π))."""
    if cv2.countNonZero(ink) < 50:
        return 0.0
    # Sobel's kernel sums to 8; a quarter keeps a full step of 255 within a byte and still resolves soft edges.
    slopes = (cv2.convertScaleAbs(cv2.Sobel(grey, cv2.CV_16S, dx, 1 - dx), alpha=0.25) for dx in (1, 0))
    steepest = cv2.dilate(cv2.max(*slopes), np.ones((5, 5), np.uint8))
    deepest = cv2.dilate(depth, np.ones((5, 5), np.uint8))
    strong = cv2.bitwise_and(ink, cv2.compare(depth, deepest, cv2.CMP_GE)) > 0  # the middle of each stroke
    gradient = np.maximum(steepest[strong].astype(np.float32) / 2, 0.1)
    return float(np.percentile(deepest[strong] / (gradient * math.sqrt(2 * math.pi)), 40))
