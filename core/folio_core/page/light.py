"""The blank paper under the writing, and the writing itself: what every later step looks at."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.uint8]

_SHRINK = 8  # the paper's light changes slowly; an eighth of the size is enough to follow it
_LEAST_DEPTH = 10.0  # grey levels below the paper: hard pencil measures 25 and more
_LEAST_RULE = 6.0  # the same for a rule, which is known by its length
_TURNS = {90: cv2.ROTATE_90_CLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_COUNTERCLOCKWISE}
_STROKE_PX = 9  # in the shrunk picture: wider than any stroke, narrower than a shadow's edge


def paper_light(page: Image) -> Image:
    """The blank paper under the writing, an eighth of the page's size in each direction.

    Closing (dilate, erode) lifts dark strokes out and a median smooths what is left: the background estimate
    of Brown and Seales-style document restoration, common practice.
    """
    height, width = page.shape[:2]
    small = cv2.resize(page, (max(1, width // _SHRINK), max(1, height // _SHRINK)), interpolation=cv2.INTER_AREA)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (_STROKE_PX, _STROKE_PX))
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, kernel)
    return np.asarray(cv2.GaussianBlur(cv2.medianBlur(closed, 11), (0, 0), 3), dtype=np.uint8)


def evened(page: Image, light: Image) -> Image:
    """The page with its light divided out: 255 is blank paper."""
    background = cv2.resize(light, (page.shape[1], page.shape[0]), interpolation=cv2.INTER_LINEAR)
    cv2.max(background, 1, dst=background)
    return np.asarray(cv2.divide(page, background, dst=background, scale=255), np.uint8)


@dataclass(frozen=True, slots=True)
class Writing:
    """A page small and even. ``grey``: 255 is paper; ``ink``: strokes without ruled lines, 255 or 0; ``light``: of
    `paper_light`; ``depth``: how far below the paper a stroke's middle lies, 0–1; ``noise``: the paper's own spread."""

    grey: Image
    ink: Image
    light: Image
    depth: float
    noise: float

    def turned(self, clockwise: int) -> Writing:
        grey, ink, light = (turned(layer, clockwise) for layer in (self.grey, self.ink, self.light))
        return Writing(grey, ink, light, self.depth, self.noise)


def turned(layer: Image, clockwise: int) -> Image:
    return np.asarray(cv2.rotate(layer, _TURNS[clockwise]), np.uint8) if clockwise else layer


def writing_of(page: Image) -> Writing:
    """``page``: a straightened page, RGB, long side about `limits.UPRIGHT_LONG_SIDE_PX`."""
    light = paper_light(page)
    # Coloured ink is darkest in one channel: the least of the three shows every pen.
    red, green, blue = cv2.split(evened(page, light))
    grey = np.asarray(cv2.min(cv2.min(red, green), blue), np.uint8)
    depth = cv2.bitwise_not(grey)
    rim_y, rim_x = (side // 40 for side in grey.shape)
    inner = depth[rim_y : grey.shape[0] - rim_y, rim_x : grey.shape[1] - rim_x]
    histogram = _histogram(np.ascontiguousarray(inner))
    noise = _noise(histogram)
    threshold = max(4 * noise, _LEAST_DEPTH)
    above = histogram.copy()
    above[: int(threshold) + 1] = 0
    if above.sum() > 50:
        threshold = max(threshold, 0.8 * otsu_of(above))
    ink = np.asarray(cv2.threshold(depth, threshold, 255, cv2.THRESH_BINARY)[1], np.uint8)
    ink = _without_rules(ink)
    inked = _histogram(depth, ink)
    deep = int(np.searchsorted(inked.cumsum(), 0.75 * inked.sum())) if inked.sum() > 20 else 0
    return Writing(grey, ink, light, deep / 255, noise / 255)


def _histogram(values: Image, mask: Image | None = None) -> NDArray[np.float64]:
    return cv2.calcHist([values], [0], mask, [256], [0, 256]).ravel().astype(np.float64)


def _noise(histogram: NDArray[np.float64]) -> float:
    """Spread of the paper's grey, from how far two thirds of the page lie below white, in levels."""
    return max(1.0, float(np.searchsorted(histogram.cumsum(), 0.68 * histogram.sum())) * 0.7)


def rules_of(writing: Writing) -> tuple[Image, Image]:
    """Of ruled and squared paper, across and down: 255 on a rule, however faint."""
    threshold = max(4 * 255 * writing.noise, _LEAST_RULE)
    return runs_of(
        np.asarray(cv2.threshold(cv2.bitwise_not(writing.grey), threshold, 255, cv2.THRESH_BINARY)[1], np.uint8)
    )


def _without_rules(ink: Image) -> Image:
    """Without long thin straight runs along the page's sides: ruled and squared paper, and the rim of a desk."""
    rules = cv2.max(*runs_of(ink))
    return np.asarray(cv2.subtract(ink, cv2.dilate(rules, np.ones((3, 3), np.uint8))), np.uint8)


def runs_of(ink: Image) -> tuple[Image, Image]:
    """Long straight runs, across and down."""
    length = max(15, ink.shape[1] // 12)
    across, down = (
        np.asarray(cv2.morphologyEx(ink, cv2.MORPH_OPEN, np.ones(shape, np.uint8)), np.uint8)
        for shape in ((1, length), (length, 1))
    )
    return across, down


def otsu_of(histogram: NDArray[np.floating]) -> float:  # type: ignore[type-arg]
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
