"""Pledges: fingerprints of pages sent before the limit while their bytes are still on their way."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.conf import settings
from django.db import transaction

from folio_core import clock
from folio_core.placing import read_arrangement
from folios.events import Pledged, PledgedPage
from folios.locking import locked
from folios.models import Folio, record_and_announce
from plumbing.errors import Refused

from .models import Pledge


@dataclass(frozen=True, slots=True)
class Promise:
    sha256: str
    size: int
    file_name: str


# A student may have miscounted; but many promises of which only some are kept would be a choice after the close.
MORE_THAN_SIDES = 3


@transaction.atomic
def pledge(folio: Folio, promises: Iterable[Promise], now: datetime, sides: int | None = None) -> list[Pledge]:
    """Note which pages are coming. The first pledge of a page stands; one that is here already needs none.

    At most as many pages are promised as sides were written, and three more: those named first. Where no number of
    sides was said, on the board or with it (``sides``), that is three.
    Raises SittingClosed outside the window, and Refused where the assignment takes no pledges.
    """
    folio = locked(folio.pk)
    window = folio.window()
    clock.require_open(window, now)
    if not window.rules.pledge_minutes:
        raise Refused(422, "no_pledges", "This assignment takes no pledges: the bytes must be here before the close.")
    here = set(folio.originals.values_list("sha256", flat=True))
    promised = set(folio.pledges.values_list("sha256", flat=True))
    new = {promise.sha256: promise for promise in promises if promise.sha256 not in here | promised}
    accepted = list(new.values())[: max(0, most_promised(folio, sides) - len(promised))]
    Pledge.objects.bulk_create(
        Pledge(folio=folio, sha256=one.sha256, size=one.size, file_name=one.file_name[:255], promised_at=now)
        for one in accepted
    )
    if accepted:
        pages = [PledgedPage(sha256=one.sha256, size=one.size, file_name=one.file_name[:255]) for one in accepted]
        record_and_announce(folio, Pledged(pages=pages, sides=sides), now)
    return list(folio.pledges.filter(delivered=False))


def most_promised(folio: Folio, said: int | None) -> int:
    sides = max(read_arrangement(folio.arrangement).sides or 0, said or 0)
    return min(sides + MORE_THAN_SIDES, settings.FOLIO_MAX_PAGES)
