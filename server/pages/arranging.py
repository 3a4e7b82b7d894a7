"""The one atomic write of a folio's arrangement, against the version that was seen."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from django.db import transaction

from folio_core import clock
from folio_core.clock import Window
from folio_core.page import Recipe
from folio_core.placing import Arrangement, read_arrangement, read_recipe
from folios.arrangements import store
from folios.events import Arranged
from folios.locking import locked
from folios.models import Folio, record

from .models import Page
from .queueing import enqueue_preparing
from .signals import arranged


class Stale(Exception):
    """The arrangement was changed since it was read. Nothing was written."""

    def __init__(self, folio: Folio) -> None:
        super().__init__("The arrangement was changed elsewhere since.")
        self.folio = folio


@transaction.atomic
def arrange(folio_id: int, *, seen: int, arrangement: Arrangement, now: datetime) -> Folio:
    """Replace the arrangement that was seen as version ``seen``.

    Raises Stale with the newer state, BadArrangement, or SittingClosed once placing has ended.
    """
    folio = locked(folio_id)
    window = folio.window()
    clock.require_placing(window, now)
    if folio.version != seen:
        raise Stale(folio)
    question_map, stored = folio.assignment.question_map, read_arrangement(folio.arrangement)
    pages = folio.pages.exclude(state=Page.State.FAILED).values_list("pk", flat=True)
    # Where a question left the map after this arrangement was seen, what it says of it is kept out of sight.
    known = {str(pk) for pk in folio.assignment.questions.values_list("pk", flat=True)}
    arrangement.kept_to(question_map).require_fits(question_map, pages)
    if not {*arrangement.placements, *arrangement.left_blank} <= known:
        arrangement.require_fits(question_map, pages)
    if clock.phase(window, now) is clock.Phase.PLACING:
        _require_same_pages(stored, arrangement)
    _correct(folio, arrangement, window)
    store(folio, arrangement.with_hidden_of(stored, question_map))
    record(folio, Arranged(version=folio.version), now)
    arranged.send(Folio, folio=folio, before=stored, after=arrangement, now=now)
    return folio


@transaction.atomic
def set_removed(folio_id: int, page_id: int, removed: bool, now: datetime) -> Folio:
    """Take one page away, or put it back, whatever else was changed. Raises SittingClosed once pages are fixed."""
    folio = locked(folio_id)
    clock.require_open(folio.window(), now)
    arrangement = read_arrangement(folio.arrangement)
    without = arrangement.removed - {page_id}
    wanted = without | {page_id} if removed else without
    if page_id in arrangement.order and wanted != arrangement.removed:
        store(folio, replace(arrangement, removed=wanted))
        record(folio, Arranged(version=folio.version), now)
    return folio


def _correct(folio: Folio, arrangement: Arrangement, window: Window) -> None:
    """Have the pages prepared anew whose recipe changed. Their originals are untouched."""
    waiting = folio.pages.filter(state=Page.State.WAITING).count()
    for page in folio.pages.exclude(state=Page.State.FAILED):
        recipe = arrangement.recipes.get(page.pk, Recipe())
        if page.recipe == recipe:
            continue
        page = Page.objects.select_for_update().get(pk=page.pk)  # the worker may be about to write it
        page.recipe = recipe
        # Changed and changed back before the worker came to it: the image is right already.
        made = bool(page.image) and read_recipe(page.findings.get("recipe", {})) == recipe
        page.state = Page.State.READY if made else Page.State.WAITING
        page.save(update_fields=["corners", "turn", "tone", "state"])
        if not made:
            enqueue_preparing(page.pk, window, waiting)
            waiting += 1


def _require_same_pages(stored: Arrangement, wanted: Arrangement) -> None:
    """After the close placing may go on, but which pages there are is fixed, and what is cut out of them."""
    if wanted.removed != stored.removed:
        raise clock.SittingClosed("The sitting has closed: pages cannot be removed or restored any more.")
    nothing = Recipe()
    for page in wanted.order:
        if wanted.recipes.get(page, nothing).corners != stored.recipes.get(page, nothing).corners:
            raise clock.SittingClosed("The sitting has closed: corners cannot be changed any more, only turn and tone.")
