"""Handing in: freeze the folio as its next edition."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction

from asking.asking import settle
from folio_core import clock
from folio_core.binding import Asked, TakenInBy
from folio_core.page import Recipe
from folio_core.placing import Arrangement, given_by, read_arrangement, readiness, write_arrangement
from folios.arrangements import current
from folios.events import HandedIn
from folios.locking import locked
from folios.models import Folio, record
from live.announcing import announce
from pages.models import Page
from plumbing.errors import Refused

from .frozen import facts_of
from .frozen_answers import FrozenAnswer, answers_to_freeze, frozen_contents
from .models import Edition, EditionAnswer, EditionPage, counting
from .queueing import enqueue_binding


@transaction.atomic
def hand_in(folio: Folio, *, seen_edition: int, now: datetime, confirmed: str = "") -> Edition:
    """Freeze the folio as its next edition.

    ``seen_edition`` is the newest edition the student knew of; a hand-in sent twice on a bad line is one edition.
    ``confirmed``: the words of honour that the student was shown beside the button.
    While placing goes on after the close, what was placed is handed in with the pages that were there at the close.
    The same pages placed otherwise count as of when they were handed in first. What staff asked for again is done.
    Raises SittingClosed once that has ended too, and Refused: empty_folio with no page, honour where other words are
    to be confirmed than were shown. Open questions never stop it.
    """
    folio = locked(folio.pk)
    window = folio.window()
    clock.require_placing(window, now)
    counts = counting(folio)
    if counts is not None and counts.number > seen_edition:
        return counts
    board = current(folio)
    answers = answers_to_freeze(folio)
    if not board.pages and not answers:
        raise Refused(422, "empty_folio", "There is nothing in this folio yet. Add a page or an answer, then hand in.")
    if confirmed != folio.assignment.honour:
        raise Refused(409, "honour", "The words to confirm by handing in have changed. Read them, then hand in.")
    same_answers = counts is not None and frozen_contents(counts) == {one.question: one.content for one in answers}
    if counts is not None and same_answers and _same_pages(read_arrangement(counts.arrangement), board):
        return freeze(
            folio, board, counts.judgement, at=now, counts_at=counts.counts_at or counts.handed_in_at,
            taken_in=counts.facts.taken_in,
        )  # fmt: skip
    judged = clock.judge(window, now)
    if clock.phase(window, now) in (clock.Phase.ASKED_AGAIN, clock.Phase.PLACING):
        judged = of_pages(folio, board)
    return freeze(folio, board, judged, at=now)


def _same_pages(one: Arrangement, other: Arrangement) -> bool:
    """The very same pictures, in whatever order and whatever is placed on them."""

    def recipes(arrangement: Arrangement) -> dict[int, Recipe]:
        return {page: arrangement.recipes.get(page, Recipe()) for page in arrangement.pages}

    return recipes(one) == recipes(other)


def of_pages(folio: Folio, arrangement: Arrangement) -> clock.Judgement:
    """The judgement on a hand-in after the close: no better than that on its latest page."""
    originals = folio.originals.filter(pages__in=arrangement.pages)
    late = max(originals.values_list("late_seconds", flat=True), default=0)
    if late or originals.filter(verdict=clock.Verdict.LATE).exists():
        return clock.Judgement(clock.Verdict.LATE, timedelta(seconds=late))
    return clock.Judgement(clock.Verdict.IN_TIME)


def freeze(
    folio: Folio,
    arrangement: Arrangement,
    judged: clock.Judgement,
    *,
    at: datetime,
    automatic: bool = False,
    counts_at: datetime | None = None,
    taken_in: TakenInBy | None = None,
    asked: tuple[Asked, ...] | None = None,
    answers: Sequence[FrozenAnswer] | None = None,
) -> Edition:
    """The next edition of a locked folio, of an arrangement that has pages. ``counts_at``: where that is not ``at``.
    ``asked``: what it answers of what staff asked for; None is all that waits, or by itself all that is over.
    ``answers``: those on the screen; None is all that are there."""
    newest = folio.editions.first()
    number = newest.number + 1 if newest else 1
    facts = replace(
        facts_of(folio), asked=_answered(folio, number, at, automatic) if asked is None else asked, taken_in=taken_in
    )
    answers = answers_to_freeze(folio) if answers is None else answers
    given = given_by(facts.question_map, {one.question: one.content for one in answers})
    ready = readiness(arrangement, facts.question_map, given)
    edition = Edition.objects.create(
        folio=folio, number=number, handed_in_at=at, counts_at=counts_at, verdict=judged.verdict,
        late_seconds=round(judged.late_by.total_seconds()), automatic=automatic, comment=arrangement.comment.strip(),
        arrangement=write_arrangement(arrangement), kept_facts=facts.as_document(),
        open_labels=list(facts.question_map.labels_of(ready.open_questions)), open_pages=len(ready.open_pages),
        page_count=len(arrangement.pages),
    )  # fmt: skip
    _freeze_pages(edition, arrangement)
    EditionAnswer.objects.bulk_create(
        EditionAnswer(
            edition=edition, question=one.question, kept_content=one.content.as_document(), sha256=one.content.sha256,
            saved_at=one.saved_at,
        )
        for one in answers
    )  # fmt: skip
    event = record(folio, HandedIn(edition=edition.number, verdict=judged.verdict, by_itself=automatic), at)
    event.refresh_from_db(fields=["chain"])  # the database made it
    edition.record_head = event.chain
    edition.save(update_fields=["record_head"])
    enqueue_binding(edition.pk)  # same transaction: no edition without its job
    announce(folio.topic, edition=edition.number)
    return edition


def _answered(folio: Folio, edition: int, at: datetime, automatic: bool) -> tuple[Asked, ...]:
    settled = settle(folio, edition, at, over=automatic)
    return tuple(Asked(one.kind, one.page_number, one.reason, one.by.name, one.until) for one in settled)


def _freeze_pages(edition: Edition, arrangement: Arrangement) -> None:
    pages = Page.objects.in_bulk(arrangement.pages)
    recipes = {page: arrangement.recipes.get(page, Recipe()) for page in pages}
    EditionPage.objects.bulk_create(
        EditionPage(
            edition=edition,
            number=number,
            page=page,
            corners=recipes[page.pk].corners,
            turn=recipes[page.pk].turn,
            tone=recipes[page.pk].tone,
            **_image_of(page, recipes[page.pk]),
        )
        for number, page in enumerate((pages[pk] for pk in arrangement.pages), 1)
    )


def _image_of(page: Page, recipe: Recipe) -> dict[str, Any]:
    """The image, where it is made by that recipe; else binding makes it."""
    if page.state != Page.State.READY or page.recipe != recipe:
        return {}
    made = {"image": page.image, "preview": page.preview, "width": page.width, "height": page.height}
    return {**made, "kept_geometry": page.findings.get("geometry"), "ink_rows": page.findings.get("ink_rows", "")}
