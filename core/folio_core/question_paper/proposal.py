"""The question map that a question paper proposes: its labels, in order, with titles, points and where they stand."""

from __future__ import annotations

import re
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field

from folio_core.labels import ROMAN, BadLabel, join_levels, split_label
from folio_core.question_map import in_short

from .lines import PaperText
from .marks import Mark, marks_at_start, points_in, without_points
from .reading_order import Placed, in_reading_order

_FAR_IN = 0.4  # of its column: a label does not begin beyond it, an equation's number does
_SAME_EDGE = 9.0  # points: numbers of one row stand on one edge, left or right
_NEAR_EDGE = 18.0  # points: of another column or page, whose own edge is known less surely
_TITLE = 80  # characters
_INSTRUCTIONS = re.compile(
    r"\b(?:instructions?|read (?:this|these|carefully)|rules|notes? (?:for|to)|before you begin)\b", re.IGNORECASE
)
# What one number of a row is worth, by how it is printed; a row that leaves numbers out is worth less.
_WORTH = {"named": 1.6, "#.": 1.2, "#)": 1.1, "(#)": 0.8, "#]": 0.8, "#:": 1.1, "#": 0.6, "#_": 1.0, "#__": 1.0}
_GAP_COSTS = {"#": 3.0}
_OTHER_GAP = 0.8
_INSTRUCTED = 3.0  # what a row loses that begins right behind the word "Instructions"


@dataclass(frozen=True, slots=True)
class Item:
    """One entry of the proposed map. ``page`` counts from 0; ``top``: where its label stands, 0–1 of the height."""

    label: str
    title: str
    points: float | None
    page: int
    top: float


@dataclass(frozen=True, slots=True)
class Proposal:
    """``has_text``: whether there was any text to read; a photographed paper has none."""

    items: tuple[Item, ...]
    has_text: bool

    @property
    def short(self) -> str:
        """The map as one would type it: ``1a-d, 2``."""
        return in_short([item.label for item in self.items])


@dataclass(slots=True)
class _Found:
    """A label of the paper with the text that follows it, up to the next one."""

    levels: tuple[str, ...]
    at: Placed
    text: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Candidate:
    place: int
    mark: Mark
    left: float
    right: float
    column: tuple[int, int]

    @property
    def path(self) -> tuple[int, ...]:
        return tuple(int(level) for level in self.mark.levels)


def propose_map(pages: Sequence[PaperText]) -> Proposal:
    """Read the labels that stand at the beginnings of lines, and keep what makes one row of questions."""
    placed = in_reading_order(pages)
    marks = _marks(placed)
    questions = _best_row(_candidates(placed, marks), placed, marks)
    found = _found(placed, marks, questions)
    paths = {one.levels for one in found}
    leaves = [one for one in found if not any(_stands_above(one.levels, path) for path in paths)]
    return Proposal(tuple(_item(one, found, pages) for one in _of_one_map(leaves)), bool(placed))


def _stands_above(levels: tuple[str, ...], path: tuple[str, ...]) -> bool:
    return len(path) > len(levels) and path[: len(levels)] == levels


def _of_one_map(found: Sequence[_Found]) -> list[_Found]:
    """Those that can stand on a map together: each label once, read back as it is meant, none a part of another."""
    kept: list[_Found] = []
    for one in found:
        with suppress(BadLabel):
            others = [other.levels for other in kept]
            alone = not any(
                one.levels == path or _stands_above(one.levels, path) or _stands_above(path, one.levels)
                for path in others
            )
            if alone and split_label(join_levels(one.levels)) == one.levels:
                kept.append(one)
    return kept


def _marks(placed: Sequence[Placed]) -> list[list[Mark]]:
    """The labels at each piece's beginning; those behind a label that stands alone before them count with it."""
    found: list[list[Mark]] = []
    for place, one in enumerate(placed):
        marks = marks_at_start(one.text)
        if marks and not marks[0].is_part and one.indent > _FAR_IN * one.column:
            marks = []
        if marks and marks[0].style.strip("_") == "#" and not _bare_number_may(placed, place):
            marks = [] if len(marks) == 1 else marks
        found.append(marks)
    return found


def _bare_number_may(placed: Sequence[Placed], place: int) -> bool:
    """A number without any sign is a label only at the beginning of its line."""
    return place == 0 or placed[place - 1].row != placed[place].row


def _candidates(placed: Sequence[Placed], marks: Sequence[Sequence[Mark]]) -> list[_Candidate]:
    found = []
    for place, (one, of_piece) in enumerate(zip(placed, marks, strict=True)):
        if of_piece and not of_piece[0].is_part:
            share = of_piece[0].end / max(1, len(one.text))
            width = one.piece.right - one.piece.left
            found.append(_Candidate(place, of_piece[0], one.indent, one.indent + share * width, one.row[:2]))
    return found


def _best_row(
    candidates: Sequence[_Candidate], placed: Sequence[Placed], marks: Sequence[Sequence[Mark]]
) -> list[_Candidate]:
    """The row of numbers that look alike, stand on one edge and go up which is worth most."""
    rows: list[tuple[float, list[_Candidate]]] = []
    by_style: dict[str, list[_Candidate]] = {}
    for one in candidates:
        by_style.setdefault(one.mark.style, []).append(one)
    for style, alike in by_style.items():
        best: list[tuple[float, list[_Candidate]]] = []
        for one in alike:
            own = _WORTH.get(style, 1.0) + _carries(one, placed, marks, candidates)
            begins = (1.0 if one.path[-1] == 1 else -0.5) - _INSTRUCTED * _is_instruction(one, placed)
            options = [(own + begins, [one])]
            for worth, row in best:
                step = _step(row[-1], one)
                if step is not None:
                    cost = 0.0 if step == 0 else _GAP_COSTS.get(style.strip("_"), _OTHER_GAP)
                    options.append((worth + own - cost, [*row, one]))
            best.append(max(options, key=lambda option: option[0]))
        rows += best
    rows = [(worth, row) for worth, row in rows if _is_enough(row, placed, marks)]
    return max(rows, key=lambda option: option[0], default=(0.0, []))[1]


def _step(before: _Candidate, after: _Candidate) -> int | None:
    """0 where the one number follows the other, 1 where some are left out between, None where it cannot follow."""
    edge = _SAME_EDGE if before.column == after.column else _NEAR_EDGE
    same_edge = abs(before.left - after.left) <= edge or abs(before.right - after.right) <= _SAME_EDGE / 3
    if not same_edge or after.path <= before.path:
        return None
    if after.path[:-1] == before.path[:-1] and after.path[-1] == before.path[-1] + 1:
        return 0
    if len(after.path) == len(before.path) > 1 and after.path[-1] == 1 and after.path[0] == before.path[0] + 1:
        return 0
    return 1


def _carries(
    one: _Candidate, placed: Sequence[Placed], marks: Sequence[Sequence[Mark]], candidates: Sequence[_Candidate]
) -> float:
    """Whether parts or points follow before the next number: then it is a question, and no instruction."""
    following = [other.place for other in candidates if other.place > one.place and other.mark.style == one.mark.style]
    until = min([*following, len(placed)])
    text = range(one.place, until)
    has_parts = any(mark.is_part for place in text for mark in marks[place])
    has_points = any(True for place in text for _ in points_in(placed[place].text))
    return 0.5 * has_parts + 0.5 * has_points


def _is_instruction(one: _Candidate, placed: Sequence[Placed]) -> bool:
    return one.place > 0 and bool(_INSTRUCTIONS.search(placed[one.place - 1].text))


def _is_enough(row: Sequence[_Candidate], placed: Sequence[Placed], marks: Sequence[Sequence[Mark]]) -> bool:
    if len(row) > 1:
        return row[0].mark.style != "#" or len(row) > 2 or row[0].path[-1] == 1
    style, place = row[0].mark.style, row[0].place
    if style == "named":
        return True
    rest = range(place, len(placed))
    return (
        row[0].path == (1,)
        and style != "#"
        and (
            any(mark.is_part for other in rest for mark in marks[other])
            or any(True for other in rest for _ in points_in(placed[other].text))
        )
    )


def _found(placed: Sequence[Placed], marks: Sequence[Sequence[Mark]], questions: Sequence[_Candidate]) -> list[_Found]:
    """Walk through the paper: numbers as chosen, and under each the parts that go on one after another."""
    chosen = {one.place: one for one in questions}
    found: list[_Found] = []
    stack: list[str] = []  # the levels below the number, as they stand now
    styles: list[str] = []
    number: tuple[str, ...] = ()
    for place, one in enumerate(placed):
        at = 0
        for mark in marks[place]:
            if not mark.is_part:
                if place in chosen:
                    number, stack, styles = mark.levels, [], []
                    found.append(_Found(number, one))
                elif mark.levels[: len(number)] == number and len(mark.levels) > len(number) and number:
                    if mark.levels not in {other.levels for other in found}:
                        stack, styles = list(mark.levels[len(number) :]), ["#"] * (len(mark.levels) - len(number))
                        found.append(_Found(mark.levels, one))
                elif mark.levels != number or len(marks[place]) == 1:
                    break  # a number that is no question: what it begins is text
                at = mark.end
                continue
            if not number or not _goes_on(mark, stack, styles):
                break
            found.append(_Found((*number, *stack), one))
            at = mark.end
        if found:
            found[-1].text.append(one.text[at:])
    return _without_lone_parts(found)


def _goes_on(mark: Mark, stack: list[str], styles: list[str]) -> bool:
    """Take the part in where it is the next one of its level, the deepest first, or the first of a new level."""
    level = mark.levels[0]
    for depth in range(len(stack) - 1, -1, -1):
        if styles[depth] != mark.style and not (styles[depth] == "" or mark.style == "x"):
            continue
        if _after(stack[depth]) and level in _after(stack[depth]):
            del stack[depth + 1 :], styles[depth + 1 :]
            stack[depth] = level
            return True
    digits_above = sum(one.isdigit() for one in stack)
    letters = len(stack) - digits_above
    if level in ("a", "i") and letters < 2 and not (stack and stack[-1] == level):
        if letters == 1 and (stack[-1] in ROMAN) == (level == "i"):
            return False  # letters or numerals begin anew without a number: text that speaks of another question
        stack.append(level)
        styles.append(mark.style)
        return True
    return False


def _after(level: str) -> set[str]:
    """What may follow: i is a letter after h and a numeral else."""
    following: set[str] = set()
    if level in ROMAN and ROMAN.index(level) + 1 < len(ROMAN):
        following.add(ROMAN[ROMAN.index(level) + 1])
    if len(level) == 1 and "a" <= level < "z":
        following.add(chr(ord(level) + 1))
    return following


def _without_lone_parts(found: list[_Found]) -> list[_Found]:
    """A part (a) without a (b) is a piece of text, unless it begins like a sentence and has parts of its own."""
    kept: list[_Found] = []
    for one in found:
        family = [other for other in found if other.levels[:-1] == one.levels[:-1] and len(other.levels) > 1]
        below = [other for other in found if other.levels[: len(one.levels)] == one.levels and other is not one]
        goes_on = "".join(one.text).strip()[:1].islower()
        if one.levels[-1].isdigit() or len(family) > 1 or (below and not goes_on) or not kept:
            kept.append(one)
            continue
        kept[-1].text += one.text
        for other in below:
            other.levels = (*one.levels[:-1], *other.levels[len(one.levels) :])
    return kept


def _item(one: _Found, found: Sequence[_Found], pages: Sequence[PaperText]) -> Item:
    label = join_levels(split_label(join_levels(one.levels)))
    text = " ".join(one.text)
    return Item(
        label, _title(text), _points(one, found), one.at.page, round(one.at.piece.top / pages[one.at.page].height, 4)
    )


def _points(one: _Found, found: Sequence[_Found]) -> float | None:
    own = [points for line in one.text for points in points_in(line.strip()) if not points.is_total]
    if own:
        return sum(points.value for points in own)
    for depth in range(len(one.levels) - 1, 0, -1):  # "(3 points each)", said of the question above
        above = next((other for other in found if other.levels == one.levels[:depth]), None)
        for line in above.text if above else []:
            for points in points_in(line):
                if points.each:
                    return points.value
    return None


def _title(text: str) -> str:
    """The first sentence, shortened at a word."""
    bare = re.sub(r"\s+", " ", without_points(text)).strip(" .:;–—-")
    sentence = re.split(r"(?<=[a-z)])[.?!:;](?:\s|$)", bare, maxsplit=1)[0].strip()
    if len(sentence) <= _TITLE:
        return sentence
    return sentence[: _TITLE - 1].rsplit(" ", 1)[0] + " …"
