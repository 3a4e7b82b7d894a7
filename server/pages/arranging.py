"""The arrangement as stored and sent, and its one atomic write."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.db import connection, transaction

from folio_core import clock
from folio_core.page import Recipe, Tone
from folio_core.placing import Arrangement, BadArrangement, Placement
from live.bell import CHANNEL, message

from . import jobs
from .models import Event, Folio, Page, record
from .statements import locked

_STORE = """
WITH stored AS (UPDATE folios_folio SET arrangement = %s, version = %s WHERE id = %s RETURNING 1)
SELECT pg_notify(%s, %s) FROM stored
"""


class Stale(Exception):
    """The arrangement was changed since it was read. Nothing was written."""

    def __init__(self, folio: Folio) -> None:
        super().__init__("The arrangement was changed elsewhere since.")
        self.folio = folio


def read(document: Mapping[str, Any]) -> Arrangement:
    """Raises BadArrangement for a document that is none."""
    try:
        return Arrangement(
            order=tuple(document.get("order", ())),
            removed=frozenset(document.get("removed", ())),
            loose=frozenset(document.get("loose", ())),
            placements={
                label: tuple(Placement(spot["page"], spot.get("top")) for spot in row)
                for label, row in document.get("placements", {}).items()
                if row
            },
            left_blank=frozenset(document.get("left_blank", ())),
            recipes={int(page): recipe_of(kept) for page, kept in document.get("recipes", {}).items()},
            dismissed={int(page): frozenset(codes) for page, codes in document.get("dismissed", {}).items() if codes},
            sides=document.get("sides"),
            comment=document.get("comment", ""),
            notes={int(page): note for page, note in document.get("notes", {}).items() if note},
        )
    except (KeyError, TypeError, AttributeError) as error:
        raise BadArrangement("This arrangement cannot be read. Reload the board.") from error


def recipe_of(kept: Mapping[str, Any]) -> Recipe:
    """Raises BadArrangement for corners that are no outline."""
    corners = kept.get("corners")
    if corners is not None and [len(corner) for corner in corners] != [2, 2, 2, 2]:
        raise BadArrangement("A sheet has four corners, each an x and a y. Nothing was changed.")
    try:
        return Recipe(
            corners=None if corners is None else tuple((float(x), float(y)) for x, y in corners),  # type: ignore[arg-type]
            turn=kept.get("turn"),
            tone=Tone(kept.get("tone", Tone.CLEAN)),
        )
    except ValueError as error:
        raise BadArrangement(f"{error} Nothing was changed.") from error


def written(arrangement: Arrangement) -> dict[str, Any]:
    return {
        "order": list(arrangement.order),
        "removed": sorted(arrangement.removed),
        "loose": sorted(arrangement.loose),
        "placements": {
            label: [{"page": spot.page, "top": spot.top} for spot in row]
            for label, row in arrangement.placements.items()
        },
        "left_blank": sorted(arrangement.left_blank),
        "recipes": {
            str(page): {"corners": recipe.corners, "turn": recipe.turn, "tone": recipe.tone.value}
            for page, recipe in arrangement.recipes.items()
        },
        "dismissed": {str(page): sorted(codes) for page, codes in arrangement.dismissed.items()},
        "sides": arrangement.sides,
        "comment": arrangement.comment,
        "notes": {str(page): note for page, note in arrangement.notes.items()},
    }


def current(folio: Folio) -> Arrangement:
    """The folio's arrangement, without what was said of labels that have left the question map since."""
    return read(folio.arrangement).kept_to(folio.assignment.outline)


def store(folio: Folio, arrangement: Arrangement) -> None:
    """Write a locked folio's arrangement as its next version, and tell who is looking."""
    folio.arrangement = written(arrangement)
    folio.version += 1
    with connection.cursor() as cursor:
        news = message(folio.pk, version=folio.version)
        cursor.execute(_STORE, [json.dumps(folio.arrangement), folio.version, folio.pk, CHANNEL, news])


@transaction.atomic
def arrange(folio_id: int, *, seen: int, arrangement: Arrangement, now: datetime) -> Folio:
    """Replace the arrangement that was seen as version ``seen``.

    Raises Stale with the newer state, BadArrangement, or SittingClosed once placing has ended.
    """
    folio = locked(folio_id)
    clock.require_placing(folio.window(), now)
    if folio.version != seen:
        raise Stale(folio)
    pages = folio.pages.exclude(state=Page.State.FAILED).values_list("pk", flat=True)
    arrangement.require_fits(folio.assignment.outline, pages)
    _require_same_pages_after_close(folio, arrangement, now)
    _correct(folio, arrangement)
    store(folio, arrangement)
    record(folio, Event.Kind.ARRANGED, now, version=folio.version)
    return folio


def _correct(folio: Folio, arrangement: Arrangement) -> None:
    """Have the pages prepared anew whose recipe changed. Their originals are untouched."""
    for page in folio.pages.exclude(state=Page.State.FAILED):
        recipe = arrangement.recipes.get(page.pk, Recipe())
        if page.recipe != recipe:
            page.recipe, page.state = recipe, Page.State.WAITING
            page.save(update_fields=["corners", "turn", "tone", "state"])
            jobs.prepare_page.configure(priority=jobs.urgency(folio.window())).defer(page_id=page.pk)


def _require_same_pages_after_close(folio: Folio, arrangement: Arrangement, now: datetime) -> None:
    """After the close placing may go on, but which pages there are is settled."""
    if now >= folio.window().closes and arrangement.removed != read(folio.arrangement).removed:
        raise clock.SittingClosed("The sitting has closed: pages cannot be removed or restored any more.")
