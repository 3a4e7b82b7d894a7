"""What an edition is read with, frozen when it is handed in: whatever is edited later, it goes on saying the same."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from folio_core.binding import NotDelivered, Paper
from folio_core.question_map import QuestionMap
from folio_core.terms import Terms
from folios.models import Folio
from pages.models import Pledge


@dataclass(frozen=True, slots=True)
class FrozenFacts:
    """``terms``: the rules that gave the verdict. ``time_zone`` and ``place``: of the course, for words.
    ``not_delivered``: pages that were promised and had not come. ``honour``: words that are confirmed by handing in."""

    question_map: QuestionMap
    terms: Terms
    paper_size: str
    assignment: str
    course: str
    course_title: str
    time_zone: str
    place: str
    student: str
    student_number: str
    section: str
    honour: str = ""
    not_delivered: tuple[NotDelivered, ...] = ()

    @property
    def paper(self) -> Paper:
        return Paper[self.paper_size]

    def as_document(self) -> dict[str, Any]:
        plain = {name: value for name, value in asdict(self).items() if isinstance(value, str)}
        promised = [{**asdict(one), "promised": one.promised.isoformat()} for one in self.not_delivered]
        documents = {"question_map": self.question_map.as_document(), "terms": self.terms.as_document()}
        return {**plain, **documents, "not_delivered": promised}

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> FrozenFacts:
        read = {
            "question_map": QuestionMap.from_document(kept["question_map"]),
            "terms": Terms.from_document(kept["terms"]),
            "not_delivered": tuple(
                NotDelivered(one["file_name"], one["sha256"], datetime.fromisoformat(one["promised"]))
                for one in kept.get("not_delivered", ())
            ),
        }
        return cls(**{**kept, **read})


def facts_of(folio: Folio) -> FrozenFacts:
    """As they are now."""
    assignment, course, student = folio.assignment, folio.assignment.course, folio.student
    return FrozenFacts(
        question_map=assignment.question_map,
        terms=folio.terms,
        paper_size=assignment.paper_size,
        assignment=assignment.title,
        course=course.code,
        course_title=course.title,
        time_zone=course.time_zone,
        place=course.place,
        student=student.name,
        student_number=student.number,
        section=folio.section.name if folio.section else "",
        honour=assignment.honour,
        not_delivered=tuple(
            NotDelivered(one.file_name, one.sha256, one.promised_at)
            for one in Pledge.objects.filter(folio=folio, delivered=False).order_by("pk")
        ),
    )
