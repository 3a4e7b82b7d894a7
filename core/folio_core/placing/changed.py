"""What differs between what was handed in and the board, and what of it the close hands in by itself. Pure."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from ..page.recipe import Recipe
from ..question_map import QuestionMap
from .arrangement import Arrangement
from .at_the_close import placed_since

_QUESTIONS_NAMED = 6  # more are counted


@dataclass(frozen=True, slots=True)
class Changed:
    """In short words, each list empty where there is nothing. ``what``: all of it; ``by_itself``: what is handed in
    at the latest when placing ends; ``left_out``: what counts only when it is handed in."""

    what: tuple[str, ...]
    by_itself: tuple[str, ...]
    left_out: tuple[str, ...]


def changed_since(frozen: Arrangement, board: Arrangement, question_map: QuestionMap) -> Changed | None:
    """``frozen``: the newest edition's arrangement. None where the reader would see no difference."""
    what = _differences(frozen, board, question_map)
    if not what:
        return None
    at_the_end = placed_since(frozen, board)
    return Changed(what, _differences(frozen, at_the_end, question_map), _differences(at_the_end, board, question_map))


def _differences(before: Arrangement, now: Arrangement, question_map: QuestionMap) -> tuple[str, ...]:
    added, removed = set(now.pages) - set(before.pages), set(before.pages) - set(now.pages)
    both = [page for page in before.pages if page not in removed]
    in_order = [page for page in now.pages if page not in added]
    corrected = sum(_shown(before, page) != _shown(now, page) for page in both)
    said = [
        f"{_count(len(added), 'page')} added" if added else "",
        f"{_count(len(removed), 'page')} removed" if removed else "",
        "another order" if both != in_order else "",
        _placed_otherwise(before, now, question_map),
        f"{_count(corrected, 'page')} corrected" if corrected else "",
        "another word to the reader" if _words(before, both) != _words(now, both) else "",
    ]
    return tuple(one for one in said if one)


def _shown(of: Arrangement, page: int) -> tuple[Recipe, float]:
    return of.recipes.get(page, Recipe()), of.scales.get(page, 1.0)


def _placed_otherwise(before: Arrangement, now: Arrangement, question_map: QuestionMap) -> str:
    labels = [
        question.label
        for question in question_map.questions
        if _answer(before, question.id) != _answer(now, question.id)
    ]
    if labels:
        named = ", ".join(labels) if len(labels) <= _QUESTIONS_NAMED else _count(len(labels), "question")
        return f"{named} placed otherwise"
    common = set(before.pages) & set(now.pages)
    return "loose pages" if before.loose & common != now.loose & common else ""


def _answer(of: Arrangement, question: str) -> tuple[object, ...]:
    return of.pages_of(question), question in of.left_blank


def _words(of: Arrangement, pages: Collection[int]) -> tuple[str, Mapping[int, str]]:
    notes = {page: note.strip() for page, note in of.notes.items() if page in pages and note.strip()}
    described = {-page: words.strip() for page, words in of.descriptions.items() if page in pages and words.strip()}
    return of.comment.strip(), {**notes, **described}


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}{'' if number == 1 else 's'}"
