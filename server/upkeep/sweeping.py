"""Sweeping up after a crash: what was left undone is enqueued again, what belongs to nobody is removed after a day."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.core.files.storage import default_storage
from procrastinate.contrib.django.models import ProcrastinateJob

from assignments.drawing import draw_what_was_left
from editions.models import Edition
from editions.queueing import BIND_EDITION, enqueue_binding
from notices import outbox
from pages import get_ready
from pages.files import arriving_folder
from pages.models import Page, TestPicture, Upload
from pages.queueing import JUDGE_TEST_PICTURE, OPEN_ORIGINAL, PREPARE_PAGE, enqueue_judging, enqueue_opening
from people import guessing
from plumbing.storage import names_in, registered_folders
from proposals import live_frames

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
    get_ready.forget_old(now)
    live_frames.forget_old(now)
    swept = Swept(_remove_orphans(now - ORPHANS_KEPT), enqueue_what_was_left())
    if swept != Swept(0, 0):
        logger.warning("Swept up: %s files removed, %s jobs enqueued again", swept.files_removed, swept.jobs_enqueued)
    return swept


def enqueue_what_was_left() -> int:
    """Work whose job got lost is given a new one. Returns how many."""
    undone = ProcrastinateJob.objects.filter(status__in=_UNDONE).values_list("task_name", "args")
    known = {(name, *args.values()) for name, args in undone}
    enqueued = draw_what_was_left()
    for page in Page.objects.filter(state=Page.State.WAITING).select_related("original", "folio"):
        opening, preparing = (OPEN_ORIGINAL, page.original_id), (PREPARE_PAGE, page.pk)
        if not {opening, preparing} & known:
            enqueue_opening(page.original_id, page.folio.window())
            known.add(opening)
            enqueued += 1
    for picture in TestPicture.objects.filter(state=TestPicture.State.WAITING):
        if (JUDGE_TEST_PICTURE, picture.pk) not in known:
            enqueue_judging(picture.pk)
            enqueued += 1
    for edition in Edition.objects.filter(state=Edition.State.BINDING):
        if (BIND_EDITION, edition.pk) not in known:
            enqueue_binding(edition.pk)
            enqueued += 1
    return enqueued


def _remove_orphans(before: datetime) -> int:
    Upload.objects.filter(set_out_at__lt=before).delete()
    removed = 0
    for name in _orphans():
        with suppress(FileNotFoundError):  # taken in, or given up, at this moment
            if default_storage.get_modified_time(name) < before:
                default_storage.delete(name)
                removed += 1
    for path in arriving_folder().iterdir():  # on this machine, in an object storage's case too
        with suppress(FileNotFoundError):
            if path.stat().st_mtime < before.timestamp():
                path.unlink()
                removed += 1
    return removed


def _orphans() -> Iterator[str]:
    """Files in the storage that no row names."""
    for folder in registered_folders():
        if folder.name == arriving_folder().name:
            continue
        named = folder.named_files()
        yield from (name for name in names_in(folder.name) if name not in named)
