"""What a sheet lies on: desks and cloths, painted in floats of RGB."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

_TINTS = {
    "wood": (150, 104, 64),
    "oak": (196, 166, 124),
    "dark": (46, 42, 44),
    "cloth": (70, 96, 128),
    "tartan": (150, 60, 58),
    "slate": (104, 116, 112),
    "pale": (206, 203, 196),
    "white": (229, 228, 224),
}
DESKS = tuple(_TINTS)
NEAR_WHITE = ("pale", "white")  # a desk hardly darker than paper: told apart only by a thin shadow and a weak step


def smooth_noise(shape: tuple[int, int], cells: tuple[int, int], chance: np.random.Generator) -> NDArray[np.float32]:
    """Noise of unit spread with about ``cells`` (down, across) bumps."""
    coarse = chance.standard_normal((max(2, cells[0]), max(2, cells[1])), np.float32)
    return np.asarray(cv2.resize(coarse, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC), np.float32)


def desk(kind: str, width: int, height: int, chance: np.random.Generator) -> NDArray[np.float32]:
    """A desk of ``width`` × ``height`` pixels, evenly lit: height × width × 3, 0–255."""
    shape = (height, width)
    value = (1.5 if kind in NEAR_WHITE else 4) * smooth_noise(shape, (40, 30), chance)
    if kind in ("wood", "oak"):
        grain = smooth_noise(shape, (4, 160), chance) + 0.6 * smooth_noise(shape, (9, 420), chance)
        value += (13 if kind == "wood" else 7) * grain + 6 * np.sin(grain * 5)
        value -= 30 * _joints(width)[None]
    if kind == "cloth":
        value += 16 * np.sign(np.outer(_wave(height, width / 60), _wave(width, width / 60)))
    if kind == "slate":
        value += 9 * smooth_noise(shape, (200, 160), chance)
    painted = np.asarray(_TINTS[kind], np.float32) + value[..., None] * np.array([1, 0.92, 0.8], np.float32)
    if kind == "tartan":
        painted += _tartan(width, height)
    return np.clip(painted, 4, 250)


def _wave(length: int, period_px: float) -> NDArray[np.float32]:
    return np.sin(2 * math.pi * np.arange(length, dtype=np.float32) / period_px)


def _joints(width: int) -> NDArray[np.float32]:
    """Dark lines between boards, as straight as a sheet's edge."""
    across = np.arange(width, dtype=np.float32) % (width / 3.3)
    return (across < width / 700).astype(np.float32)


def _tartan(width: int, height: int) -> NDArray[np.float32]:
    """Broad and narrow stripes both ways, in three colours: many straight edges that are no sheet's."""
    stripes = np.zeros((height, width, 3), np.float32)
    for period, share, colour in ((9.0, 0.32, (-70, 10, 40)), (9.0, 0.07, (70, 120, 20)), (13.0, 0.12, (60, 70, 80))):
        for length, axis in ((width, 0), (height, 1)):
            bars = (np.arange(length) % (width / period) < share * width / period).astype(np.float32)
            stripes += np.expand_dims(bars, axis)[..., None] * np.array(colour, np.float32) * 0.5
    return stripes
