"""The question map: the questions and parts of an assignment, in order, each with its id, its title and its points."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from .answers import ANSWERED_ON_PAGES, Answering
from .labels import RANGE, ROMAN, BadLabel, join_levels, split_label


class QuestionMapError(ValueError):
    """The question map itself makes no sense (twice the same label, no question at all). The message says where."""


@dataclass(frozen=True, slots=True)
class Question:
    """The smallest thing an answer is given to: a question without parts, or one part of a question.

    ``id`` never changes, ``label`` may be corrected: whatever is kept of a question is kept under its id. On the
    command line, where maps are typed, both are the same. ``group``: the id of the "any n of" group it belongs to.
    ``answering``: how it is to be answered.
    """

    label: str
    id: str = ""
    title: str = ""
    points: float = 0.0
    group: str = ""
    answering: Answering = ANSWERED_ON_PAGES

    def __post_init__(self) -> None:
        object.__setattr__(self, "label", join_levels(split_label(self.label)))
        object.__setattr__(self, "id", self.id or self.label)

    @property
    def levels(self) -> tuple[str, ...]:
        return split_label(self.label)


@dataclass(frozen=True, slots=True)
class Group:
    """Of the questions that name this group, ``choose`` are to be answered: "any 3 of 5". 0: all are a bonus."""

    id: str
    choose: int

    def __post_init__(self) -> None:
        if self.choose < 0:
            raise QuestionMapError("Of a group no question or some are to be answered.")


@dataclass(frozen=True, slots=True)
class QuestionMap:
    """In the order of the question paper. Without questions it is the map of whole work: nothing is placed on it.

    Raises QuestionMapError where a label or id stands twice, or a question stands beside its own parts (1 and 1a).
    """

    questions: tuple[Question, ...] = ()
    groups: tuple[Group, ...] = ()
    _by_id: dict[str, Question] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_by_id", {question.id: question for question in self.questions})
        paths = {question.levels for question in self.questions}
        if len(paths) != len(self.questions) or len(self._by_id) != len(self.questions):
            raise QuestionMapError("The question map names the same label twice.")
        for path in paths:
            for depth in range(1, len(path)):
                if path[:depth] in paths:
                    whole, part = join_levels(path[:depth]), join_levels(path)
                    raise QuestionMapError(f"{whole} and its part {part} are both on the map. Keep one of the two.")
        known = {group.id for group in self.groups}
        if any(question.group not in known for question in self.questions if question.group):
            raise QuestionMapError("A question names a group that is not on the map.")

    @property
    def ids(self) -> tuple[str, ...]:
        return tuple(question.id for question in self.questions)

    @property
    def labels(self) -> tuple[str, ...]:
        return tuple(question.label for question in self.questions)

    def __contains__(self, question_id: object) -> bool:
        return question_id in self._by_id

    def __getitem__(self, question_id: str) -> Question:
        return self._by_id[question_id]

    @property
    def points(self) -> float:
        """What can be had: of a group those of its best questions, as many as are to be answered; no bonus."""
        of_groups = sum(
            sum(sorted((one.points for one in self.members(group)), reverse=True)[: group.choose])
            for group in self.groups
        )
        return sum(one.points for one in self.questions if not one.group) + of_groups

    @property
    def on_pages(self) -> QuestionMap:
        """Without the questions that are answered on the screen alone."""
        return QuestionMap(tuple(one for one in self.questions if one.answering.takes_pages), self.groups)

    def members(self, group: Group) -> tuple[Question, ...]:
        return tuple(question for question in self.questions if question.group == group.id)

    def labels_of(self, ids: Sequence[str] | frozenset[str]) -> tuple[str, ...]:
        """The labels of these questions, in the order of the map."""
        return tuple(question.label for question in self.questions if question.id in ids)

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping; `from_document` reads it."""
        return {
            "questions": [_question_document(one) for one in self.questions],
            "groups": [{"id": group.id, "choose": group.choose} for group in self.groups],
        }

    @classmethod
    def from_document(cls, document: Mapping[str, Any]) -> QuestionMap:
        return cls(
            tuple(_question_of(one) for one in document["questions"]),
            tuple(Group(**one) for one in document["groups"]),
        )


def _question_document(question: Question) -> dict[str, Any]:
    """What is answered on pages says nothing of it, as before there was another way."""
    plain = {name: getattr(question, name) for name in ("id", "label", "title", "points", "group")}
    asked = question.answering
    return plain if asked == ANSWERED_ON_PAGES else {**plain, "answering": asked.as_document()}


def _question_of(kept: Mapping[str, Any]) -> Question:
    return Question(**{**kept, "answering": Answering.from_document(kept.get("answering", {}))})


def parse_question_map(text: str) -> QuestionMap:
    """Read a question map written short: ``1a-d, 2a-e, 3``, ``1, any 3 of (2-6), bonus (7)``.

    Raises QuestionMapError where a piece is no label or range of parts, or there is none.
    """
    questions: list[Question] = []
    groups: list[Group] = []
    for piece in _pieces(text):
        members, group = piece, ""
        if found := _GROUP.fullmatch(piece):
            group, members = str(len(groups) + 1), found["members"]
            groups.append(Group(group, int(found["choose"] or 0)))
        labels = [join_levels(levels) for each in _pieces(members) for levels in _span(each)]
        if group and not labels[groups[-1].choose :]:
            raise QuestionMapError(f"“{piece}” names {len(labels)} questions. Choose from more, or from fewer.")
        questions += [Question(label, group=group) for label in labels]
    if not questions:
        raise QuestionMapError("The question map is empty. Write for example 1a-d, 2, 3a-c.")
    return QuestionMap(tuple(questions), tuple(groups))


_GROUP = re.compile(r"(?:any\s+(?P<choose>[1-9]\d?)\s+of|bonus)\s*\((?P<members>.*)\)", re.IGNORECASE | re.DOTALL)


def _pieces(text: str) -> list[str]:
    """What stands between commas and semicolons that are in no brackets."""
    pieces, depth = [""], 0
    for sign in text:
        depth += (sign == "(") - (sign == ")")
        if sign in ",;" and depth <= 0:
            pieces.append("")
        else:
            pieces[-1] += sign
    return [piece.strip() for piece in pieces if piece.strip()]


def map_in_short(question_map: QuestionMap) -> str:
    """The map as one would type it, each group where its first question stands."""
    pieces: list[tuple[str, list[str]]] = []
    for question in question_map.questions:
        if not pieces or (question.group or "") != pieces[-1][0]:
            known = next((labels for group, labels in pieces if group and group == question.group), None)
            if known is not None:
                known.append(question.label)
                continue
            pieces.append((question.group, []))
        pieces[-1][1].append(question.label)
    chosen = {group.id: f"any {group.choose} of" if group.choose else "bonus" for group in question_map.groups}
    return ", ".join(f"{chosen[group]} ({in_short(row)})" if group else in_short(row) for group, row in pieces)


def in_short(labels: Sequence[str]) -> str:
    """Labels as one would type their map: "1a", "1b", "1c", "2" → ``1a-c, 2``. `parse_question_map` reads it back."""
    pieces: list[str] = []
    paths = [split_label(label) for label in labels]
    at = 0
    while at < len(paths):
        end = at + 1
        while end < len(paths) and _is_run(paths[at : end + 1]):
            end += 1
        first, last = join_levels(paths[at]), paths[end - 1][-1]
        least = 3 if last.isdecimal() else 2
        pieces += [f"{first}-{last}"] if end - at >= least else [join_levels(path) for path in paths[at:end]]
        at = end
    return ", ".join(pieces)


def _is_run(paths: Sequence[tuple[str, ...]]) -> bool:
    try:
        return _span(f"{join_levels(paths[0])}-{paths[-1][-1]}") == list(paths)
    except QuestionMapError:
        return False


def _span(piece: str) -> list[tuple[str, ...]]:
    """The paths of a label or of a range of parts of one question."""
    ends = RANGE.split(piece.lower(), maxsplit=1)
    try:
        first = split_label(ends[0])
        if len(ends) == 1:
            return [first]
        last = _last_of_range(first, ends[1].strip())
        # Read once more: 1z(i) and 1z(m) are labels, 1z(j) between them is none.
        return [split_label(join_levels((*first[:-1], level))) for level in _between(first[-1], last)]
    except ValueError as error:
        raise QuestionMapError(
            f"“{piece}” is no question or range of parts. Write for example 1a-d, 2, 3a-c."
        ) from error


def _last_of_range(first: tuple[str, ...], text: str) -> str:
    """The last level of a range: written alone ("1a-d") or as a label of the same question ("1a-1d")."""
    bare = text.strip("()")
    if bare in ROMAN or re.fullmatch(r"[a-z]|[1-9][0-9]{0,3}", bare):
        if bare.isdecimal() and not first[-1].isdecimal():
            raise BadLabel(text)
        return bare
    last = split_label(text)
    if last[:-1] != first[:-1]:
        raise BadLabel(text)
    return last[-1]


def _between(first: str, last: str) -> list[str]:
    if first.isdecimal() and last.isdecimal():
        levels = [str(number) for number in range(int(first), int(last) + 1)]
    elif first in ROMAN and last in ROMAN:
        levels = list(ROMAN[ROMAN.index(first) : ROMAN.index(last) + 1])
    elif len(first) == len(last) == 1 and first.isalpha() and last.isalpha():
        levels = [chr(code) for code in range(ord(first), ord(last) + 1)]
    else:
        raise BadLabel(f"{first}-{last}")
    if len(levels) < 2:
        raise BadLabel(f"{first}-{last}")
    return levels
