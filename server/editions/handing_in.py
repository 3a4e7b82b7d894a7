"""Handing in: freeze the folio as its next edition, bind it, sign its receipt."""

from __future__ import annotations

import hashlib
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from folio_core import binding, clock
from folio_core.page import PageError
from folio_core.placing import Arrangement, readiness
from inkedfolio.errors import Refused
from live.bell import ring

from . import files, jobs, preparing
from .arranging import current, read, written
from .models import Edition, EditionPage, Event, Folio, Page, record
from .signing import receipt_key
from .statements import locked


@transaction.atomic
def hand_in(folio: Folio, *, seen_edition: int, now: datetime) -> Edition:
    """Freeze the folio as its next edition.

    ``seen_edition`` is the newest edition the student knew of; a hand-in sent twice on a bad line is one edition.
    While placing goes on after the close, what was placed is handed in with the pages that were there at the close.
    Raises SittingClosed once that has ended too, and Refused (empty_folio) with no page. Open questions never stop it.
    """
    folio = locked(folio.pk)
    win = folio.window()
    clock.require_placing(win, now)
    newest = folio.editions.first()
    if newest is not None and newest.number > seen_edition:
        return newest
    if not current(folio).pages:
        raise Refused(422, "empty_folio", "There is no page in this folio yet. Add at least one, then hand in.")
    judged = clock.judge(win, now)
    if judged.verdict is clock.Verdict.REFUSED:
        judged = of_its_pages(folio)
    return freeze(folio, judged, at=now)


def of_its_pages(folio: Folio) -> clock.Judgement:
    """The judgement on a hand-in after the close: no better than that on its latest page."""
    originals = folio.originals.filter(pages__in=current(folio).pages)
    late = max(originals.values_list("late_seconds", flat=True), default=0)
    if late or originals.filter(verdict=clock.Verdict.LATE).exists():
        return clock.Judgement(clock.Verdict.LATE, timedelta(seconds=late))
    return clock.Judgement(clock.Verdict.IN_TIME)


def freeze(folio: Folio, judged: clock.Judgement, *, at: datetime, automatic: bool = False) -> Edition:
    """The next edition of a locked folio that has pages."""
    newest = folio.editions.first()
    arrangement = current(folio)
    ready = readiness(arrangement, folio.assignment.outline)
    edition = Edition.objects.create(
        folio=folio, number=newest.number + 1 if newest else 1, handed_in_at=at, verdict=judged.verdict,
        late_seconds=round(judged.late_by.total_seconds()), automatic=automatic, comment=arrangement.comment.strip(),
        arrangement=written(arrangement), open_labels=list(ready.open_labels), open_pages=len(ready.open_pages),
        page_count=len(arrangement.pages),
    )  # fmt: skip
    _freeze_pages(edition, arrangement)
    said = {"by_itself": True} if automatic else {}
    record(folio, Event.Kind.HANDED_IN, at, edition=edition.number, verdict=judged.verdict, **said)
    jobs.bind_edition.defer(edition_id=edition.pk)  # same transaction: no edition without its job
    ring(folio.pk, edition=edition.number)
    return edition


def _freeze_pages(edition: Edition, arrangement: Arrangement) -> None:
    pages = Page.objects.in_bulk(arrangement.pages)
    EditionPage.objects.bulk_create(
        EditionPage(
            edition=edition,
            number=number,
            page=page,
            corners=page.corners,
            turn=page.turn,
            tone=page.tone,
            **_image_of(page),
        )
        for number, page in enumerate((pages[pk] for pk in arrangement.pages), 1)
    )


def _image_of(page: Page) -> dict[str, Any]:
    """The image, where it is made by the present recipe; else binding makes it."""
    if page.state != Page.State.READY:
        return {}
    return {"image": page.image, "preview": page.preview, "width": page.width, "height": page.height}


def bind_edition(edition_id: int, *, now: datetime, last_try: bool = True) -> None:
    """Make the bound PDF and the receipt of an edition, once."""
    edition = Edition.objects.select_related("folio__assignment__course", "folio__student").get(pk=edition_id)
    if edition.state == Edition.State.BOUND:
        return
    folio, assignment = edition.folio, edition.folio.assignment
    pages = list(edition.pages.select_related("page__original"))
    sheets = [_sheet(page, last_try=last_try) for page in pages]
    arrangement = read(edition.arrangement)
    title = binding.Title(
        f"{assignment.course.code} {assignment.title}",
        f"{folio.student.name} ({folio.student.number})",
        f"Edition {edition.number}, handed in {edition.handed_in_at:%Y-%m-%d %H:%M:%S} UTC",
    )
    landings = binding.landings_of(arrangement, assignment.outline)
    document = binding.bind(sheets, landings, title, assignment.paper_size, edition.handed_in_at)
    receipt = binding.sign(_manifest(edition, pages, arrangement), document, receipt_key())
    name = files.bound_name(folio.pk, edition.number)
    files.put(name, document)
    with transaction.atomic():
        edition = Edition.objects.select_for_update().get(pk=edition_id)
        if edition.state == Edition.State.BOUND:
            return
        EditionPage.objects.bulk_update(pages, ["image", "preview", "width", "height"])
        edition.state = Edition.State.BOUND
        edition.bound_sha256 = hashlib.sha256(document).hexdigest()
        edition.bound_size, edition.stored_as, edition.receipt = len(document), name, receipt.as_json()
        edition.save()
        record(folio, Event.Kind.BOUND, now, edition=edition.number, sha256=edition.bound_sha256)
        ring(folio.pk, edition=edition.number)


def _sheet(frozen: EditionPage, *, last_try: bool) -> binding.BoundPage:
    """The prepared picture of one page; prepared now where the hand-in was faster than the worker."""
    if not frozen.image:
        try:
            prepared = preparing.made(frozen.page, frozen.recipe, last_try=last_try)
        except PageError as error:
            return _notice(frozen, error)
        frozen.image = files.put_image(frozen.page.folio_id, prepared.image)
        frozen.preview = files.put_image(frozen.page.folio_id, prepared.preview)
        frozen.width, frozen.height = prepared.image_width, prepared.image_height
    image = files.get(files.image_name(frozen.page.folio_id, frozen.image))
    return binding.BoundPage(image, frozen.width, frozen.height)


def _notice(frozen: EditionPage, error: PageError) -> binding.BoundPage:
    sheet = binding.notice_page(
        [f"Page {frozen.number}: {frozen.page.original.file_name}", "This file could not be opened:", error.message,
         f"The original is kept. SHA-256 {frozen.page.original.sha256}"]
    )  # fmt: skip
    frozen.image = frozen.preview = files.put_image(frozen.page.folio_id, sheet.image)
    frozen.width, frozen.height = sheet.width, sheet.height
    return sheet


def _manifest(edition: Edition, pages: list[EditionPage], arrangement: Arrangement) -> binding.Manifest:
    folio = edition.folio
    labels = {page: tuple(label for label in folio.assignment.outline.labels
                          if page in {spot.page for spot in arrangement.pages_of(label)})
              for page in arrangement.pages}  # fmt: skip
    return binding.Manifest(
        course=folio.assignment.course.code,
        assignment=folio.assignment.title,
        student=folio.student.name,
        student_number=folio.student.number,
        edition=edition.number,
        handed_in=edition.handed_in_at,
        verdict=edition.verdict,
        late_seconds=edition.late_seconds,
        by_itself=edition.automatic,
        pages=tuple(
            binding.PageRecord(
                number=frozen.number,
                file_name=frozen.page.original.file_name,
                sha256=frozen.page.original.sha256,
                index=frozen.page.index,
                arrived=frozen.page.original.arrived_at,
                labels=labels[frozen.page_id],
                verdict=frozen.page.original.verdict,
                promised=frozen.page.original.promised_at,
                note=arrangement.notes.get(frozen.page_id, ""),
            )
            for frozen in pages
        ),
        left_blank=tuple(sorted(arrangement.left_blank)),
        open=tuple(edition.open_labels),
        comment=edition.comment,
    )


def file_stem(edition: Edition) -> str:
    """How a download is called, so that a folder of them sorts by assignment and student."""
    folio = edition.folio
    parts = (folio.assignment.course.code, folio.assignment.title, folio.student.name, f"edition {edition.number}")
    return slugify(" ".join(parts))
