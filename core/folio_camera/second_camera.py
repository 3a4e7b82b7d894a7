"""A second camera and a scanner, which share nothing with `photograph`: perspective, uneven light, noise, JPEG."""

from __future__ import annotations

from io import BytesIO

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

_WIDE, _HIGH = 1944, 2592
_DESKS = ((120, 85, 60), (70, 72, 78), (190, 180, 165), (40, 60, 50))
_WARM = np.array([1.05, 0.95, 0.75], np.float32)  # a lamp in the evening
_WAYS = ("scan", "phone", "phone", "phone", "dim")


def way(chance: np.random.Generator) -> str:
    """How a student takes all pages: scanned, or photographed in good or in dim light."""
    return str(chance.choice(_WAYS))


def taken(page: Image.Image, way: str, chance: np.random.Generator) -> bytes:
    """The page as JPEG."""
    pixels = np.asarray(page).astype(np.float32)
    pixels = _scanned(pixels, chance) if way == "scan" else _photographed(pixels, chance, dim=way == "dim")
    out = BytesIO()
    Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8)).save(out, "JPEG", quality=int(chance.integers(70, 93)))
    return out.getvalue()


def _scanned(pixels: NDArray[np.float32], chance: np.random.Generator) -> NDArray[np.float32]:
    high, wide = pixels.shape[:2]
    turn = cv2.getRotationMatrix2D((wide / 2, high / 2), float(chance.normal(0, 0.6)), 1.0)
    turned = cv2.warpAffine(pixels, turn, (wide, high), borderValue=(255, 255, 255))
    return np.asarray(cv2.resize(turned, None, fx=0.75, fy=0.75, interpolation=cv2.INTER_AREA), np.float32)


def _photographed(pixels: NDArray[np.float32], chance: np.random.Generator, *, dim: bool) -> NDArray[np.float32]:
    high, wide = pixels.shape[:2]
    away = float(chance.uniform(60, 160))
    scale = min((_WIDE - 2 * away) / wide, (_HIGH - 2 * away) / high)
    corners = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    middle = np.array([(_WIDE - wide * scale) / 2, (_HIGH - high * scale) / 2])
    seen = corners * scale + middle + 0.7 * chance.uniform(-away, away, (4, 2))
    view = cv2.getPerspectiveTransform(corners, seen.astype(np.float32))
    desk = np.full((_HIGH, _WIDE, 3), _DESKS[int(chance.integers(len(_DESKS)))], np.float32)
    grain = chance.normal(0, 12, (_HIGH // 40, _WIDE // 200, 3)).astype(np.float32)
    desk += cv2.resize(grain, (_WIDE, _HIGH), interpolation=cv2.INTER_CUBIC)
    covered = cv2.warpPerspective(np.ones((high, wide), np.float32), view, (_WIDE, _HIGH))[..., None]
    picture = cv2.warpPerspective(pixels, view, (_WIDE, _HIGH), flags=cv2.INTER_AREA) * covered + desk * (1 - covered)
    across = np.linspace(chance.uniform(0.55, 1), chance.uniform(0.7, 1.05), _WIDE)
    down = np.linspace(chance.uniform(0.7, 1), chance.uniform(0.7, 1), _HIGH)
    picture *= np.outer(down, across)[..., None].astype(np.float32)
    if dim:
        picture *= 0.55 * _WARM
    picture = cv2.GaussianBlur(picture, (0, 0), float(chance.uniform(0.5, 1.3)))
    return np.asarray(picture + chance.normal(0, chance.uniform(2, 8), picture.shape), np.float32)
