"""A file arrives: streamed to disk, hashed on the way, flushed, put in place, its row committed; then acknowledged."""

from __future__ import annotations

import hashlib
import os
import uuid
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.db import connection, transaction
from django.db.models import QuerySet

from folio_core import clock
from folio_core.page import HEAD_BYTES, PageError, Trouble, kind_of, too_large_message
from inkedfolio.errors import Refused

from . import closing, files, jobs
from .arranging import read, store
from .models import Event, Folio, Original, Page, Pledge, record


@dataclass(frozen=True, slots=True)
class Sent:
    """What the browser said of a file. ``instead_of``: a page that was taken again. ``batch`` and ``number``: files
    chosen together, and their order. ``sha256``: as promised. ``seconds``: how long ago it was chosen."""

    file_name: str
    instead_of: int | None = None
    batch: uuid.UUID | None = None
    number: int = 0
    sha256: str = ""
    seconds: float | None = None


@dataclass(frozen=True, slots=True)
class Landed:
    """Bytes on this machine's disk, flushed, not yet anybody's page."""

    part: Path
    sha256: str
    size: int
    kind: str


@dataclass(frozen=True, slots=True)
class Acknowledged:
    original: Original
    page_id: int
    already: bool


def receive(folio: Folio, chunks: Iterable[bytes], sent: Sent, now: Callable[[], datetime]) -> Acknowledged:
    """Take one file into a folio, at its place among the files chosen with it, or where ``instead_of`` was.

    Raises PageError (empty, wrong kind, too large), SittingClosed when the last byte came after the close and no
    pledge covers it, and Refused when the folio is full. Whatever is raised, nothing is kept and nothing else harmed.
    """
    landed = _land(chunks)
    try:
        return take_in(folio, landed, sent, arrived=now())
    finally:
        landed.part.unlink(missing_ok=True)


def require_may_arrive(folio: Folio, sha256: str, now: datetime) -> None:
    """Before the first byte of a large file. Raises SittingClosed."""
    clock.require_arrival(folio.window(), now, _promised_at(folio, sha256))


def arriving_folder() -> Path:
    folder = Path(settings.MEDIA_ROOT) / "arriving"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def most_bytes() -> int:
    return settings.FOLIO_MAX_FILE_MB * 1_000_000


def _land(chunks: Iterable[bytes]) -> Landed:
    part = arriving_folder() / uuid.uuid4().hex
    digest, size, head = hashlib.sha256(), 0, b""
    try:
        with part.open("wb") as file:
            for chunk in chunks:
                size += len(chunk)
                if size > most_bytes():
                    raise PageError(Trouble.TOO_LARGE, too_large_message(size, most_bytes()))
                digest.update(chunk)
                file.write(chunk)
                head = head if len(head) >= HEAD_BYTES else (head + chunk)[:HEAD_BYTES]
            kind = kind_of(head)
            file.flush()
            os.fsync(file.fileno())
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    return Landed(part, digest.hexdigest(), size, kind)


@transaction.atomic
def take_in(folio: Folio, landed: Landed, sent: Sent, arrived: datetime) -> Acknowledged:
    """Bytes that have landed become a page of the folio. Raises as `receive`.

    Every query counts here: at a close, everybody waits for this function.
    """
    assignment = folio.assignment
    folio = Folio.objects.select_for_update().get(pk=folio.pk)
    folio.assignment = assignment
    known_id, pledge_id = _seen(folio, landed)
    if known_id is not None:
        return _again(folio, Original.objects.get(pk=known_id), arrived)
    promised = Pledge.objects.get(pk=pledge_id) if pledge_id else None
    window = folio.window()
    judged = clock.require_arrival(window, arrived, promised.promised_at if promised else None)
    if len(folio.arrangement.get("order", ())) >= settings.FOLIO_MAX_PAGES:  # pages that failed are not in it
        most = settings.FOLIO_MAX_PAGES
        raise Refused(422, "too_many_pages", f"A folio holds at most {most} pages. Remove some, or combine sheets.")
    name = files.original_name(folio.pk, landed.sha256)
    files.move_into_place(landed.part, name)
    original = Original.objects.create(
        folio=folio, file_name=sent.file_name[:255] or "unnamed", kind=landed.kind, sha256=landed.sha256,
        size=landed.size, stored_as=name, arrived_at=arrived, verdict=judged.verdict,
        late_seconds=round(judged.late_by.total_seconds()), promised_at=promised.promised_at if promised else None,
        batch=sent.batch, batch_number=sent.number, seconds=sent.seconds,
    )  # fmt: skip
    page = Page.objects.create(folio=folio, original=original, index=0)
    _lay_down(folio, page, sent, arrived)
    about = {"original": original.pk, "sha256": landed.sha256, "file_name": original.file_name}
    if promised is not None:
        promised.delivered = True
        promised.save(update_fields=["delivered"])
        about["promised_at"] = promised.promised_at.isoformat()
    record(folio, Event.Kind.ARRIVED, arrived, **about)
    jobs.open_original.configure(priority=jobs.urgency(window)).defer(original_id=original.pk)
    closing.after_a_page(folio, window, arrived)
    return Acknowledged(original, page.pk, already=False)


def _seen(folio: Folio, landed: Landed) -> tuple[int | None, int | None]:
    """The original that has these bytes already, and the pledge that promised them."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT (SELECT id FROM folios_original WHERE folio_id = %s AND sha256 = %s),"
            " (SELECT id FROM folios_pledge WHERE folio_id = %s AND sha256 = %s AND size = %s)",
            [folio.pk, landed.sha256, folio.pk, landed.sha256, landed.size],
        )
        original, pledge = cursor.fetchone()
    return original, pledge


def _lay_down(folio: Folio, page: Page, sent: Sent, at: datetime) -> None:
    """Give a new page its place: that of the page it was taken instead of, else among the files chosen with it."""
    arrangement = read(folio.arrangement)
    if sent.instead_of in arrangement.pages:
        store(folio, arrangement.with_page_replaced(sent.instead_of, page.pk))
        record(folio, Event.Kind.RETAKEN, at, page=sent.instead_of, by=page.pk)
        return
    # Removed meanwhile, or never one of this folio: the new picture is kept all the same.
    earlier = _chosen_with(folio, sent, page).filter(original__batch_number__lt=sent.number)
    later = _chosen_with(folio, sent, page).filter(original__batch_number__gt=sent.number)
    laid = {pk: at for at, pk in enumerate(arrangement.order)}
    before = [laid[pk] for pk in earlier.values_list("pk", flat=True) if pk in laid]
    behind = [laid[pk] for pk in later.values_list("pk", flat=True) if pk in laid]
    at_index = max(before) + 1 if before else min(behind, default=len(arrangement.order))
    store(folio, arrangement.with_pages_at(at_index, (page.pk,)))


def _chosen_with(folio: Folio, sent: Sent, page: Page) -> QuerySet[Page]:
    return (
        folio.pages.none() if sent.batch is None else folio.pages.filter(original__batch=sent.batch).exclude(pk=page.pk)
    )


def _promised_at(folio: Folio, sha256: str) -> datetime | None:
    promised = folio.pledges.filter(sha256=sha256).first() if sha256 else None
    return promised.promised_at if promised else None


def _again(folio: Folio, known: Original, now: datetime) -> Acknowledged:
    """The same bytes a second time: the page that is there; one that was removed comes back while pages may come."""
    pages = list(known.pages.order_by("index"))
    failed = next((page for page in pages if page.state == Page.State.FAILED), None)
    if failed is not None and len(pages) == 1:
        raise PageError(Trouble(failed.trouble), failed.trouble_message)
    arrangement = read(folio.arrangement)
    removed = arrangement.removed - {page.pk for page in pages}
    if removed != arrangement.removed and clock.verdict(folio.window(), now) is not clock.Verdict.REFUSED:
        store(folio, replace(arrangement, removed=removed))
    return Acknowledged(known, pages[0].pk, already=True)
