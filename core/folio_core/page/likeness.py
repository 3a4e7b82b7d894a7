"""Whether two pages are the same sheet photographed twice: a perceptual hash first, then a registered comparison."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

_MAP = (96, 128)  # width, height of the ink map
_HASH = 16  # of the hash's side; 256 bits
_FAR_BITS = 96  # of 256; unrelated pages differ in about 128, the same sheet taken twice in up to 70
_SAME_SHARE = 0.62  # of the ink of both that lies together once registered; other pages measure up to 0.45
_LEAST_INK = 0.004  # of the map; nearly empty pages all look alike


@dataclass(frozen=True, slots=True)
class Likeness:
    """``ink``: where ink gathers, 96 × 128 bytes, row by row."""

    ink: bytes

    @property
    def map(self) -> NDArray[np.float32]:
        return np.frombuffer(self.ink, np.uint8).reshape(_MAP[1], _MAP[0]).astype(np.float32)

    @property
    def bits(self) -> NDArray[np.bool_]:
        """A difference hash: whether ink grows from each coarse cell to the next."""
        coarse = cv2.resize(self.map, (_HASH + 1, _HASH), interpolation=cv2.INTER_AREA)
        return np.asarray(coarse[:, 1:] > coarse[:, :-1])


def likeness_of(ink: NDArray[np.uint8]) -> Likeness:
    """``ink``: the strokes of an upright page as a mask (255)."""
    spread = cv2.resize(cv2.dilate(ink, np.ones((5, 5), np.uint8)), _MAP, interpolation=cv2.INTER_AREA)
    return Likeness(np.asarray(spread, np.uint8).tobytes())


def alike(one: Likeness, other: Likeness) -> bool:
    """The same sheet, as far as ink can tell."""
    far = int(np.count_nonzero(one.bits != other.bits))
    return far <= _FAR_BITS and registered_share(one, other) >= _SAME_SHARE


def registered_share(one: Likeness, other: Likeness) -> float:
    """Share of the ink of both maps that lies together once the second is shifted onto the first: 0–1.

    The shift comes from phase correlation (Kuglin and Hines, 1975).
    """
    a, b = one.map, other.map
    if min(a.mean(), b.mean()) < _LEAST_INK * 255:
        return 0.0
    (dx, dy), _ = cv2.phaseCorrelate(a, b, cv2.createHanningWindow(_MAP, cv2.CV_32F))
    if max(abs(dx), abs(dy)) > 12:
        dx = dy = 0.0
    moved = cv2.warpAffine(b, np.array([[1, 0, -dx], [0, 1, -dy]], np.float32), _MAP)
    a, moved = (cv2.GaussianBlur(each, (0, 0), 1.0) for each in (a, moved))
    return float(2 * np.minimum(a, moved).sum() / max(float((a + moved).sum()), 1.0))
