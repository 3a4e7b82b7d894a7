"""Pictures no camera took of a sheet on a desk: scans, a tablet's export, and what is no page of work at all."""

from __future__ import annotations

import io

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from .handwriting import WrittenSheet
from .surfaces import smooth_noise

RGB = NDArray[np.uint8]


def jpeg(pixels: RGB, quality: int = 90) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=quality)
    return out.getvalue()


def scan(sheet: WrittenSheet, chance: np.random.Generator) -> RGB:
    """A flatbed's picture: the sheet fills it, a little askew, lit evenly, with the lid's pale rim along two sides."""
    height, width = sheet.pixels.shape[:2]
    askew = cv2.getRotationMatrix2D((width / 2, height / 2), float(chance.uniform(-0.8, 0.8)), 1.0)
    turned = cv2.warpAffine(sheet.pixels, askew, (width, height), borderMode=cv2.BORDER_REPLICATE)
    noisy = turned.astype(np.float32) + chance.normal(0, 1.5, turned.shape[:2])[..., None]
    return np.clip(noisy, 0, 255).astype(np.uint8)


def tablet_export(sheet: WrittenSheet, colour: tuple[int, int, int] = (255, 255, 255)) -> RGB:
    """Strokes of one ink on an exactly even ground, edge to edge."""
    ink = cv2.GaussianBlur(sheet.ink.astype(np.float32), (0, 0), 0.7)[..., None]
    return np.rint(np.array(colour, np.float32) * (1 - ink) + np.array((20, 30, 60), np.float32) * ink).astype(np.uint8)


def landscape(chance: np.random.Generator, size: tuple[int, int] = (2016, 1512)) -> RGB:
    """Sky over sea and hills."""
    width, height = size
    y = np.linspace(0, 1, height, dtype=np.float32)[:, None, None]
    sky = np.array((90, 140, 215), np.float32) * (1 - y) + np.array((240, 225, 205), np.float32) * y
    picture = np.repeat(sky, width, axis=1) + 14 * smooth_noise((height, width), (9, 7), chance)[..., None]
    rows = np.arange(height)[:, None]
    for base, colour in ((0.55, (86, 104, 96)), (0.64, (50, 76, 54))):
        ridge = base * height + 0.09 * height * smooth_noise((1, width), (2, 9), chance)[0]
        hill = rows > ridge[None]
        texture = 12 * smooth_noise((height, width), (120, 90), chance)
        picture[hill] = (np.array(colour, np.float32) + texture[..., None])[hill]
    sea = rows[:, 0] > 0.78 * height
    picture[sea] = (
        np.array((36, 72, 98), np.float32) + 16 * smooth_noise((height, width), (160, 12), chance)[sea][..., None]
    )
    return np.clip(picture, 0, 255).astype(np.uint8)


def face(chance: np.random.Generator, size: tuple[int, int] = (1512, 2016)) -> RGB:
    """A drawn head before a wall: skin, hair, eyes; nobody's likeness."""
    width, height = size
    picture = np.empty((height, width, 3), np.float32)
    picture[:] = np.array((150, 156, 150), np.float32) + 10 * smooth_noise((height, width), (6, 5), chance)[..., None]
    middle = (width // 2, round(0.45 * height))
    skin = chance.choice([(214, 166, 138), (150, 104, 78), (94, 64, 50)]).tolist()
    cv2.ellipse(picture, (middle[0], height), (round(0.42 * width), round(0.3 * height)), 0, 0, 360, (60, 70, 96), -1)
    cv2.ellipse(picture, middle, (round(0.30 * width), round(0.30 * height)), 0, 0, 360, (50, 38, 32), -1)
    cv2.ellipse(picture, (middle[0], middle[1] + height // 24), (width // 4, height // 4), 0, 0, 360, skin, -1)
    for side in (-1, 1):
        eye = (middle[0] + side * width // 11, middle[1])
        cv2.ellipse(picture, eye, (width // 28, height // 80), 0, 0, 360, (240, 238, 234), -1)
        cv2.circle(picture, eye, width // 70, (40, 34, 30), -1)
    cv2.ellipse(
        picture, (middle[0], middle[1] + height // 7), (width // 14, height // 100), 0, 0, 180, (150, 70, 70), 12
    )
    lit = cv2.GaussianBlur(picture, (0, 0), 5) * (1 + 0.05 * smooth_noise((height, width), (3, 3), chance)[..., None])
    return np.clip(lit + chance.normal(0, 3, (height, width))[..., None], 0, 255).astype(np.uint8)


def screenshot(chance: np.random.Generator, size: tuple[int, int] = (1080, 2160)) -> RGB:
    """Somebody's chat on a telephone: coloured bubbles of print on an even ground."""
    width, height = size
    image = Image.new("RGB", size, (28, 32, 40))
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(width // 28)
    draw.rectangle((0, 0, width, height // 14), fill=(44, 62, 92))
    y = height // 11
    while y < height * 0.93:
        mine = chance.random() < 0.5
        wide, lines = round(width * chance.uniform(0.4, 0.7)), int(chance.integers(1, 4))
        left = width - wide - 40 if mine else 40
        tall = lines * width // 20 + 40
        draw.rounded_rectangle((left, y, left + wide, y + tall), 28, fill=(46, 110, 92) if mine else (58, 64, 78))
        for line in range(lines):
            words = " ".join("abcdefgh"[: int(chance.integers(2, 8))] for _ in range(int(chance.integers(3, 6))))
            draw.text((left + 24, y + 16 + line * width // 20), words, font=font, fill=(236, 236, 232))
        y += tall + 34
    return np.asarray(image)
