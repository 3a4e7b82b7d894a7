"""What else lies in the picture: papers beneath and beside the sheet, a finger or a pen over its edge."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

Quad = NDArray[np.float64]
_SKIN = (206, 158, 130)
_PEN = (34, 38, 46)


def papers(ground: NDArray[np.float32], sheet: Quad, beneath: int, beside: int, chance: np.random.Generator) -> None:
    """Paint other sheets on the desk, before the sheet itself is laid over them."""
    middle = sheet.mean(axis=0)
    size = np.linalg.norm(sheet[1] - sheet[0])
    for _ in range(beneath):
        shift = chance.uniform(0.03, 0.16, 2) * size * chance.choice([-1, 1], 2)
        _paper(ground, _turned(sheet, middle, chance.uniform(-14, 14)) + shift, chance)
    sides = chance.permutation(4)[:beside]
    for side in sides:
        outward = (sheet[side] + sheet[(side + 1) % 4]) / 2 - middle
        _paper(ground, _turned(sheet, middle, chance.uniform(-8, 8)) + outward * chance.uniform(2.15, 2.4), chance)


def _turned(quad: Quad, centre: NDArray[np.float64], degrees: float) -> Quad:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return (quad - centre) @ np.array([[c, s], [-s, c]]) + centre


def _paper(ground: NDArray[np.float32], quad: Quad, chance: np.random.Generator) -> None:
    height, width = ground.shape[:2]
    cover = np.zeros((height, width), np.uint8)
    cv2.fillConvexPoly(cover, np.rint(quad).astype(np.int32), 255, cv2.LINE_AA)
    shadow = cv2.GaussianBlur(cover, (0, 0), max(width, height) / 300)
    ground *= (1 - 0.3 * (shadow.astype(np.float32) / 255))[..., None]
    colour = np.array(chance.choice([(250, 249, 244), (244, 243, 238), (240, 236, 220)]), np.float32)
    alpha = (cover.astype(np.float32) / 255)[..., None]
    ground *= 1 - alpha
    ground += alpha * (colour - chance.uniform(0, 6))
    for row in np.linspace(0.08, 0.92, 22):  # somebody's lines of writing, as dashes
        start, end = quad[0] + (quad[3] - quad[0]) * row, quad[1] + (quad[2] - quad[1]) * row
        for left in np.arange(0.12, 0.85, 0.06):
            if chance.random() < 0.7:
                a, b = start + (end - start) * left, start + (end - start) * (left + 0.04)
                cv2.line(ground, _pixel(a), _pixel(b), (60, 64, 110), max(1, width // 500), cv2.LINE_AA)


def _pixel(point: NDArray[np.float64]) -> tuple[int, int]:
    return round(float(point[0])), round(float(point[1]))


def over_the_edge(
    picture: NDArray[np.float32], sheet: Quad, kind: str, chance: np.random.Generator
) -> NDArray[np.uint8]:
    """Paint a finger or a pen that reaches over an edge of the sheet; 255 where it hides what lies below."""
    height, width = picture.shape[:2]
    size = float(np.linalg.norm(sheet[1] - sheet[0]))
    side = int(chance.choice([1, 2, 3]))
    along = chance.uniform(0.25, 0.75)
    edge = sheet[side] + (sheet[(side + 1) % 4] - sheet[side]) * along
    inward = sheet.mean(axis=0) - (sheet[side] + sheet[(side + 1) % 4]) / 2
    inward /= np.linalg.norm(inward)
    lean = chance.uniform(-0.5, 0.5)
    inward = np.array([inward[0] - lean * inward[1], inward[1] + lean * inward[0]])
    reach, thick, colour = (0.05, 0.075, _SKIN) if kind == "finger" else (0.05, 0.035, _PEN)
    tip, far = edge + inward * size * reach, edge - inward * size * 0.9
    cover = np.zeros((height, width), np.uint8)
    cv2.line(cover, _pixel(tip), _pixel(far), 255, max(3, round(thick * size)), cv2.LINE_AA)
    shade = cv2.GaussianBlur(cover, (0, 0), size / 90).astype(np.float32) / 255
    picture *= (1 - 0.3 * shade)[..., None]
    alpha = (cv2.GaussianBlur(cover, (0, 0), size / 400).astype(np.float32) / 255)[..., None]
    round_light = cv2.GaussianBlur(cover, (0, 0), thick * size / 3).astype(np.float32)[..., None] / 255
    picture *= 1 - alpha
    picture += alpha * np.array(colour, np.float32) * (0.55 + 0.45 * round_light)
    return cover
