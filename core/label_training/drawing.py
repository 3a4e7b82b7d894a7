"""One written line's beginning as a picture of the network's size, and the worse the better: other slants and pens,
broken and joined strokes, ruling beneath, neighbours that reach in, blur and noise of a camera."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from folio_camera.handwriting import trimmed
from folio_core.reading.crops import CROP_DIGITS_HIGH, CROP_HEIGHT, CROP_LEFT_DIGITS, CROP_WIDTH

from .hands import cap_height, font
from .sayings import Saying

_SCALE = 2  # drawn at, of the network's pixels
_HIGH, _WIDE = CROP_HEIGHT * _SCALE, CROP_WIDTH * _SCALE
_MARGIN = 24
_AROUND = ("circled", "boxed")
_NEAT = 0.5  # of the crops are little deformed, as most pages are
Digits = dict[str, NDArray[np.uint8]]


def crop_of(
    said: Saying, files: Sequence[Path], digits: Digits | None, chance: random.Random, noise: np.random.Generator
) -> NDArray[np.uint8]:
    """``CROP_HEIGHT`` × ``CROP_WIDTH``, 255 is ink. Each sign is written as one of the fonts ``files`` has it, the
    same one throughout. With ``digits`` those are drawn in place of the fonts'."""
    digit = _HIGH / CROP_DIGITS_HIGH * math.exp(chance.uniform(-0.32, 0.27))  # height of a digit
    if said.mark in _AROUND:  # a page's crop is as high as what stands first, its ring with it
        digit *= math.exp(chance.uniform(-0.28, 0.0))
    baseline = _MARGIN + _HIGH * chance.uniform(0.58, 0.86) + (digit - _HIGH / CROP_DIGITS_HIGH) * 0.4
    image = Image.new("L", (_WIDE + 2 * _MARGIN, _HIGH + 2 * _MARGIN), 0)
    draw = ImageDraw.Draw(image)
    pen = _Pen(image, files, digits, chance, digit)
    start = _MARGIN + digit * CROP_LEFT_DIGITS + digit * chance.uniform(-0.35, 0.5)
    loose = digit * chance.uniform(0.05, 0.55)  # rings and boxes that are close touch what they stand around
    start += loose * chance.uniform(0.3, 1.0) if said.mark in _AROUND else 0.0
    wander = chance.uniform(-0.04, 0.04)
    end = pen.write(said.label, start, baseline, wander) if said.label else start
    if said.mark:
        _set_off(draw, said.mark, (start, baseline - digit, end, baseline), digit, loose, chance)
    if said.rest:
        pen.write(said.rest, end + digit * said.gap, baseline + digit * chance.uniform(-0.25, 0.25), wander)
    for above in (-1, 1):  # the lines above and below
        if chance.random() < 0.3:
            other = baseline + above * digit * chance.uniform(1.5, 2.4)
            _Pen(image, files, None, chance, digit).write(
                "".join(chance.choice("agypqjlktbx35729=()") for _ in range(12)), start + digit * chance.uniform(-1, 6),
                other, wander,
            )  # fmt: skip
    pixels = np.asarray(image).copy()
    if chance.random() < 0.04:
        _scribble(pixels, chance)
    return _worn(pixels, chance, noise)


class _Pen:
    def __init__(
        self, image: Image.Image, files: Sequence[Path], digits: Digits | None, chance: random.Random, digit: float
    ) -> None:
        self.image, self.files, self.digits, self.chance = image, files, digits, chance
        self.digit = digit  # its height
        self.of_sign: dict[str, Path] = {}
        self.spread = chance.uniform(-0.03, 0.10) * digit
        self.unsteady = chance.uniform(0.0, 0.09)
        self.tilt = chance.choice((0.0, 0.0, 3.0, 6.0))  # degrees each sign leans by, and is stretched with it

    def write(self, text: str, x: float, baseline: float, wander: float) -> float:
        """Returns where it ends."""
        chance, begun = self.chance, x
        for sign in text:
            if x > _WIDE + _MARGIN:
                break
            if sign == " ":
                x += self.digit * chance.uniform(0.28, 0.6)
                continue
            y = baseline + wander * (x - begun) + chance.gauss(0, self.unsteady) * self.digit
            if self.digits is not None and sign.isdecimal():
                x += self._real(sign, x, y)
                continue
            x += self._sign(sign, x, y) + self.spread + chance.gauss(0, self.unsteady / 2) * self.digit
        return x

    def _sign(self, sign: str, x: float, y: float) -> float:
        """Returns how far it reaches."""
        chance = self.chance
        if sign not in self.of_sign:
            self.of_sign[sign] = chance.choice(self.files)
        file = self.of_sign[sign]
        size = max(8, round(self.digit / cap_height(file) * (1 + chance.gauss(0, self.unsteady)) / 3) * 3)
        mask, left, top, wide = _glyph(file, size, sign)
        if not self.tilt:
            self.image.paste(255, (round(x) + left, round(y) + top), Image.fromarray(mask))
            return wide
        stretch = math.exp(chance.gauss(0, self.tilt / 50))
        turned = math.radians(chance.gauss(0, self.tilt))
        cos, sin = math.cos(turned) * stretch, math.sin(turned)
        high, across = mask.shape
        room = max(high, across) + 8
        # About the middle of the sign, on the line between baseline and digit height.
        turn = np.array([[cos, -sin, 0.0], [sin * stretch, math.cos(turned), 0.0]])
        turn[:, 2] = room / 2 - turn[:, :2] @ (across / 2, high / 2)
        leaning = cv2.warpAffine(mask, turn, (room, room))
        centre = turn[:, :2] @ (left + across / 2 - wide / 2, top + high / 2 + self.digit / 2)
        middle_x, middle_y = x + wide * stretch / 2 + centre[0], y - self.digit / 2 + centre[1]
        at = (round(middle_x - room / 2), round(middle_y - room / 2))
        self.image.paste(255, at, Image.fromarray(leaning))
        return wide * stretch

    def _real(self, sign: str, x: float, y: float) -> float:
        """A digit somebody wrote."""
        assert self.digits is not None
        images = self.digits[sign]
        ink = trimmed(images[self.chance.randrange(len(images))])
        high = max(6, round(self.digit * self.chance.uniform(0.9, 1.15)))
        wide = max(3, round(ink.shape[1] * high / ink.shape[0]))
        grown = cv2.resize(ink, (wide, high), interpolation=cv2.INTER_CUBIC)
        lifted = np.clip((grown.astype(np.float32) - 60) * 2.2, 0, 255).astype(np.uint8)
        if wide > 8:
            lifted = cv2.erode(lifted, np.ones((2, 2), np.uint8)) if self.chance.random() < 0.5 else lifted
        self.image.paste(255, (round(x), round(y - high)), Image.fromarray(lifted))
        return wide + self.digit * self.chance.uniform(0.08, 0.22)


@lru_cache(60_000)
def _glyph(file: Path, size: int, sign: str) -> tuple[NDArray[np.uint8], int, int, float]:
    """A sign's ink, where it stands from its origin on the baseline, and how far it reaches."""
    face = font(file, size)
    left, top, right, bottom = (int(edge) for edge in face.getbbox(sign, anchor="ls"))
    image = Image.new("L", (max(1, right - left), max(1, bottom - top)), 0)
    ImageDraw.Draw(image).text((-left, -top), sign, font=face, fill=255, anchor="ls")
    return np.asarray(image), left, top, face.getlength(sign)


def _set_off(
    draw: ImageDraw.ImageDraw, mark: str, box: tuple[float, float, float, float], digit: float, loose: float,
    chance: random.Random,
) -> None:  # fmt: skip
    left, top, right, bottom = box
    thick = max(1, round(digit * chance.uniform(0.04, 0.1)))
    around = [left - loose, top - loose, right + loose, bottom + loose]
    if mark == "underlined":
        for step in range(chance.choice((1, 1, 2))):
            y = bottom + digit * (0.15 + 0.14 * step)
            draw.line((left - loose / 2, y, right + loose / 2, y + chance.uniform(-2, 3)), fill=255, width=thick)
    elif mark == "circled":
        around[0], around[2] = left - 1.3 * loose, right + 1.3 * loose
        draw.arc(around, chance.uniform(0, 90), 360 + chance.uniform(0, 120), fill=255, width=thick)
    elif mark == "boxed":
        draw.rectangle(around, outline=255, width=thick)
    else:
        for _ in range(chance.randint(1, 4)):
            ends = [left - loose, top + digit * chance.uniform(0, 1), right + loose, top + digit * chance.uniform(0, 1)]
            draw.line(ends, fill=255, width=thick + 1)


def _scribble(pixels: NDArray[np.uint8], chance: random.Random) -> None:
    points = np.array(
        [[chance.uniform(0, pixels.shape[1]), chance.uniform(0, pixels.shape[0])] for _ in range(4)], np.int32
    )
    cv2.polylines(pixels, [points], False, 255, chance.randint(2, 4), cv2.LINE_AA)


def _worn(pixels: NDArray[np.uint8], chance: random.Random, noise: np.random.Generator) -> NDArray[np.uint8]:
    high, wide = pixels.shape
    neat = chance.random() < _NEAT
    weight = chance.random()
    if weight < 0.22:
        pixels = cv2.dilate(pixels, np.ones((2, 2), np.uint8))
    elif weight < 0.30:
        pixels = cv2.dilate(pixels, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (3, 3)))
    elif weight < 0.36:
        pixels = cv2.erode(pixels, np.ones((2, 2), np.uint8))
    if chance.random() < 0.12:  # a pen that skips
        dots = (noise.random((high // 4, wide // 4)) < 0.10).astype(np.uint8)
        pixels = cv2.subtract(pixels, cv2.resize(dots, (wide, high)) * np.uint8(255))
    if chance.random() < (0.3 if neat else 0.45):  # ruled or squared paper that came through
        strength, step = chance.randint(20, 130), _HIGH / chance.uniform(0.9, 2.6)
        layer = np.zeros_like(pixels)
        for y in np.arange(chance.uniform(0, step), high, step):
            cv2.line(layer, (0, round(y)), (wide, round(y + chance.uniform(-3, 3))), strength, chance.choice((1, 2)))
        if chance.random() < 0.4:
            for x in np.arange(chance.uniform(0, step), wide, step):
                cv2.line(layer, (round(x), 0), (round(x), high), strength, chance.choice((1, 2)))
        elif chance.random() < 0.3:
            x = round(chance.uniform(0, wide))
            cv2.line(layer, (x, 0), (x, high), strength, 2)
        pixels = cv2.max(pixels, layer)
    # Slant, turn, stretch, and an elastic deformation (Simard, Steinkraus, Platt 2003).
    slant, turned = chance.gauss(0, 0.13), chance.gauss(0, 0.022)
    stretch = math.exp(chance.gauss(0, 0.12))
    amount, calm = chance.uniform(0, 0.7 if neat else 2.0), chance.choice((7, 9, 12))
    rows, columns = np.mgrid[0:_HIGH, 0:_WIDE].astype(np.float32)
    middle = _HIGH / 2
    x = _MARGIN + columns * np.float32(stretch) + (rows - middle) * np.float32(slant)
    y = _MARGIN + rows + (columns - _WIDE * 0.15) * np.float32(turned)
    for axis in (x, y):
        field = noise.standard_normal((_HIGH // calm + 2, _WIDE // calm + 2)).astype(np.float32)
        axis += cv2.resize(field, (_WIDE, _HIGH), interpolation=cv2.INTER_CUBIC) * np.float32(amount)
    warped = cv2.remap(pixels, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    small = cv2.resize(warped, (CROP_WIDTH, CROP_HEIGHT), interpolation=cv2.INTER_AREA).astype(np.float32)
    if chance.random() < (0.25 if neat else 0.5):
        small = cv2.GaussianBlur(small, (0, 0), chance.uniform(0.3, 1.1))
    small = small * np.float32(chance.uniform(0.75, 1.3) * 255 / max(60.0, float(small.max())))
    small += noise.standard_normal(small.shape).astype(np.float32) * np.float32(
        0 if neat else chance.choice((0, 0, 3, 8))
    )
    return np.clip(small, 0, 255).astype(np.uint8)
