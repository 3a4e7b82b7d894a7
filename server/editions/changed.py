"""Whether the board differs from what was handed in last."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from folio_core.placing import Changed, changed_since, read_arrangement
from folios.arrangements import current
from folios.models import Folio

from .models import counting


@dataclass(frozen=True, slots=True)
class NotHandedIn:
    """``edition``: the newest; ``ends``: until when it can be handed in, and what counts by itself then does."""

    edition: int
    changed: Changed
    ends: datetime


def not_handed_in(folio: Folio, now: datetime) -> NotHandedIn | None:
    """None without an edition, without a difference, and when nothing can be done about it any more."""
    newest = counting(folio)
    if newest is None or now > (ends := folio.window().arranging_ends):
        return None
    changed = changed_since(read_arrangement(newest.arrangement), current(folio), folio.assignment.question_map)
    return None if changed is None else NotHandedIn(newest.number, changed, ends)
