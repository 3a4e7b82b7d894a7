"""What a whole folio shows of its marks, more than one alone: which of them are hardly labels."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Sequence
from dataclasses import replace

from folio_core.reading.page_reading import HEAD, Mark, PageReading

from .drawn_scales import scale_numbers
from .label_evidence import PLAINLY_A_LABEL, label_chance, reads_like_cover
from .nodes import Nodes, joined_levels
from .numbered_steps import numbered_steps

# Heights of a digit left of where the writing begins; the share of a folio's pages; and log odds of the network.
_HANGS, _INSIDE, _MOST_PAGES, _DOUBT = 1.5, 1.2, 0.6, 6.0
_HARDLY, _NEVER = 9.0, 20.0  # the same of what stands in a table or along an axis, and on a cover
_LEAST_WHOLE, _MORE_WHOLE, _SURELY_SO = 3, 4, 0.9  # whole labels, how many times the parts alone, of what is read
_VERY_PLAINLY, _LEAST_HANGING = 0.95, 3
# "Ilse Marrow 30417", "I. Marrow" or as it may be read "1. Marrow 2/3", and not "Problem 3", "Q3 Since".
_NAMES_SOMEBODY = re.compile(
    r"\W*(?![A-Za-z]+\.?\s*\d{1,2}(\D|$))([A-Za-z]+[.,]?\s*)?[A-Z][A-Za-z]{3}"
    r"|\W*1[.,]\s*[A-Z][a-z]{3,}[\d/\s]*$"
)


def as_this_hand_labels(readings: Sequence[PageReading], nodes: Nodes) -> list[PageReading]:
    """The pages of one folio with what more than a mark alone shows: what stands on a cover, beside the student's name,
    within a table or along an axis is hardly a label; nor are the numbers of steps, or "2" where somebody writes "1a",
    "1b"; and where somebody's numbers hang in the margin of most pages, or hang wherever they are plainly labels, a
    number that begins a line of the writing itself is hardly one."""
    readings = [
        _doubting(reading, range(len(reading.marks)), _NEVER)
        if reads_like_cover(reading)
        else _doubting(reading, _in_drawings(reading) | _beside_name(reading), _HARDLY)
        for reading in readings
    ]
    heads = frozenset(nodes.joined[nodes.leaves : nodes.start])
    writes_whole = _writes_whole_labels(readings, nodes, heads)
    if writes_whole or not _have_numbers_for_parts(nodes):
        steps = numbered_steps(readings, _plain_labels(readings))
        readings = [
            _doubting(reading, {at for one, at in steps if one == page}, _HARDLY)
            for page, reading in enumerate(readings)
        ]
    if writes_whole:
        readings = [_doubting(reading, _naming(reading, heads), _HARDLY) for reading in readings]
    if len(readings) < 2 or not (_hang_on_most(readings) or _all_hang(readings)):
        return readings
    return [
        _doubting(reading, {at for at, mark in enumerate(reading.marks) if _is_inside(mark)}, _DOUBT)
        for reading in readings
    ]


def _plain_labels(readings: Sequence[PageReading]) -> set[tuple[int, int]]:
    """By page and mark."""
    return {
        (page, at)
        for page, reading in enumerate(readings)
        for at, mark in enumerate(reading.marks)
        if mark.candidates and label_chance(mark) >= PLAINLY_A_LABEL
    }


def _in_drawings(reading: PageReading) -> set[int]:
    return {at for at, mark in enumerate(reading.marks) if mark.drawn} | scale_numbers(reading.marks)


def _beside_name(reading: PageReading) -> set[int]:
    """What stands on the line of the student's name."""
    if not _NAMES_SOMEBODY.match(reading.header):
        return set()
    return {at for at, mark in enumerate(reading.marks) if mark.top < HEAD}


def _have_numbers_for_parts(nodes: Nodes) -> bool:
    return any(level.isdecimal() for path in nodes.paths[: nodes.leaves] for level in path[1:])


def _writes_whole_labels(readings: Sequence[PageReading], nodes: Nodes, heads: Collection[str]) -> bool:
    """Whether somebody writes "1a", "1b" rather than "1" and then "a", "b"."""
    paths = nodes.paths[: nodes.leaves]
    wholes = {joined_levels(path) for path in paths if len(path) > 1}
    parts = {joined_levels(path[depth:]) for path in paths for depth in range(1, len(path))}.difference(heads)
    said = [_text(readings[page].marks[at]) for page, at in _plain_labels(readings)]
    whole, alone = (sum(text in texts for text in said) for texts in (wholes, parts))
    return whole >= _LEAST_WHOLE and whole >= _MORE_WHOLE * alone


def _naming(reading: PageReading, texts: Collection[str]) -> set[int]:
    """The places of the marks that surely read so, if they are labels at all."""
    return {
        at
        for at, mark in enumerate(reading.marks)
        if mark.candidates
        and _text(mark) in texts
        and mark.candidates[0].probability > _SURELY_SO * sum(one.probability for one in mark.candidates)
    }


def _text(mark: Mark) -> str:
    return mark.candidates[0].text.rstrip("~")


def _doubting(reading: PageReading, places: Collection[int], doubt: float) -> PageReading:
    if not places:
        return reading
    marks = tuple(_doubted(mark, doubt) if at in places else mark for at, mark in enumerate(reading.marks))
    return replace(reading, marks=marks)


def _hang_on_most(readings: Sequence[PageReading]) -> bool:
    return sum(any(_hangs(mark) for mark in reading.marks) for reading in readings) > _MOST_PAGES * len(readings)


def _all_hang(readings: Sequence[PageReading]) -> bool:
    marks = [mark for reading in readings for mark in reading.marks]
    plain_inside = any(_is_inside(mark) and label_chance(mark) >= _VERY_PLAINLY for mark in marks)
    return not plain_inside and sum(_hangs(mark) for mark in marks) >= _LEAST_HANGING


def _numbered(mark: Mark) -> bool:
    return bool(mark.candidates) and mark.candidates[0].text[0].isdecimal()


def _hangs(mark: Mark) -> bool:
    return mark.hang >= _HANGS and _numbered(mark) and label_chance(mark) >= PLAINLY_A_LABEL


def _is_inside(mark: Mark) -> bool:
    return mark.hang < _INSIDE and _numbered(mark)


def _doubted(mark: Mark, doubt: float) -> Mark:
    """Less probably a label, by so much log odds; what it reads stays, for it may be the page's number."""
    odds = math.exp(-doubt) * (1 - mark.nothing) / max(mark.nothing, 1e-9)
    return replace(mark, nothing=1 / (1 + odds))
