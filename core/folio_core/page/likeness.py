"""Whether two pages are the same sheet photographed twice: a perceptual hash first, then a registered comparison."""

from __future__ import annotations

import zlib
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .light import Writing

Map = NDArray[np.float32]

_MAP = (192, 256)  # width, height of the ink map: letters are told apart, and it is small enough to keep
_STROKES = 0.55  # of the depth of the page's typical stroke: paler marks are ruling
_HASH = 16  # of the hash's side; 256 bits
_FAR_BITS = 104  # of 256; unrelated pages differ in about 128
_SAME_LINE = 0.65  # correlation of the letters of one line once the maps are registered
_ALIKE = 0.85  # share of the writing in such lines
_LINE_CELLS = 6  # of the map: 7 mm of an A4 page, a line of writing
_LEAST_INK = 0.0015  # of the map; nearly empty pages all look alike
_NOISE = 0.005  # of the ink: two codings of one page differ by nothing, a few answers on a full form by 0.02
_LETTER_CELLS, _WORD_CELLS = 0.8, 4.0  # what is compared is finer than words


@dataclass(frozen=True, slots=True)
class Likeness:
    """``ink``: where strokes lie on the upright page, 192 × 256 bytes, row by row, deflated (RFC 1950)."""

    ink: bytes

    @property
    def map(self) -> Map:
        return np.frombuffer(zlib.decompress(self.ink), np.uint8).reshape(_MAP[1], _MAP[0]).astype(np.float32)


def likeness_of(writing: Writing) -> Likeness:
    strokes = cv2.threshold(writing.grey, 255 * (1 - _STROKES * writing.depth), 255, cv2.THRESH_BINARY_INV)[1]
    strokes = cv2.bitwise_and(strokes, writing.ink)
    small = np.asarray(cv2.resize(strokes, _MAP, interpolation=cv2.INTER_AREA), np.uint8)
    return Likeness(zlib.compress(small.tobytes(), 1))


def alike(one: Likeness, other: Likeness) -> bool:
    """The same sheet, as far as ink can tell."""
    a, b = one.map, other.map
    if min(a.mean(), b.mean()) < _LEAST_INK * 255:
        return False
    return int(np.count_nonzero(_bits(a) != _bits(b))) <= _FAR_BITS and _agreement(a, b) >= _ALIKE


def same_picture(one: Likeness, other: Likeness) -> bool:
    """Of two pages of one file: a file that holds the same page twice has the same ink twice. Less than that may be two
    sheets of one printed form, whose print is most of their ink."""
    a, b = one.map, other.map
    return bool(a.mean() >= _LEAST_INK * 255 and np.abs(a - b).mean() <= _NOISE * a.mean())


def _bits(ink: Map) -> NDArray[np.bool_]:
    """A difference hash: whether ink grows from each coarse cell to the next."""
    coarse = cv2.resize(cv2.GaussianBlur(ink, (0, 0), 4), (_HASH + 1, _HASH), interpolation=cv2.INTER_AREA)
    return np.asarray(coarse[:, 1:] > coarse[:, :-1])


def _agreement(a: Map, b: Map) -> float:
    """How far both agree once the second lies on the first: an affine map that makes their correlation largest
    (Evangelidis and Psarakis, IEEE PAMI 30, 2008), begun from the shift that phase correlation gives."""
    a, b = (cv2.GaussianBlur(each, (0, 0), 1.5) for each in (a, b))
    (dx, dy), _ = cv2.phaseCorrelate(a, b, cv2.createHanningWindow(_MAP, cv2.CV_32F))
    if max(abs(dx), abs(dy)) > 20:
        dx = dy = 0.0
    affine = np.array([[1, 0, dx], [0, 1, dy]], np.float32)
    try:
        criteria = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 40, 1e-4)
        _, found = cv2.findTransformECC(a, b, affine, cv2.MOTION_AFFINE, criteria, None, 3)
    except cv2.error:  # the two have nothing in common to hold on to
        return 0.0
    moved = cv2.warpAffine(b, found, _MAP, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    return _share_alike(_letters(a), _letters(moved))


def _share_alike(a: Map, b: Map) -> float:
    """Share of the writing that lies in lines which correlate: a heading that all pages share is not the page."""
    rows = (_MAP[1] // _LINE_CELLS, _LINE_CELLS, _MAP[0])
    a, b = (each[: rows[0] * rows[1]].reshape(rows) for each in (a, b))
    ink_a, ink_b, both = ((x * y).sum(axis=(1, 2)) for x, y in ((a, a), (b, b), (a, b)))
    weight = np.maximum(ink_a, ink_b)
    alike_there = both > _SAME_LINE * np.sqrt(np.maximum(ink_a * ink_b, 1e-6))
    return float(weight[alike_there].sum() / max(float(weight.sum()), 1e-6))


def _letters(ink: Map) -> Map:
    """What changes along a line from letter to letter; that there is a line at all is left out."""
    along = cv2.GaussianBlur(ink, (0, 0), sigmaX=_WORD_CELLS, sigmaY=_LETTER_CELLS)
    return np.asarray(cv2.GaussianBlur(ink, (0, 0), _LETTER_CELLS) - along, np.float32)
