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
from django.db import transaction

from folio_core import clock
from folio_core.page import HEAD_BYTES, PageError, Trouble, kind_of, too_large_message
from inkedfolio.errors import Refused

from . import files, jobs
from .arranging import locked, read, store
from .models import Event, Folio, Original, Page, record


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


def receive(
    folio: Folio, chunks: Iterable[bytes], file_name: str, now: Callable[[], datetime], *, instead_of: int | None = None
) -> Acknowledged:
    """Take one file into a folio; ``instead_of`` a page of it that was taken again, or at the end.

    Raises PageError (empty, wrong kind, too large), SittingClosed when the last byte came after the close, and
    Refused when the folio is full. Whatever is raised, nothing is kept and nothing else is harmed.
    """
    clock.require_open(folio.window(), now())
    landed = _land(chunks)
    try:
        return _take_in(folio.pk, landed, file_name[:255] or "unnamed", arrived=now(), instead_of=instead_of)
    finally:
        landed.part.unlink(missing_ok=True)


def _land(chunks: Iterable[bytes]) -> Landed:
    folder = Path(settings.MEDIA_ROOT) / "arriving"
    folder.mkdir(parents=True, exist_ok=True)
    part = folder / uuid.uuid4().hex
    most = settings.FOLIO_MAX_FILE_MB * 1_000_000
    digest, size, head = hashlib.sha256(), 0, b""
    try:
        with part.open("wb") as file:
            for chunk in chunks:
                size += len(chunk)
                if size > most:
                    raise PageError(Trouble.TOO_LARGE, too_large_message(size, most))
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
def _take_in(folio_id: int, landed: Landed, file_name: str, arrived: datetime, instead_of: int | None) -> Acknowledged:
    folio = locked(folio_id)
    verdict = clock.require_open(folio.window(), arrived)
    known = folio.originals.filter(sha256=landed.sha256).first()
    if known is not None:
        return _again(folio, known)
    if folio.pages.exclude(state=Page.State.FAILED).count() >= settings.FOLIO_MAX_PAGES:
        most = settings.FOLIO_MAX_PAGES
        raise Refused(422, "too_many_pages", f"A folio holds at most {most} pages. Remove some, or combine sheets.")
    name = files.original_name(folio.pk, landed.sha256)
    files.move_into_place(landed.part, name)
    original = Original.objects.create(
        folio=folio, file_name=file_name, kind=landed.kind, sha256=landed.sha256, size=landed.size, stored_as=name,
        arrived_at=arrived, verdict=verdict,
    )  # fmt: skip
    page = Page.objects.create(folio=folio, original=original, index=0)
    arrangement = read(folio.arrangement)
    if instead_of in arrangement.pages:
        store(folio, arrangement.with_page_replaced(instead_of, page.pk))
        record(folio, Event.Kind.RETAKEN, arrived, page=instead_of, by=page.pk)
    else:  # removed meanwhile, or never one of this folio: the new picture is kept all the same
        store(folio, arrangement.with_pages_after(None, (page.pk,)))
    record(folio, Event.Kind.ARRIVED, arrived, original=original.pk, sha256=landed.sha256, file_name=file_name)
    jobs.open_original.defer(original_id=original.pk)
    return Acknowledged(original, page.pk, already=False)


def _again(folio: Folio, known: Original) -> Acknowledged:
    """The same bytes a second time: the page that is there; one that was removed comes back."""
    pages = list(known.pages.order_by("index"))
    failed = next((page for page in pages if page.state == Page.State.FAILED), None)
    if failed is not None and len(pages) == 1:
        raise PageError(Trouble(failed.trouble), failed.trouble_message)
    arrangement = read(folio.arrangement)
    removed = arrangement.removed - {page.pk for page in pages}
    if removed != arrangement.removed:
        store(folio, replace(arrangement, removed=removed))
    return Acknowledged(known, pages[0].pk, already=True)
