"""The engine that reads a page, behind a protocol: one with a network, one that reads nothing."""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from folio_core.page.light import writing_of

from .decoding import chance_of_nothing, spellings
from .drawings import drawings_of
from .finding import Found, Start, crop, find_starts
from .header import header_of, opening_of
from .looks import look_of
from .on_the_page import on_the_page
from .page_reading import NOTHING_FOLLOWS, Candidate, Engine, Mark, PageReading

_WEIGHTS = Path(__file__).with_name("labels.onnx")
READ_LONG_SIDE_PX = 1600
_SURELY_NOTHING, _LEAST = 0.997, 1e-4  # from where on a start is not spelled out; what is not kept of a spelling
_AT_ONCE = 32
_ZOOMS = (0.86, 1.16)  # sizes at which a label is read besides its own
_AS_DIGITS = {"o": "0", "i": "1", "l": "1", "j": "1", "z": "2", "s": "5", "b": "6", "g": "9", "q": "9"}


class NullEngine:
    """For an installation that reads nothing: no page has a label."""

    name = "none"

    def read(self, page: NDArray[np.uint8]) -> PageReading:
        return PageReading(engine=self.name)

    def digits(self, crops: NDArray[np.uint8]) -> NDArray[np.float64]:
        return np.zeros((len(crops), 10))


class NetworkEngine:
    """The network of ``weights``, on one core. Made once for a process."""

    def __init__(self, weights: Path = _WEIGHTS) -> None:
        network = weights.read_bytes()
        self.name = f"labels {hashlib.sha256(network).hexdigest()[:8]}"
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = options.inter_op_num_threads = 1
        options.log_severity_level = 3
        self._session = onnxruntime.InferenceSession(network, options, providers=["CPUExecutionProvider"])

    def read(self, page: NDArray[np.uint8]) -> PageReading:
        shrink = min(1.0, READ_LONG_SIDE_PX / max(page.shape[:2]))
        size = (max(1, round(page.shape[1] * shrink)), max(1, round(page.shape[0] * shrink)))
        small = np.asarray(cv2.resize(page, size, interpolation=cv2.INTER_AREA), np.uint8)
        writing = writing_of(small)
        found = find_starts(writing.ink)
        if not found.starts:
            return PageReading(lines=found.lines, engine=self.name)
        said = self._read_often(writing.grey, found)
        marks = [_mark(one, found, size, *texts) for one, texts in zip(found.starts, said, strict=True)]
        marks = on_the_page(marks, found, drawings_of(writing, found.digit))
        return PageReading(
            tuple(marks),
            found.lines,
            self.name,
            header_of(small, found),
            look_of(small, writing),
            opening_of(small, found),
            (small.shape[0] - found.foot) / found.pitch,
        )

    def digits(self, crops: NDArray[np.uint8]) -> NDArray[np.float64]:
        said = np.zeros((len(crops), 10))
        for at, steps in enumerate(self._signs(crops)):
            for text, share in spellings(steps):
                digit = _AS_DIGITS.get(text[1:], text[1:])
                if text[:1] in ("1", "i", "l") and len(digit) == 1 and digit.isdigit():
                    said[at, int(digit)] += share
        return said

    def _read_often(self, grey: NDArray[np.uint8], found: Found) -> list[tuple[float, list[tuple[str, float]]]]:
        """Of each start how probable it is that nothing stands there, and what may: the mean of what is read at three
        sizes. What is surely nothing at its own size is not looked at again."""
        first = self._signs(np.stack([crop(grey, one, found.digit) for one in found.starts]))
        nothing = chance_of_nothing(first)
        again = [at for at, none in enumerate(nothing) if none < _SURELY_NOTHING]
        read = {at: [(float(nothing[at]), spellings(first[at]))] for at in again}
        for zoom in _ZOOMS if again else ():
            said = self._signs(np.stack([crop(grey, found.starts[at], found.digit, zoom) for at in again]))
            for at, steps, none in zip(again, said, chance_of_nothing(said), strict=True):
                read[at].append((float(none), spellings(steps)))
        return [_mean(read[at]) if at in read else (float(none), []) for at, none in enumerate(nothing)]

    def _signs(self, crops: NDArray[np.uint8]) -> NDArray[np.float32]:
        """Log probabilities, n × steps × signs."""
        ink = crops[:, None].astype(np.float32) / 255
        parts = [ink[at : at + _AT_ONCE] for at in range(0, len(ink), _AT_ONCE)]
        return np.concatenate([self._session.run(None, {"crops": part})[0] for part in parts])


@cache
def usual_engine() -> Engine:
    """The network where its weights are, else the engine that reads nothing."""
    return NetworkEngine() if _WEIGHTS.exists() else NullEngine()


def _mean(readings: list[tuple[float, list[tuple[str, float]]]]) -> tuple[float, list[tuple[str, float]]]:
    shares: dict[str, float] = {}
    for _, texts in readings:
        for text, share in texts:
            shares[text] = shares.get(text, 0.0) + share / len(readings)
    nothing = sum(none for none, _ in readings) / len(readings)
    return nothing, sorted(shares.items(), key=lambda one: -one[1])


def _mark(start: Start, found: Found, size: tuple[int, int], nothing: float, spelled: list[tuple[str, float]]) -> Mark:
    width, height = size
    labels = [(text, share) for text, share in spelled if any(sign.isalnum() for sign in text)]
    nothing = min(1.0, nothing + sum(share for text, share in spelled if text) - sum(share for _, share in labels))
    return Mark(
        left=start.left / width, top=start.top / height, width=(start.right - start.left) / width,
        height=(start.bottom - start.top) / height, nothing=nothing, line=start.line,
        candidates=tuple(Candidate(text, share) for text, share in labels if share > _LEAST),
        gap=min(start.gap / found.digit, NOTHING_FOLLOWS),
    )  # fmt: skip
