"""Which answer spaces of a filled form hold nothing: no ink beyond what was printed, pencil and corrections too."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.light import evened, paper_light

from .blank import BlankPage, Form, Homography, Image, looked_at
from .covered import paper_seen
from .registering import Registered

Space = tuple[int, float, float, float, float]  # page from 0; left, top, right, bottom in points
Spaces = Mapping[str, Sequence[Space]]

_DPI = 150
_PX_A_POINT, _PX_A_MM = _DPI / 72, _DPI / 25.4
_PRINT_REACH_MM = 0.9  # print may lie so far from its place, and is as much wider on paper
_INSET_MM = 0.8  # the frame of a space is print
_LEAST_DEPTH = 14.0  # grey levels below the paper: pencil measures 40 and more
_LEAST_STROKE_MM2, _LEAST_STROKE_MM = 0.25, 0.9  # a grain of dirt is smaller
_LONG_MM = 12.0  # a straight run so long is a rule or a crease
_EMPTY_MM2 = 2.2  # of ink: a hurried "7" has about 3
_SEEN_SHARE = 0.6  # of a space; of less nothing is said
_WHOLLY_SEEN = 0.95  # of a space; its edges may lie a little off
_PAGE_INSET_MM, _PAGE_SEEN = 6.0, 0.998  # of the page within: pages that lie open measure 1.000
_BEGINNING_MM, _BEGINNING_SHARE = 18.0, 0.6  # where an answer begins: so high, so wide from the left
_BEGINNING_SEEN = 0.9  # of that; of less nothing is said


@dataclass(frozen=True, slots=True)
class InkFound:
    """``seen``: share of the space that the photograph shows as paper; ``beginning_seen``: of where an answer in it
    begins, its upper left. ``ink_mm2``: beyond the print."""

    seen: float
    beginning_seen: float
    ink_mm2: float


@dataclass(frozen=True, slots=True)
class Written:
    """``empty``: labels in whose space nothing was written; a space that is hidden or cut off is not called empty.
    ``ink_mm2``: of each answer, 0 where it is empty, None where its spaces are not wholly seen. ``is_covered``:
    something lies over the page, or a part of it is cut off."""

    empty: list[str]
    ink_mm2: dict[str, float | None]
    is_covered: bool


def written_on(pixels: NDArray[np.uint8], form: Form, registered: Registered, spaces: Spaces) -> Written:
    """Of the labels with a space on this page; one that goes on over pages is told of by each page for itself.
    ``pixels``: the photograph, RGB."""
    page = form.pages[registered.page]
    inset = _PAGE_INSET_MM * 72 / 25.4
    whole = (page.index, inset, inset, page.width_pt - inset, page.height_pt - inset)
    found = ink_in(pixels, page, registered.homography, {**spaces, "": [whole]})
    (everything,) = found.pop("")
    return Written(
        [label for label, parts in found.items() if is_empty(parts)],
        {label: _ink_of(parts) for label, parts in found.items()},
        everything.seen < _PAGE_SEEN,
    )


def empty_answers(pixels: NDArray[np.uint8], form: Form, registered: Registered, spaces: Spaces) -> list[str]:
    return written_on(pixels, form, registered, spaces).empty


def is_empty(parts: Sequence[InkFound]) -> bool | None:
    """Whether nothing was written in these spaces of one answer; None where they cannot all be seen."""
    if any(part.seen < _SEEN_SHARE or part.beginning_seen < _BEGINNING_SEEN for part in parts):
        return None
    return sum(part.ink_mm2 for part in parts) < _EMPTY_MM2


def _ink_of(parts: Sequence[InkFound]) -> float | None:
    if any(part.seen < _WHOLLY_SEEN for part in parts):
        return None
    return 0.0 if is_empty(parts) else sum(part.ink_mm2 for part in parts)


def ink_in(
    pixels: NDArray[np.uint8], page: BlankPage, homography: Homography, spaces: Spaces
) -> dict[str, list[InkFound]]:
    small, to_small = looked_at(pixels)
    to_page = np.diag([_PX_A_POINT, _PX_A_POINT, 1.0]) @ homography @ np.linalg.inv(to_small)
    wide = (round(page.width_pt * _PX_A_POINT), round(page.height_pt * _PX_A_POINT))
    straight = np.asarray(cv2.warpPerspective(small, to_page, wide, borderMode=cv2.BORDER_REPLICATE), np.uint8)
    shown = cv2.warpPerspective(np.full(small.shape[:2], 255, np.uint8), to_page, wide, flags=cv2.INTER_NEAREST)
    shown = cv2.bitwise_and(shown, paper_seen(straight, _PX_A_MM))
    ink = _ink(straight, page, wide)
    found: dict[str, list[InkFound]] = {}
    for label, boxes in spaces.items():
        for index, *box in boxes:
            if index == page.index:
                found.setdefault(label, []).append(_found(ink, np.asarray(shown, np.uint8), box))
    return found


def _found(ink: Image, shown: Image, box: Sequence[float]) -> InkFound:
    inset = _INSET_MM * _PX_A_MM
    left, top = (max(0, round(side * _PX_A_POINT + inset)) for side in box[:2])
    right, bottom = (round(side * _PX_A_POINT - inset) for side in box[2:])
    seen = shown[top:bottom, left:right]
    part = cv2.bitwise_and(ink[top:bottom, left:right], seen) if seen.size else seen
    if part.size == 0:
        return InkFound(0.0, 0.0, 0.0)
    beginning = seen[: round(_BEGINNING_MM * _PX_A_MM), : max(1, round(_BEGINNING_SHARE * seen.shape[1]))]
    return InkFound(_share(seen), _share(beginning), float(np.count_nonzero(part)) / _PX_A_MM**2)


def _share(layer: Image) -> float:
    return float(np.count_nonzero(layer)) / max(1, layer.size)


def _ink(straight: NDArray[np.uint8], page: BlankPage, wide: tuple[int, int]) -> Image:
    """255 where something was written: dark, of a stroke's size, away from print, rules and creases."""
    even = evened(straight, paper_light(straight))
    depth = 255.0 - even.min(axis=2).astype(np.float32)
    depth = cv2.GaussianBlur(depth, (0, 0), 0.8)
    noise = float(np.median(depth)) * 1.5
    dark = np.where(depth > max(_LEAST_DEPTH, 3.5 * noise), 255, 0).astype(np.uint8)
    print_ = cv2.resize(255 - page.grey, wide, interpolation=cv2.INTER_LINEAR)
    reach = 2 * round(_PRINT_REACH_MM * _PX_A_MM) + 1
    near = cv2.dilate(np.where(print_ > 40, 255, 0).astype(np.uint8), np.ones((reach, reach), np.uint8))
    dark = np.asarray(cv2.subtract(dark, near), np.uint8)
    long = round(_LONG_MM * _PX_A_MM)
    runs = cv2.max(
        cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((1, long), np.uint8)),
        cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((long, 1), np.uint8)),
    )
    dark = cv2.subtract(dark, cv2.dilate(runs, np.ones((9, 9), np.uint8)))
    many, marked, sizes, _ = cv2.connectedComponentsWithStats(dark, connectivity=8)
    stroke = np.zeros(many, bool)
    longest = np.maximum(sizes[:, cv2.CC_STAT_WIDTH], sizes[:, cv2.CC_STAT_HEIGHT])
    stroke[1:] = (sizes[1:, cv2.CC_STAT_AREA] >= _LEAST_STROKE_MM2 * _PX_A_MM**2) & (
        longest[1:] >= _LEAST_STROKE_MM * _PX_A_MM
    )
    return np.asarray(np.where(stroke[marked], 255, 0), np.uint8)
