"""From an original to its pages, and from a page and its recipe to its image. Idempotent: done twice is done once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, replace
from datetime import datetime
from functools import partial
from typing import Any, TypeVar

from django.conf import settings
from django.db import transaction

from folio_core.page import (
    Advice,
    FirstView,
    Kind,
    Likeness,
    PageError,
    Prepared,
    Recipe,
    Trouble,
    alike,
    count_pages,
    drawn_page,
    prepare,
    run_limited,
    same_picture,
)  # fmt: skip
from folio_core.placing import read_arrangement, read_recipe, write_recipe
from folios.arrangements import store
from folios.events import Failed
from folios.locking import locked
from folios.models import folio_topic, record
from live.announcing import announce
from plumbing import storage
from plumbing.decoding import limits

from . import files
from .models import Original, Page
from .queueing import enqueue_preparing
from .signals import further_pages_found, page_ready

R = TypeVar("R")
_ONE_PAGE = {Kind.JPEG, Kind.PNG, Kind.WEBP, Kind.HEIC, Kind.AVIF, Kind.BMP, Kind.GIF}
_WEIGHT = {code: at for at, code in enumerate(Advice)}


class TryAgain(Exception):
    """A trouble that may lie with the machine and not with the file: the job is run again, and after its last try
    `upkeep` gives the page another one."""


def open_original(original_id: int, *, now: datetime, last_try: bool = True) -> None:
    """Count the pages of a file, give each its row and its place, and have each prepared.

    A photograph is one page, as its first bytes told: it is prepared at once, which the student waits for.
    """
    original = Original.objects.select_related("folio").get(pk=original_id)
    if original.kind in _ONE_PAGE:
        prepare_page(original.pages.get(index=0, half=0).pk, now=now, last_try=last_try)
        return
    try:
        count = _limited(count_pages, storage.get(original.stored_as), limits(), last_try=last_try)
        _require_room(original, count)
    except PageError as error:
        _fail(original.pages.get(index=0, half=0), error, now=now)
        return
    with transaction.atomic():
        folio = locked(original.folio_id)
        first = original.pages.get(index=0, half=0)
        known = set(original.pages.values_list("index", flat=True))
        new = [Page(folio=folio, original=original, index=index) for index in range(count) if index not in known]
        Page.objects.bulk_create(new)
        if new:
            arrangement = read_arrangement(folio.arrangement)
            ids = tuple(page.pk for page in new)
            store(folio, arrangement.with_pages_after(first.pk, ids))
            further_pages_found.send(Page, folio=folio, first=first.pk, pages=ids, now=now)
        window = folio.window()
        for waiting, page_id in enumerate(original.pages.order_by("index").values_list("pk", flat=True)):
            enqueue_preparing(page_id, window, waiting)


def _require_room(original: Original, count: int) -> None:
    """Raises PageError (TOO_MANY_PAGES) where a file of several pages would make the folio too thick."""
    others = original.folio.pages.exclude(original=original).exclude(state=Page.State.FAILED).count()
    most = settings.FOLIO_MAX_PAGES
    if others + count > most:
        raise PageError(
            Trouble.TOO_MANY_PAGES,
            f"This file has {count} pages, and the folio holds at most {most} with the {others} that are here. "
            "Send only the pages of your answers.",
        )


def prepare_page(page_id: int, *, now: datetime, last_try: bool = True) -> None:
    """Make the page's image by its present recipe, in a limited child process."""
    page = Page.objects.select_related("original", "folio").get(pk=page_id)
    if page.state == Page.State.FAILED:
        return
    recipe = page.recipe
    show = None if page.image else partial(_show_early, page)
    try:
        prepared = made(page, recipe, half=page.half, last_try=last_try, early=show)
    except PageError as error:
        _fail(page, error, now=now)
        return
    images = {
        name: files.put_image(page.folio_id, data)
        for name, data in (("image", prepared.image), ("preview", prepared.preview), ("source", prepared.source))
    }
    if prepared.halves == 2 and page.half == 0:
        _lay_other_half(page)
    with transaction.atomic():
        page = Page.objects.select_for_update().get(pk=page_id)
        if page.recipe != recipe:
            return  # the recipe changed meanwhile; that change brought its own job
        page.state = Page.State.READY
        page.trouble = page.trouble_message = ""
        page.image, page.preview, page.source = images["image"], images["preview"], images["source"]
        page.width, page.height = prepared.image_width, prepared.image_height
        page.likeness, page.taken = prepared.likeness.ink, prepared.taken
        advice = [{"code": one.code, "where": one.where} for one in prepared.advice] + _seen_before(page)
        page.advice = sorted(advice, key=lambda one: _WEIGHT[one["code"]])
        page.findings = {
            "corners": prepared.sheet.corners,
            "turn": prepared.turn,
            "tone": recipe.tone,
            "sheet_found": prepared.sheet.found,
            "confidence": prepared.sheet.confidence,
            "source_width": prepared.width,
            "source_height": prepared.height,
            "measures": asdict(prepared.measures),
            "recipe": write_recipe(recipe),
            "geometry": prepared.geometry.as_document(),
            "ink_rows": prepared.ink_rows,
        }
        page.save()
        page_ready.send(Page, page=page)
        announce(folio_topic(page.folio_id), page=page.pk)


@transaction.atomic
def _lay_other_half(left: Page) -> None:
    """A picture that shows an open book is two pages: the right one is put behind the left one, once."""
    folio = locked(left.folio_id)
    arrangement = read_arrangement(folio.arrangement)
    if left.pk not in arrangement.order:
        return  # withdrawn meanwhile
    right, new = Page.objects.get_or_create(folio=folio, original_id=left.original_id, index=left.index, half=1)
    if new:
        arrangement = arrangement.with_pages_after(left.pk, (right.pk,))
        if left.pk in arrangement.removed:
            arrangement = replace(arrangement, removed=arrangement.removed | {right.pk})
        store(folio, arrangement)
        enqueue_preparing(right.pk, folio.window(), 0)


def _show_early(page: Page, view: FirstView) -> None:
    """The page, small, while the rest of it is being made: its final preview has the same bytes."""
    preview = files.put_image(page.folio_id, view.preview)
    size = {"width": view.image_width, "height": view.image_height}
    if Page.objects.filter(pk=page.pk, state=Page.State.WAITING, image="").update(preview=preview, **size):
        announce(folio_topic(page.folio_id), page=page.pk)


def _seen_before(page: Page) -> list[dict[str, Any]]:
    """Advice that names the earlier page of the folio that shows the same sheet, if one does."""
    mine = Likeness(bytes(page.likeness))
    earlier = page.folio.pages.filter(state=Page.State.READY, pk__lt=page.pk)
    for other, original, ink in earlier.values_list("pk", "original", "likeness"):
        same = same_picture if original == page.original_id else alike
        if ink and same(mine, Likeness(bytes(ink))):
            return [{"code": Advice.SEEN_BEFORE, "where": None, "other": other}]
    return []


def made(
    page: Page, recipe: Recipe, *, half: int | None, last_try: bool, in_time: bool = False,
    early: Callable[[FirstView], None] | None = None,
) -> Prepared:  # fmt: skip
    """``half``: as `prepare` takes it. Raises PageError, or TryAgain: before the last try, and for a busy machine
    always unless ``in_time``."""
    data = storage.get(page.original.stored_as)
    arguments = (prepare, data, page.index, recipe, limits(), half)
    return _limited(*arguments, last_try=last_try, in_time=in_time, early=early)


def drawn(page: Page, turn: int, *, last_try: bool) -> bytes:
    """As `drawn_page` gives it. Raises as `made`."""
    data = storage.get(page.original.stored_as)
    return _limited(drawn_page, data, page.index, turn, last_try=last_try, in_time=last_try)


def _limited(
    function: Callable[..., R], *arguments: object, last_try: bool, in_time: bool = False,
    early: Callable[[Any], None] | None = None,
) -> R:  # fmt: skip
    """``function(*arguments)`` in a limited child. Raises as `made`."""
    try:
        return run_limited(function, *arguments, limits=limits(), early=early)
    except PageError as error:
        if (error.trouble.is_the_machines and not in_time) or (error.trouble.may_pass and not last_try):
            raise TryAgain(error.message) from error
        raise


@transaction.atomic
def _fail(page: Page, error: PageError, *, now: datetime) -> None:
    """One page that cannot be opened leaves the arrangement and says why; its original stays.

    A page that was ready before and only failed to be made anew stays as it was, with its former recipe.
    """
    folio = locked(page.folio_id)
    if Page.objects.get(pk=page.pk).recipe != page.recipe:
        return  # the recipe changed meanwhile; that change brought its own job
    record(folio, Failed(page=page.pk, trouble=error.trouble), now)
    arrangement = read_arrangement(folio.arrangement)
    if page.image:
        page.recipe, page.state = read_recipe(page.findings.get("recipe", {})), Page.State.READY
        page.trouble_message = f"That correction could not be made, so the page is as it was before. {error.message}"
        page.save(update_fields=["state", "trouble_message", "corners", "turn", "tone"])
        store(folio, replace(arrangement, recipes={**arrangement.recipes, page.pk: page.recipe}))
        return
    page.state = Page.State.FAILED
    page.trouble, page.trouble_message = error.trouble, error.message
    page.save(update_fields=["state", "trouble", "trouble_message"])
    store(folio, arrangement.without_page(page.pk))
