"""Where tables, graphs and figures are drawn on a page: what is written within them names no question."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.light import Writing, runs_of

_LEAST = 3.2  # digit heights that a drawing is wide and high at least
_LOW, _LONG, _ALL_STRAIGHT = 2.6, 10.0, 0.8  # and so high, if it is so wide and so much of it straight: a table's rows
_SPARSE, _STRAIGHT = 0.06, 0.4  # shares under ink, and of that in straight lines; of 118 drawings and 8 texts set
_LINE = 2.5  # digit heights that a straight line is long at least
_AS_DARK = 0.6  # of the ink's own depth: a rule that is drawn, not printed
_MOST_OF_SIDE, _MOST_OF_PAGE = 0.85, 0.5  # what reaches further is the paper's own ruling
_MOST_RULED = 0.02  # of the page under rules as dark as ink: then they are printed, and tell nothing


def drawings_of(writing: Writing, digit: float) -> NDArray[np.float64]:
    """Left, top, right, bottom of each drawing, in pixels, n × 4. ``digit``: the height of a digit, in pixels.

    A drawing is a large connected stroke, with the straight rules that are as dark as the writing; letters of lines
    that touch one another are one too, but fill their place, and few of their strokes are straight.
    """
    depth = cv2.bitwise_not(writing.grey)
    dark = cv2.threshold(depth, _AS_DARK * 255 * writing.depth, 255, cv2.THRESH_BINARY)[1]
    across, down = runs_of(np.asarray(dark, np.uint8))
    rules = cv2.max(_short(across, 2, writing.grey.shape[1]), _short(down, 3, writing.grey.shape[0]))
    strokes = writing.ink
    if cv2.countNonZero(rules) < _MOST_RULED * rules.size:
        strokes = cv2.max(strokes, cv2.dilate(rules, np.ones((5, 5), np.uint8)))  # wide enough to meet what crosses
    _, labels, stats, _ = cv2.connectedComponentsWithStats(strokes, connectivity=8)
    left, top, wide, high, ink = stats[1:].T.astype(np.float64)
    on_page, side = wide * high < _MOST_OF_PAGE * rules.size, np.minimum(wide, high)
    large, long = on_page & (side > _LEAST * digit), on_page & (side > _LOW * digit) & (wide > _LONG * digit)
    if not (large | long).any():
        return np.empty((0, 4))
    straight = np.bincount(labels[_straight(strokes, digit) > 0], minlength=len(stats))[1:]
    drawn = large & ((ink < _SPARSE * wide * high) | (straight > _STRAIGHT * ink))
    drawn |= long & (straight > _ALL_STRAIGHT * ink)
    return np.stack([left, top, left + wide, top + high], axis=1)[drawn]


def _straight(strokes: NDArray[np.uint8], digit: float) -> NDArray[np.uint8]:
    """Where they go on across or down, as somebody draws a line: not quite straight."""
    thick, length = cv2.dilate(strokes, np.ones((3, 3), np.uint8)), max(9, round(_LINE * digit))
    across, down = (
        cv2.morphologyEx(thick, cv2.MORPH_OPEN, np.ones(side, np.uint8)) for side in ((1, length), (length, 1))
    )
    return np.asarray(cv2.max(across, down), np.uint8)


def _short(rules: NDArray[np.uint8], side: int, page: int) -> NDArray[np.uint8]:
    """Those that do not go all over the page. ``side``: of the statistics."""
    if not cv2.countNonZero(rules):
        return rules
    _, labels, stats, _ = cv2.connectedComponentsWithStats(rules, connectivity=8)
    long = 1 + np.flatnonzero(stats[1:, side] >= _MOST_OF_SIDE * page)
    return np.where(np.isin(labels, long), 0, rules).astype(np.uint8) if len(long) else rules
