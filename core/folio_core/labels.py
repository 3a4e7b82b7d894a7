"""Labels of questions: paths of levels, as they are written on a map and as people type them.

A label is a path: the question's number, then parts and parts of parts. A level is a number, one letter, or a roman
numeral: ``2b`` is ("2", "b"), ``1aii`` is ("1", "a", "ii"), ``1.1a`` is ("1", "1", "a").
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Sequence
from dataclasses import dataclass

ROMAN = ("i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii")
MOST_LEVELS = 4
_NUMBER = r"[1-9][0-9]{0,3}"  # 0 and 01 number no question; digits of other scripts are not taken
_LABEL = re.compile(rf"({_NUMBER}(?:\.{_NUMBER})*)\.?([a-z]{{0,8}})")
_WORD = re.compile(r"^(?:question|problem|exercise|q|p|no\.?|nr\.?)\s*\.?\s*")
RANGE = re.compile(r"\s*(?:-|–|—|\.\.|\bto\b)\s*")


class BadLabel(ValueError):
    """A text that is no label. The message says what a label looks like."""


def join_levels(levels: Sequence[str]) -> str:
    """("1", "1", "a") → "1.1a": a dot stands only between two numbers."""
    label = ""
    for level in levels:
        label += f".{level}" if label and label[-1].isdigit() and level.isdigit() else level
    return label


def split_label(text: str) -> tuple[str, ...]:
    """The levels of a label: "2(b)(ii)" → ("2", "b", "ii"). Raises BadLabel.

    A run of letters is a roman numeral where it is one ("2ii"), else a letter with a roman numeral after it ("2ai").
    """
    written = re.sub(r"\s+", "", text.lower())
    groups = re.findall(r"\(([a-z]+|[0-9]+)\)", written)
    head = re.sub(r"\(([a-z]+|[0-9]+)\)", "", written)
    found = _LABEL.fullmatch(head)
    if found is None or (groups and not re.fullmatch(r"[^()]*(?:\((?:[a-z]+|[0-9]+)\))+", written)):
        raise _bad(text)
    levels = [*found[1].split("."), *_tail_levels(found[2], text), *groups]
    if len(levels) > MOST_LEVELS or any(not re.fullmatch(rf"{_NUMBER}|[a-z]|{'|'.join(ROMAN)}", one) for one in levels):
        raise _bad(text)
    return tuple(levels)


def _tail_levels(tail: str, text: str) -> tuple[str, ...]:
    if not tail:
        return ()
    if tail in ROMAN or len(tail) == 1:
        return (tail,)
    if tail[1:] in ROMAN:
        return (tail[0], tail[1:])
    if tail[:-1] in ROMAN:
        return (tail[:-1], tail[-1])
    raise _bad(text)


def _bad(text: str) -> BadLabel:
    return BadLabel(
        f"“{text.strip()}” is no label. Write a number, then a letter or a roman numeral: 2, 2b, 2b(ii), 1.1a."
    )


@dataclass(frozen=True, slots=True)
class Typed:
    """What a typed line means on one map: labels found, pieces that are not on the map, and the nearest labels."""

    labels: tuple[str, ...]
    unknown: tuple[str, ...]
    nearest: tuple[str, ...]


def natural_key(label: str) -> tuple[tuple[int, int | str], ...]:
    """Sort key under which 2 comes before 10 and 2a before 2b."""
    pieces = re.findall(r"[0-9]+|[^0-9.]+", label.lower())
    return tuple((0, int(piece)) if piece.isdecimal() else (1, piece) for piece in pieces)


def parse_labels(text: str, labels: Sequence[str]) -> Typed:
    """Read what a student typed for one page: ``2a-c, 4``.

    ``labels``: those of the map, in its order. A label of the map that is typed whole always wins; a question's bare
    number stands for all its parts; bare letters continue the question before them ("2a, c", "2a c", "2ac"); roman
    numerals count the parts ("2iii"). What is not on the map is returned as unknown, with the nearest labels that are.
    The board reads the same in the browser (``readLabels.ts``); both are held to ``core/tests/typed_labels.json``.
    """
    reader = _Reader(labels)
    found: list[str] = []
    unknown: list[str] = []
    for piece in _pieces(text):
        read = reader.read(piece)
        if read:
            found += [label for label in read if label not in found]
        else:
            unknown.append(piece)
    nearest = {near for piece in unknown for near in difflib.get_close_matches(piece, labels, n=2, cutoff=0.4)}
    return Typed(tuple(found), tuple(unknown), tuple(sorted(nearest, key=natural_key)))


class _Reader:
    """Reads one piece after another, each in the light of the question that was named before it."""

    def __init__(self, labels: Sequence[str]) -> None:
        self._labels = list(labels)
        self._paths = {label: split_label(label) for label in labels}
        self._question: tuple[str, ...] = ()

    def read(self, piece: str) -> list[str]:
        first_text, dash, last_text = piece.partition("-")
        first = self._end(first_text)
        if not dash:
            return first
        last = self._end(last_text)
        if not first or not last:
            return []
        low, high = self._labels.index(first[0]), self._labels.index(last[-1])
        return self._labels[min(low, high) : max(low, high) + 1]

    def _end(self, text: str) -> list[str]:
        """One end of a range, or a piece without one."""
        written = re.sub(r"[\s()]", "", re.sub(r"(?<=[0-9])\((?=[0-9])", ".", _WORD.sub("", text.strip())))
        written = re.sub(r"(?<=[0-9])\.(?=[a-z])|(?<=[a-z])\.|\.$", "", written)
        found = re.fullmatch(rf"({_NUMBER}(?:\.{_NUMBER})*)?([a-z]{{0,8}})", written)
        if found is None or not written:
            return []
        number, letters = found[1], found[2]
        if number:
            self._question = tuple(number.split("."))
            return self._below(self._question, letters)
        for depth in range(len(self._question), 0, -1):
            if read := self._below(self._question[:depth], letters):
                return read
        return []

    def _below(self, question: tuple[str, ...], letters: str) -> list[str]:
        """All parts of a question, the one that is named, those whose letters are run together, or those counted."""
        whole = join_levels(question) + letters
        if whole in self._paths:
            self._remember(whole)
            return [whole]
        for levels in _ways(letters):
            if parts := self._parts((*question, *levels)):
                self._question = (*question, *levels[:-1])
                return parts
        runs = [self._parts((*question, letter)) for letter in letters]
        if letters and all(runs):
            return [label for run in runs for label in run]
        children = self._children(question)
        if letters in ROMAN and ROMAN.index(letters) < len(children):
            return self._parts((*question, children[ROMAN.index(letters)]))
        return []

    def _remember(self, label: str) -> None:
        """The question that bare letters go on from: the label's own, without its last level."""
        path = self._paths[label]
        self._question = path[:-1] or path

    def _parts(self, path: tuple[str, ...]) -> list[str]:
        return [label for label in self._labels if self._paths[label][: len(path)] == path]

    def _children(self, path: tuple[str, ...]) -> list[str]:
        """The levels right below a path, in the order of the map."""
        deep = len(path)
        below = [levels[deep] for levels in self._paths.values() if len(levels) > deep and levels[:deep] == path]
        return list(dict.fromkeys(below))


def _ways(letters: str) -> list[tuple[str, ...]]:
    """How a run of letters can be levels: none, one, a letter with a numeral behind it, a numeral with a letter."""
    if not letters:
        return [()]
    ways: list[tuple[str, ...]] = [(letters,)]
    if letters[1:] in ROMAN:
        ways.append((letters[0], letters[1:]))
    if letters[:-1] in ROMAN:
        ways.append((letters[:-1], letters[-1]))
    return ways


def _pieces(text: str) -> list[str]:
    lowered = re.sub(r"\s+(?:and|&)\s+", ",", text.strip().lower())
    lowered = re.sub(r"(?<=[0-9a-z)])\s+(?=\d)|(?<=[a-z)])\s+(?=[a-z]\b)", ",", _glue_words(lowered))
    return [piece.strip() for piece in re.split(r"[,;+]", lowered) if piece.strip()]


def _glue_words(text: str) -> str:
    """Take the words people write before a label away, and the space around a range's dash."""
    text = re.sub(r"\b(?:questions?|problems?|exercises?|q|nr|no)\.?\s*(?=\d)", "", text)
    return RANGE.sub("-", text)
