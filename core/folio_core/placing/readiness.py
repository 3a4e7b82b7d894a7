"""What is answered and what is open before a hand-in. It informs; it never blocks.

The browser asks the same (``isAnswered`` in ``arrangement.ts``); both are held to ``core/tests/readiness.json``.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..question_map import QuestionMap
from .arrangement import Arrangement


@dataclass(frozen=True, slots=True)
class Readiness:
    """Question ids and page ids in the order of the map and of the folio. ``answered``: how many questions are."""

    open_questions: tuple[str, ...]
    open_pages: tuple[int, ...]
    answered: int
    questions: int


def is_answered(arrangement: Arrangement, question_id: str) -> bool:
    """A question is answered when a page that will be handed in answers it, or when it is left blank on purpose."""
    return question_id in arrangement.left_blank or bool(arrangement.pages_of(question_id))


def readiness(arrangement: Arrangement, question_map: QuestionMap) -> Readiness:
    """On the map of whole work nothing is placed, so no page of it is open."""
    open_questions = tuple(one for one in question_map.ids if not is_answered(arrangement, one))
    done = arrangement.placed_pages | arrangement.loose
    open_pages = tuple(page for page in arrangement.pages if page not in done) if question_map.questions else ()
    return Readiness(
        open_questions=open_questions,
        open_pages=open_pages,
        answered=len(question_map.ids) - len(open_questions),
        questions=len(question_map.ids),
    )
