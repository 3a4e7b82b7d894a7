"""An instructor gives minutes to sittings that are running."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction

from assignments.models import Assignment
from folio_core.clock import Phase, phase
from inkedfolio.errors import Refused
from live.bell import ring
from people.models import User

from .models import Event, Folio, Lengthening, record
from .statements import locked

_MOST_MINUTES = 600


@transaction.atomic
def lengthen(assignment: Assignment, minutes: int, *, only: Folio | None, by: User, now: datetime) -> list[Folio]:
    """Give minutes to one running sitting, or to all that run just now; whoever looks at one is told at once.

    Raises Refused for untimed work, for minutes out of bounds, and where nothing is running.
    """
    if not assignment.rules.timed:
        raise Refused(422, "untimed", "This work has no sitting that runs. Move its due moment instead.")
    if not 1 <= minutes <= _MOST_MINUTES:
        raise Refused(422, "minutes", f"Give between 1 and {_MOST_MINUTES} minutes.")
    begun = assignment.folios.filter(pk=only.pk) if only else assignment.folios.all()
    running = [folio for folio in map(locked, begun.order_by("pk").values_list("pk", flat=True)) if _runs(folio, now)]
    if not running:
        whose = "This sitting is" if only else "No sitting of this assignment is"
        raise Refused(409, "not_running", f"{whose} running just now, so there is nothing to lengthen.")
    for folio in running:
        Lengthening.objects.create(folio=folio, at=now, minutes=minutes, by=by)
        record(folio, Event.Kind.LENGTHENED, now, minutes=minutes, by=by.name)
        ring(folio.pk, lengthened=minutes)
    return running


def _runs(folio: Folio, now: datetime) -> bool:
    return phase(folio.window(), now) in (Phase.WRITING, Phase.HANDOVER)
