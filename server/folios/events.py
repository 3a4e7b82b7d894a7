"""What can happen to a folio, each kind of event with its own fields: one discriminated union.

The record keeps them, the API passes them on as they are, and the front end's types are generated from here; their
words stand in one place there (``folio/eventWords.ts``).
"""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import Field, TypeAdapter

from folio_core.clock import Verdict


class Begun(Schema):
    kind: Literal["begun"] = "begun"


class Arrived(Schema):
    """A file is safe. ``promised_at``: when its pledge was made, where there was one."""

    kind: Literal["arrived"] = "arrived"
    original: int
    sha256: str
    file_name: str
    promised_at: datetime | None = None


class Failed(Schema):
    """A page cannot be opened."""

    kind: Literal["failed"] = "failed"
    page: int
    trouble: str


class Arranged(Schema):
    kind: Literal["arranged"] = "arranged"
    version: int


class Retaken(Schema):
    """A page was taken again: ``by`` stands in its place."""

    kind: Literal["retaken"] = "retaken"
    page: int
    by: int


class HandedIn(Schema):
    kind: Literal["handed_in"] = "handed_in"
    edition: int
    verdict: Verdict
    by_itself: bool = False


class TakenBack(Schema):
    """The student took back all that was handed in, up to this edition."""

    kind: Literal["taken_back"] = "taken_back"
    edition: int


class Bound(Schema):
    kind: Literal["bound"] = "bound"
    edition: int
    sha256: str


class PledgedPage(Schema):
    sha256: str
    size: int
    file_name: str


class Pledged(Schema):
    """``sides``: how many were said to be written."""

    kind: Literal["pledged"] = "pledged"
    pages: list[PledgedPage]
    sides: int | None = None


class Lengthened(Schema):
    kind: Literal["lengthened"] = "lengthened"
    minutes: int
    by: str


class Amended(Schema):
    """The terms of begun work were changed, in the student's favour."""

    kind: Literal["amended"] = "amended"
    closed_before: datetime
    closes_now: datetime


class LabelChange(Schema):
    """One entry of the question map: what became of it. ``was``: its label before. Of a choice that was made or taken
    away (``chosen``, ``not_chosen``) the label is as it is typed: "any 2 of (2-4)". ``answering``: it is to be answered
    in another way, or its choices or words are others."""

    change: Literal["added", "removed", "restored", "renamed", "chosen", "not_chosen", "answering"]
    label: str
    was: str = ""


class MapChanged(Schema):
    kind: Literal["map_changed"] = "map_changed"
    changes: list[LabelChange]
    by: str


class Told(Schema):
    """A word of the course's staff to the student, shown on the board."""

    kind: Literal["told"] = "told"
    text: str
    by: str


class Heard(Schema):
    """The board has shown the student the first ``words`` words of staff."""

    kind: Literal["heard"] = "heard"
    words: int


class AskedAgain(Schema):
    """Staff ask for something again: a page (by its id, and the number it had), all of it, or only where it belongs."""

    kind: Literal["asked_again"] = "asked_again"
    what: Literal["page", "all", "place"]
    page: int | None
    number: int | None
    reason: str
    until: datetime
    by: str


class AskingWithdrawn(Schema):
    kind: Literal["asking_ended"] = "asking_ended"
    what: Literal["page", "all", "place"]
    number: int | None
    by: str


class Said(Schema):
    """A word in the talk about a folio, at a page (by its id) or about all of it. ``staff``: else the student's."""

    kind: Literal["said"] = "said"
    page: int | None
    text: str
    by: str
    staff: bool


class PlacedByReader(Schema):
    """Who reads an edition said which page of it answers a question; ``taken_off``: or that it does not after all."""

    kind: Literal["placed_by_reader"] = "placed_by_reader"
    edition: int
    label: str
    page: int
    by: str
    taken_off: bool = False


class PlacedBySheet(Schema):
    """A page (by its id) of a printed sheet found its own place: which page of the sheet it is, from 1, and what is
    answered on it."""

    kind: Literal["placed_by_sheet"] = "placed_by_sheet"
    page: int
    sheet: int
    labels: list[str]


class TakenIn(Schema):
    """Staff took pages in for the student, which count as of ``counts_at``."""

    kind: Literal["taken_in"] = "taken_in"
    pages: int
    reason: str
    counts_at: datetime
    by: str


class Answered(Schema):
    """An answer on the screen was saved; of a question that is being answered, once in a while. ``is_empty``: what was
    there was taken out."""

    kind: Literal["answered"] = "answered"
    label: str
    version: int
    is_empty: bool = False


class ReadPlace(Schema):
    """A question that was read on a page, by the number the page then had, and how sure that was, 0–1."""

    label: str
    page: int
    confidence: float


class Confirmed(Schema):
    """Of the places that were read and proposed: those the student confirmed, and those they placed otherwise."""

    kind: Literal["confirmed"] = "confirmed"
    confirmed: list[ReadPlace]
    otherwise: list[ReadPlace]


class MarksGivenBack(Schema):
    """The student sees the marks of an edition from now on. ``again``: others than before."""

    kind: Literal["marks_given_back"] = "marks_given_back"
    edition: int
    again: bool = False


class MarksTakenBack(Schema):
    kind: Literal["marks_taken_back"] = "marks_taken_back"
    edition: int
    why: str
    by: str


class MarkQuestioned(Schema):
    """A word about the mark of one answer; ``question``: its id. ``staff``: else it is the student's."""

    kind: Literal["mark_questioned"] = "mark_questioned"
    question: str
    label: str
    text: str
    by: str
    staff: bool


AnyEvent = Annotated[
    Begun
    | Arrived
    | Failed
    | Arranged
    | Retaken
    | HandedIn
    | TakenBack
    | Bound
    | Pledged
    | Lengthened
    | Amended
    | MapChanged
    | Told
    | Heard
    | Confirmed
    | AskedAgain
    | AskingWithdrawn
    | Said
    | PlacedByReader
    | TakenIn
    | PlacedBySheet
    | Answered
    | MarksGivenBack
    | MarksTakenBack
    | MarkQuestioned,
    Field(discriminator="kind"),
]
_adapter: TypeAdapter[AnyEvent] = TypeAdapter(AnyEvent)


def event_detail(event: Schema) -> dict[str, Any]:
    """The fields of an event as they are kept beside its kind."""
    return event.model_dump(mode="json", exclude={"kind"})


def read_event(kind: str, detail: dict[str, Any]) -> AnyEvent:
    return _adapter.validate_python({"kind": kind, **detail})
