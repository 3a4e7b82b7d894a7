"""The general text recogniser that ships in the rapidocr wheel: one line of writing → its signs."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

HEIGHT = 48  # of the line it reads, in pixels
_LEAST_WIDTH = 48


def signs_of(line: NDArray[np.uint8], most_width: int) -> list[tuple[str, float]]:
    """Each sign with how sure it is, 0–1. ``line``: height × width, grey or RGB, a little paper around the writing;
    wider lines than ``most_width`` (at `HEIGHT`) are pressed together."""
    width = min(most_width, max(_LEAST_WIDTH, round(line.shape[1] * HEIGHT / line.shape[0])))
    shrinks = line.shape[0] > HEIGHT
    small = cv2.resize(line, (width, HEIGHT), interpolation=cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR)
    colours = np.stack([small] * 3, axis=2) if small.ndim == 2 else small[:, :, ::-1]  # it learnt from BGR
    batch = (colours.astype(np.float32) / 127.5 - 1).transpose(2, 0, 1)[None]
    session, characters = _session()
    chances = session.run(None, {session.get_inputs()[0].name: batch})[0][0]
    best, sure = chances.argmax(axis=1), chances.max(axis=1)
    first = np.concatenate([[True], best[1:] != best[:-1]])
    return [(characters[best[at] - 1], float(sure[at])) for at in np.flatnonzero(first & (best > 0))]


def warm_up() -> None:
    """Load it. It runs in one thread, so that a process forked afterwards can use it."""
    _session()


@cache
def _session() -> tuple[onnxruntime.InferenceSession, list[str]]:
    onnxruntime.set_default_logger_severity(3)  # errors; that it can keep nothing on disk here is as it should be
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    path = files("rapidocr") / "models" / "PP-OCRv6_rec_small.onnx"
    session = onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
    characters = session.get_modelmeta().custom_metadata_map["character"].split("\n")
    return session, [*characters, " "]
