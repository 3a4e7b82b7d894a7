"""Paper that does not lie flat: an open workbook with its gutter, and a single sheet that bulges.

A page is bent along its width as a cylinder and seen by a camera above it; what comes out is a flat sheet for
`photograph`, which adds the tilt, the desk and the light.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .handwriting import SHEET_DPI, WrittenSheet

_SCALE = 0.6  # of the sheets' own pixels: 150 dpi
_MM = SHEET_DPI / 25.4 * _SCALE
_CAMERA_MM = (420.0, 650.0)  # above the desk
_PAD_MM = 12.0  # room for paper that seems larger where it is nearer
_STEEPEST = 0.85
_STEP_MM = 0.25


@dataclass(frozen=True, slots=True)
class BentPaper:
    """``sheet``: as the camera sees it from above. ``pages``: for each, where points of its flat sheet, as shares of
    width and height, are then seen, as shares of ``sheet``: `seen_at`."""

    sheet: WrittenSheet
    pages: tuple[Bend, ...]

    def seen_at(self, page: int, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """n × 2 shares of the flat page → n × 2 shares of ``sheet``."""
        return self.pages[page].seen_at(points)


@dataclass(frozen=True, slots=True)
class Bend:
    """One page's way from flat to seen. ``at``: n × 3, for steps along the page's width from its left edge: share of
    the width, where it is seen across (pixels of the sheet), how much larger it is seen there."""

    at: NDArray[np.float64]
    middle: float  # pixels down, where the camera looks straight down
    top: float  # pixels down, where the page would begin if it lay flat
    height: float
    size: tuple[int, int]

    def seen_at(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        across = np.interp(points[:, 0], self.at[:, 0], self.at[:, 1])
        larger = np.interp(points[:, 0], self.at[:, 0], self.at[:, 2])
        down = self.middle + (self.top + points[:, 1] * self.height - self.middle) * larger
        return np.stack([across / self.size[0], down / self.size[1]], axis=1)


def bent(sheets: Sequence[WrittenSheet], bulge_mm: float, chance: np.random.Generator) -> BentPaper:
    """Two ``sheets`` are an open book's left and right page; one is a loose sheet. ``bulge_mm``: how high it rises."""
    small = [_small(sheet) for sheet in sheets]
    wide, high = (max(layer.shape[axis] for layer, _ in small) for axis in (1, 0))
    pad = round(_PAD_MM * _MM)
    size = wide * len(sheets) + 2 * pad, high + 2 * pad
    camera = chance.uniform(*_CAMERA_MM) * _MM
    centre = size[0] * chance.uniform(0.42, 0.58), size[1] * chance.uniform(0.4, 0.6)
    gutter = pad + wide if len(sheets) == 2 else None
    pixels = np.full((size[1], size[0], 3), 235, np.float32)
    ink, outline = np.zeros((2, size[1], size[0]), np.uint8)
    light = float(chance.uniform(-0.35, 0.35))
    bends = []
    for side, (page, inked) in enumerate(small):
        along, rise = _profile(wide / _MM, bulge_mm, gutter is not None, chance)
        x = np.concatenate([[0.0], np.cumsum(np.sqrt(1 - np.diff(rise) ** 2 / np.diff(along) ** 2) * np.diff(along))])
        at = pad + x * _MM if gutter is None else gutter + x * _MM * (1 if side else -1)
        larger = camera / (camera - rise * _MM)
        seen = centre[0] + (at - centre[0]) * larger
        share = along * _MM / wide
        slope = np.gradient(rise, along)
        shade = 1 + light * slope * (1 if side else -1)
        if gutter is not None:
            shade *= 1 - chance.uniform(0.35, 0.6) * np.exp(-along / chance.uniform(4.0, 9.0))
            if side == 0:
                share = 1 - share
        order = np.argsort(share)
        bend = Bend(np.stack([share, seen, larger], axis=1)[order], centre[1], pad, high, size)
        _paint(pixels, ink, outline, page, inked, bend, shade[order])
        bends.append(bend)
    sheet = WrittenSheet(np.clip(pixels, 0, 255).astype(np.uint8), ink > 127, (), outline)
    return BentPaper(sheet, tuple(bends))


def _small(sheet: WrittenSheet) -> tuple[NDArray[np.float32], NDArray[np.uint8]]:
    page = cv2.resize(sheet.pixels, None, fx=_SCALE, fy=_SCALE, interpolation=cv2.INTER_AREA).astype(np.float32)
    ink = cv2.resize(sheet.ink.astype(np.uint8) * np.uint8(255), (page.shape[1], page.shape[0]))
    return np.asarray(page, np.float32), np.asarray(ink, np.uint8)


def _profile(
    width: float, bulge: float, bound: bool, chance: np.random.Generator
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Height over the desk at each step along the paper, from the gutter or the left edge; all in mm."""
    along = np.arange(0, width + _STEP_MM, _STEP_MM)
    if bound:
        near = chance.uniform(22, 45)
        rise = bulge * along / near * np.exp(1 - along / near)
    else:
        rise = bulge * np.sin(np.pi * along / width * chance.uniform(0.7, 1.3) + chance.uniform(0, 0.5))
    steps = np.clip(np.diff(rise), -_STEEPEST * _STEP_MM, _STEEPEST * _STEP_MM)
    return along, np.maximum(rise[0], 0) + np.concatenate([[0.0], np.cumsum(steps)])


def _paint(
    pixels: NDArray[np.float32], ink: NDArray[np.uint8], outline: NDArray[np.uint8], page: NDArray[np.float32],
    inked: NDArray[np.uint8], bend: Bend, shade: NDArray[np.float64],
) -> None:  # fmt: skip
    """Lay one page as it is seen: across by its bend, and stretched up and down from the camera's middle."""
    height, width = outline.shape
    seen, share, larger = bend.at[:, 1], bend.at[:, 0], bend.at[:, 2]
    columns = np.arange(width) + 0.5
    inside = (columns >= seen[0]) & (columns <= seen[-1])
    u = np.interp(columns, seen, share) * page.shape[1]
    scale = np.interp(columns, seen, larger)
    dark = np.interp(columns, seen, shade).astype(np.float32)
    rows = (np.arange(height) + 0.5)[:, None]
    v = bend.middle + (rows - bend.middle) / scale[None] - bend.top
    map_x = np.broadcast_to((u - 0.5).astype(np.float32), (height, width)).copy()
    map_y = (v - 0.5).astype(np.float32)
    covers = inside[None] & (v >= 0) & (v <= page.shape[0])
    there = cv2.remap(page, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE) * dark[None, :, None]
    pixels[covers] = there[covers]
    ink[covers] = cv2.remap(inked, map_x, map_y, cv2.INTER_LINEAR)[covers]
    outline[covers] = 255
