"""Telling a person something: once, in the application, and by mail as they chose."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from django.conf import settings
from django.core import signing
from django.db import transaction
from django.db.models import Q
from django.template.loader import render_to_string

from people.models import User

from . import outbox
from .kinds import ABOUT, ByMail, Kind
from .models import Notice, NoticeChoice

_SALT = "notices.leave"


@dataclass(frozen=True, slots=True)
class Told:
    """``once``: the same for the same happening. ``path``: where the notice leads. ``attachment``: name and bytes."""

    kind: Kind
    once: str
    subject: str
    text: str
    path: str
    attachment: tuple[str, bytes] | None = None


def notify(people: Collection[User], told: Told, now: datetime) -> None:
    """Tells each of them who does not know yet, in the caller's transaction."""
    active = {one.pk: one for one in people if one.is_active}
    known = set(Notice.objects.filter(person__in=active, once=told.once).values_list("person_id", flat=True))
    ways = choices_of(active, told.kind)
    notices = [
        Notice(
            person_id=pk, kind=told.kind, once=told.once, subject=told.subject[:200], text=told.text, path=told.path,
            made_at=now, awaits_digest=ways[pk] is ByMail.DAILY,
        )
        for pk in active.keys() - known
    ]  # fmt: skip
    Notice.objects.bulk_create(notices, ignore_conflicts=True)
    for notice in notices:
        if ways[notice.person_id] is ByMail.AT_ONCE:
            _mail(active[notice.person_id], told, now)


def choices_of(people: Collection[int], kind: Kind) -> dict[int, ByMail]:
    """How each of them wants this kind by mail."""
    chosen = NoticeChoice.objects.filter(person__in=people, kind=kind).values_list("person_id", "by_mail")
    return {**dict.fromkeys(people, ABOUT[kind].by_mail), **{pk: ByMail(way) for pk, way in chosen}}


def choose(person: User, kind: Kind, by_mail: ByMail) -> None:
    NoticeChoice.objects.update_or_create(person=person, kind=kind, defaults={"by_mail": by_mail})


def _mail(person: User, told: Told, now: datetime) -> None:
    address, leave = settings.FOLIO_ADDRESS_IN_MAILS, leave_path(person, told.kind)
    about = {
        "person": person, "subject": told.subject, "paragraphs": told.text.split("\n\n"), "link": address + told.path,
        "leave": address + leave, "account": f"{address}/account", "kind": ABOUT[told.kind].words,
    }  # fmt: skip
    outbox.post(
        person.email, told.subject, render_to_string("notices/mail.txt", about), now,
        html=render_to_string("notices/mail.html", about), leave_path=leave, attachment=told.attachment,
    )  # fmt: skip


def mail_digests(now: datetime) -> int:
    """One mail a person with all that waits for it. Returns how many."""
    waiting = list(
        Notice.objects.filter(awaits_digest=True).order_by("person").values_list("person_id", flat=True).distinct()
    )
    for person_id in waiting:
        with transaction.atomic():
            notices = list(
                Notice.objects.select_for_update().filter(person=person_id, awaits_digest=True).order_by("pk")
            )
            if notices:
                _mail_digest(User.objects.get(pk=person_id), notices, now)
                Notice.objects.filter(pk__in=[one.pk for one in notices]).update(awaits_digest=False)
    return len(waiting)


def _mail_digest(person: User, notices: list[Notice], now: datetime) -> None:
    address = settings.FOLIO_ADDRESS_IN_MAILS
    kinds = {Kind(one.kind) for one in notices}
    about = {"person": person, "notices": notices, "address": address, "account": f"{address}/account"}
    subject = notices[0].subject if len(notices) == 1 else f"{len(notices)} things since the last mail"
    outbox.post(
        person.email, subject, render_to_string("notices/digest.txt", about), now,
        html=render_to_string("notices/digest.html", about),
        leave_path=leave_path(person, *sorted(kinds)),
    )  # fmt: skip


def leave_path(person: User, *kinds: Kind) -> str:
    """The address that ends mails of these kinds to this person, without signing in."""
    token = signing.dumps([person.pk, *(kind.value for kind in kinds)], salt=_SALT, compress=True)
    return f"/no-more-mail/{token}"


def read_leave_token(token: str) -> tuple[User, list[Kind]]:
    """Raises ValueError for a token that is not ours."""
    try:
        person_id, *kinds = signing.loads(token, salt=_SALT)
        return User.objects.get(pk=person_id), [Kind(kind) for kind in kinds]
    except (signing.BadSignature, User.DoesNotExist, TypeError) as error:
        raise ValueError("This is no address for ending mails.") from error


def forget_old(before: datetime) -> None:
    """What was read long ago."""
    Notice.objects.filter(Q(read_at__lt=before), awaits_digest=False).delete()
