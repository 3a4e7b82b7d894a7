"""Folios to open: one with very many pages and questions, and one as people hand in every week."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from arrival_bench.stand import students
from django.utils import timezone

from assignments.models import Question
from folio_core.question_map import parse_question_map
from folio_core.reading import Candidate, Mark, PageReading
from folio_core.reading.engine import usual_engine
from folios.models import Folio
from proposals.models import ReadPage
from proposals.proposing import propose_for

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


def propose_all(ready: Ready) -> None:
    """As if each page had been read: one label of the map at its margin, and what follows from that worked out."""
    found = Folio.objects.get(pk=ready.folio_id)
    for page, label in zip(found.pages.order_by("pk"), ready.labels, strict=True):
        said = (Candidate(label, 0.98),)
        marks = (Mark(0.06, 0.12, 0.04, 0.02, 0.02, said, 3.0, 2.5, 0), Mark(0.12, 0.2, 0.1, 0.02, 0.999, (), 0, 1, 1))
        reading = PageReading(marks, 28, usual_engine().name)
        ReadPage.objects.create(page=page, image=page.image, kept_reading=reading.as_document(), read_at=timezone.now())
    propose_for(found.pk)
