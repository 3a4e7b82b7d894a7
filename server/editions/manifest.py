"""What an edition's document says of itself: the manifest that its receipt signs, its footers and its file name."""

from __future__ import annotations

from folio_core import binding
from folio_core.binding import labels_by_page
from folio_core.placing import Arrangement, read_arrangement
from plumbing.downloads import safe_file_name

from .frozen import FrozenFacts
from .models import Edition, EditionPage


def manifest_of(edition: Edition) -> binding.Manifest:
    """Of what was frozen, with all editions before it in its chain."""
    pages = list(edition.pages.select_related("page__original"))
    return manifest_from(edition, edition.facts, pages, read_arrangement(edition.arrangement))


def manifest_from(
    edition: Edition, facts: FrozenFacts, pages: list[EditionPage], arrangement: Arrangement
) -> binding.Manifest:
    earlier = edition.folio.editions.filter(number__lt=edition.number).first()
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
        section=facts.section,
        previous=manifest_of(earlier).sha256 if earlier else "",
        counts=edition.counts_at,
        asked=facts.asked,
        taken_in=facts.taken_in,
        answers=answer_records(edition, facts),
    )


def answer_records(edition: Edition, facts: FrozenFacts) -> tuple[binding.AnswerRecord, ...]:
    labels = {question.id: question.label for question in facts.question_map.questions}
    return tuple(
        binding.AnswerRecord(
            labels.get(one.question, one.question), tuple(sorted(one.content.given)), one.sha256, one.saved_at
        )
        for one in edition.answers.all()
    )


def footer(manifest: binding.Manifest, number: int | str, of: int) -> binding.Footer:
    """Who and what to the left; where in the document, and the manifest's short hash, to the right."""
    who = f"{manifest.student} ({manifest.student_number})" if manifest.student_number else manifest.student
    left = " · ".join(one for one in (who, manifest.section, f"{manifest.course} {manifest.assignment}") if one)
    return binding.Footer(left, f"page {number} of {of} · edition {manifest.edition} · {manifest.short_hash}")


def receipt_as_pdf(edition: Edition, address: str) -> bytes:
    """Of a bound edition. ``address``: this installation's own."""
    assert edition.receipt is not None
    facts, receipt = edition.facts, binding.Receipt(**edition.receipt)
    return binding.receipt_pdf(receipt, facts.paper, facts.time_zone, f"{address}/check-receipt")


def file_stem(edition: Edition) -> str:
    """How a download is called: course, assignment, number and name, in letters that every system takes."""
    facts = edition.facts
    return safe_file_name(
        facts.course, facts.assignment, facts.student_number, facts.student, f"edition {edition.number}"
    )
