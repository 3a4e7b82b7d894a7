"""Binding an edition: the document and its signed receipt, made only of what was frozen."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from datetime import datetime

from django.db import transaction
from django.dispatch import receiver
from django.utils.text import slugify

from folio_core import binding
from folio_core.page import PageError
from folio_core.placing import Arrangement, read_arrangement
from folio_core.question_map import Question
from folios.events import Bound
from folios.models import folio_topic, record
from live.announcing import announce
from pages import preparing
from pages.files import image_name, put_image
from pages.models import Page
from pages.signals import page_ready
from plumbing import storage

from .files import bound_name
from .frozen import FrozenFacts
from .models import Edition, EditionBinding, EditionPage
from .queueing import enqueue_binding
from .signing import issuer, publish


def bind_edition(edition_id: int, *, now: datetime, last_try: bool = True) -> None:
    """Make the bound PDF and the receipt of an edition; once, and once more when a page can be opened that could not.

    The binding before stays, with its file and its receipt.
    """
    edition = Edition.objects.select_related("folio").get(pk=edition_id)
    pages = list(edition.pages.select_related("page__original"))
    if edition.state == Edition.State.BOUND and not any(_can_be_opened_now(page) for page in pages):
        return
    sheets = [_sheet(page, last_try=last_try) for page in pages]
    before = edition.bindings.last()
    replaces = "" if before is None else binding.hash_of(binding.Receipt(**before.receipt))
    document, receipt = bound_document(edition, pages, sheets, replaces=replaces)
    sha256 = hashlib.sha256(document).hexdigest()
    storage.put(bound_name(edition.folio_id, sha256), document)
    with transaction.atomic():
        edition = Edition.objects.select_for_update(of=("self",)).select_related("folio").get(pk=edition_id)
        if edition.bindings.last() != before:
            return  # another run of this job was faster
        EditionPage.objects.bulk_update(pages, ["image", "preview", "width", "height", "is_notice"])
        edition.state = Edition.State.BOUND
        edition.bound_sha256, edition.bound_size, edition.receipt = sha256, len(document), receipt.as_json()
        edition.save(update_fields=["state", "bound_sha256", "bound_size", "receipt"])
        EditionBinding.objects.create(
            edition=edition, number=before.number + 1 if before else 1, sha256=sha256, size=len(document),
            receipt=edition.receipt, bound_at=now,
        )  # fmt: skip
        publish(issuer(), now)
        record(edition.folio, Bound(edition=edition.number, sha256=sha256), now)
        announce(folio_topic(edition.folio_id), edition=edition.number)


@receiver(page_ready)
def bind_anew(page: Page, **_: object) -> None:
    """A page that was a notice sheet in some edition has been opened after all."""
    for edition in Edition.objects.filter(pages__page=page, pages__is_notice=True).distinct():
        enqueue_binding(edition.pk)


def _can_be_opened_now(frozen: EditionPage) -> bool:
    return frozen.is_notice and frozen.page.state == Page.State.READY


def bound_document(
    edition: Edition, pages: list[EditionPage], sheets: list[binding.BoundPage], *, replaces: str = ""
) -> tuple[bytes, binding.Receipt]:
    """The document and its receipt. The same edition gives the same bytes, whatever was edited since."""
    facts, arrangement = edition.facts, read_arrangement(edition.arrangement)
    title = binding.Title(
        f"{facts.course} {facts.assignment}",
        f"{facts.student} ({facts.student_number})",
        f"Edition {edition.number}, handed in {edition.handed_in_at:%Y-%m-%d %H:%M:%S} UTC",
    )
    landings = binding.landings_of(arrangement, facts.question_map)
    document = binding.bind(sheets, landings, title, facts.paper, edition.handed_in_at)
    manifest = _manifest(edition, facts, pages, arrangement)
    return document, binding.sign(manifest, document, issuer(), replaces=replaces)


def _sheet(frozen: EditionPage, *, last_try: bool) -> binding.BoundPage:
    """The prepared picture of one page; prepared now where the hand-in was faster than the worker, and where the page
    could not be opened before."""
    if not frozen.image or _can_be_opened_now(frozen):
        try:
            half = _half_of(frozen)
            prepared = preparing.made(frozen.page, frozen.recipe, half=half, last_try=last_try, in_time=last_try)
        except PageError as error:
            return _notice(frozen, error)
        frozen.is_notice = False
        frozen.image = put_image(frozen.page.folio_id, prepared.image)
        frozen.preview = put_image(frozen.page.folio_id, prepared.preview)
        frozen.width, frozen.height = prepared.image_width, prepared.image_height
    image = storage.get(image_name(frozen.page.folio_id, frozen.image))
    return binding.BoundPage(image, frozen.width, frozen.height)


def _half_of(frozen: EditionPage) -> int | None:
    """None, the whole picture, where the hand-in was faster than the worker, which then found an open book in it: its
    other page has no place in this edition and must not be lost."""
    page = frozen.page
    other = Page.objects.filter(original=page.original_id, index=page.index).exclude(pk=page.pk).first()
    known = read_arrangement(frozen.edition.arrangement).order
    return page.half if other is not None and other.pk in known else None


def _notice(frozen: EditionPage, error: PageError) -> binding.BoundPage:
    sheet = binding.notice_page(
        [f"Page {frozen.number}: {frozen.page.original.file_name}", "This file could not be opened yet:", error.message,
         f"The original is kept. SHA-256 {frozen.page.original.sha256}"]
    )  # fmt: skip
    frozen.image = frozen.preview = put_image(frozen.page.folio_id, sheet.image)
    frozen.width, frozen.height, frozen.is_notice = sheet.width, sheet.height, True
    return sheet


def _manifest(
    edition: Edition, facts: FrozenFacts, pages: list[EditionPage], arrangement: Arrangement
) -> binding.Manifest:
    labels = labels_by_page(arrangement, facts.question_map.questions)
    return binding.Manifest(
        course=facts.course,
        assignment=facts.assignment,
        student=facts.student,
        student_number=facts.student_number,
        edition=edition.number,
        handed_in=edition.handed_in_at,
        verdict=edition.verdict,
        late_seconds=edition.late_seconds,
        by_itself=edition.automatic,
        record=edition.record_head,
        pages=tuple(
            binding.PageRecord(
                number=frozen.number,
                file_name=frozen.page.original.file_name,
                sha256=frozen.page.original.sha256,
                index=frozen.page.index,
                arrived=frozen.page.original.arrived_at,
                labels=tuple(labels[frozen.page_id]),
                verdict=frozen.page.original.verdict,
                promised=frozen.page.original.promised_at,
                note=arrangement.notes.get(frozen.page_id, ""),
            )
            for frozen in pages
        ),
        left_blank=facts.question_map.labels_of(arrangement.left_blank),
        open=tuple(edition.open_labels),
        comment=edition.comment,
        honour=edition.honour_confirmed,
        not_delivered=facts.not_delivered,
    )


def labels_by_page(arrangement: Arrangement, questions: Iterable[Question]) -> dict[int, list[str]]:
    """What each page answers of these questions, in their order."""
    labels: dict[int, list[str]] = {page: [] for page in arrangement.order}
    for question in questions:
        for spot in arrangement.pages_of(question.id):
            labels[spot.page].append(question.label)
    return labels


def file_stem(edition: Edition) -> str:
    """How a download is called, so that a folder of them sorts by assignment and student."""
    facts = edition.facts
    return slugify(f"{facts.course} {facts.assignment} {facts.student} edition {edition.number}")
