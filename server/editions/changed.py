"""Whether the board differs from what was handed in last."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from folio_core.placing import Changed, changed_since, read_arrangement
from folios.arrangements import current
from folios.models import Folio

from .frozen_answers import answers_at_the_close, answers_to_freeze, labels_that_differ
from .models import Edition, counting


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
    changed = _with_answers(changed or Changed((), (), ()), folio, newest)
    return NotHandedIn(newest.number, changed, ends) if changed.what else None


def _with_answers(changed: Changed, folio: Folio, newest: Edition) -> Changed:
    """What was typed since is handed in at the close; an answer that was taken out stays as the edition has it."""
    now = answers_to_freeze(folio)
    at_the_close = answers_at_the_close(folio, newest)
    differs = labels_that_differ(folio, newest, now)
    by_itself = labels_that_differ(folio, newest, at_the_close)
    left_out = [label for label in differs if label not in by_itself]
    return Changed(
        (*changed.what, *_words(differs)), (*changed.by_itself, *_words(by_itself)),
        (*changed.left_out, *_words(left_out)),
    )  # fmt: skip


def _words(labels: list[str]) -> tuple[str, ...]:
    return (f"another answer on the screen to {', '.join(labels)}",) if labels else ()
