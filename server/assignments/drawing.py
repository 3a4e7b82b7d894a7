"""The question paper as pictures, so that it can be read beside one's pages, on a phone too."""

from __future__ import annotations

import hashlib
from typing import Any

from django.db import transaction
from django.db.models.signals import post_save
from django.dispatch import receiver
from procrastinate.contrib.django.models import ProcrastinateJob

from folio_core.page import Picture, count_pages, picture, run_limited
from plumbing import storage
from plumbing.decoding import limits
from plumbing.queue import enqueue_once

from .models import Assignment, PaperPage

DRAW_PAPER = "assignments.draw_paper"
QUEUE = "editions"  # a question paper does not wait behind the pages of a close


def picture_name(assignment_id: int, sha256: str) -> str:
    return f"paper-pages/{assignment_id}/{sha256}"


def paper_pages(assignment: Assignment) -> list[PaperPage]:
    """Of the paper it has now; none before they are drawn."""
    return list(assignment.paper_pages.filter(drawn_of=assignment.question_paper.name or ""))


def is_being_drawn(assignment: Assignment) -> bool:
    """Else there is nothing more to wait for: it is drawn, or cannot be."""
    jobs = ProcrastinateJob.objects.filter(task_name=DRAW_PAPER, args__assignment_id=assignment.pk)
    return jobs.filter(status__in=("todo", "doing")).exists()


@receiver(post_save, sender=Assignment)
def draw_what_is_new(instance: Assignment, **_: Any) -> None:
    if instance.question_paper and not paper_pages(instance):
        enqueue_once(DRAW_PAPER, queue=QUEUE, only_one=f"draw paper {instance.pk}", assignment_id=instance.pk)


def draw_what_was_left() -> int:
    """Papers that nobody tried to draw: given before there were pictures, or their job got lost. Returns how many."""
    tried = ProcrastinateJob.objects.filter(task_name=DRAW_PAPER, status__in=("todo", "doing", "failed"))
    known = {args["assignment_id"] for args in tried.values_list("args", flat=True)}
    left = [one for one in Assignment.objects.exclude(question_paper="").exclude(pk__in=known) if not paper_pages(one)]
    for one in left:
        draw_what_is_new(one)
    return len(left)


def draw_paper(assignment_id: int) -> None:
    """Draw each page in a limited child process. Done twice is done once. Raises PageError for a file that is none."""
    assignment = Assignment.objects.filter(pk=assignment_id).first()
    if assignment is None or not assignment.question_paper or paper_pages(assignment):
        return
    drawn_of = str(assignment.question_paper.name)
    data = storage.get(drawn_of)
    count = run_limited(count_pages, data, limits(), limits=limits())
    drawn: list[Picture] = [run_limited(picture, data, index, limits(), limits=limits()) for index in range(count)]
    rows = []
    for number, one in enumerate(drawn, 1):
        sha256 = hashlib.sha256(one.image).hexdigest()
        storage.put(picture_name(assignment.pk, sha256), one.image)
        rows.append(
            PaperPage(
                assignment=assignment, drawn_of=drawn_of, number=number, image=sha256, width=one.width,
                height=one.height,
            )
        )  # fmt: skip
    with transaction.atomic():
        Assignment.objects.select_for_update().get(pk=assignment_id)
        assignment.paper_pages.all().delete()
        PaperPage.objects.bulk_create(rows)
