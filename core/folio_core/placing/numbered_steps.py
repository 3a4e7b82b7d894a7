"""The numbered steps of an answer, which stand below one another as labels do and are none."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Sequence
from statistics import median

from folio_core.reading.page_reading import HIGH_AS_WIDE, Mark, PageReading

# Set on tuning folios and on those of a second simulated writer.
_READS_SO = 0.15  # of what a mark reads: the least share of the number that is next
_SURELY_NOTHING = 0.9  # that no label stands there
_ALIGNED = 1.0  # heights of a number that one step begins left or right of the one above it at most
_LEAST = 2  # steps
_APART = 0.12  # of the page's height, from one step to the next at most
_INDENT = 1.2  # heights of a number that indented steps stand right of the labels at least

Place = tuple[int, int]  # page, mark
_LEADING_NUMBER = re.compile(r"\d+")


def numbered_steps(readings: Sequence[PageReading], labels: Collection[Place]) -> frozenset[Place]:
    """The marks that number steps: 1, 2, … soon below one another, where one of these numbers is a label elsewhere that
    stands further left, or all of them but one at most are. ``labels``: the marks that are plainly labels."""
    runs = [run for page, reading in enumerate(readings) for run in _runs(page, reading.marks)]
    in_runs = {place for run in runs for place in run}

    def at(places: Iterable[Place]) -> list[Mark]:
        return [readings[page].marks[mark] for page, mark in places]

    plain, alone = at(labels), at(place for place in labels if place not in in_runs)
    return frozenset(place for run in runs if _are_steps(at(run), plain, alone) for place in run)


def _runs(page: int, marks: Sequence[Mark]) -> Iterator[list[Place]]:
    taken: set[int] = set()
    for first, mark in enumerate(marks):
        if first in taken or not _reads(mark, 1):
            continue
        run = [first]
        while (following := _next_step(marks, run[-1], len(run) + 1)) is not None:
            run.append(following)
        if len(run) >= _LEAST:
            taken.update(run)
            yield [(page, at) for at in run]


def _next_step(marks: Sequence[Mark], last: int, number: int) -> int | None:
    """The place of the mark that numbers the next step, None where there is none."""
    upper = marks[last]
    near = (at for at, lower in enumerate(marks) if 0 < lower.top - upper.top < _APART and _aligned(upper, lower))
    return next((at for at in near if _reads(marks[at], number)), None)


def _aligned(upper: Mark, lower: Mark) -> bool:
    return abs(upper.left - lower.left) < _ALIGNED * HIGH_AS_WIDE * max(upper.height, lower.height)


def _reads(mark: Mark, number: int) -> bool:
    whole = sum(one.probability for one in mark.candidates)
    own = sum(one.probability for one in mark.candidates if one.text.rstrip("~.") == str(number))
    return mark.nothing < _SURELY_NOTHING and own > _READS_SO * whole


def _are_steps(run: Sequence[Mark], labels: Sequence[Mark], alone: Sequence[Mark]) -> bool:
    """``alone``: the labels that are in no run."""
    numbers = range(1, len(run) + 1)
    indent = _INDENT * HIGH_AS_WIDE * median(mark.height for mark in run)
    left = median(mark.left for mark in run) - indent
    is_indented = any(label.left < left and _number_of(label) in numbers for label in labels)
    return is_indented or len(set(map(_number_of, alone)).intersection(numbers)) >= max(_LEAST, len(run) - 1)


def _number_of(label: Mark) -> int | None:
    """The question's: 2 of "2a"."""
    found = _LEADING_NUMBER.match(label.candidates[0].text)
    return int(found[0]) if found else None
