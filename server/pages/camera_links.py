"""A phone as the camera of a board: a right to add pages to one student's folio of one assignment, and nothing else."""

from __future__ import annotations

import hashlib
import re
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import F, Q
from django.utils.crypto import constant_time_compare, salted_hmac

from assignments.models import Assignment
from courses.joining import ALPHABET
from folio_core import clock
from folios.models import Folio, folio_topic
from live.announcing import announce
from people.models import User
from plumbing.errors import Refused

from .models import CameraLink

LASTS = timedelta(days=1)  # of untimed work, which may be open for weeks; in a sitting, as long as that lasts
LASTS_BEFORE = timedelta(days=14)  # of one that is made before the work is begun
MOST = 4  # at a time: a phone or two, and those that were lost
MOST_WRONG_FIGURES = 5
_LETTERS = 5
ENDED = (
    "This camera link has ended. Open a new one on the computer, at “Photograph by phone”. "
    "Pictures that were not sent yet are kept on this phone and go with the new link."
)
NOT_BEGUN = "The work has not begun yet: pages can be sent once it has. A test picture can be sent at any time."
_NO_SUCH_FIGURES = "These letters and figures belong to no camera link now. Look at the computer's screen again."


@dataclass(frozen=True, slots=True)
class Secrets:
    """Of one link, shown once: what its QR code holds, and what is typed by hand instead."""

    token: str
    letters: str
    figures: str


@transaction.atomic
def invite(student: User, assignment: Assignment, folio: Folio | None, now: datetime) -> tuple[CameraLink, Secrets]:
    """A new link. Raises SittingClosed where the folio takes no pages any more; the oldest ends where there are too
    many."""
    if folio is not None:
        clock.require_open(folio.window(), now)
    for old in living(student, assignment, folio, now)[MOST - 1 :]:
        end(old, now)
    made = Secrets(secrets.token_urlsafe(24), _new_letters(), f"{secrets.randbelow(10**6):06}")
    link = CameraLink.objects.create(
        student=student, assignment=assignment, folio=folio, token_sha256=_hashed(made.token), letters=made.letters,
        figures=_hashed_figures(made.letters, made.figures), made_at=now,
        until=now + (LASTS_BEFORE if folio is None else LASTS),
    )  # fmt: skip
    return link, made


def link_of(token: str, now: datetime) -> CameraLink:
    """Raises Refused (403) where the link is unknown, has ended or was taken back."""
    links = CameraLink.objects.select_related("assignment__course", "folio__assignment__course", "student")
    known = Q(token_sha256=_hashed(token)) | Q(typed_sha256=_hashed(token))
    found = links.filter(known, ended_at=None, student__is_active=True).first()
    if found is None:
        raise Refused(403, "link_ended", ENDED)
    _gain_folio(found)
    if now >= ends(found):
        raise Refused(403, "link_ended", ENDED)
    return found


def folio_of(link: CameraLink) -> Folio:
    """Raises Refused (409) while the work is not begun."""
    if link.folio is None:
        raise Refused(409, "not_begun", NOT_BEGUN)
    return link.folio


@transaction.atomic
def typed(letters: str, figures: str, now: datetime) -> str | None:
    """A secret for whoever typed both, in the place of one that was typed before; None where they are wrong. After some
    wrong figures the link lets nobody in by typing any more."""
    cleaned = re.sub(r"[^A-Z0-9]", "", letters.upper())
    link = CameraLink.objects.select_for_update().filter(letters=cleaned, ended_at=None).first()
    if link is None or link.wrong_figures >= MOST_WRONG_FIGURES or now >= ends(link):
        return None
    if not constant_time_compare(_hashed_figures(cleaned, re.sub(r"\D", "", figures)), link.figures):
        CameraLink.objects.filter(pk=link.pk).update(wrong_figures=F("wrong_figures") + 1)
        return None
    token = secrets.token_urlsafe(24)
    link.typed_sha256 = _hashed(token)
    link.save(update_fields=["typed_sha256"])
    return token


def no_such_figures() -> Refused:
    """The same for wrong letters, wrong figures and a link that has ended."""
    return Refused(403, "no_such_figures", _NO_SUCH_FIGURES)


def opened(link: CameraLink, now: datetime) -> None:
    """A phone has opened it: the board says so."""
    if link.opened_at is None:
        link.opened_at = now
        link.save(update_fields=["opened_at"])
        _tell_board(link)


def end(link: CameraLink, now: datetime) -> None:
    link.ended_at = now
    link.save(update_fields=["ended_at"])
    _tell_board(link)


def living(student: User, assignment: Assignment, folio: Folio | None, now: datetime) -> list[CameraLink]:
    """The newest first; those of a folio and those that would gain it."""
    links = assignment.camera_links.filter(Q(folio=folio) | Q(folio=None), student=student, ended_at=None)
    return [link for link in links.order_by("-pk") if now < ends(link)]


def ends(link: CameraLink) -> datetime:
    """As long as pages may come, with the time that was given meanwhile; in untimed work, and before the work is
    begun, no longer than `LASTS` or `LASTS_BEFORE`."""
    if link.folio is None:
        return link.until
    window = link.folio.window()
    last = max(window.pledges_end, window.asked_until or window.closes)
    return last if window.rules.timed else min(link.until, last)


def _gain_folio(link: CameraLink) -> None:
    if link.folio_id is not None:
        return
    begun = link.assignment.folios.filter(student=link.student_id).select_related("assignment__course", "student")
    link.folio = begun.order_by("-attempt").first()
    if link.folio is not None:
        link.save(update_fields=["folio"])


def _tell_board(link: CameraLink) -> None:
    if link.folio_id is not None:
        announce(folio_topic(link.folio_id), camera=True)


def _new_letters() -> str:
    while True:
        letters = "".join(secrets.choice(ALPHABET) for _ in range(_LETTERS))
        if not CameraLink.objects.filter(letters=letters).exists():
            return letters


def _hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _hashed_figures(letters: str, figures: str) -> str:
    """Keyed: six figures alone are found from their hash in no time."""
    return salted_hmac("pages.camera_links", f"{letters} {figures}", algorithm="sha256").hexdigest()
