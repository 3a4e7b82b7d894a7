"""How a question is to be answered: on pages, by choosing, by a short answer, by written text, or by several."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from enum import StrEnum
from typing import Any

TEXT_MOST, CHOICE_MOST, CHOICES_MOST = 4000, 400, 12  # characters, characters, choices: beyond them it is a mistake


class BadAnswering(ValueError):
    """A question that cannot be answered so. The message says why."""


class AnswerKind(StrEnum):
    """One way in which a question is answered."""

    PAGES = "pages"  # on paper: pages are placed on it
    CHOSEN = "chosen"  # one or several of a list
    SHORT = "short"  # a number with its unit, a word, an expression
    WRITTEN = "written"  # text with maths, typed
    PICTURES = "pictures"  # pictures of the working, at this question only

    @property
    def is_on_pages(self) -> bool:
        return self in (AnswerKind.PAGES, AnswerKind.PICTURES)


class ShortKind(StrEnum):
    NUMBER = "number"
    WORD = "word"
    MATHS = "maths"


@dataclass(frozen=True, slots=True)
class Choice:
    """One of the list. Its id never changes, its text may be corrected."""

    id: str
    text: str


@dataclass(frozen=True, slots=True)
class ShortAnswer:
    """``expected``: what is right; "" where a marker decides. A number stands beside its ``unit`` and is right within
    ``tolerance``, a share of the expected value. Of a word, several right ones stand on lines of their own."""

    kind: ShortKind = ShortKind.NUMBER
    expected: str = ""
    unit: str = ""
    tolerance: float = 0.0

    def __post_init__(self) -> None:
        if not 0 <= self.tolerance <= 1:
            raise BadAnswering("A tolerance is a share of the value, between 0 and 100 %.")


@dataclass(frozen=True, slots=True)
class Answering:
    """``kinds``: all that is asked for, each once; the question is answered when all of them are given. ``text``: what
    is asked, shown beside the answer, in Markdown with maths. ``many``: several choices may be right. ``mixed``: each
    student sees the choices in another order. ``right``: ids of the right choices; none where a marker decides.
    ``before_pages``: in the bound document what is answered on the screen stands before the pages, else behind them.

    Raises BadAnswering.
    """

    kinds: tuple[AnswerKind, ...] = (AnswerKind.PAGES,)
    text: str = ""
    choices: tuple[Choice, ...] = ()
    many: bool = False
    mixed: bool = False
    right: tuple[str, ...] = ()
    short: ShortAnswer = ShortAnswer()
    before_pages: bool = False

    def __post_init__(self) -> None:
        if not self.kinds or len(set(self.kinds)) != len(self.kinds):
            raise BadAnswering("A question is answered in at least one way, and in each way once.")
        if len(self.text) > TEXT_MOST:
            raise BadAnswering(f"What is asked has at most {TEXT_MOST} characters.")
        if AnswerKind.CHOSEN in self.kinds:
            self._require_good_choices()

    def _require_good_choices(self) -> None:
        ids, texts = {one.id for one in self.choices}, {one.text.strip() for one in self.choices}
        if not 2 <= len(self.choices) <= CHOICES_MOST:
            raise BadAnswering(f"Give between 2 and {CHOICES_MOST} choices.")
        if "" in texts or "" in ids or any(len(one.text) > CHOICE_MOST for one in self.choices):
            raise BadAnswering(f"Each choice has some text, of at most {CHOICE_MOST} characters.")
        if len(ids) != len(self.choices) or len(texts) != len(self.choices):
            raise BadAnswering("Two choices are the same.")
        if not set(self.right) <= ids:
            raise BadAnswering("A choice that is said to be right is not among the choices.")
        if len(self.right) > 1 and not self.many:
            raise BadAnswering("Several choices are said to be right, but only one can be chosen.")

    @property
    def on_screen(self) -> tuple[AnswerKind, ...]:
        """What is given on the screen."""
        return tuple(kind for kind in self.kinds if not kind.is_on_pages)

    @property
    def takes_pages(self) -> bool:
        return any(kind.is_on_pages for kind in self.kinds)

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping; `from_document` reads it."""
        plain = asdict(self)
        plain["kinds"] = [str(kind) for kind in self.kinds]
        plain["choices"], plain["right"] = list(plain["choices"]), list(self.right)
        plain["short"]["kind"] = str(self.short.kind)
        return plain

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> Answering:
        """Raises BadAnswering for a document that is none."""
        try:
            return cls(
                kinds=tuple(AnswerKind(kind) for kind in kept.get("kinds", ("pages",))),
                text=str(kept.get("text", "")),
                choices=tuple(Choice(str(one["id"]), str(one["text"])) for one in kept.get("choices", ())),
                many=bool(kept.get("many", False)),
                mixed=bool(kept.get("mixed", False)),
                right=tuple(str(one) for one in kept.get("right", ())),
                short=_short(kept.get("short", {})),
                before_pages=bool(kept.get("before_pages", False)),
            )
        except (KeyError, TypeError, AttributeError, ValueError) as error:
            if isinstance(error, BadAnswering):
                raise
            raise BadAnswering("How this question is answered cannot be read.") from error


ANSWERED_ON_PAGES = Answering()


def _short(kept: Mapping[str, Any]) -> ShortAnswer:
    return ShortAnswer(
        ShortKind(kept.get("kind", ShortKind.NUMBER)), str(kept.get("expected", "")), str(kept.get("unit", "")),
        float(kept.get("tolerance", 0.0)),
    )  # fmt: skip
