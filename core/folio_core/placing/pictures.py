"""Pictures of the working: pages that only lie on questions which ask for pictures."""

from __future__ import annotations

from ..answers import AnswerKind
from ..question_map import QuestionMap
from .arrangement import Arrangement


def pictures_of_working(arrangement: Arrangement, question_map: QuestionMap) -> frozenset[int]:
    """A drawing or a screenshot need be no sheet of paper. On another question too, a page is a page."""
    pictures: set[int] = set()
    sheets: set[int] = set()
    for question in arrangement.placed_questions:
        asked = question_map[question].answering.kinds if question in question_map else ()
        placed = {spot.page for spot in arrangement.pages_of(question)}
        (pictures if AnswerKind.PICTURES in asked else sheets).update(placed)
    return frozenset(pictures - sheets)


def scales_of(arrangement: Arrangement, question_map: QuestionMap) -> dict[int, float]:
    """How wide pictures of the working are bound, of how wide they could be; all other pages as wide as they can be."""
    pictures = pictures_of_working(arrangement, question_map)
    return {page: scale for page, scale in arrangement.scales.items() if page in pictures}
