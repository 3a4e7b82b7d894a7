"""What differs between two editions, page by page and question by question. Pure."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..page.recipe import Recipe
from ..question_map import QuestionMap
from .arrangement import Arrangement, Placement


@dataclass(frozen=True, slots=True)
class PlacedOtherwise:
    """``before`` and ``after``: numbers of pages in each edition, from 1; ``left_blank``: of each."""

    label: str
    before: tuple[int, ...]
    after: tuple[int, ...]
    left_blank: tuple[bool, bool]


@dataclass(frozen=True, slots=True)
class Comparison:
    """Pages by id. ``retaken``: the page before and the one in its place. ``moved``: as few as explain the new order.
    ``turned``: turned otherwise; ``corrected``: other corners or tone."""

    added: tuple[int, ...]
    removed: tuple[int, ...]
    retaken: tuple[tuple[int, int], ...]
    moved: tuple[int, ...]
    turned: tuple[int, ...]
    corrected: tuple[int, ...]
    placed: tuple[PlacedOtherwise, ...]


def compare(
    before: Arrangement, after: Arrangement, question_maps: tuple[QuestionMap, QuestionMap], retaken: Mapping[int, int]
) -> Comparison:
    """``retaken``: which page was taken in the place of which, over all that happened. ``question_maps``: of each
    edition; questions are told apart by id, and called as the later one calls them."""
    old, new = set(before.pages), set(after.pages)
    replaced = tuple((page, by) for page in before.pages if page not in new and (by := _last(page, retaken, new)))
    instead = {by for _, by in replaced}
    both = [page for page in after.pages if page in old]
    recipes = [(page, before.recipes.get(page, Recipe()), after.recipes.get(page, Recipe())) for page in both]
    return Comparison(
        added=tuple(page for page in after.pages if page not in old | instead),
        removed=tuple(page for page in before.pages if page not in new | {page for page, _ in replaced}),
        retaken=replaced,
        moved=_moved([page for page in before.pages if page in new], both),
        turned=tuple(page for page, was, now in recipes if was.turn != now.turn),
        corrected=tuple(
            page
            for page, was, now in recipes
            if (was.corners, was.tone, before.scales.get(page)) != (now.corners, now.tone, after.scales.get(page))
        ),
        placed=_placed_otherwise(before, after, *question_maps),
    )


def _last(page: int, retaken: Mapping[int, int], new: set[int]) -> int | None:
    """What stands in the place of a page that was taken again, once or more often, where the edition has it."""
    seen = {page}
    while (page := retaken.get(page, 0)) and page not in seen:
        seen.add(page)
        if page in new:
            return page
    return None


def _moved(before: Sequence[int], after: Sequence[int]) -> tuple[int, ...]:
    """All but a longest run of pages that are in the same order in both (longest increasing subsequence, by patience
    sorting: Fredman, On computing the length of longest increasing subsequences, 1975)."""
    place = {page: at for at, page in enumerate(before)}
    ends: list[int] = []
    last: list[int] = []
    link: list[int] = []
    for at, page in enumerate(after):
        length = bisect_left(ends, place[page])
        link.append(last[length - 1] if length else -1)
        ends[length : length + 1] = [place[page]]
        last[length : length + 1] = [at]
    stayed, at = set(), last[-1] if last else -1
    while at >= 0:
        stayed.add(after[at])
        at = link[at]
    return tuple(page for page in after if page not in stayed)


def _placed_otherwise(
    before: Arrangement, after: Arrangement, old_map: QuestionMap, new_map: QuestionMap
) -> tuple[PlacedOtherwise, ...]:
    labels = {one.id: one.label for one in (*old_map.questions, *new_map.questions)}
    numbers = [{page: at for at, page in enumerate(one.pages, 1)} for one in (before, after)]
    told = []
    for question, label in labels.items():
        spots = [one.pages_of(question) for one in (before, after)]
        blank = (question in before.left_blank, question in after.left_blank)
        if _by_page(spots[0]) != _by_page(spots[1]) or blank[0] != blank[1]:
            pages = [tuple(of[spot.page] for spot in row) for of, row in zip(numbers, spots, strict=True)]
            told.append(PlacedOtherwise(label, pages[0], pages[1], blank))
    return tuple(told)


def _by_page(spots: Sequence[Placement]) -> set[tuple[int, float | None]]:
    return {(spot.page, spot.top) for spot in spots}
