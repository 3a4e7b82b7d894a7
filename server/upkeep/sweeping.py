"""Sweeping up after a crash: what was left undone is enqueued again, what belongs to nobody is removed after a day."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.core.files.storage import FileSystemStorage, default_storage
from procrastinate.contrib.django.models import ProcrastinateJob

from editions.models import Edition
from editions.queueing import BIND_EDITION, enqueue_binding
from notices import outbox
from pages.arrival import arriving_folder
from pages.models import Page, Upload
from pages.queueing import OPEN_ORIGINAL, PREPARE_PAGE, enqueue_opening
from people import guessing
from plumbing.storage import registered_folders

logger = logging.getLogger(__name__)
ORPHANS_KEPT = timedelta(days=1)
_UNDONE = ("todo", "doing")


@dataclass(frozen=True, slots=True)
class Swept:
    files_removed: int
    jobs_enqueued: int


def sweep(now: datetime) -> Swept:
    """Safe at any time and beside running workers: nothing younger than a day is removed, and jobs may run twice."""
    guessing.forget_old(now)
    outbox.forget_old(now)
    swept = Swept(_remove_orphans(now - ORPHANS_KEPT), enqueue_what_was_left())
    if swept != Swept(0, 0):
        logger.warning("Swept up: %s files removed, %s jobs enqueued again", swept.files_removed, swept.jobs_enqueued)
    return swept


def enqueue_what_was_left() -> int:
    """Work whose job got lost is given a new one. Returns how many."""
    undone = ProcrastinateJob.objects.filter(status__in=_UNDONE).values_list("task_name", "args")
    known = {(name, *args.values()) for name, args in undone}
    enqueued = 0
    for page in Page.objects.filter(state=Page.State.WAITING).select_related("original", "folio"):
        opening, preparing = (OPEN_ORIGINAL, page.original_id), (PREPARE_PAGE, page.pk)
        if not {opening, preparing} & known:
            enqueue_opening(page.original_id, page.folio.window())
            known.add(opening)
            enqueued += 1
    for edition in Edition.objects.filter(state=Edition.State.BINDING):
        if (BIND_EDITION, edition.pk) not in known:
            enqueue_binding(edition.pk)
            enqueued += 1
    return enqueued


def _remove_orphans(before: datetime) -> int:
    Upload.objects.filter(set_out_at__lt=before).delete()
    removed = 0
    for path in _orphans():
        try:
            if path.stat().st_mtime < before.timestamp():
                path.unlink()
                removed += 1
        except FileNotFoundError:
            continue  # taken in, or given up, at this moment
    return removed


def _orphans() -> Iterator[Path]:
    """Files that no row names. Pieces always lie on this machine's disk; in an object storage, its own rules sweep."""
    root = Path(settings.MEDIA_ROOT)
    yield from (path for path in arriving_folder().rglob("*") if path.is_file())
    if not isinstance(default_storage, FileSystemStorage):
        return
    for folder in registered_folders():
        if not folder.backed_up:
            continue
        names = folder.named_files()
        files = (path for path in (root / folder.name).rglob("*") if path.is_file())
        yield from (path for path in files if path.relative_to(root).as_posix() not in names)
