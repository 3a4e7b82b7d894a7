"""What the fork server loads and does once, so that no child does it again."""

from __future__ import annotations

import ctypes
import os
from contextlib import suppress

import cv2
import numpy as np

from ..prepare import prepare
from ..sheet.judge import warm_up as load_judge
from ..upright import warm_up as load_networks

_M_TRIM_THRESHOLD, _M_MMAP_THRESHOLD = -1, -3  # mallopt(3)
_NEEDED_BYTES = 100_000_000  # a photograph of 12 megapixels, its page and what is made of them
_PAGE_BYTES = 4096


def up() -> None:
    """The tables of colour spaces are made at their first use: one small page is prepared. OpenCV's threads would not
    live on in a child, so there is one until then."""
    load_judge()
    load_networks()
    cv2.setNumThreads(1)
    _prepare_one()


def _prepare_one() -> None:
    page = np.full((420, 300, 3), 235, np.uint8)
    cv2.putText(page, "warm", (40, 200), cv2.FONT_HERSHEY_SIMPLEX, 2, (40, 30, 20), 4)
    prepare(cv2.imencode(".jpg", cv2.copyMakeBorder(page, 60, 60, 60, 60, cv2.BORDER_CONSTANT))[1].tobytes())


def after_fork() -> None:
    cv2.setNumThreads(os.cpu_count() or 1)


def take_memory() -> None:
    """What a page will need, before there is one: half of a page's time as a new process goes into faults of memory.
    The allocator keeps what it is given back (mallopt(3)), and what is written to is no longer its parent's."""
    with suppress(OSError, AttributeError):  # another C library than GNU's: then it is only slower
        library = ctypes.CDLL(None)
        library.mallopt(_M_MMAP_THRESHOLD, 2 * _NEEDED_BYTES)
        library.mallopt(_M_TRIM_THRESHOLD, 4 * _NEEDED_BYTES)
    np.empty(_NEEDED_BYTES, np.uint8)[::_PAGE_BYTES] = 0
    _prepare_one()
