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

from . import files, jobs
from .models import Edition, EditionPage, Original, Page, Upload

logger = logging.getLogger(__name__)
ORPHANS_KEPT = timedelta(days=1)
_UNDONE = ("todo", "doing")


@dataclass(frozen=True, slots=True)
class Swept:
    files_removed: int
    jobs_enqueued: int


def sweep(now: datetime) -> Swept:
    """Safe at any time and beside running workers: nothing younger than a day is removed, and jobs may run twice."""
    swept = Swept(_remove_orphans(now - ORPHANS_KEPT), _enqueue_what_was_left())
    if swept != Swept(0, 0):
        logger.warning("Swept up: %s files removed, %s jobs enqueued again", swept.files_removed, swept.jobs_enqueued)
    return swept


def _enqueue_what_was_left() -> int:
    undone = ProcrastinateJob.objects.filter(status__in=_UNDONE).values_list("task_name", "args")
    known = {(name.rpartition(".")[2], *args.values()) for name, args in undone}
    enqueued = 0
    for page in Page.objects.filter(state=Page.State.WAITING).select_related("original", "folio__assignment__course"):
        opening, preparing = ("open_original", page.original_id), ("prepare_page", page.pk)
        if not {opening, preparing} & known:
            jobs.open_original.configure(priority=jobs.urgency(page.folio.window())).defer(original_id=page.original_id)
            known.add(opening)
            enqueued += 1
    for edition in Edition.objects.filter(state=Edition.State.BINDING):
        if ("bind_edition", edition.pk) not in known:
            jobs.bind_edition.defer(edition_id=edition.pk)
            enqueued += 1
    return enqueued


def _remove_orphans(before: datetime) -> int:
    Upload.objects.filter(set_out_at__lt=before).delete()
    if not isinstance(default_storage, FileSystemStorage):
        return 0  # an object storage has rules of its own for what was never finished
    root = Path(settings.MEDIA_ROOT)
    removed = 0
    for path in [*_files(root / "arriving"), *_nobodys(root)]:
        if path.stat().st_mtime < before.timestamp():
            path.unlink(missing_ok=True)
            removed += 1
    return removed


def _nobodys(root: Path) -> Iterator[Path]:
    """Files in the folders of folios that no row names."""
    for kind, known in (("originals", _originals), ("prepared", _images), ("bound", _documents)):
        for folder in _folders(root / kind):
            names = known(int(folder.name))
            yield from (path for path in _files(folder) if path.name not in names)


def _originals(folio_id: int) -> set[str]:
    return set(Original.objects.filter(folio=folio_id).values_list("sha256", flat=True))


def _images(folio_id: int) -> set[str]:
    pages = Page.objects.filter(folio=folio_id).values_list("image", "preview", "source")
    frozen = EditionPage.objects.filter(edition__folio=folio_id).values_list("image", "preview")
    return {name for row in [*pages, *frozen] for name in row}


def _documents(folio_id: int) -> set[str]:
    numbers = Edition.objects.filter(folio=folio_id).values_list("number", flat=True)
    return {Path(files.bound_name(folio_id, number)).name for number in numbers}


def _folders(root: Path) -> list[Path]:
    return [path for path in root.iterdir() if path.is_dir() and path.name.isdigit()] if root.exists() else []


def _files(folder: Path) -> list[Path]:
    return [path for path in folder.iterdir() if path.is_file()] if folder.exists() else []
