"""A phone as the camera of a board: a short-lived right to add pages to one folio, and to nothing else."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta

from django.db import transaction

from folio_core import clock
from folios.models import Folio, folio_topic
from live.announcing import announce
from plumbing.errors import Refused

from .models import CameraLink

LASTS = timedelta(days=1)  # of untimed work, which may be open for weeks; in a sitting, as long as that lasts
MOST = 4  # at a time: a phone or two, and those that were lost
ENDED = (
    "This camera link has ended. Open a new one on the computer, at “Photograph by phone”. "
    "Pictures that were not sent yet are kept on this phone and go with the new link."
)


@transaction.atomic
def invite(folio: Folio, now: datetime) -> tuple[CameraLink, str]:
    """A new link and its secret, which is shown once and not kept. Raises SittingClosed; the oldest ends where there
    are too many."""
    clock.require_open(folio.window(), now)
    for old in living(folio, now)[MOST - 1 :]:
        end(old, now)
    token = secrets.token_urlsafe(24)
    until = now + LASTS
    link = CameraLink.objects.create(folio=folio, token_sha256=_hashed(token), made_at=now, until=until)
    return link, token


def link_of(token: str, now: datetime) -> CameraLink:
    """Raises Refused (403) where the link is unknown, has ended or was taken back."""
    link = CameraLink.objects.select_related("folio__assignment__course", "folio__student")
    found = link.filter(token_sha256=_hashed(token), ended_at=None, folio__student__is_active=True).first()
    if found is None or now >= ends(found):
        raise Refused(403, "link_ended", ENDED)
    return found


def opened(link: CameraLink, now: datetime) -> None:
    """A phone has opened it: the board says so."""
    if link.opened_at is None:
        link.opened_at = now
        link.save(update_fields=["opened_at"])
        announce(folio_topic(link.folio_id), camera=True)


def end(link: CameraLink, now: datetime) -> None:
    link.ended_at = now
    link.save(update_fields=["ended_at"])
    announce(folio_topic(link.folio_id), camera=True)


def living(folio: Folio, now: datetime) -> list[CameraLink]:
    """The newest first."""
    links = folio.camera_links.filter(ended_at=None).order_by("-pk")
    return [link for link in links if now < ends(link)]


def ends(link: CameraLink) -> datetime:
    """As long as pages may come, with the time that was given meanwhile; in untimed work for a day at most."""
    window = link.folio.window()
    last = max(window.closes, window.pledges_end)
    return last if window.rules.timed else min(link.until, last)


def _hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
