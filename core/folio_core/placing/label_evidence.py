"""What a mark on a page says by itself: whether it is a label, a page number, and what stands above it."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from folio_core.reading.page_reading import FEW_LINES, HEAD, HEADING, Mark, PageReading

from .drawn_scales import scale_numbers
from .nodes import Nodes, joined_levels

# Log odds that a mark is a label, by what `evidence_of` gives. Set by hand on tuning folios: a fit to them
# (`./folio bench reading --fit`) leans on the space above a label, which the made-up folios always leave.
_WEIGHTS, _BIAS = (0.60, 0.50, 0.80, -0.60), -2.0
_PLAINLY_A_LABEL = 0.8
_FAR_RIGHT, _AT_FAR_RIGHT = 0.7, -6.0  # of the page's width, and log odds: there equations are numbered
# Heights of a digit left of where the writing begins; the share of a folio's pages; and log odds of the network.
_HANGS, _INSIDE, _MOST_PAGES, _DOUBT = 1.5, 1.2, 0.6, 6.0
_HARDLY, _NEVER = 9.0, 20.0  # the same of what stands in a table or along an axis, and on a cover
_LEAST_WHOLE, _MORE_WHOLE, _SURELY_SO = 3, 4, 0.9  # whole labels, how many times the parts alone, of what is read
_VERY_PLAINLY, _LEAST_HANGING = 0.95, 3
_BETWEEN_COLUMNS, _LEAST_IN_COLUMN = 0.3, 2  # of the page's width, and labels
_SECOND_COLUMN = 0.4  # of the page's width: left of it none begins
# A single label is a column where so many lines stand below it: shares of the page's height and width.
_SOON_BELOW, _INDENT, _LEAST_BELOW = 0.12, 0.15, 2
_LONG_NUMBER = re.compile(r"\d[\dOoIlS]{3,}")  # a student's, as the general recogniser reads it
# A line of work: an equation or a sum, a sentence, a number with its unit; and one that goes on amid a sentence.
_WORKING = re.compile(r"[^=+]*[=+]|(.*?\b[a-z]+\b){3}|[\d\s.,]*\d\s*[a-z]{1,3}(/[a-z])?\W*$")
_GOES_ON = re.compile(r"[^A-Za-z0-9]*[a-z]")
# How a line of a cover begins that is no name, common practice, no source; or it ends with a student's number.
_OF_A_COVER = re.compile(
    r"^\W*(student|home ?work|assignment|problem ?set|name\b|exam\b|teacher|instructor)|^\D*\d{5,}\W*$",
    re.IGNORECASE | re.MULTILINE,
)
_NAME = re.compile(r"\W*[a-z]\w*?(\s*[A-Z]\w+|\s+\d{3,})+\W*$")  # "lse Marrow", "llseMarrow 30417"


def label_chance(mark: Mark) -> float:
    """That a mark is a label at all: what the network makes of it, and where it stands."""
    if not any("/" not in one.text for one in mark.candidates):
        return 0.0
    odds = _BIAS + sum(weight * value for weight, value in zip(_WEIGHTS, evidence_of(mark), strict=True))
    odds += _AT_FAR_RIGHT * (mark.left > _FAR_RIGHT)
    return 1 / (1 + math.exp(-odds))


def as_this_hand_labels(readings: Sequence[PageReading], nodes: Nodes) -> list[PageReading]:
    """The pages of one folio with what more than a mark alone shows: what stands on a cover, within a table or along
    an axis is hardly a label; nor is "2" where somebody writes "1a", "1b"; and where somebody's numbers hang in the
    margin of most pages, or hang wherever they are plainly labels, a number that begins a line of the writing itself is
    hardly one."""
    readings = [
        _doubting(reading, range(len(reading.marks)), _NEVER)
        if reads_like_cover(reading)
        else _doubting(reading, _in_drawings(reading), _HARDLY)
        for reading in readings
    ]
    heads = frozenset(nodes.joined[nodes.leaves : nodes.start])
    if _writes_whole_labels(readings, nodes, heads):
        readings = [_doubting(reading, _naming(reading, heads), _HARDLY) for reading in readings]
    if len(readings) < 2 or not (_hang_on_most(readings) or _all_hang(readings)):
        return readings
    return [
        _doubting(reading, {at for at, mark in enumerate(reading.marks) if _is_inside(mark)}, _DOUBT)
        for reading in readings
    ]


def _in_drawings(reading: PageReading) -> set[int]:
    return {at for at, mark in enumerate(reading.marks) if mark.drawn} | scale_numbers(reading.marks)


def _writes_whole_labels(readings: Sequence[PageReading], nodes: Nodes, heads: Collection[str]) -> bool:
    """Whether somebody writes "1a", "1b" rather than "1" and then "a", "b"."""
    paths = nodes.paths[: nodes.leaves]
    wholes = {joined_levels(path) for path in paths if len(path) > 1}
    parts = {joined_levels(path[depth:]) for path in paths for depth in range(1, len(path))}.difference(heads)
    said = [
        _text(mark)
        for reading in readings
        for mark in reading.marks
        if mark.candidates and label_chance(mark) >= _PLAINLY_A_LABEL
    ]
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
    return mark.hang >= _HANGS and _numbered(mark) and label_chance(mark) >= _PLAINLY_A_LABEL


def _is_inside(mark: Mark) -> bool:
    return mark.hang < _INSIDE and _numbered(mark)


def _doubted(mark: Mark, doubt: float) -> Mark:
    """Less probably a label, by so much log odds; what it reads stays, for it may be the page's number."""
    odds = math.exp(-doubt) * (1 - mark.nothing) / max(mark.nothing, 1e-9)
    return replace(mark, nothing=1 / (1 + odds))


def evidence_of(mark: Mark) -> tuple[float, ...]:
    """What speaks for a mark being a label: the network's log odds, how far it hangs in the margin, the paper above it,
    and whether its line begins the page's writing."""
    shown = float(np.clip(1 - mark.nothing, 1e-4, 1 - 1e-4))
    return (
        math.log(shown / (1 - shown)),
        float(np.clip(mark.hang, -3.0, 3.0)),
        min(mark.space, 3.0),
        float(mark.line == 0),
    )


def by_column(marks: Sequence[Mark]) -> list[int]:
    """The places of the marks in the order in which they were written: where labels stand in two columns beside one
    another, the left column comes whole before the right one."""
    labels = [mark for mark in marks if label_chance(mark) >= _PLAINLY_A_LABEL and mark.left < _FAR_RIGHT]
    lefts = sorted(mark.left for mark in labels)
    gaps = [(right - left, (left + right) / 2) for left, right in pairwise(lefts)]
    widest, edge = max(gaps, default=(0.0, 0.0))
    in_order = list(range(len(marks)))
    of_second = [mark for mark in labels if mark.left > edge]
    columns = [mark for mark in labels if mark.left <= edge], of_second
    if widest < _BETWEEN_COLUMNS or not all(_is_column(column, marks) for column in columns):
        return in_order
    return sorted(in_order, key=lambda at: (marks[at].left > edge, at))


def _is_column(labels: Sequence[Mark], marks: Sequence[Mark]) -> bool:
    return len(labels) >= _LEAST_IN_COLUMN or _lines_below(labels[0], marks) >= _LEAST_BELOW


def _lines_below(label: Mark, marks: Sequence[Mark]) -> int:
    """How many lines soon below a label begin where its answer does."""
    return len(
        {
            mark.line
            for mark in marks
            if 0 < mark.top - label.top < _SOON_BELOW
            and 0 < mark.left - label.left < _INDENT
            and mark.line != label.line
        }
    )


def page_numbers(reading: PageReading) -> dict[int, float]:
    """Of each number how probable it is that it is the page's own: read at its head or foot as a page number. The
    beginning of the student's number, which stands there too, is none."""
    found: dict[int, float] = {}
    students = _LONG_NUMBER.findall(reading.header)
    for mark in reading.marks:
        at_edge = mark.top < 0.08 or mark.top > 0.92
        for one in mark.candidates:
            number, _, _ = one.text.strip("~").strip("/").partition("/")
            if mark.top < HEAD and any(own.startswith(number) for own in students):
                continue
            if number.isdecimal() and ("/" in one.text or (at_edge and (mark.left > 0.4))):
                weight = one.probability * (1.0 if at_edge else 0.3)
                found[int(number)] = max(found.get(int(number), 0.0), weight)
    return found


def lines_above(reading: PageReading, label: Mark) -> int:
    """Lines of work above a label, or in a column left of its own; what stands at the very head of a page, or alone
    near it, is a name or a number, if it does not read like work."""
    higher = label.top - label.height / 2  # a line may be found as two beside one another
    before = [mark for mark in reading.marks if mark.top >= HEAD and mark.left < label.left + _BETWEEN_COLUMNS]
    above = {mark.line: mark.top for mark in before if mark.line < label.line and mark.top < higher}
    if label.left > _SECOND_COLUMN and _lines_below(label, reading.marks) >= _LEAST_BELOW:
        above |= {mark.line: mark.top for mark in before if mark.left < label.left - _BETWEEN_COLUMNS}
    heading = len(above) == 1 and min(above.values()) < HEADING and not reads_like_work(reading)
    return 0 if heading else len(above)


def reads_like_work(reading: PageReading) -> bool:
    """Whether the first line below the page's head does. A page of few lines may be a cover, with a name in small
    letters too; there an equation in any line tells more than how the first one begins."""
    first, *others = reading.opening.split("\n")
    if _WORKING.match(first) or any("=" in line for line in others):
        return True
    return reading.lines > FEW_LINES and bool(_GOES_ON.match(first)) and not _NAME.match(first)


def reads_like_cover(reading: PageReading) -> bool:
    """Whether a page of few lines names a student or what was set, and no line of it is work."""
    is_short = reading.lines <= FEW_LINES and not reads_like_work(reading)
    return is_short and _OF_A_COVER.search(reading.opening) is not None
