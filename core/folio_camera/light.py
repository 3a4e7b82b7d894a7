"""Light on the scene: fall-off, a hand's shadow, a hard shadow's edge, a lamp's reflection, the lamp's colour."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from .scene import Scene

_WARM_LAMP = np.array([1.06, 0.98, 0.80], np.float32)  # what a phone leaves of a 2700 K lamp; common practice


def lit(picture: NDArray[np.float32], scene: Scene, chance: np.random.Generator) -> NDArray[np.float32]:
    """The picture under the scene's light: what the lens sees, 0 to beyond 255 where it will clip."""
    height, width = picture.shape[:2]
    y, x = (np.arange(height, dtype=np.float32)[:, None], np.arange(width, dtype=np.float32)[None])
    u, v = x / width - 0.5, y / height - 0.5
    direction = chance.uniform(0, 2 * math.pi)
    light = 0.96 - scene.light * (0.5 + u * math.cos(direction) + v * math.sin(direction)) * 0.9
    light = light - 0.12 * (u**2 + v**2)
    side = 1 if chance.random() < 0.5 else -1
    if scene.hand_shadow:
        blob = ((u - side * 0.42) / 0.34) ** 2 + ((v - 0.30) / 0.42) ** 2
        light = light * (1 - 0.42 * _soft_step(1 - blob, 7))
    if scene.shadow_edge:
        slope = chance.uniform(-0.5, 0.5)
        light = light * (1 - 0.55 * _soft_step(side * (u + slope * v - 0.05), 120))
    picture *= (np.clip(light, 0.12, 1.0) * scene.exposure)[..., None]
    if scene.warm:
        picture *= _WARM_LAMP
    if scene.glare:
        at_u, at_v = chance.uniform(-0.18, 0.18, 2)
        spot = np.exp(-((((u - at_u) / 0.10) ** 2 + ((v - at_v) / 0.06) ** 2) ** 1.5))
        picture += (330 * spot)[..., None]
    return picture


def _soft_step(value: NDArray[np.float32], steepness: float) -> NDArray[np.float32]:
    return np.asarray(1 / (1 + np.exp(np.clip(-value * steepness, -60, 60))), np.float32)
