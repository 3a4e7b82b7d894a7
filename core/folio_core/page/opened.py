"""What opening a source gives, and the troubles that every way of opening shares."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .errors import PageError, Trouble
from .limits import Limits


@dataclass(frozen=True, slots=True)
class Opened:
    """The pixels of one page. ``pixels``: height × width × 3, uint8, RGB, upright after EXIF."""

    pixels: NDArray[np.uint8]
    width: int  # of the source, after EXIF; ``pixels`` may be smaller, decoded at a reduced scale
    height: int
    drawn: bool  # a drawn (born digital) page: nothing to cut, no light to even
    taken: str = ""  # EXIF date and time, as written by the camera
    damaged: bool = False  # decoded, but a part of the pixels is not what the camera saw


def damaged_file() -> PageError:
    return PageError(
        Trouble.TRUNCATED,
        "This file is damaged or ends too early, so its picture cannot be read. Send it again, or take it again.",
    )


def check_pixels(width: float, height: float, limits: Limits) -> None:
    """Raises PageError (TOO_MANY_PIXELS)."""
    if width * height > limits.pixels:
        raise PageError(
            Trouble.TOO_MANY_PIXELS,
            f"This picture is {width:.0f} × {height:.0f} pixels; at most {limits.pixels // 1_000_000} million are "
            "read. Take it with the ordinary camera, or export it smaller.",
        )
