"""The simulated camera as a video device: photographs one after another as a film that Chromium takes for a camera."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from io import BytesIO

import cv2
import numpy as np
from PIL import Image, ImageOps

FPS = 2  # frames a second; the device plays the film again and again


def film(pictures: Iterable[bytes], *, seconds_each: int = 4, size: tuple[int, int] = (1440, 1920)) -> Iterator[bytes]:
    """Chunks of a YUV4MPEG2 file (the y4m format of the MJPEG tools, yuv4mpeg(5)): each picture for some seconds.

    ``size``: width and height in pixels, both even. Pictures keep their shape, on a dark ground.
    """
    width, height = size
    yield f"YUV4MPEG2 W{width} H{height} F{FPS}:1 Ip A1:1 C420\n".encode()
    for picture in pictures:
        frame = b"FRAME\n" + _planes(picture, size)
        for _ in range(seconds_each * FPS):
            yield frame


def _planes(picture: bytes, size: tuple[int, int]) -> bytes:
    """Y, U and V of one frame, 4:2:0."""
    with Image.open(BytesIO(picture)) as opened:
        upright = ImageOps.exif_transpose(opened).convert("RGB")
        fitted = ImageOps.pad(upright, size, color=(24, 24, 24))
    planes: np.ndarray = cv2.cvtColor(np.asarray(fitted), cv2.COLOR_RGB2YUV_I420)
    return planes.tobytes()


def flags(path: str) -> list[str]:
    """What Chromium is started with to have the film as its camera, without asking."""
    return [
        "--use-fake-ui-for-media-stream",
        "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-video-capture={path}",
    ]
