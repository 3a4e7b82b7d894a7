"""What is answered and what is open before a hand-in. It informs; it never blocks.

The browser asks the same (``isAnswered`` and ``openQuestions`` in ``arrangement.ts``); both are held to
``core/tests/readiness.json``.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..question_map import QuestionMap
from .arrangement import Arrangement


@dataclass(frozen=True, slots=True)
class Readiness:
    """Question ids and page ids in the order of the map and of the folio.

    ``questions``: how many are to be answered, of a group "any 3 of 5" three and of a bonus none; ``answered``: how
    many of them are.
    """

    open_questions: tuple[str, ...]
    open_pages: tuple[int, ...]
    answered: int
    questions: int


def is_answered(arrangement: Arrangement, question_id: str) -> bool:
    """A question is answered when a page that will be handed in answers it, or when it is left blank on purpose."""
    return question_id in arrangement.left_blank or bool(arrangement.pages_of(question_id))


def open_questions(arrangement: Arrangement, question_map: QuestionMap) -> tuple[str, ...]:
    """Ids of those still to be answered. Once enough of a group have pages, the rest of it is not open."""
    enough = {
        group.id
        for group in question_map.groups
        if sum(bool(arrangement.pages_of(one.id)) for one in question_map.members(group)) >= group.choose
    }
    return tuple(
        one.id for one in question_map.questions if one.group not in enough and not is_answered(arrangement, one.id)
    )


def readiness(arrangement: Arrangement, question_map: QuestionMap) -> Readiness:
    """On the map of whole work nothing is placed, so no page of it is open."""
    still_open = open_questions(arrangement, question_map)
    done = arrangement.placed_pages | arrangement.loose
    open_pages = tuple(page for page in arrangement.pages if page not in done) if question_map.questions else ()
    single = [one.id for one in question_map.questions if not one.group]
    answered = sum(one not in still_open for one in single)
    for group in question_map.groups:
        members = question_map.members(group)
        placed = sum(bool(arrangement.pages_of(one.id)) for one in members)
        wants_more = any(one.id in still_open for one in members)
        answered += placed if wants_more else group.choose
    return Readiness(
        open_questions=still_open,
        open_pages=open_pages,
        answered=answered,
        questions=len(single) + sum(group.choose for group in question_map.groups),
    )
