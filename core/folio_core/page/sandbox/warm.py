"""What the fork server loads and does once, so that no child does it again."""

from __future__ import annotations

import os

import cv2
import numpy as np

from ..prepare import prepare
from ..sheet.judge import warm_up as load_judge
from ..upright import warm_up as load_network


def up() -> None:
    """The tables of colour spaces are made at their first use: one small page is prepared. OpenCV's threads would not
    live on in a child, so there is one until then."""
    load_judge()
    load_network()
    cv2.setNumThreads(1)
    page = np.full((420, 300, 3), 235, np.uint8)
    cv2.putText(page, "warm", (40, 200), cv2.FONT_HERSHEY_SIMPLEX, 2, (40, 30, 20), 4)
    prepare(cv2.imencode(".jpg", cv2.copyMakeBorder(page, 60, 60, 60, 60, cv2.BORDER_CONSTANT))[1].tobytes())


def after_fork() -> None:
    cv2.setNumThreads(os.cpu_count() or 1)
