"""An instructor gives minutes to sittings that are running."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from django.db import transaction

from assignments.models import Assignment
from folio_core import clock
from folio_core.clock import Phase, phase
from plumbing.errors import Refused

from .events import Lengthened
from .locking import locked
from .models import Folio, record_and_announce

_MOST_MINUTES = 600


@transaction.atomic
def lengthen(
    assignment: Assignment, minutes: int, *, only: Collection[int] | None, by_name: str, now: datetime
) -> list[Folio]:
    """Give minutes to these sittings, by their folios, or to all that run now; whoever looks at one is told at once.

    Raises Refused for untimed work, for minutes out of bounds, and where nothing is running.
    """
    if not assignment.rules.timed:
        raise Refused(422, "untimed", "This work has no sitting that runs. Move its due moment instead.")
    if not 1 <= minutes <= _MOST_MINUTES:
        raise Refused(422, "minutes", f"Give between 1 and {_MOST_MINUTES} minutes.")
    begun = assignment.folios.filter(is_closed=False) if only is None else assignment.folios.filter(pk__in=only)
    folios = map(locked, begun.order_by("pk").values_list("pk", flat=True))
    running = [folio for folio in folios if phase(folio.window(), now) in (Phase.WRITING, Phase.HANDOVER)]
    if not running:
        whose = "No sitting of this assignment is" if only is None or len(only) != 1 else "This sitting is"
        raise Refused(409, "not_running", f"{whose} running just now, so there is nothing to lengthen.")
    for folio in running:
        folio.kept_terms = folio.terms.lengthened(clock.Lengthening(now, minutes)).as_document()
        folio.save(update_fields=["kept_terms"])
        record_and_announce(folio, Lengthened(minutes=minutes, by=by_name), now)
    return running
