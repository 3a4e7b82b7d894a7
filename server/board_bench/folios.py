"""Folios to open: one with very many pages and questions, and one as people hand in every week."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from arrival_bench.stand import students

from assignments.models import Question
from folio_core.question_map import parse_question_map
from folios.models import Folio

from .prepared import lay_prepared


@dataclass(frozen=True, slots=True)
class Ready:
    folio_id: int
    cookie: str
    labels: tuple[str, ...]


def folio(title: str, pages: int, question_map: str) -> Ready:
    """A signed-in student's folio with so many prepared pages and that question map."""
    [student] = students(1, closes_in=timedelta(hours=5), title=title)
    found = Folio.objects.get(pk=student.folio_id)
    found.assignment.questions.all().delete()
    labels = parse_question_map(question_map).labels
    Question.objects.bulk_create(
        Question(assignment=found.assignment, position=at, label=label, points=2) for at, label in enumerate(labels)
    )
    lay_prepared(found, pages)
    return Ready(found.pk, student.cookie, labels)
