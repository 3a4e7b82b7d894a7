"""The record says what was proposed, and whether the student confirmed it or placed something else."""

from __future__ import annotations

from datetime import datetime

from django.dispatch import receiver

from folio_core.placing import Arrangement
from folios.events import Confirmed, ReadPlace
from folios.models import Folio, record
from pages.signals import arranged

from .models import KeptProposal


@receiver(arranged)
def record_settled(folio: Folio, before: Arrangement, after: Arrangement, now: datetime, **_: object) -> None:
    """Of pages on which something is placed for the first time, and for which something was proposed."""
    newly = _placed_pages(after) - _placed_pages(before)
    kept = KeptProposal.objects.filter(folio=folio).first() if newly else None
    if kept is None:
        return
    labels = {question.id: question.label for question in folio.assignment.question_map.questions}
    confirmed: list[ReadPlace] = []
    otherwise: list[ReadPlace] = []
    for question, page, confidence in kept.said:
        if page not in newly or page not in after.pages or question not in labels:
            continue
        told = ReadPlace(label=labels[question], page=after.pages.index(page) + 1, confidence=confidence)
        here = any(spot.page == page for spot in after.pages_of(question))
        (confirmed if here else otherwise).append(told)
    if confirmed or otherwise:
        record(folio, Confirmed(confirmed=confirmed, otherwise=otherwise), now)


def _placed_pages(arrangement: Arrangement) -> set[int]:
    return {spot.page for spots in arrangement.placements.values() for spot in spots}
