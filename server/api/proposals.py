"""What the reading of a folio suggests to its student; and whether somebody wants that."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from plumbing.errors import Problem
from proposals.proposing import suggestion_for

from .permissions import own_folio, person

router = Router(tags=["proposals"])


class ReasonOut(Schema):
    """What was read, and where, as shares of the page."""

    says: str
    left: float
    top: float
    width: float
    height: float


class ProposedPlaceOut(Schema):
    """``top``: where the answer begins, a share of the page's height; None where it runs on from the page before."""

    question: str
    page: int
    top: float | None
    confidence: float
    reason: ReasonOut | None


class OutsideOut(Schema):
    """What a page says and should not: a label that the map lacks, another student's number, another assignment."""

    page: int
    says: str


class DoubtOut(Schema):
    """A question that is read on a page on which others were placed."""

    page: int
    question: str


class DoubledOut(Schema):
    """A question whose label begins an answer on pages that do not follow each other."""

    question: str
    pages: list[int]


class SuggestionOut(Schema):
    """``unread``: pages that are still to be read. ``order``: page ids, where another order than the present one is
    likelier, else empty. ``missing``: questions that seem to be on no page."""

    unread: int
    order: list[int]
    order_confidence: float
    places: list[ProposedPlaceOut]
    loose: list[int]
    missing: list[str]
    outside: list[OutsideOut]
    doubts: list[DoubtOut]
    doubled: list[DoubledOut]
    others: list[OutsideOut]
    elsewhere: list[OutsideOut]


class WantsIn(Schema):
    wants: bool


@router.get("/folios/{int:folio_id}/suggestion", response={200: SuggestionOut, 404: Problem})
def suggestion(request: HttpRequest, folio_id: int, keeps_order: bool = False) -> SuggestionOut:
    """Nothing of it holds before the student confirms it. ``keeps_order``: the pages are in their order."""
    made = suggestion_for(own_folio(person(request), folio_id), keeps_order=keeps_order)
    return SuggestionOut(
        unread=made.unread, order=list(made.order), order_confidence=made.order_confidence, loose=list(made.loose),
        missing=list(made.missing), outside=[OutsideOut(page=page, says=says) for page, says in made.outside],
        others=[OutsideOut(page=page, says=says) for page, says in made.others],
        elsewhere=[OutsideOut(page=page, says=says) for page, says in made.elsewhere],
        doubled=[DoubledOut(question=question, pages=list(pages)) for question, pages in made.doubled],
        doubts=[DoubtOut(page=page, question=question) for page, question in made.doubts],
        places=[
            ProposedPlaceOut(
                question=one.question, page=one.page, top=one.top, confidence=one.confidence,
                reason=ReasonOut.from_orm(one.reason) if one.reason else None,
            )
            for one in made.places
        ],
    )  # fmt: skip


@router.put("/account/proposals", response={204: None})
def put_wants(request: HttpRequest, body: WantsIn) -> tuple[int, None]:
    """Whether one's own pages are read and places proposed."""
    user = person(request)
    user.wants_proposals = body.wants
    user.save(update_fields=["wants_proposals"])
    return 204, None
