"""Photographing a sheet on a desk: perspective, lens, light, hand shadow, blur, noise, JPEG with EXIF."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image

from .clutter import over_the_edge, papers
from .handwriting import LabelAt, WrittenSheet
from .light import lit
from .scene import Scene
from .surfaces import desk

Corners = tuple[tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]]
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
_FOCAL = 0.75  # of the picture's long side: a phone's main lens, 26 mm on a 36 × 24 mm film; common practice, no source


@dataclass(frozen=True, slots=True)
class Photograph:
    """``corners``: of the sheet as it will be read, in pixels of the picture after EXIF. ``turn``: clockwise degrees
    that set the straightened sheet upright. ``ink``: truth mask in the sheet's own pixels. ``ink_seen``: height ×
    width of the picture, 0–255, how much of each pixel is ink that nothing hides. ``lens``: what `_bend` bent by."""

    jpeg: bytes
    corners: Corners
    turn: int
    labels: tuple[LabelAt, ...]
    ink: NDArray[np.bool_]
    ink_seen: NDArray[np.uint8]
    lens: float


def photograph(sheet: WrittenSheet, scene: Scene, seed: int, second: WrittenSheet | None = None) -> Photograph:
    """One picture of a sheet; ``second`` is laid whole beside it, in the other half of the picture."""
    chance = np.random.default_rng(seed)
    width, height = scene.size
    k1 = float(chance.uniform(-0.005, 0.005))  # what phones leave after correcting; common practice, no source
    turned = np.ascontiguousarray(np.rot90(sheet.pixels, -scene.quarter_turns))
    corners = _placed(turned.shape[1] / turned.shape[0], scene, chance)
    picture = desk(scene.desk, width, height, chance)
    papers(picture, corners, scene.beneath, scene.beside, chance)
    if second is not None:
        corners, beside = _side_by_side(corners, scene.size)
        _lay(picture, second, np.zeros(second.ink.shape, np.uint8), beside, k1, scene, chance)
    ink_seen = _lay(picture, sheet, (sheet.ink * np.uint8(255)), corners, k1, scene, chance)
    bent = _bend(np.asarray(corners), k1, scene.size)
    if scene.over_edge:
        ink_seen = cv2.subtract(ink_seen, over_the_edge(picture, bent, scene.over_edge, chance))
    picture = lit(picture, scene, chance)
    if scene.blur_sigma_px > 0:
        picture = cv2.GaussianBlur(picture, (0, 0), scene.blur_sigma_px)
    if scene.motion_px > 0:
        picture = _moved(picture, scene.motion_px, chance.uniform(0, math.pi))
    noise = chance.standard_normal((height, width), np.float32) * scene.noise
    pixels = np.clip(picture + noise[..., None], 0, 255).astype(np.uint8)
    ordered: Corners = tuple((float(x), float(y)) for x, y in bent)  # type: ignore[assignment]
    turn = -scene.quarter_turns % 4 * 90
    return Photograph(_jpeg(pixels, scene), ordered, turn, sheet.labels, sheet.ink, ink_seen, k1)


def _lay(
    picture: NDArray[np.float32], sheet: WrittenSheet, ink: NDArray[np.uint8], corners: NDArray[np.float64],
    k1: float, scene: Scene, chance: np.random.Generator,
) -> NDArray[np.uint8]:  # fmt: skip
    """Lay a sheet into the picture, with the thin shadow it throws. Where its ink is then seen."""
    width, height = scene.size
    turned, its_ink = (np.ascontiguousarray(np.rot90(a, -scene.quarter_turns)) for a in (sheet.pixels, ink))
    turned, shape = _cornered(turned, scene.corner, chance)
    if sheet.outline is not None:
        shape = cv2.min(shape, np.ascontiguousarray(np.rot90(sheet.outline, -scene.quarter_turns)))
    seen, coverage, ink_seen = _seen(turned, its_ink, shape, corners, k1, scene.size)
    contact = cv2.GaussianBlur(coverage, (0, 0), max(width, height) / 260)
    shift = max(2, width // 400)
    picture *= (1 - 0.35 * np.roll(contact, (shift, shift), (0, 1)))[..., None]
    picture *= (1 - coverage)[..., None]
    picture += seen * coverage[..., None]
    return ink_seen


def _cornered(
    sheet: NDArray[np.uint8], corner: str, chance: np.random.Generator
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """The sheet with its corners rounded or one folded over, and its outline as a mask (255 is paper)."""
    rows, columns = sheet.shape[:2]
    shape = np.full((rows, columns), 255, np.uint8)
    if corner == "rounded":
        radius = round(0.03 * columns)
        shape[:] = 0
        cv2.rectangle(shape, (radius, 0), (columns - radius, rows), 255, cv2.FILLED)
        cv2.rectangle(shape, (0, radius), (columns, rows - radius), 255, cv2.FILLED)
        for x in (radius, columns - radius):
            for y in (radius, rows - radius):
                cv2.circle(shape, (x, y), radius, 255, cv2.FILLED)
    elif corner == "dog_eared":
        fold = round(chance.uniform(0.04, 0.065) * columns)
        x, y = chance.choice([0, columns - 1]), chance.choice([0, rows - 1])
        inward_x, inward_y = (1 if x == 0 else -1) * fold, (1 if y == 0 else -1) * fold
        ends = [(x + inward_x, y), (x, y + inward_y)]
        cv2.fillPoly(shape, [np.array([(x, y), *ends], np.int32)], 0)
        sheet = sheet.copy()
        cv2.fillPoly(sheet, [np.array([(x + inward_x, y + inward_y), *ends], np.int32)], (222, 221, 216))
    return sheet, shape


def _moved(picture: NDArray[np.float32], length_px: float, angle: float) -> NDArray[np.float32]:
    """The camera moved in a straight line while the shutter was open."""
    size = 2 * math.ceil(length_px / 2) + 1
    kernel = np.zeros((size, size), np.float32)
    reach = np.array([math.cos(angle), math.sin(angle)]) * length_px / 2
    start, end = (tuple(round(float(v)) for v in size // 2 + sign * reach) for sign in (-1, 1))
    cv2.line(kernel, start, end, 1.0, 1)
    return np.asarray(cv2.filter2D(picture, -1, kernel / kernel.sum()), np.float32)


def _side_by_side(
    corners: NDArray[np.float64], size: tuple[int, int]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Two sheets share a picture, each in its half of the longer way."""
    middle = np.array(size) / 2
    small = (corners - corners.mean(axis=0)) * 0.62
    apart = np.array([size[0] * 0.25, 0.0]) if size[0] > size[1] else np.array([0.0, size[1] * 0.25])
    if size[0] <= size[1]:
        small = small * 0.74
    return small + middle - apart, small + middle + apart


def _placed(aspect: float, scene: Scene, chance: np.random.Generator) -> NDArray[np.float64]:
    """Where the sheet's corners fall through a pinhole (Hartley and Zisserman, 6.1), its axis at the middle."""
    width, height = scene.size
    half = np.array([(-aspect, -1.0, 0), (aspect, -1, 0), (aspect, 1, 0), (-aspect, 1, 0)])
    in_plane = math.radians(scene.rotation_deg * float(chance.uniform(-1, 1)))
    pitch, yaw = (0.9 * scene.tilt * chance.uniform(-1, 1, 2)).tolist()
    solid = half @ (_rotation(2, in_plane) @ _rotation(0, pitch) @ _rotation(1, yaw))
    free = chance.uniform(-0.9, 0.9, 2)
    beyond = int(chance.integers(0, 4))  # the left, top, right or bottom edge, where the sheet lies partly outside
    focal = _FOCAL * max(width, height)
    away = np.array([0.0, 0.0, 2.0])
    for _ in range(20):  # the camera moves until the sheet lies as wanted
        placed = solid + away
        seen = placed[:, :2] / placed[:, 2:] * focal
        extent = np.ptp(seen, axis=0)
        middle = (seen.max(axis=0) + seen.min(axis=0)) / 2
        wanted = free * (np.array([width, height]) - extent) / 2
        if scene.outside > 0:
            axis, sign = beyond % 2, 1 if beyond >= 2 else -1
            wanted[axis] = sign * ((width, height)[axis] / 2 + (scene.outside - 0.5) * extent[axis])
        away[:2] += (wanted - middle) * away[2] / focal
        away[2] /= scene.fill * min(width / extent[0], height / extent[1])
    return seen + np.array([width, height]) / 2


def _rotation(axis: int, angle: float) -> NDArray[np.float64]:
    c, s = math.cos(angle), math.sin(angle)
    turned = np.eye(3)
    one, other = [i for i in range(3) if i != axis]
    turned[one, one], turned[one, other], turned[other, one], turned[other, other] = c, s, -s, c
    return turned


def _bend(points: NDArray[np.float64], k1: float, size: tuple[int, int]) -> NDArray[np.float64]:
    """Brown's radial distortion, first term (Photogrammetric Engineering, 1971)."""
    centre, radius = np.array(size) / 2, max(size) / 2
    away = (points - centre) / radius
    return np.asarray(centre + away * (1 + k1 * (away**2).sum(axis=-1, keepdims=True)) * radius)


def _seen(
    sheet: NDArray[np.uint8], ink: NDArray[np.uint8], shape: NDArray[np.uint8], corners: NDArray[np.float64],
    k1: float, size: tuple[int, int],
) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.uint8]]:  # fmt: skip
    """The sheet through the lens, how much of each pixel it covers, and where its ink is."""
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
    map_x = ((to_sheet[0, 0] * u + to_sheet[0, 1] * v + to_sheet[0, 2]) / below).astype(np.float32) - 0.5
    map_y = ((to_sheet[1, 0] * u + to_sheet[1, 1] * v + to_sheet[1, 2]) / below).astype(np.float32) - 0.5
    picture = cv2.remap(sheet, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    outline = cv2.remap(shape, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    inked = cv2.remap(ink, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0)
    inside = np.minimum(np.minimum(map_x, columns - 1 - map_x), np.minimum(map_y, rows - 1 - map_y)) + 0.5
    step = columns / max(float(np.linalg.norm(corners[1] - corners[0])), 1)
    coverage = np.clip(inside / step + 0.5, 0, 1) * (outline.astype(np.float32) / 255)
    return picture.astype(np.float32), coverage, inked


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
