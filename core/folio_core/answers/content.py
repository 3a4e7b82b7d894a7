"""What a student answered on the screen to one question, as one immutable value."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .answering import AnswerKind

WRITTEN_MOST, SHORT_MOST = 30_000, 300  # characters: about ten printed sheets; one line


class BadAnswer(ValueError):
    """An answer that is none, or too long. The message says what to do."""


@dataclass(frozen=True, slots=True)
class AnswerContent:
    """``chosen``: ids of choices. ``written``: Markdown with maths between dollars. Raises BadAnswer."""

    chosen: tuple[str, ...] = ()
    short: str = ""
    written: str = ""

    def __post_init__(self) -> None:
        if len(set(self.chosen)) != len(self.chosen):
            raise BadAnswer("A choice is chosen twice. Nothing was changed.")
        if len(self.short) > SHORT_MOST:
            raise BadAnswer(f"A short answer has at most {SHORT_MOST} characters. Nothing was changed.")
        if len(self.written) > WRITTEN_MOST:
            raise BadAnswer(
                f"A written answer has at most {WRITTEN_MOST:,} characters, and this one has {len(self.written):,}. "
                "It is kept on this device; shorten it, and it is saved."
            )

    @property
    def given(self) -> frozenset[AnswerKind]:
        """The kinds that it holds something of."""
        held = {
            AnswerKind.CHOSEN: bool(self.chosen),
            AnswerKind.SHORT: bool(self.short.strip()),
            AnswerKind.WRITTEN: bool(self.written.strip()),
        }
        return frozenset(kind for kind, there in held.items() if there)

    @property
    def sha256(self) -> str:
        """Of its one spelling, in hexadecimal; the receipt lists it."""
        spelled = json.dumps(self.as_document(), sort_keys=True, ensure_ascii=False, separators=(",", ":"))
        return hashlib.sha256(spelled.encode()).hexdigest()

    def as_document(self) -> dict[str, Any]:
        return {"chosen": list(self.chosen), "short": self.short, "written": self.written}

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> AnswerContent:
        """Raises BadAnswer for a document that is none."""
        try:
            return cls(
                tuple(str(one) for one in kept.get("chosen", ())), _words(kept.get("short", "")),
                _words(kept.get("written", "")),
            )  # fmt: skip
        except (TypeError, AttributeError) as error:
            raise BadAnswer("This answer cannot be read. Reload the board.") from error


NOTHING = AnswerContent()


def _words(text: str) -> str:
    """Without the control characters that no keyboard writes, and without halves of characters; a database takes
    neither."""
    return "".join(one for one in text if (one >= " " or one in "\n\t") and not "\ud800" <= one <= "\udfff")
