"""Files beside the question paper, a formula sheet say: given out with it, as downloads."""

from __future__ import annotations

import os

from django.core.files.base import ContentFile
from django.db import transaction

from folio_core.page import HEAD_BYTES, count_pages, kind_of, run_limited
from plumbing.decoding import limits
from plumbing.errors import Refused

from .models import Assignment, FileBeside

MOST_BYTES, MOST_FILES = 30_000_000, 12


def add_file(assignment: Assignment, name: str, data: bytes, *, with_marks: bool = False) -> FileBeside:
    """``with_marks``: it comes with marked work, not with the paper. Raises Refused, or PageError for what is no PDF
    or picture."""
    if len(data) > MOST_BYTES:
        raise Refused(413, "too_large", f"A file has at most {MOST_BYTES // 1_000_000} MB.")
    kind = kind_of(data[:HEAD_BYTES])
    run_limited(count_pages, data, limits(), limits=limits())
    stem = " ".join(os.path.splitext(os.path.basename(name.replace("\\", "/")))[0].split())[:80] or "file"
    shown = f"{stem}.{kind.name.lower()}"
    with transaction.atomic():
        Assignment.objects.select_for_update().get(pk=assignment.pk)
        if assignment.files_beside.count() >= MOST_FILES:
            raise Refused(409, "too_many", f"At most {MOST_FILES} files go with an assignment. Take one away first.")
        if assignment.files_beside.filter(name__iexact=shown).exists():
            raise Refused(409, "same_name", f"{shown} is here already. Take it away first, or call this one otherwise.")
        beside = FileBeside(assignment=assignment, name=shown, size=len(data), with_marks=with_marks)
        beside.stored.save(shown, ContentFile(data), save=True)
    return beside
