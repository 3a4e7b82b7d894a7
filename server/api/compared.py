"""Two editions of a folio side by side."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from django.http import HttpRequest
from ninja import Router, Schema

from editions.frozen_answers import frozen_contents
from editions.models import Edition
from folio_core.binding import labels_by_page
from folio_core.placing import read_arrangement
from folio_core.placing.comparing import Comparison, compare
from folios.models import Folio
from plumbing.errors import Problem

from .permissions import person, readable_edition
from .reading import ScreenAnswerOut, screen_answer
from .schemas import AssignmentOut, image_url

router = Router(tags=["receipt"])
Difference = Literal["added", "removed", "retaken", "moved", "turned", "corrected"]


class ComparedPage(Schema):
    """``other``: the number of the same page, or of the one in its place, in the other edition."""

    number: int
    preview: str
    width: int
    height: int
    labels: list[str]
    differs: list[Difference]
    other: int | None


class ComparedSide(Schema):
    edition: int
    handed_in_at: datetime
    taken_back_at: datetime | None
    pages: list[ComparedPage]


class ComparedPlacement(Schema):
    """``before``, ``after``: the numbers of its pages in each edition."""

    label: str
    before: list[int]
    after: list[int]
    blank_before: bool
    blank_after: bool


class ComparedAnswer(Schema):
    """An answer on the screen that is another one; None where there was none."""

    label: str
    before: ScreenAnswerOut | None
    after: ScreenAnswerOut | None


class ComparedOut(Schema):
    folio_id: int
    student: str
    assignment: AssignmentOut
    before: ComparedSide
    after: ComparedSide
    placed: list[ComparedPlacement]
    answers: list[ComparedAnswer]
    words_differ: bool


@router.get(
    "/folios/{int:folio_id}/editions/{int:number}/compared/{int:other}", response={200: ComparedOut, 404: Problem}
)
def compared(request: HttpRequest, folio_id: int, number: int, other: int) -> ComparedOut:
    """The earlier one is ``before``, whichever is named first."""
    user = person(request)
    before, after = (readable_edition(user, folio_id, one) for one in sorted((number, other)))
    folio, facts = after.folio, after.facts
    arrangements = read_arrangement(before.arrangement), read_arrangement(after.arrangement)
    maps = before.facts.question_map, facts.question_map
    found = compare(*arrangements, maps, _retaken(folio))
    numbers = [{page: at for at, page in enumerate(one.pages, 1)} for one in arrangements]
    return ComparedOut(
        folio_id=folio.pk, student=facts.student, assignment=AssignmentOut.frozen(folio.assignment_id, facts),
        before=_side(before, found, numbers[1], dict(found.retaken)),
        after=_side(after, found, numbers[0], {by: page for page, by in found.retaken}),
        placed=[
            ComparedPlacement(
                label=one.label, before=list(one.before), after=list(one.after), blank_before=one.left_blank[0],
                blank_after=one.left_blank[1],
            )
            for one in found.placed
        ],
        answers=_answers(before, after),
        words_differ=arrangements[0].comment.strip() != arrangements[1].comment.strip(),
    )  # fmt: skip


def _answers(before: Edition, after: Edition) -> list[ComparedAnswer]:
    contents = frozen_contents(before), frozen_contents(after)
    maps = [{one.id: one for one in edition.facts.question_map.questions} for edition in (before, after)]
    questions = {**maps[0], **maps[1]}

    def shown(side: int, pk: str) -> ScreenAnswerOut | None:
        if pk not in contents[side]:
            return None
        return screen_answer(after.folio, maps[side].get(pk, questions[pk]), contents[side][pk])

    return [
        ComparedAnswer(label=question.label, before=shown(0, pk), after=shown(1, pk))
        for pk, question in questions.items()
        if contents[0].get(pk) != contents[1].get(pk)
    ]


def _retaken(folio: Folio) -> dict[int, int]:
    return {int(row.detail["page"]): int(row.detail["by"]) for row in folio.events.filter(kind="retaken")}


def _side(edition: Edition, found: Comparison, other: dict[int, int], in_place: dict[int, int]) -> ComparedSide:
    """``other``: the numbers of the pages in the other edition; ``in_place``: pages that were taken again."""
    labels = _labels(edition)
    kinds: dict[Difference, set[int]] = {
        "added": set(found.added), "removed": set(found.removed), "retaken": set(in_place), "moved": set(found.moved),
        "turned": set(found.turned), "corrected": set(found.corrected),
    }  # fmt: skip
    return ComparedSide(
        edition=edition.number, handed_in_at=edition.handed_in_at, taken_back_at=edition.taken_back_at,
        pages=[
            ComparedPage(
                number=frozen.number, preview=image_url(edition.folio_id, frozen.preview), width=frozen.width,
                height=frozen.height, labels=labels[frozen.page_id],
                differs=[kind for kind, pages in kinds.items() if frozen.page_id in pages],
                other=other.get(in_place.get(frozen.page_id, frozen.page_id)),
            )
            for frozen in edition.pages.all()
        ],
    )  # fmt: skip


def _labels(edition: Edition) -> dict[int, list[str]]:
    return labels_by_page(read_arrangement(edition.arrangement), edition.facts.question_map.questions)
