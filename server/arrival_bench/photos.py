"""Photographs of the simulated camera, each with bytes of its own."""

from __future__ import annotations

import itertools
import os
import struct
from functools import cache

from folio_camera import trials

_SEED = 910_000
_COMMENT_MOST = 65_533  # a JPEG segment's length has two bytes (ITU-T T.81, B.1.1.4)
_numbers = itertools.count()


@cache
def _bases(count: int, size: tuple[int, int]) -> list[bytes]:
    return [trials.make("desk: wood", _SEED + number, size).data for number in range(count)]


def photograph(size: tuple[int, int] = (1512, 2016), of_bytes: int = 0) -> bytes:
    """A JPEG that nobody sent before: its comments differ, and fill it up to ``of_bytes``."""
    base = _bases(6, size)[next(_numbers) % 6]
    comments = [os.urandom(32)]
    missing = of_bytes - len(base) - 36
    while missing > 4:
        length = min(missing - 4, _COMMENT_MOST - 2)
        comments.append(bytes(length))
        missing -= length + 4
    segments = b"".join(b"\xff\xfe" + struct.pack(">H", len(comment) + 2) + comment for comment in comments)
    return base[:2] + segments + base[2:]
