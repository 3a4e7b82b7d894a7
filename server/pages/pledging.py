"""Pledges: fingerprints of pages sent before the limit while their bytes are still on their way."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.conf import settings
from django.db import transaction

from folio_core import clock
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


@transaction.atomic
def pledge(folio: Folio, promises: Iterable[Promise], now: datetime) -> list[Pledge]:
    """Note which pages are coming. The first pledge of a page stands; one that is here already needs none.

    Raises SittingClosed outside the window, and Refused where the assignment takes no pledges or there are too many.
    """
    folio = locked(folio.pk)
    window = folio.window()
    clock.require_open(window, now)
    if not window.rules.pledge_minutes:
        raise Refused(422, "no_pledges", "This assignment takes no pledges: the bytes must be here before the close.")
    here = set(folio.originals.values_list("sha256", flat=True)) | set(folio.pledges.values_list("sha256", flat=True))
    new = {promise.sha256: promise for promise in promises if promise.sha256 not in here}
    if folio.pledges.filter(delivered=False).count() + len(new) > settings.FOLIO_MAX_PAGES:
        raise Refused(422, "too_many_pages", f"At most {settings.FOLIO_MAX_PAGES} pages can be promised.")
    Pledge.objects.bulk_create(
        Pledge(folio=folio, sha256=one.sha256, size=one.size, file_name=one.file_name[:255], promised_at=now)
        for one in new.values()
    )
    if new:
        pages = [PledgedPage(sha256=one.sha256, size=one.size, file_name=one.file_name[:255]) for one in new.values()]
        record_and_announce(folio, Pledged(pages=pages), now)
    return list(folio.pledges.filter(delivered=False))
