"""Names that are hidden from markers until the work is given back, so that nobody is marked by name."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from hashlib import sha256

from folios.models import Folio

from .models import GivenBack, MarkingScheme


def stand_in_for(folio_id: int) -> str:
    """What a folio is called where its student's name is hidden: always the same, and tells nothing of the student."""
    return f"Folio {sha256(f'folio {folio_id}'.encode()).hexdigest()[:5].upper()}"


def hidden_among(folios: Collection[Folio], now: datetime) -> set[int]:
    """Of these folios, by id, those whose names are hidden from markers."""
    hiding = set(
        MarkingScheme.objects.filter(
            assignment__in={one.assignment_id for one in folios}, hides_names=True
        ).values_list("assignment_id", flat=True)
    )
    wanted = {one.pk for one in folios if one.assignment_id in hiding}
    if not wanted:
        return set()
    back = GivenBack.objects.filter(folio__in=wanted, ended_at=None, opens_at__lte=now)
    return wanted - set(back.values_list("folio_id", flat=True))
