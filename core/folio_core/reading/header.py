"""What stands at the head of a page: name and number, by the general recogniser that ships in the rapidocr wheel."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from .finding import Found
from .page_reading import HEAD

_HEIGHT, _MOST_WIDTH = 48, 960  # what the recogniser reads
_MOST_LINES = 2


def header_of(page: NDArray[np.uint8], found: Found) -> str:
    """The text at the head of a page, "" where there is none. ``page``: RGB, as ``found`` was found on."""
    height, width = page.shape[:2]
    heads = [start for start in found.starts if start.first and start.top < HEAD * height][:_MOST_LINES]
    said = []
    for start in heads:
        pad = 0.35 * found.digit
        top, bottom = max(0, round(start.top - pad)), min(height, round(start.bottom + pad))
        line = page[top:bottom, max(0, round(start.left - pad)) : width - round(pad)]
        if min(line.shape[:2]) >= 6:
            said.append(_text(line))
    return " ".join(part for part in said if part)


def _text(line: NDArray[np.uint8]) -> str:
    scale = _HEIGHT / line.shape[0]
    size = (min(_MOST_WIDTH, max(_HEIGHT, round(line.shape[1] * scale))), _HEIGHT)
    small = cv2.resize(line[:, :, ::-1], size, interpolation=cv2.INTER_AREA).astype(np.float32)
    batch = ((small / 255 - 0.5) / 0.5).transpose(2, 0, 1)[None]
    session, characters = _recogniser()
    signs = session.run(None, {session.get_inputs()[0].name: batch})[0][0].argmax(1)
    kept = [sign for sign, before in zip(signs, [0, *signs[:-1]], strict=True) if sign and sign != before]
    return "".join(characters[sign - 1] for sign in kept).strip()


@cache
def _recogniser() -> tuple[onnxruntime.InferenceSession, list[str]]:
    """Made once for a process, when a page first has a header."""
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    options.log_severity_level = 3
    path = files("rapidocr") / "models" / "PP-OCRv6_rec_small.onnx"
    session = onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
    characters = session.get_modelmeta().custom_metadata_map["character"].split("\n")
    return session, [*characters, " "]
