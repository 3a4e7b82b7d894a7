"""What is answered and what is open before a hand-in. It informs; it never blocks.

The browser asks the same (``isAnswered`` and ``openQuestions`` in ``arrangement.ts``); both are held to
``core/tests/readiness.json``.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from ..answers import AnswerContent, AnswerKind
from ..question_map import Question, QuestionMap
from .arrangement import Arrangement

Given = Mapping[str, Collection[AnswerKind]]
"""By question id, what is given on the screen."""
NOTHING_GIVEN: Given = MappingProxyType({})


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


def given_by(question_map: QuestionMap, contents: Mapping[str, AnswerContent]) -> Given:
    """Of the answers on the screen, by question id, what is asked for and holds something."""
    asked = {one.id: set(one.answering.kinds) for one in question_map.questions}
    return {one: content.given & asked[one] for one, content in contents.items() if one in asked}


def missing_kinds(arrangement: Arrangement, question: Question, given: Given = NOTHING_GIVEN) -> list[AnswerKind]:
    """What the question asks for and is not there: pages that will be handed in, and what is on the screen."""
    has_pages, on_screen = bool(arrangement.pages_of(question.id)), given.get(question.id, ())
    return [kind for kind in question.answering.kinds if not (has_pages if kind.is_on_pages else kind in on_screen)]


def is_given(arrangement: Arrangement, question: Question, given: Given = NOTHING_GIVEN) -> bool:
    """Whether all that the question asks for is there."""
    return not missing_kinds(arrangement, question, given)


def is_answered(arrangement: Arrangement, question: Question, given: Given = NOTHING_GIVEN) -> bool:
    """A question is answered when all that it asks for is given, or when it is left blank on purpose."""
    return question.id in arrangement.left_blank or is_given(arrangement, question, given)


def open_questions(
    arrangement: Arrangement, question_map: QuestionMap, given: Given = NOTHING_GIVEN
) -> tuple[str, ...]:
    """Ids of those still to be answered. Once enough of a group are given, the rest of it is not open."""
    enough = {
        group.id
        for group in question_map.groups
        if sum(is_given(arrangement, one, given) for one in question_map.members(group)) >= group.choose
    }
    return tuple(
        one.id for one in question_map.questions if one.group not in enough and not is_answered(arrangement, one, given)
    )


def readiness(arrangement: Arrangement, question_map: QuestionMap, given: Given = NOTHING_GIVEN) -> Readiness:
    """On the map of whole work nothing is placed, so no page of it is open."""
    still_open = open_questions(arrangement, question_map, given)
    done = arrangement.placed_pages | arrangement.loose
    open_pages = tuple(page for page in arrangement.pages if page not in done) if question_map.questions else ()
    single = [one.id for one in question_map.questions if not one.group]
    answered = sum(one not in still_open for one in single)
    for group in question_map.groups:
        members = question_map.members(group)
        complete = sum(is_given(arrangement, one, given) for one in members)
        wants_more = any(one.id in still_open for one in members)
        answered += complete if wants_more else group.choose
    return Readiness(
        open_questions=still_open,
        open_pages=open_pages,
        answered=answered,
        questions=len(single) + sum(group.choose for group in question_map.groups),
    )
