"""The numbers along the axes of a graph, which stand at the beginning of lines and are no labels."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

from folio_core.reading.page_reading import HIGH_AS_WIDE, Mark

_LEAST = 3  # numbers of a scale
_ALIGNED, _ON_LINE = 0.7, 0.6  # heights of a number that those of one scale lie off its line at most
_UNEVEN = 0.4  # of the distance of two: how much that of the next two may differ
_OFF_STEP = 0.3  # of the distance of two: how far a number stands from where its value belongs
_SHARE = 2 / 3  # of the numbers, that are where they belong: one may be misread
_BESIDE = 0.1  # of the page's width: what stands so close right of a column and between its numbers parts them
_ALONE, _ON_ITS_OWN = 1.0, 8.0  # heights of a digit to what follows on the line
_NEAR_FOOT = 1.6  # distances of two numbers below a column: so far down the other axis is numbered


@dataclass(frozen=True, slots=True)
class _Number:
    at: int  # its mark's place
    mark: Mark
    value: float


def scale_numbers(marks: Sequence[Mark]) -> frozenset[int]:
    """The places of the marks that number an axis: three or more in a column or on a line, each where its value
    belongs, with nothing else between them; and what stands by itself inside a graph so found.

    Numbers that rise down the page are labels with short answers unless nothing at all stands beside them.
    """
    numbers = [_Number(at, mark, value) for at, mark in enumerate(marks) if (value := _value_of(mark)) is not None]
    columns = _scales(
        numbers, lambda mark: mark.top, lambda one, other: _aligned(one, other) and not _parted(one, other, marks),
        down=True,
    )  # fmt: skip
    rows = _scales(numbers, lambda mark: mark.left, _on_line, down=False)
    found = {one.at for run in (*columns, *rows) for one in run}
    found |= {one.at for one in numbers for column in columns if _is_inside(one.mark, column)}
    return frozenset(found)


def _value_of(mark: Mark) -> float | None:
    text = mark.candidates[0].text if mark.candidates and mark.nothing <= 0.5 else ""
    return float(text) if text.replace(".", "", 1).isdecimal() else None


def _aligned(upper: Mark, lower: Mark) -> bool:
    """At their left ends or, as people write "8" below "10", at their right ones."""
    near = _ALIGNED * HIGH_AS_WIDE * max(upper.height, lower.height)
    rights = abs(upper.left + upper.width - lower.left - lower.width)
    return upper.top + upper.height < lower.top + lower.height / 2 and min(abs(upper.left - lower.left), rights) < near


def _parted(upper: Mark, lower: Mark, marks: Sequence[Mark]) -> bool:
    return any(upper.top < one.top < lower.top and one.left < lower.left + _BESIDE for one in marks)


def _on_line(left: Mark, right: Mark) -> bool:
    return left.gap >= _ALONE and abs(left.top - right.top) < _ON_LINE * max(left.height, right.height)


def _scales(
    numbers: Sequence[_Number], place: Callable[[Mark], float], follows: Callable[[Mark, Mark], bool], *, down: bool
) -> list[Sequence[_Number]]:
    """``place``: along the scale; ``follows``: whether two numbers may be neighbours on it."""
    runs: list[list[_Number]] = []
    for one in sorted(numbers, key=lambda one: place(one.mark)):
        own = next((run for run in runs if follows(run[-1].mark, one.mark)), None)
        if own is None:
            runs.append([one])
        else:
            own.append(one)
    return [even for run in runs for even in _evenly(run, place) if _is_scale(even, place, down=down)]


def _evenly(run: Sequence[_Number], place: Callable[[Mark], float]) -> list[Sequence[_Number]]:
    """The longest parts of a run whose numbers stand as far apart as the first two."""
    parts, begin = [], 0
    for end in range(1, len(run) + 1):
        if end < len(run):
            first, last = (place(run[at + 1].mark) - place(run[at].mark) for at in (begin, end - 1))
            if abs(last - first) < _UNEVEN * first:
                continue
        parts.append(run[begin:end])
        begin = end - 1
    return parts


def _is_scale(run: Sequence[_Number], place: Callable[[Mark], float], *, down: bool) -> bool:
    if len(run) < _LEAST:
        return False
    apart = median(place(after.mark) - place(before.mark) for before, after in pairwise(run))
    step = median(after.value - before.value for before, after in pairwise(run))
    if step == 0 or (step < 0 and not down):
        return False
    if step > 0 and down and any(one.mark.gap < _ON_ITS_OWN for one in run):
        return False
    # Where each would stand if the first were at 0 with its value.
    begins = [place(one.mark) - one.value * apart / step for one in run]
    middle = median(begins)
    fit = sum(abs(begin - middle) < _OFF_STEP * apart for begin in begins)
    return fit >= max(_LEAST, _SHARE * len(run))


def _is_inside(mark: Mark, column: Sequence[_Number]) -> bool:
    """Whether it stands by itself right of an axis, or below it where the other one is numbered."""
    first, last = column[0].mark, column[-1].mark
    apart = (last.top - first.top) / (len(column) - 1)
    is_right = mark.left > max(one.mark.left + one.mark.width for one in column)
    return is_right and mark.gap >= _ALONE and first.top - apart < mark.top < last.top + _NEAR_FOOT * apart
