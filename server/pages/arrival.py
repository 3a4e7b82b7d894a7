"""A file arrives: streamed to disk, hashed on the way, flushed, put in place, its row committed; then acknowledged."""

from __future__ import annotations

import hashlib
import os
import uuid
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import BinaryIO

from django.conf import settings
from django.db import connection, transaction

from assignments.models import Assignment, require_taken
from folio_core import clock
from folio_core.page import HEAD_BYTES, Kind, PageError, Trouble, kind_of, too_large_message
from folio_core.placing import read_arrangement
from folios.arrangements import store
from folios.events import Arrived, Retaken
from folios.locking import locked
from folios.models import Folio, new_event, record
from plumbing.errors import Refused, not_yours
from plumbing.statements import insert_together
from plumbing.storage import move_into_place, send_ahead

from . import files
from .models import Original, Page, Pledge, TakenIn
from .queueing import enqueue_opening
from .sent import Acknowledged, Sent
from .signals import page_taken_in


@dataclass(frozen=True, slots=True)
class ReceivedFile:
    """Bytes on this machine's disk, flushed, not yet anybody's page."""

    part: Path
    sha256: str
    size: int
    kind: Kind


class Receiving:
    """Bytes on their way to the disk, hashed as they pass. ``finish`` flushes them; ``give_up`` leaves nothing."""

    def __init__(self) -> None:
        self._file: BinaryIO | None = None
        self._digest, self._size, self._head = hashlib.sha256(), 0, b""

    def add(self, chunk: bytes) -> None:
        """Raises PageError once they are more than any file may have, and OSError where there is no room."""
        self._size += len(chunk)
        if self._size > most_bytes():
            raise PageError(Trouble.TOO_LARGE, too_large_message(self._size, most_bytes()))
        self._digest.update(chunk)
        if self._file is None:
            self._file = (files.arriving_folder() / uuid.uuid4().hex).open("wb")
        self._file.write(chunk)
        if len(self._head) < HEAD_BYTES:
            self._head = (self._head + chunk)[:HEAD_BYTES]

    def finish(self) -> ReceivedFile:
        """Raises PageError (empty, wrong kind)."""
        kind = kind_of(self._head)
        assert self._file is not None  # what has a kind has bytes
        self._file.flush()
        os.fsync(self._file.fileno())
        return ReceivedFile(Path(self._file.name), self._digest.hexdigest(), self._size, kind)

    def give_up(self) -> None:
        """Safe to call at the end of every way: what was taken in has been moved from here."""
        if self._file is not None:
            self._file.close()
            Path(self._file.name).unlink(missing_ok=True)


def receive(
    folio: Folio, chunks: Iterable[bytes], sent: Sent, now: Callable[[], datetime], taken_in: TakenIn | None = None
) -> Acknowledged:
    """Take one file into a folio, at its place among the files chosen with it, or where ``instead_of`` was.

    Raises PageError (empty, wrong kind, too large), SittingClosed when the last byte came after the close and no
    pledge covers it, and Refused when the folio is full. Whatever is raised, nothing is kept and nothing else harmed.
    """
    receiving = Receiving()
    try:
        for chunk in chunks:
            receiving.add(chunk)
        return bring_in(folio.pk, receiving.finish(), sent, arrived=now(), taken_in=taken_in)
    finally:
        receiving.give_up()


def require_may_arrive(folio: Folio, sha256: str, now: datetime) -> None:
    """Before the first byte. Raises SittingClosed, but not for bytes that are here: their answer may have got lost."""
    window = folio.window()
    if clock.verdict(window, now) is not clock.Verdict.REFUSED or folio.originals.filter(sha256=sha256).exists():
        return
    clock.require_arrival(window, now, _promised_at(folio, sha256))


def most_bytes() -> int:
    return settings.FOLIO_MAX_FILE_MB * 1_000_000


def bring_in(
    folio_id: int,
    received: ReceivedFile,
    sent: Sent,
    arrived: datetime,
    *,
    of: int | None = None,
    taken_in: TakenIn | None = None,
) -> Acknowledged:
    """Sent to the storage, then taken in. Raises as `take_in`."""
    send_ahead(received.part, files.original_name(folio_id, received.sha256))
    return take_in(folio_id, received, sent, arrived, of=of, taken_in=taken_in)


@transaction.atomic
def take_in(
    folio_id: int,
    received: ReceivedFile,
    sent: Sent,
    arrived: datetime,
    *,
    of: int | None = None,
    taken_in: TakenIn | None = None,
) -> Acknowledged:
    """Bytes that were received, and sent ahead, become a page of the folio. Raises as `receive`, and Refused (404)
    where the folio is not that of the student ``of``. ``taken_in``: by staff, at any time; judged as they said.

    Every query counts here: at a close, everybody waits for this function.
    """
    try:
        folio = locked(folio_id)
    except Folio.DoesNotExist as error:
        raise not_yours() from error
    if of not in (None, folio.student_id):
        raise not_yours()
    known_id, pledge_id, waiting, original_id, page_id, page_kinds = _seen(folio, received)
    if known_id is not None:
        return _again(folio, Original.objects.get(pk=known_id), arrived)
    promised = Pledge.objects.get(pk=pledge_id) if pledge_id else None
    window = folio.window()
    if taken_in is not None:
        judged = clock.judged_by_staff(window, taken_in.counts_at)
    else:
        require_taken(page_kinds, received.kind)
        judged = clock.require_arrival(window, arrived, promised.promised_at if promised else None)
    if len(folio.arrangement.get("order", ())) >= settings.FOLIO_MAX_PAGES:  # pages that failed are not in it
        most = settings.FOLIO_MAX_PAGES
        raise Refused(422, "too_many_pages", f"A folio holds at most {most} pages. Remove some, or combine sheets.")
    name = files.original_name(folio.pk, received.sha256)
    move_into_place(received.part, name)
    original = Original(
        pk=original_id, folio=folio, file_name=sent.file_name[:255] or "unnamed", kind=received.kind,
        sha256=received.sha256, size=received.size, stored_as=name, arrived_at=arrived, verdict=judged.verdict,
        late_seconds=round(judged.late_by.total_seconds()), promised_at=promised.promised_at if promised else None,
        batch=sent.batch, batch_number=sent.number, seconds=sent.seconds, camera_id=sent.camera,
        taken_in=taken_in,
    )  # fmt: skip
    if promised is not None:
        promised.delivered = True
        promised.save(update_fields=["delivered"])
    page = Page(pk=page_id, folio=folio, original=original, index=0)
    event = Arrived(
        original=original.pk, sha256=received.sha256, file_name=original.file_name, promised_at=original.promised_at
    )
    insert_together(original, page, new_event(folio, event, arrived))
    _lay_down(folio, page, sent, arrived)
    enqueue_opening(original.pk, window, waiting)
    if taken_in is None:  # what staff take in is handed in by them
        page_taken_in.send(Page, folio=folio, window=window, now=arrived)
    return Acknowledged(original, page.pk, already=False)


def _seen(folio: Folio, received: ReceivedFile) -> tuple[int | None, int | None, int, int, int, str]:
    """The original that has these bytes already, the pledge that promised them, how many pages of the folio wait to be
    prepared, ids for a new original and page, and which kinds of pages the assignment takes."""
    with connection.cursor() as cursor:
        cursor.execute(
            _seeing(),
            [
                folio.pk, received.sha256, folio.pk, received.sha256, received.size, folio.pk, Page.State.WAITING,
                folio.assignment_id,
            ],
        )  # fmt: skip
        seen: tuple[int | None, int | None, int, int, int, str] = cursor.fetchone()
    return seen


@cache
def _seeing() -> str:
    originals, pledges, pages, assignments = (model._meta.db_table for model in (Original, Pledge, Page, Assignment))
    return (
        f"SELECT (SELECT id FROM {originals} WHERE folio_id = %s AND sha256 = %s),"
        f" (SELECT id FROM {pledges} WHERE folio_id = %s AND sha256 = %s AND size = %s),"
        f" (SELECT count(*) FROM {pages} WHERE folio_id = %s AND state = %s),"
        f" nextval(pg_get_serial_sequence('{originals}', 'id')), nextval(pg_get_serial_sequence('{pages}', 'id')),"
        f" (SELECT page_kinds FROM {assignments} WHERE id = %s)"
    )


def _lay_down(folio: Folio, page: Page, sent: Sent, at: datetime) -> None:
    """Give a new page its place: that of the page it was taken instead of, else among the files chosen with it."""
    arrangement = read_arrangement(folio.arrangement)
    if sent.instead_of in arrangement.pages and _may_replace(folio, sent):
        store(folio, arrangement.with_page_replaced(sent.instead_of, page.pk))
        record(folio, Retaken(page=sent.instead_of, by=page.pk), at)
        return
    # Removed meanwhile, or never one of this folio: the new picture is kept all the same.
    laid = {pk: at for at, pk in enumerate(arrangement.order)}
    others = [(number, laid[pk]) for pk, number in _chosen_with(folio, sent) if pk in laid]
    before = [at for number, at in others if number < sent.number]
    behind = [at for number, at in others if number > sent.number]
    at_index = max(before) + 1 if before else min(behind, default=len(arrangement.order))
    store(folio, arrangement.with_pages_at(at_index, (page.pk,)))


def _may_replace(folio: Folio, sent: Sent) -> bool:
    """A phone takes again only what came from it."""
    mine = folio.pages.filter(original__camera=sent.camera).values_list("pk", flat=True)
    return sent.camera is None or sent.instead_of in mine


def _chosen_with(folio: Folio, sent: Sent) -> list[tuple[int, int]]:
    """The pages of the files chosen together with this one, each with its file's number among them."""
    if sent.batch is None:
        return []
    pages = folio.pages.filter(original__batch=sent.batch)
    return list(pages.values_list("pk", "original__batch_number").order_by())


def _promised_at(folio: Folio, sha256: str) -> datetime | None:
    promised = folio.pledges.filter(sha256=sha256).first() if sha256 else None
    return promised.promised_at if promised else None


def _again(folio: Folio, known: Original, now: datetime) -> Acknowledged:
    """The same bytes a second time: the page that is there; one that was removed comes back while pages may come, and
    one that could not be opened is tried again."""
    pages = list(known.pages.order_by("index", "half"))
    if len(pages) == 1 and pages[0].state == Page.State.FAILED:
        trouble = Trouble(pages[0].trouble)
        if not trouble.may_pass_later:
            raise PageError(trouble, pages[0].trouble_message)
        _try_again(folio, pages[0])
    arrangement = read_arrangement(folio.arrangement)
    removed = arrangement.removed - {page.pk for page in pages}
    if removed != arrangement.removed and clock.verdict(folio.window(), now) is not clock.Verdict.REFUSED:
        store(folio, replace(arrangement, removed=removed))
    return Acknowledged(known, pages[0].pk, already=True)


def _try_again(folio: Folio, page: Page) -> None:
    """What could not be opened was sent again: it is opened again, at the end of the order."""
    page.state, page.trouble, page.trouble_message = Page.State.WAITING, "", ""
    page.save(update_fields=["state", "trouble", "trouble_message"])
    store(folio, read_arrangement(folio.arrangement).with_pages_after(None, (page.pk,)))
    enqueue_opening(page.original_id, folio.window())
