"""What a mark on a page says by itself: whether it is a label, a page number, and what stands above it."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from folio_core.reading.page_reading import FEW_LINES, HEAD, HEADING, Mark, PageReading

# Log odds that a mark is a label, by what `evidence_of` gives. Set by hand on tuning folios: a fit to them
# (`./folio bench reading --fit`) leans on the space above a label, which the made-up folios always leave.
_WEIGHTS, _BIAS = (0.60, 0.50, 0.80, -0.60), -2.0
PLAINLY_A_LABEL = 0.8
_FAR_RIGHT, _AT_FAR_RIGHT = 0.7, -6.0  # of the page's width, and log odds: there equations are numbered
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
_NO_SIGN = re.compile(r"[^A-Za-z0-9.=+]")  # of a label or an equation
_NAME = re.compile(r"\W*[a-z]\w*?(\s*[A-Z]\w+|\s+\d{3,})+\W*$")  # "lse Marrow", "llseMarrow 30417"


def label_chance(mark: Mark) -> float:
    """That a mark is a label at all: what the network makes of it, and where it stands."""
    if not any("/" not in one.text for one in mark.candidates):
        return 0.0
    odds = _BIAS + sum(weight * value for weight, value in zip(_WEIGHTS, evidence_of(mark), strict=True))
    odds += _AT_FAR_RIGHT * (mark.left > _FAR_RIGHT)
    return 1 / (1 + math.exp(-odds))


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
    labels = [mark for mark in marks if label_chance(mark) >= PLAINLY_A_LABEL and mark.left < _FAR_RIGHT]
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
    heading = len(above) == 1 and min(above.values()) < HEADING
    return 0 if heading and (_says(reading.opening, label) or not reads_like_work(reading)) else len(above)


def _says(opening: str, label: Mark) -> bool:
    """Whether a page's first line is a label only, the same that is written below it: then it is crossed out."""
    text = label.candidates[0].text if label.candidates else ""
    return re.fullmatch(rf"{re.escape(text)}[a-z]?", _NO_SIGN.sub("", opening)) is not None


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
