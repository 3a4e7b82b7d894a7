"""Where the outline entries of a bound document land."""

from __future__ import annotations

from ..placing import Arrangement
from ..question_map import QuestionMap
from .bound import Landing


def landings_of(arrangement: Arrangement, question_map: QuestionMap) -> list[Landing]:
    """An entry a question, in the order of the map: placed ones land on their first spot, blank ones say so."""
    position = {page: number for number, page in enumerate(arrangement.pages)}
    landings = []
    for question in question_map.questions:
        text = f"{question.label} · {question.title}" if question.title else question.label
        spots = arrangement.pages_of(question.id)
        if spots:
            landings.append(Landing(text, position[spots[0].page], spots[0].top or 0.0))
        elif question.id in arrangement.left_blank:
            landings.append(Landing(f"{text} (left blank)", None))
    return landings
