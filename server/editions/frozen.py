"""What an edition is read with, frozen when it is handed in: whatever is edited later, it goes on saying the same."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from folio_core.binding import Asked, NotDelivered, Paper, TakenInBy
from folio_core.question_map import QuestionMap
from folio_core.terms import Terms
from folios.models import Folio
from pages.models import Pledge


@dataclass(frozen=True, slots=True)
class FrozenFacts:
    """``terms``: the rules that gave the verdict. ``time_zone`` and ``place``: of the course, for words.
    ``not_delivered``: pages that were promised and had not come. ``honour``: words that are confirmed by handing in.
    ``clean_print``: pages of the printed paper are bound on the paper itself. ``asked``: what staff had asked for
    again; ``taken_in``: by whom of them, where staff took the pages in."""

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
    clean_print: bool = False
    not_delivered: tuple[NotDelivered, ...] = ()
    asked: tuple[Asked, ...] = ()
    taken_in: TakenInBy | None = None

    @property
    def paper(self) -> Paper:
        return Paper[self.paper_size]

    def as_document(self) -> dict[str, Any]:
        plain = {name: value for name, value in asdict(self).items() if isinstance(value, str | bool)}
        promised = [{**asdict(one), "promised": one.promised.isoformat()} for one in self.not_delivered]
        documents = {"question_map": self.question_map.as_document(), "terms": self.terms.as_document()}
        asked = [{**asdict(one), "until": one.until.isoformat()} for one in self.asked]
        taken = self.taken_in and {**asdict(self.taken_in), "counts": self.taken_in.counts.isoformat()}
        return {**plain, **documents, "not_delivered": promised, "asked": asked, "taken_in": taken}

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> FrozenFacts:
        read = {
            "question_map": _question_map(json.dumps(kept["question_map"])),
            "terms": Terms.from_document(kept["terms"]),
            "not_delivered": tuple(
                NotDelivered(one["file_name"], one["sha256"], datetime.fromisoformat(one["promised"]))
                for one in kept.get("not_delivered", ())
            ),
            "asked": tuple(
                Asked(**{**one, "until": datetime.fromisoformat(one["until"])}) for one in kept.get("asked", ())
            ),
            "taken_in": _taken_in(kept.get("taken_in")),
        }
        return cls(**{**kept, **read})


@lru_cache(maxsize=256)
def _question_map(kept: str) -> QuestionMap:
    """The same value for the same document: a class of three hundred is mostly read with one map."""
    return QuestionMap.from_document(json.loads(kept))


def _taken_in(kept: Mapping[str, Any] | None) -> TakenInBy | None:
    return kept and TakenInBy(**{**kept, "counts": datetime.fromisoformat(kept["counts"])})  # type: ignore[return-value]


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
        clean_print=assignment.on_paper and assignment.clean_print,
        not_delivered=tuple(
            NotDelivered(one.file_name, one.sha256, one.promised_at)
            for one in Pledge.objects.filter(folio=folio, delivered=False).order_by("pk")
        ),
    )
