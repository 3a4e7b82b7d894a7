"""The part of an edition that is read by who reads only some of its questions."""

from __future__ import annotations

from folio_core.placing import read_arrangement
from folios.models import Folio

from .models import Edition, EditionPage


def pages_read(edition: Edition, only: frozenset[str] | None) -> list[EditionPage]:
    """The pages of who reads these questions: those that answer one of them, and those that answer nothing, which may
    belong to any. None is every page."""
    pages = list(edition.pages.select_related("page"))
    if only is None:
        return pages
    arrangement = read_arrangement(edition.arrangement)
    answering = {question: {spot.page for spot in spots} for question, spots in arrangement.placements.items()}
    mine = set().union(*(answering.get(question, set()) for question in only))
    placed = set().union(*answering.values())
    return [page for page in pages if page.page_id in mine or page.page_id not in placed]


def shows_image(folio: Folio, only: frozenset[str], name: str) -> bool:
    """Whether an image, by its hash, is one of a page that is read by who reads only these questions."""
    return any(
        name in (page.image, page.preview) for edition in folio.editions.all() for page in pages_read(edition, only)
    )
