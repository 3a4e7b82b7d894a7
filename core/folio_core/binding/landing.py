"""Where the outline entries of a bound document land, and what each of its pages answers, in words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from types import MappingProxyType

from ..placing import Arrangement
from ..question_map import Question, QuestionMap
from .bound import Landing


def landings_of(
    arrangement: Arrangement, question_map: QuestionMap, typed: Mapping[str, tuple[int, float]] = MappingProxyType({}),
    *, before: int = 0,
) -> list[Landing]:  # fmt: skip
    """An entry a question, in the order of the map: placed ones land on their first spot, blank ones say so. ``typed``:
    by question id, on which page (from 0) and how far down an answer on the screen stands; it has an entry of its own
    where there are pages too. ``before``: how many sheets stand before the first page."""
    position = {page: number for number, page in enumerate(arrangement.pages, before)}
    landings = []
    for question in question_map.questions:
        text = f"{question.label} · {question.title}" if question.title else question.label
        spots = arrangement.pages_of(question.id)
        if spots:
            landings.append(Landing(text, position[spots[0].page], spots[0].top or 0.0))
        if question.id in typed:
            landings.append(Landing(f"{text} (on the screen)" if spots else text, *typed[question.id]))
        elif not spots and question.id in arrangement.left_blank:
            landings.append(Landing(f"{text} (left blank)", None))
    return landings


_ROMAN = ((1000, "m"), (900, "cm"), (500, "d"), (400, "cd"), (100, "c"), (90, "xc"), (50, "l"), (40, "xl"), (10, "x"),
          (9, "ix"), (5, "v"), (4, "iv"), (1, "i"))  # fmt: skip


def roman(number: int) -> str:
    """As page labels of the style ``r`` count (ISO 32000-2, 12.4.2)."""
    word = ""
    for value, letters in _ROMAN:
        times, number = divmod(number, value)
        word += letters * times
    return word


def labels_by_page(arrangement: Arrangement, questions: Iterable[Question]) -> dict[int, list[str]]:
    """What each page answers of these questions, in their order."""
    labels: dict[int, list[str]] = {page: [] for page in arrangement.order}
    for question in questions:
        for spot in arrangement.pages_of(question.id):
            labels[spot.page].append(question.label)
    return labels


def words_of_page(number: int, of: int, labels: Sequence[str], description: str = "") -> str:
    """For those who do not see the page: "Page 3 of 6, answers 2b and 2c". ``description``: what it shows, by its
    student."""
    shown = f": {description.strip()}" if description.strip() else ""
    if not labels:
        return f"Page {number} of {of}, placed on no question{shown}"
    *others, last = labels
    return f"Page {number} of {of}, answers {', '.join(others) + ' and ' if others else ''}{last}{shown}"
