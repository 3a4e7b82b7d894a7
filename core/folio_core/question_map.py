"""The question map: labels, parsing "1a-d, 2", natural order.

A label names the smallest thing an answer is given to: the part ("2b"), or the question itself where it has no
parts ("4"). Everything that is placed, left blank or marked is named by such a label.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable
from dataclasses import dataclass, field

_TOKEN = re.compile(
    r"""^(?:(?:question|problem|exercise|q|p|no\.?|nr\.?)\s*\.?\s*)?  # a word before the label
        (?P<question>\d{1,3})?\s*[.(]?\s*(?P<part>[a-z]{1,8})?\s*\)?$""",
    re.VERBOSE,
)
_ROMAN = ("i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii")
_RANGE = re.compile(r"\s*(?:-|–|—|\.\.|\bto\b)\s*")


class OutlineError(ValueError):
    """The question map itself makes no sense (twice the same label, no question at all)."""


@dataclass(frozen=True, slots=True)
class Item:
    """One label of the map: a question without parts, or one part of a question."""

    question: str
    part: str = ""
    title: str = ""
    points: float = 0.0

    @property
    def label(self) -> str:
        return f"{self.question}{self.part}"


@dataclass(frozen=True, slots=True)
class Outline:
    """The question map of an assignment, in the order of its sheet."""

    items: tuple[Item, ...]
    _by_label: dict[str, Item] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        by_label = {item.label: item for item in self.items}
        if len(by_label) != len(self.items):
            raise OutlineError("The question map names the same label twice.")
        object.__setattr__(self, "_by_label", by_label)

    @property
    def labels(self) -> tuple[str, ...]:
        return tuple(item.label for item in self.items)

    def __contains__(self, label: str) -> bool:
        return label in self._by_label

    def __getitem__(self, label: str) -> Item:
        return self._by_label[label]

    def parts_of(self, question: str) -> tuple[str, ...]:
        return tuple(item.label for item in self.items if item.question == question)


@dataclass(frozen=True, slots=True)
class Typed:
    """What a typed line means on one outline."""

    labels: tuple[str, ...]
    unknown: tuple[str, ...]
    nearest: tuple[str, ...]


def natural_key(label: str) -> tuple[tuple[int, int | str], ...]:
    """Sort key under which 2 comes before 10 and 2a before 2b."""
    pieces = re.findall(r"\d+|\D+", label.lower())
    return tuple((0, int(piece)) if piece.isdigit() else (1, piece) for piece in pieces)


def parse_outline(text: str) -> Outline:
    """Read a question map written short: ``1a-d, 2a-e, 3``.

    Raises OutlineError where a piece is no label or range of parts.
    """
    items: list[Item] = []
    for piece in _pieces(text):
        ends = [_TOKEN.match(end.strip()) for end in _RANGE.split(piece, maxsplit=1)]
        first, last = ends[0], ends[-1]
        if first is None or last is None or not first["question"] or len(first["part"] or last["part"] or "") > 1:
            raise OutlineError(f"“{piece}” is no question or range of parts. Write for example 1a-d, 2, 3a-c.")
        items += [Item(question, part) for question, part in _span(first, last)]
    if not items:
        raise OutlineError("The question map is empty. Write for example 1a-d, 2, 3a-c.")
    return Outline(tuple(items))


def parse_labels(text: str, outline: Outline) -> Typed:
    """Read what a student typed for one page: ``2a-c, 4``.

    A question's bare number stands for all its parts; bare letters continue the question before them ("2a, c",
    "2a c", "2ac"); roman numerals count the parts ("2iii"). What is not on the map is returned as unknown, with the
    nearest labels that are. The board reads the same in the browser (``readLabels.ts``); both are held to
    ``core/tests/typed_labels.json``.
    """
    found: list[str] = []
    unknown: list[str] = []
    question = ""
    for piece in _pieces(text):
        labels, question = _read_piece(piece, question, outline)
        if labels:
            found += [label for label in labels if label not in found]
        else:
            unknown.append(piece)
    nearest = {near for piece in unknown for near in difflib.get_close_matches(piece, outline.labels, n=2, cutoff=0.4)}
    return Typed(tuple(found), tuple(unknown), tuple(sorted(nearest, key=natural_key)))


def _pieces(text: str) -> list[str]:
    lowered = re.sub(r"\s+(?:and|&)\s+", ",", text.strip().lower())
    lowered = re.sub(r"(?<=[0-9a-z)])\s+(?=\d)|(?<=[a-z)])\s+(?=[a-z]\b)", ",", _glue_words(lowered))
    return [piece.strip() for piece in re.split(r"[,;+]", lowered) if piece.strip()]


def _glue_words(text: str) -> str:
    """Take the words people write before a label away, and the space around a range's dash."""
    text = re.sub(r"\b(?:questions?|problems?|exercises?|q|nr|no)\.?\s*(?=\d)", "", text)
    return _RANGE.sub("-", text)


def _read_piece(piece: str, question: str, outline: Outline) -> tuple[list[str], str]:
    ends = [_TOKEN.match(end.strip()) for end in _RANGE.split(piece, maxsplit=1)]
    first, last = ends[0], ends[-1]
    if first is None or last is None or not all(end["question"] or end["part"] for end in (first, last)):
        return [], question
    question = first["question"] or question
    if first is last:
        return _one(outline, question, first["part"] or ""), question
    last_question = last["question"] or question
    return _range_on(
        outline, _one(outline, question, first["part"] or ""), _one(outline, last_question, last["part"] or "")
    ), last_question


def _one(outline: Outline, question: str, part: str) -> list[str]:
    """All parts of a question, the one that is named, those whose letters are run together, or a roman numeral's."""
    parts = outline.parts_of(question)
    if not part:
        return list(parts)
    run = [f"{question}{letter}" for letter in part]
    if all(label in outline for label in run):
        return run
    number = _ROMAN.index(part) if part in _ROMAN else len(parts)
    return [parts[number]] if number < len(parts) else []


def _range_on(outline: Outline, first: list[str], last: list[str]) -> list[str]:
    if not first or not last:
        return []
    labels = list(outline.labels)
    low, high = labels.index(first[0]), labels.index(last[-1])
    return labels[min(low, high) : max(low, high) + 1]


def _span(first: re.Match[str], last: re.Match[str]) -> Iterable[tuple[str, str]]:
    question, part = first["question"], first["part"] or ""
    if first is last:
        return [(question, part)]
    if part and last["part"] and (last["question"] or question) == question:
        return [(question, chr(code)) for code in range(ord(part), ord(last["part"]) + 1)]
    if not part and not last["part"] and last["question"]:
        return [(str(number), "") for number in range(int(question), int(last["question"]) + 1)]
    raise OutlineError(f"“{first.string}-{last.string}” is no range of parts of one question.")
