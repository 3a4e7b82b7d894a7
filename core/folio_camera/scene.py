"""What a photograph is taken of: the desk, the sheet on it, the light, the camera."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

TWELVE_MEGAPIXELS = (3024, 4032)


@dataclass(frozen=True, slots=True)
class Scene:
    """``size``: width and height of the upright picture. ``fill``: share of its width or height the sheet spans.

    ``tilt``: 0 is straight above. ``quarter_turns``: clockwise turns the sheet itself lies turned by. ``light``:
    fall-off, 0 is even. ``outside``: share of the sheet's height or width that lies beyond the picture's edge.
    ``exposure``: 1 is right. ``motion_px``: how far the camera moved while the shutter was open. ``beneath``,
    ``beside``: other papers. ``over_edge``: "", "finger" or "pen". ``corner``: "square", "rounded" or "dog_eared".
    """

    desk: str = "wood"
    size: tuple[int, int] = TWELVE_MEGAPIXELS
    fill: float = 0.86
    tilt: float = 0.10
    rotation_deg: float = 3.0
    quarter_turns: int = 0
    outside: float = 0.0
    light: float = 0.35
    hand_shadow: bool = False
    shadow_edge: bool = False
    glare: bool = False
    warm: bool = False
    exposure: float = 1.0
    blur_sigma_px: float = 0.8
    motion_px: float = 0.0
    noise: float = 2.5
    beneath: int = 0
    beside: int = 0
    over_edge: str = ""
    corner: str = "square"
    exif_orientation: int = 1
    taken: datetime | None = None
