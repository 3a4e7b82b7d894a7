"""What the points of a class say of one question.

Definitions: facility is the mean of the points over the most (facility index; Ebel and Frisbie, Essentials of
Educational Measurement, 5th ed., 1991, ch. 13). Discrimination is the product-moment correlation of a question's points
with the total of all the others, which for right or wrong is the point-biserial correlation with the question itself
left out of the total (Henrysson, Psychometrika 28, 1963).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

_LEAST_STUDENTS = 3  # of fewer a correlation says nothing: two points always lie on a line
_BARS = 10


@dataclass(frozen=True, slots=True)
class Figures:
    """``marked``: how many answers. ``mean``, ``deviation``, ``median``: points; the deviation is the sample's (n − 1).
    ``facility``: 0–1. ``discrimination``: −1–1; None where it cannot be told. ``bars``: how many answers reached
    each tenth of the most, the last with the full points."""

    marked: int
    mean: float | None
    median: float | None
    deviation: float | None
    facility: float | None
    discrimination: float | None
    bars: tuple[int, ...]


def figures_of(most: float, points: Sequence[float], discrimination: float | None = None) -> Figures:
    """``points``: of every marked answer. ``discrimination``: as `discriminations` gives it for the question."""
    count = len(points)
    mean = sum(points) / count if count else None
    return Figures(
        marked=count,
        mean=mean,
        median=_median(points),
        deviation=_deviation(points),
        facility=mean / most if mean is not None and most > 0 else None,
        discrimination=discrimination,
        bars=bars_of(most, points),
    )


def bars_of(most: float, points: Sequence[float]) -> tuple[int, ...]:
    """A histogram in tenths of the most; what is below nought or above the most lies in the outer ones."""
    bars = [0] * _BARS
    for one in points:
        share = one / most if most > 0 else 1.0
        bars[min(_BARS - 1, max(0, math.floor(share * _BARS + 1e-9)))] += 1
    return tuple(bars)


def discriminations(points: Mapping[str, Mapping[int, float]]) -> dict[str, float | None]:
    """By question, None where it cannot be told. ``points``: by question and student; who has not all of them does not
    count."""
    complete = set.intersection(*(set(one) for one in points.values())) if points else set()
    totals = {student: sum(one[student] for one in points.values()) for student in complete}
    return {
        question: _correlation([(one[student], totals[student] - one[student]) for student in sorted(complete)])
        for question, one in points.items()
    }


def _median(points: Sequence[float]) -> float | None:
    if not points:
        return None
    row, middle = sorted(points), len(points) // 2
    return row[middle] if len(row) % 2 else (row[middle - 1] + row[middle]) / 2


def _deviation(points: Sequence[float]) -> float | None:
    if len(points) < 2:
        return None
    mean = sum(points) / len(points)
    return math.sqrt(sum((one - mean) ** 2 for one in points) / (len(points) - 1))


def _correlation(pairs: Sequence[tuple[float, float]]) -> float | None:
    """Pearson's r; None where one of the two does not vary."""
    if len(pairs) < _LEAST_STUDENTS:
        return None
    mean_x, mean_y = (sum(pair[at] for pair in pairs) / len(pairs) for at in (0, 1))
    xx = sum((x - mean_x) ** 2 for x, _ in pairs)
    yy = sum((y - mean_y) ** 2 for _, y in pairs)
    xy = sum((x - mean_x) * (y - mean_y) for x, y in pairs)
    return xy / math.sqrt(xx * yy) if xx > 1e-12 and yy > 1e-12 else None
