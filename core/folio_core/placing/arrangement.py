"""The arrangement: order, placements, left-blank and loose, as one immutable value."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

from ..page.recipe import Recipe
from ..question_map import QuestionMap

COMMENT_MOST, NOTE_MOST, SIDES_MOST = 2000, 500, 500  # characters, characters, sides: beyond them it is a mistake


class BadArrangement(ValueError):
    """An arrangement that contradicts itself, its pages or its question map. The message says where."""


@dataclass(frozen=True, slots=True, order=True)
class Placement:
    """One page answers (part of) one question. ``top``: how far down the page the answer begins, 0–1; None: unsaid."""

    page: int
    top: float | None = None

    def __post_init__(self) -> None:
        if self.top is not None and not 0 <= self.top <= 1:
            raise BadArrangement(f"An answer begins between 0 and 1 of the page's height, not at {self.top}.")


SCALES = (0.5, 0.75)


@dataclass(frozen=True, slots=True)
class Arrangement:
    """``order`` names every page once, removed ones in their old place, so that restoring is exact.

    ``placements`` and ``left_blank`` name questions by id. ``placements`` may name removed pages (they come back with
    the page); they count only while the page is there.
    ``recipes``: of the pages that a person corrected. ``dismissed``: codes of advice that was waved away.
    ``sides``: how many were written, where the student said so. ``comment`` and ``notes`` (by page): to the reader.
    ``descriptions`` (by page): what a picture shows, for those who cannot see it. ``scales`` (by page): of how wide it
    could be bound a picture is bound, one of ``SCALES``; else as wide.
    """

    order: tuple[int, ...] = ()
    removed: frozenset[int] = frozenset()
    loose: frozenset[int] = frozenset()
    placements: Mapping[str, tuple[Placement, ...]] = field(default_factory=dict)
    left_blank: frozenset[str] = frozenset()
    recipes: Mapping[int, Recipe] = field(default_factory=dict)
    dismissed: Mapping[int, frozenset[str]] = field(default_factory=dict)
    sides: int | None = None
    comment: str = ""
    notes: Mapping[int, str] = field(default_factory=dict)
    descriptions: Mapping[int, str] = field(default_factory=dict)
    scales: Mapping[int, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if len(set(self.order)) != len(self.order):
            raise BadArrangement("A page stands twice in the order.")
        known = set(self.order)
        placed = {placement.page for row in self.placements.values() for placement in row}
        by_page = (self.recipes, self.dismissed, self.notes, self.descriptions, self.scales)
        named = self.removed | self.loose | placed | {page for field in by_page for page in field}
        if not named <= known:
            raise BadArrangement(f"Page {min(named - known)} is not in the order.")
        for row in self.placements.values():
            if len({placement.page for placement in row}) != len(row):
                raise BadArrangement("A question is placed twice on one page.")
        if self.left_blank & self.placed_questions:
            raise BadArrangement("A question is both placed and left blank.")
        if self.loose & self.placed_pages:
            raise BadArrangement("A loose page has a question placed on it.")
        if self.sides is not None and not 0 <= self.sides <= SIDES_MOST:
            raise BadArrangement(f"The number of sides written lies between 0 and {SIDES_MOST}.")
        if not set(self.scales.values()) <= set(SCALES):
            raise BadArrangement("A picture is bound at half or three quarters of its width, or whole.")
        words = [*self.notes.values(), *self.descriptions.values()]
        if len(self.comment) > COMMENT_MOST or any(len(one) > NOTE_MOST for one in words):
            raise BadArrangement(f"A comment has at most {COMMENT_MOST} characters, that on a page {NOTE_MOST}.")

    @property
    def pages(self) -> tuple[int, ...]:
        """The pages that will be handed in, in order."""
        return tuple(page for page in self.order if page not in self.removed)

    @property
    def placed_questions(self) -> frozenset[str]:
        return frozenset(one for one in self.placements if self.pages_of(one))

    @property
    def placed_pages(self) -> frozenset[int]:
        return frozenset(placement.page for one in self.placements for placement in self.pages_of(one))

    def pages_of(self, question: str) -> tuple[Placement, ...]:
        """Where a question is answered, in page order."""
        position = {page: at for at, page in enumerate(self.order)}
        row = (placement for placement in self.placements.get(question, ()) if placement.page not in self.removed)
        return tuple(sorted(row, key=lambda placement: position[placement.page]))

    def require_fits(self, question_map: QuestionMap, pages: Collection[int]) -> None:
        """Raises BadArrangement unless it names exactly these pages and only questions of this map."""
        if set(self.order) != set(pages):
            raise BadArrangement("The order must name every page of the folio once. Nothing was changed.")
        if any(question not in question_map for question in [*self.placements, *self.left_blank]):
            raise BadArrangement("A question is named that is not on the question map. Reload the board.")

    def kept_to(self, question_map: QuestionMap) -> Arrangement:
        """Without what was said of questions that are not on the map (any more)."""
        return replace(
            self,
            placements={one: row for one, row in self.placements.items() if one in question_map},
            left_blank=frozenset(one for one in self.left_blank if one in question_map),
        )

    def with_hidden_of(self, stored: Arrangement, question_map: QuestionMap) -> Arrangement:
        """With what ``stored`` says of questions that have left the map: it comes back when they do.

        What it says of a page that has become loose since, or has left the folio, does not.
        """
        usable = set(self.order) - self.loose
        hidden = {
            one: kept
            for one, row in stored.placements.items()
            if one not in question_map and (kept := tuple(spot for spot in row if spot.page in usable))
        }
        blank = {one for one in stored.left_blank if one not in question_map}
        return replace(self, placements={**self.placements, **hidden}, left_blank=self.left_blank | blank)

    def with_pages_after(self, page: int | None, new: tuple[int, ...]) -> Arrangement:
        """New pages put in after ``page``, or at the end."""
        return self.with_pages_at(len(self.order) if page is None else self.order.index(page) + 1, new)

    def with_pages_at(self, index: int, new: tuple[int, ...]) -> Arrangement:
        """New pages put in before the one at ``index`` of the order."""
        return replace(self, order=(*self.order[:index], *new, *self.order[index:]))

    def with_page_replaced(self, page: int, new: int) -> Arrangement:
        """``new`` takes the place of ``page`` with its questions; ``page`` is removed, and keeps them if restored."""
        return replace(
            self.with_pages_after(page, (new,)),
            removed=self.removed | {page},
            loose=self.loose | {new} if page in self.loose else self.loose,
            notes={**self.notes, new: self.notes[page]} if page in self.notes else self.notes,
            scales={**self.scales, new: self.scales[page]} if page in self.scales else self.scales,
            placements={
                one: (*row, *(Placement(new, spot.top) for spot in row if spot.page == page))
                for one, row in self.placements.items()
            },
        )

    def without_page(self, page: int) -> Arrangement:
        """A page that turned out to be none (a file that cannot be opened)."""
        return replace(
            self,
            order=tuple(other for other in self.order if other != page),
            removed=self.removed - {page},
            loose=self.loose - {page},
            placements={
                one: kept
                for one, row in self.placements.items()
                if (kept := tuple(placement for placement in row if placement.page != page))
            },
            recipes={other: recipe for other, recipe in self.recipes.items() if other != page},
            dismissed={other: codes for other, codes in self.dismissed.items() if other != page},
            notes={other: note for other, note in self.notes.items() if other != page},
            descriptions={other: words for other, words in self.descriptions.items() if other != page},
            scales={other: scale for other, scale in self.scales.items() if other != page},
        )
