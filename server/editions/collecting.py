"""All that was handed in for an assignment, in one archive that is written as it is taken: a file at a time, a piece at
a time."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import pikepdf
from django.core.files.storage import FileSystemStorage, default_storage
from django.db.models import OuterRef, Subquery
from zipstream import ZipStream

from assignments.models import Assignment
from folio_core.question_map import Question
from pages.files import original_name
from plumbing.downloads import safe_file_name

from .files import bound_name
from .manifest import file_stem
from .models import Edition
from .reader_placing import overlaid

_CHUNK = 256 * 1024


@dataclass(frozen=True, slots=True)
class Entry:
    """One file of the archive. ``size`` in bytes, where it is known before; ``read``: its pieces, when its turn is."""

    name: str
    size: int | None
    read: Callable[[], Iterator[bytes]]


def newest_editions(assignment: Assignment) -> list[Edition]:
    """Of each folio that one which counts, by the students' names."""
    newest = Edition.objects.filter(folio=OuterRef("folio")).order_by("-number").values("pk")[:1]
    editions = Edition.objects.filter(folio__assignment=assignment, pk=Subquery(newest), taken_back_at=None)
    editions = editions.select_related("folio")
    return sorted(editions, key=lambda one: (one.facts.student.split()[-1:], one.facts.student, one.pk))


def bound_documents(assignment: Assignment) -> list[Entry]:
    bound = [one for one in newest_editions(assignment) if one.state == Edition.State.BOUND]
    return [
        Entry(
            f"{file_stem(one)}.pdf", one.bound_size,
            partial(_stored, bound_name(one.folio_id, one.file_sha256)),
        )
        for one in bound
    ]  # fmt: skip


def originals(assignment: Assignment) -> list[Entry]:
    """The files as they came, a folder a student, in the order of their pages."""
    entries = []
    for edition in newest_editions(assignment):
        pages = edition.pages.select_related("page__original").order_by("number")
        files = {page.page.original_id: page.page.original for page in pages}
        for place, original in enumerate(files.values(), 1):
            stem, dot, kind = original.file_name.rpartition(".")
            name = f"{place:02}_{safe_file_name(stem or kind)}{f'.{safe_file_name(kind)}' if dot else ''}"
            stored = original_name(edition.folio_id, original.sha256)
            entries.append(Entry(f"{file_stem(edition)}/{name}", original.size, partial(_stored, stored)))
    return entries


def by_question(assignment: Assignment) -> list[Entry]:
    """For each question one PDF of all students' pages that answer it, with an outline entry a student. Pages are in
    the order of the bound documents, and a page that answers two questions is in both."""
    editions = [one for one in newest_editions(assignment) if one.state == Edition.State.BOUND]
    title = f"{assignment.course.code} {assignment.title}"
    entries = []
    for question in assignment.question_map.questions:
        parts = [(edition, pages) for edition in editions if (pages := _pages_of(edition, question))]
        if parts:
            name = safe_file_name(assignment.course.code, assignment.title, f"question {question.label}")
            read = partial(_joined, parts, f"{title}: question {question.label}")
            entries.append(Entry(f"{name}.pdf", None, read))
    return entries


def _pages_of(edition: Edition, question: Question) -> list[int]:
    """The numbers of the pages in the bound document, from 1: of its pages, and of what was typed."""
    arrangement = overlaid(edition).arrangement
    number = {page: at for at, page in enumerate(arrangement.pages, 1 + edition.sheets_before)}
    placed = {number[spot.page] for spot in arrangement.pages_of(question.id)}
    typed = {page for answer in edition.answers.all() if answer.question == question.id for page in answer.bound_pages}
    return sorted(placed | typed)


def _stored(name: str) -> Iterator[bytes]:
    with default_storage.open(name, "rb") as file:
        while chunk := file.read(_CHUNK):
            yield chunk


def _joined(parts: list[tuple[Edition, list[int]]], title: str) -> Iterator[bytes]:
    with tempfile.TemporaryDirectory() as folder:
        joined, out = Path(folder) / "joined.pdf", Path(folder) / "out.pdf"
        chosen: list[str] = []
        for edition, pages in parts:
            chosen += [str(_on_disk(edition, Path(folder))), ",".join(map(str, pages))]
        pikepdf.Job(["qpdf", "--empty", "--static-id", "--pages", *chosen, "--", str(joined)]).run()
        with pikepdf.open(joined, access_mode=pikepdf.AccessMode.stream) as pdf:
            with pdf.open_outline() as outline:
                at = 0
                for edition, pages in parts:
                    facts = edition.facts
                    outline.root.append(pikepdf.OutlineItem(f"{facts.student} ({facts.student_number})", at))
                    at += len(pages)
            pdf.docinfo["/Title"] = title
            pdf.Root.PageMode = pikepdf.Name.UseOutlines
            pdf.save(out, static_id=True)
        joined.unlink()
        with out.open("rb") as file:
            while chunk := file.read(_CHUNK):
                yield chunk


def _on_disk(edition: Edition, folder: Path) -> Path:
    name = bound_name(edition.folio_id, edition.file_sha256)
    if isinstance(default_storage, FileSystemStorage):
        return Path(default_storage.path(name))
    copy = folder / f"{edition.pk}.pdf"
    with copy.open("wb") as file:
        file.writelines(_stored(name))
    return copy


def archive(entries: Iterable[Entry]) -> ZipStream:
    """Stored, not compressed: PDFs and pictures are already. Its length is known where all sizes are."""
    entries = list(entries)
    made = ZipStream(sized=all(entry.size is not None for entry in entries))
    taken: set[str] = set()
    for entry in entries:
        name = _free(entry.name, taken)
        made.add(entry.read(), name, size=entry.size)
    return made


def _free(name: str, taken: set[str]) -> str:
    """Two students may be called the same, and have no number."""
    stem, dot, kind = name.rpartition(".")
    free, again = name, 1
    while free.lower() in taken:
        again += 1
        free = f"{stem}_{again}{dot}{kind}"
    taken.add(free.lower())
    return free
