"""Photographing a sheet on a desk: perspective, lens, light, hand shadow, blur, noise, JPEG with EXIF."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from datetime import datetime

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image

from .handwriting import LabelAt, WrittenSheet

Corners = tuple[tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]]
TWELVE_MEGAPIXELS = (3024, 4032)
# EXIF 2.32, tag 0x0112: how stored pixels must be moved to stand upright; here their inverses, for storing.
_STORED = {
    1: lambda a: a,
    2: lambda a: a[:, ::-1],
    3: lambda a: a[::-1, ::-1],
    4: lambda a: a[::-1],
    5: lambda a: a.transpose(1, 0, 2),
    6: lambda a: np.rot90(a, 1),
    7: lambda a: a[::-1, ::-1].transpose(1, 0, 2),
    8: lambda a: np.rot90(a, -1),
}
DESKS = ("wood", "dark", "cloth", "slate", "pale")


@dataclass(frozen=True, slots=True)
class Scene:
    """``size``: width and height of the upright picture. ``fill``: share of its width or height the sheet spans.

    ``tilt``: 0 is straight above. ``quarter_turns``: clockwise turns the sheet itself lies turned by. ``light``:
    fall-off, 0 is even.
    """

    desk: str = "wood"
    size: tuple[int, int] = TWELVE_MEGAPIXELS
    fill: float = 0.86
    tilt: float = 0.10
    rotation_deg: float = 3.0
    quarter_turns: int = 0
    light: float = 0.35
    hand_shadow: bool = False
    blur_sigma_px: float = 0.8
    noise: float = 2.5
    exif_orientation: int = 1
    taken: datetime | None = None


@dataclass(frozen=True, slots=True)
class Photograph:
    """``corners``: of the sheet as it will be read, in pixels of the picture after EXIF. ``turn``: clockwise degrees
    that set the straightened sheet upright. ``ink``: truth mask in the sheet's own pixels."""

    jpeg: bytes
    corners: Corners
    turn: int
    labels: tuple[LabelAt, ...]
    ink: NDArray[np.bool_]


def photograph(sheet: WrittenSheet, scene: Scene, seed: int) -> Photograph:
    chance = np.random.default_rng(seed)
    width, height = scene.size
    turned = np.ascontiguousarray(np.rot90(sheet.pixels, -scene.quarter_turns))
    corners = _placed(turned.shape[1] / turned.shape[0], scene, chance)
    k1 = float(chance.uniform(-0.005, 0.005))  # what phones leave after correcting; common practice, no source
    picture, coverage = _seen(turned, corners, k1, scene.size)
    desk = _desk(scene.desk, width, height, chance)
    contact = cv2.GaussianBlur(coverage, (0, 0), max(width, height) / 260)
    shift = max(2, width // 400)
    desk *= (1 - 0.35 * np.roll(contact, (shift, shift), (0, 1)))[..., None]
    picture = picture * coverage[..., None] + desk * (1 - coverage[..., None])
    picture *= _light(scene, width, height, chance)[..., None]
    if scene.blur_sigma_px > 0:
        picture = cv2.GaussianBlur(picture, (0, 0), scene.blur_sigma_px)
    noise = chance.standard_normal((height, width), np.float32) * scene.noise
    pixels = np.clip(picture + noise[..., None], 0, 255).astype(np.uint8)
    bent = _bend(np.asarray(corners), k1, scene.size)
    ordered: Corners = tuple((float(x), float(y)) for x, y in bent)  # type: ignore[assignment]
    return Photograph(_jpeg(pixels, scene), ordered, -scene.quarter_turns % 4 * 90, sheet.labels, sheet.ink)


def _placed(aspect: float, scene: Scene, chance: np.random.Generator) -> NDArray[np.float64]:
    """Where the sheet's corners fall in a lens without distortion."""
    width, height = scene.size
    half = np.array([(-aspect, -1), (aspect, -1), (aspect, 1), (-aspect, 1)])
    angle = math.radians(scene.rotation_deg * float(chance.uniform(-1, 1)))
    half = half @ np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    lean = scene.tilt * chance.uniform(-1, 1, 2)
    seen = half / (1 + 0.5 * (half * lean).sum(axis=1))[:, None]
    extent = seen.max(axis=0) - seen.min(axis=0)
    seen *= scene.fill * min(width / extent[0], height / extent[1])
    room = (np.array([width, height]) - (seen.max(axis=0) - seen.min(axis=0))) / 2
    middle = (seen.max(axis=0) + seen.min(axis=0)) / 2
    return seen - middle + np.array([width, height]) / 2 + room * chance.uniform(-0.6, 0.6, 2)


def _bend(points: NDArray[np.float64], k1: float, size: tuple[int, int]) -> NDArray[np.float64]:
    """Brown's radial distortion, first term (Photogrammetric Engineering, 1971)."""
    centre, radius = np.array(size) / 2, max(size) / 2
    away = (points - centre) / radius
    return np.asarray(centre + away * (1 + k1 * (away**2).sum(axis=-1, keepdims=True)) * radius)


def _seen(
    sheet: NDArray[np.uint8], corners: NDArray[np.float64], k1: float, size: tuple[int, int]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """The sheet through the lens, and how much of each pixel it covers."""
    width, height = size
    rows, columns = sheet.shape[:2]
    flat = np.array([(0, 0), (columns, 0), (columns, rows), (0, rows)], np.float32)
    to_sheet = cv2.getPerspectiveTransform(corners.astype(np.float32), flat)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32) + 0.5
    radius = max(size) / 2
    u, v = (x - width / 2) / radius, (y - height / 2) / radius
    factor = 1 - k1 * (u**2 + v**2)  # inverse of _bend to first order; k1² is under 3e-5
    u, v = u * factor * radius + width / 2, v * factor * radius + height / 2
    below = to_sheet[2, 0] * u + to_sheet[2, 1] * v + to_sheet[2, 2]
    map_x = ((to_sheet[0, 0] * u + to_sheet[0, 1] * v + to_sheet[0, 2]) / below).astype(np.float32)
    map_y = ((to_sheet[1, 0] * u + to_sheet[1, 1] * v + to_sheet[1, 2]) / below).astype(np.float32)
    picture = cv2.remap(sheet, map_x - 0.5, map_y - 0.5, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    inside = np.minimum(np.minimum(map_x, columns - map_x), np.minimum(map_y, rows - map_y))
    step = columns / max(float(np.linalg.norm(corners[1] - corners[0])), 1)
    return picture.astype(np.float32), np.clip(inside / step + 0.5, 0, 1)


def _noise(shape: tuple[int, int], cells: tuple[int, int], chance: np.random.Generator) -> NDArray[np.float32]:
    """Smooth noise of unit spread with about ``cells`` (down, across) bumps."""
    coarse = chance.standard_normal((max(2, cells[0]), max(2, cells[1])), np.float32)
    return np.asarray(cv2.resize(coarse, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC), np.float32)


def _desk(kind: str, width: int, height: int, chance: np.random.Generator) -> NDArray[np.float32]:
    shape = (height, width)
    tint = {
        "wood": (150, 104, 64),
        "dark": (46, 42, 44),
        "cloth": (70, 96, 128),
        "slate": (104, 116, 112),
        "pale": (206, 203, 196),
    }[kind]
    value = 4 * _noise(shape, (40, 30), chance)
    if kind == "wood":
        grain = _noise(shape, (4, 160), chance) + 0.6 * _noise(shape, (9, 420), chance)
        value += 13 * grain + 6 * np.sin(grain * 5)
    if kind == "cloth":
        period = width / 60
        y, x = np.mgrid[0:height, 0:width].astype(np.float32)
        value += 16 * np.sign(np.sin(2 * math.pi * x / period) * np.sin(2 * math.pi * y / period))
    if kind == "slate":
        value += 9 * _noise(shape, (200, 160), chance)
    return np.clip(np.asarray(tint, np.float32) + value[..., None] * np.array([1, 0.92, 0.8], np.float32), 4, 250)


def _light(scene: Scene, width: int, height: int, chance: np.random.Generator) -> NDArray[np.float32]:
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    u, v = x / width - 0.5, y / height - 0.5
    direction = chance.uniform(0, 2 * math.pi)
    light = 0.96 - scene.light * (0.5 + u * math.cos(direction) + v * math.sin(direction)) * 0.9
    light -= 0.12 * (u**2 + v**2)
    if scene.hand_shadow:
        side = 1 if chance.random() < 0.5 else -1
        blob = ((u - side * 0.42) / 0.34) ** 2 + ((v - 0.30) / 0.42) ** 2
        light *= 1 - 0.42 / (1 + np.exp((blob - 1) * 7))
    return np.asarray(np.clip(light, 0.12, 1.0), np.float32)


def _jpeg(pixels: NDArray[np.uint8], scene: Scene) -> bytes:
    stored = np.ascontiguousarray(_STORED[scene.exif_orientation](pixels))
    exif = Image.Exif()
    exif[ExifTags.Base.Orientation] = scene.exif_orientation
    exif[ExifTags.Base.Make] = "Simulated camera"
    if scene.taken is not None:
        exif[ExifTags.Base.DateTime] = scene.taken.strftime("%Y:%m:%d %H:%M:%S")
    out = io.BytesIO()
    Image.fromarray(stored).save(out, "JPEG", quality=88, exif=exif)
    return out.getvalue()
