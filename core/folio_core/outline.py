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
        (?P<question>\d{1,3})?\s*[.(]?\s*(?P<part>[a-z])?\s*\)?$""",
    re.VERBOSE,
)
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
        if first is None or last is None or not first["question"]:
            raise OutlineError(f"“{piece}” is no question or range of parts. Write for example 1a-d, 2, 3a-c.")
        items += [Item(question, part) for question, part in _span(first, last)]
    if not items:
        raise OutlineError("The question map is empty. Write for example 1a-d, 2, 3a-c.")
    return Outline(tuple(items))


def parse_labels(text: str, outline: Outline) -> Typed:
    """Read what a student typed for one page: ``2a-c, 4``.

    A question's bare number stands for all its parts; a bare letter continues the question before it
    ("2a, c"). What is not on the map is returned as unknown, with the nearest labels that are.
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
    lowered = re.sub(r"(?<=[0-9a-z])\s+(?=\d)(?<!q )", ",", _glue_words(lowered))
    return [piece.strip() for piece in re.split(r"[,;+]", lowered) if piece.strip()]


def _glue_words(text: str) -> str:
    """Take the words people write before a label away, and the space around a range's dash."""
    text = re.sub(r"\b(?:questions?|problems?|exercises?|q|nr|no)\.?\s*(?=\d)", "", text)
    return re.sub(r"\s*(-|–|—|\.\.|\bto\b)\s*", r"\1", text)


def _read_piece(piece: str, question: str, outline: Outline) -> tuple[list[str], str]:
    ends = [_TOKEN.match(end.strip()) for end in _RANGE.split(piece, maxsplit=1)]
    first, last = ends[0], ends[-1]
    if first is None or last is None or not (first["question"] or first["part"]):
        return [], question
    question = first["question"] or question
    if first is last:
        part = first["part"] or ""
        if not part:
            return list(outline.parts_of(question)), question
        label = f"{question}{part}"
        return ([label] if label in outline else []), question
    return _range_on(outline, f"{question}{first['part'] or ''}", question, last), last["question"] or question


def _range_on(outline: Outline, start: str, question: str, last: re.Match[str]) -> list[str]:
    end_question = last["question"] or question
    end = f"{end_question}{last['part'] or ''}"
    labels = list(outline.labels)
    first_labels = [start] if start in outline else list(outline.parts_of(start))
    last_labels = [end] if end in outline else list(outline.parts_of(end))
    if not first_labels or not last_labels:
        return []
    low, high = labels.index(first_labels[0]), labels.index(last_labels[-1])
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
