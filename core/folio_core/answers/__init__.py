"""Answers that are not on paper: chosen, short and written ones, beside the pages of a folio.

`answering`: how a question is to be answered. `content`: what a student answered. `choice_order`: the order in which a
student sees the choices. `automatic`: what a chosen or short answer is worth by itself. `typesetting`: the sheets of a
bound document on which answers stand.
"""

from .answering import (
    ANSWERED_ON_PAGES,
    CHOICES_MOST,
    Answering,
    AnswerKind,
    BadAnswering,
    Choice,
    ShortAnswer,
    ShortKind,
)
from .choice_order import choices_for
from .content import NOTHING, WRITTEN_MOST, AnswerContent, BadAnswer

__all__ = [
    "ANSWERED_ON_PAGES", "CHOICES_MOST", "NOTHING", "WRITTEN_MOST", "AnswerContent", "AnswerKind", "Answering",
    "BadAnswer", "BadAnswering", "Choice", "ShortAnswer", "ShortKind", "choices_for",
]  # fmt: skip
