"""Ink on pages: each stroke once, under its own name, kept where it lies on the original."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from django.db import transaction

from editions.models import Edition, EditionPage
from folio_core.marking import BadInk, Stroke, Tool
from folios.locking import locked
from people.models import User
from plumbing.errors import Refused

from .models import Ink, Round

MOST_STROKES = 2000  # of a folio by one marker: a page full of them is fifty


@dataclass(frozen=True, slots=True)
class Drawn:
    """A stroke as it was drawn on an edition's page: ``points`` and ``width`` are shares, x and the width of the
    image's width, y of its height."""

    tool: Tool
    points: Sequence[tuple[float, float, float]]
    width: float
    text: str = ""


@transaction.atomic
def draw(
    edition: Edition, page_id: int, drawn: Drawn, *, key: uuid.UUID, question: str, round_: Round, by: User,
    now: datetime,
) -> Ink:  # fmt: skip
    """Sent twice it is there once; one that was erased is there again. Raises Refused: page, ink, too_many."""
    folio = locked(edition.folio_id)
    page = edition.pages.filter(page=page_id).first()
    if page is None:
        raise Refused(422, "page", "This page is not of this edition.")
    known = Ink.objects.filter(key=key).first()
    if known is not None:
        if known.by_id != by.pk or known.page_id != page_id:
            raise Refused(409, "key", "This stroke is somebody else's. Draw it again.")
        if known.erased_at is not None:
            known.erased_at = None
            known.save(update_fields=["erased_at"])
        return known
    if Ink.objects.filter(page__folio=folio, by=by, erased_at=None).count() >= MOST_STROKES:
        raise Refused(429, "too_many", f"{MOST_STROKES} strokes of yours are on this folio. Write a note instead.")
    stroke = _on_original(page, drawn)
    ink = Ink.objects.create(
        key=key, page_id=page_id, question=question, round=round_, tool=stroke.tool, points=stroke.points,
        width=stroke.width, text=stroke.text, by=by, at=now,
    )  # fmt: skip
    return ink


@transaction.atomic
def erase(ink: Ink, *, now: datetime) -> None:
    """It is kept, and can be drawn again under the same name. Erased twice is erased once."""
    locked(ink.page.folio_id)
    Ink.objects.filter(pk=ink.pk, erased_at=None).update(erased_at=now)


def _on_original(page: EditionPage, drawn: Drawn) -> Stroke:
    shares = np.array([(x, y) for x, y, _ in drawn.points], np.float64).reshape(-1, 2)
    if not np.isfinite(shares).all() or (np.abs(shares - 0.5) > 1).any():
        raise Refused(422, "ink", "Ink lies on its page, or a little beside it.")
    geometry = page.geometry
    there = geometry.to_source(shares)
    points = tuple(
        (round(float(x), 2), round(float(y), 2), round(pressure, 3))
        for (x, y), (_, _, pressure) in zip(there, drawn.points, strict=True)
    )
    try:
        return Stroke(drawn.tool, points, round(geometry.length_to_source(drawn.width), 3), drawn.text)
    except BadInk as error:
        raise Refused(422, "ink", str(error)) from error


def on_page(page: EditionPage, stroke: Stroke) -> Drawn:
    """A stroke as it lies on this edition's image of the page."""
    geometry = page.geometry
    shares = geometry.from_source(np.array([(x, y) for x, y, _ in stroke.points], np.float64))
    points = [
        (round(float(x), 5), round(float(y), 5), pressure)
        for (x, y), (_, _, pressure) in zip(shares, stroke.points, strict=True)
    ]
    return Drawn(stroke.tool, points, round(geometry.length_from_source(stroke.width), 6), stroke.text)


def ink_of(pages: Collection[int]) -> dict[int, list[Ink]]:
    """What is not erased, by page."""
    found: dict[int, list[Ink]] = defaultdict(list)
    for ink in Ink.objects.filter(page__in=pages, erased_at=None).select_related("by"):
        found[ink.page_id].append(ink)
    return found
