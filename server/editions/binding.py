"""Binding an edition: the document and its signed receipt, made only of what was frozen."""

from __future__ import annotations

import hashlib
import os
import tempfile
import uuid
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.dispatch import receiver

from folio_core import binding
from folio_core.answers.typesetting import AnswerSheets, typeset
from folio_core.binding import labels_by_page, roman, words_of_page
from folio_core.page import Kind, PageError, Tone
from folio_core.placing import read_arrangement, scales_of
from folios.events import Bound
from folios.locking import locked
from folios.models import folio_topic, record
from live.announcing import announce
from pages import preparing
from pages.files import arriving_folder, image_name, put_image
from pages.models import Page
from pages.signals import page_ready
from plumbing import storage

from .files import bound_name
from .frozen import FrozenFacts
from .frozen_answers import judge_answers, on_sheets
from .manifest import footer, manifest_from
from .models import Edition, EditionBinding, EditionPage
from .on_print import lay_on_print
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
    judge_answers(edition)
    sheets = [_sheet(page, last_try=last_try) for page in pages]
    before = edition.bindings.last()
    replaces = "" if before is None else binding.hash_of(binding.Receipt(**before.receipt))
    part = arriving_folder() / f"bound-{edition.pk}-{uuid.uuid4().hex}.pdf"
    try:
        typed = typed_sheets(edition)
        receipt = write_bound(edition, pages, sheets, part, typed, replaces=replaces)
        with part.open("rb") as file:
            os.fsync(file.fileno())
            sha256, size = hashlib.file_digest(file, "sha256").hexdigest(), file.seek(0, os.SEEK_END)
        name = bound_name(edition.folio_id, sha256)
        storage.send_ahead(part, name)
        storage.move_into_place(part, name)
    finally:
        part.unlink(missing_ok=True)
    with transaction.atomic():
        locked(edition.folio_id)  # before the edition's own row, as in every change of a folio: else two wait for ever
        edition = Edition.objects.select_for_update(of=("self",)).select_related("folio").get(pk=edition_id)
        if edition.bindings.last() != before:
            return  # another run of this job was faster
        for answer in edition.answers.filter(question__in=typed.spots):
            answer.bound_pages = typed.pages_of(answer.question)
            answer.save(update_fields=["bound_pages"])
        made = ["image", "preview", "width", "height", "is_notice", "kept_geometry", "ink_rows", "kept_on_print"]
        EditionPage.objects.bulk_update(pages, made)
        edition.state = Edition.State.BOUND
        edition.bound_sha256, edition.receipt = receipt.statement["bound_sha256"], receipt.as_json()
        edition.file_sha256, edition.bound_size, edition.sheets_before = sha256, size, len(typed.before.sheets)
        edition.save(update_fields=["state", "bound_sha256", "file_sha256", "bound_size", "sheets_before", "receipt"])
        EditionBinding.objects.create(
            edition=edition, number=before.number + 1 if before else 1, sha256=sha256,
            bound_sha256=edition.bound_sha256, size=size, receipt=edition.receipt, bound_at=now,
        )  # fmt: skip
        publish(issuer(), now)
        record(edition.folio, Bound(edition=edition.number, sha256=edition.bound_sha256), now)
        announce(folio_topic(edition.folio_id), edition=edition.number)


@receiver(page_ready)
def bind_anew(page: Page, **_: object) -> None:
    """A page that was a notice sheet in some edition has been opened after all."""
    for edition in Edition.objects.filter(pages__page=page, pages__is_notice=True).distinct():
        enqueue_binding(edition.pk)


def _can_be_opened_now(frozen: EditionPage) -> bool:
    return frozen.is_notice and frozen.page.state == Page.State.READY


@dataclass(frozen=True, slots=True)
class TypedSheets:
    """The answers on the screen as sheets: those before the pages, numbered i, ii, …, and those behind them.
    ``pages``: how many lie between."""

    before: AnswerSheets
    behind: AnswerSheets
    pages: int

    @property
    def spots(self) -> dict[str, tuple[int, float]]:
        """By question id: on which page of the document, from 0, and how far down."""
        last = len(self.before.sheets) + self.pages
        first = {question: (spot.sheet, spot.top) for question, spot in self.before.spots.items()}
        return first | {question: (last + spot.sheet, spot.top) for question, spot in self.behind.spots.items()}

    def pages_of(self, question: str) -> list[int]:
        """On which pages of the document a question stands, from 1."""
        if question in self.before.spots:
            return [sheet + 1 for sheet in self.before.sheets_of(question)]
        return [len(self.before.sheets) + self.pages + 1 + sheet for sheet in self.behind.sheets_of(question)]


def typed_sheets(edition: Edition) -> TypedSheets:
    question_map, answers = edition.facts.question_map, on_sheets(edition)
    early = {one.id for one in question_map.questions if one.answering.before_pages}
    before, behind = (
        typeset(
            [one for one in answers if (one.id in early) is is_early], edition.facts.paper.size_pt, edition.handed_in_at
        )
        for is_early in (True, False)
    )
    return TypedSheets(before, behind, edition.page_count)


def write_bound(
    edition: Edition,
    pages: list[EditionPage],
    sheets: list[binding.BoundPage],
    out: Path,
    typed: TypedSheets,
    *,
    replaces: str = "",
) -> binding.Receipt:
    """Writes the document with its receipt in it. The same edition gives the same bytes, whatever was edited since."""
    facts, arrangement = edition.facts, read_arrangement(edition.arrangement)
    manifest = manifest_from(edition, facts, pages, arrangement)
    title = binding.Title(
        f"{facts.course} {facts.assignment}",
        f"{facts.student} ({facts.student_number})",
        f"Edition {edition.number}, handed in {edition.handed_in_at:%Y-%m-%d %H:%M:%S} UTC",
    )
    labels = labels_by_page(arrangement, facts.question_map.questions)
    scales = scales_of(arrangement, facts.question_map)
    of, before = len(pages) + len(typed.behind.sheets), len(typed.before.sheets)
    named = [
        _typed_sheet(sheet, words, facts, manifest, roman(number), of)
        for number, (sheet, words) in enumerate(zip(typed.before.sheets, typed.before.words, strict=True), 1)
    ]
    named += [
        replace(
            sheet,
            scale=scales.get(page.page_id, 1.0),
            words=words_of_page(page.number, of, labels[page.page_id], arrangement.descriptions.get(page.page_id, "")),
            footer=footer(manifest, page.number, of),
        )
        for page, sheet in zip(pages, sheets, strict=True)
    ]
    named += [
        _typed_sheet(sheet, words, facts, manifest, number, of)
        for number, (sheet, words) in enumerate(
            zip(typed.behind.sheets, typed.behind.words, strict=True), len(pages) + 1
        )
    ]
    landings = [
        _on_sheet(one, before, pages)
        for one in binding.landings_of(arrangement, facts.question_map, typed.spots, before=before)
    ]
    with tempfile.TemporaryDirectory(dir=out.parent) as lesser:
        fitting = binding.within(named, settings.FOLIO_BOUND_BYTES_PER_PAGE * len(named), Path(lesser))
        binding.bind(
            fitting, landings, title, facts.paper, edition.handed_in_at, out, receipt_follows=True, before=before
        )
    place = binding.place_of_receipt(out)
    with out.open("rb") as file:
        sha256 = hashlib.file_digest(file, "sha256").hexdigest()
    receipt = binding.sign(manifest, sha256, issuer(), place=place, replaces=replaces)
    binding.append_receipt(out, place, receipt.as_bytes())
    return receipt


def _on_sheet(landing: binding.Landing, before: int, pages: list[EditionPage]) -> binding.Landing:
    """On a page that is bound on its paper it lands where that spot lies there."""
    at = None if landing.page is None else landing.page - before
    if at is None or not 0 <= at < len(pages):
        return landing
    return replace(landing, top=pages[at].top_when_bound(landing.top))


def _typed_sheet(
    sheet: bytes, words: str, facts: FrozenFacts, manifest: binding.Manifest, number: int | str, of: int
) -> binding.BoundPage:
    return replace(
        binding.answer_sheet(sheet, facts.paper), words=f"Page {number} of {of}: {words}",
        footer=footer(manifest, number, of),
    )  # fmt: skip


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
        frozen.kept_geometry, frozen.ink_rows = prepared.geometry.as_document(), prepared.ink_rows
    image = partial(storage.get, image_name(frozen.page.folio_id, frozen.image))
    drawn = _drawn(frozen, last_try=last_try)
    if drawn is None and frozen.edition.facts.clean_print:
        lay_on_print(frozen)
    on_print = frozen.on_print
    if on_print:
        sheet = partial(storage.get, image_name(frozen.page.folio_id, frozen.kept_on_print["sheet"]))
        return binding.BoundPage(image, *on_print.size_pt, drawn=sheet)
    return binding.BoundPage(image, frozen.width, frozen.height, drawn=drawn)


def _drawn(frozen: EditionPage, *, last_try: bool) -> Callable[[], bytes] | None:
    """A born-digital page stays as it was drawn, unless it was cut or toned by hand, which only a picture can be."""
    recipe, original = frozen.recipe, frozen.page.original
    if original.kind != Kind.PDF or recipe.corners is not None or recipe.tone is not Tone.CLEAN:
        return None
    turn = recipe.turn if recipe.turn is not None else int(frozen.page.findings.get("turn", 0))
    try:
        drawn = preparing.drawn(frozen.page, turn, last_try=last_try)
    except PageError:
        return None  # its picture is there
    return partial(bytes, drawn) if drawn else None


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
    frozen.image = frozen.preview = put_image(frozen.page.folio_id, sheet.image())
    frozen.width, frozen.height, frozen.is_notice = sheet.width, sheet.height, True
    return sheet
