"""What a person is told: in the application, and what of it is mailed."""

from __future__ import annotations

from datetime import datetime

from django.http import HttpRequest
from ninja import Router, Schema

from courses.models import Enrolment
from notices.kinds import ABOUT, ByMail, Kind
from notices.models import Notice, NoticeChoice
from notices.notifying import choose, read_leave_token
from people.models import User
from plumbing.errors import Problem, Refused
from plumbing.requests import moment

from .permissions import person

router = Router(tags=["notices"])
_SHOWN = 100
_NO_ADDRESS = "This address does not end any mails. Sign in and choose under Account what is mailed to you."


class NoticeOut(Schema):
    id: int
    subject: str
    text: str
    path: str
    made_at: datetime
    read: bool


class NoticesOut(Schema):
    """``unread``: of all, also those too old to be shown. ``time_zone``: of the person's courses, where it is one."""

    unread: int
    time_zone: str | None
    notices: list[NoticeOut]


class ReadIn(Schema):
    """``newest``: the newest that was in sight; later ones stay unread."""

    newest: int


class NoticeChoiceOut(Schema):
    kind: Kind
    words: str
    by_mail: ByMail


class NoticeChoiceIn(Schema):
    kind: Kind
    by_mail: ByMail


class LeftOut(Schema):
    """What is not mailed any more, and to whom."""

    email: str
    words: list[str]


@router.get("/notices", response=NoticesOut)
def notices(request: HttpRequest) -> NoticesOut:
    user = person(request)
    mine = Notice.objects.filter(person=user)
    rows = [
        NoticeOut(
            id=one.pk, subject=one.subject, text=one.text, path=one.path, made_at=one.made_at,
            read=one.read_at is not None,
        )
        for one in mine[:_SHOWN]
    ]  # fmt: skip
    zones = set(Enrolment.objects.filter(person=user).values_list("course__time_zone", flat=True))
    zone = zones.pop() if len(zones) == 1 else None
    return NoticesOut(unread=mine.filter(read_at=None).count(), time_zone=zone, notices=rows)


@router.get("/notices/unread", response=int)
def unread(request: HttpRequest) -> int:
    return Notice.objects.filter(person=person(request), read_at=None).count()


@router.post("/notices/read", response={204: None})
def read(request: HttpRequest, body: ReadIn) -> tuple[int, None]:
    Notice.objects.filter(person=person(request), pk__lte=body.newest, read_at=None).update(read_at=moment())
    return 204, None


@router.get("/notice-choices", response=list[NoticeChoiceOut])
def notice_choices(request: HttpRequest) -> list[NoticeChoiceOut]:
    """Those that can reach this person: as a student, as one who teaches, or both."""
    user = person(request)
    chosen = dict(NoticeChoice.objects.filter(person=user).values_list("kind", "by_mail"))
    roles = _roles(user)
    return [
        NoticeChoiceOut(kind=kind, words=about.words, by_mail=ByMail(chosen.get(kind, about.by_mail)))
        for kind, about in ABOUT.items()
        if (Enrolment.Role.INSTRUCTOR if about.staff else Enrolment.Role.STUDENT) in roles
    ]


def _roles(user: User) -> set[str]:
    return set(Enrolment.objects.filter(person=user).values_list("role", flat=True))


@router.put("/notice-choices", response={204: None})
def choose_notice(request: HttpRequest, body: NoticeChoiceIn) -> tuple[int, None]:
    choose(person(request), body.kind, body.by_mail)
    return 204, None


@router.get("/no-more-mail/{token}", auth=None, response={200: LeftOut, 404: Problem})
def what_would_end(request: HttpRequest, token: str) -> LeftOut:
    """Looking changes nothing: mail programs open addresses by themselves."""
    user, kinds = _by_token(token)
    return LeftOut(email=user.email, words=[ABOUT[kind].words for kind in kinds])


@router.post("/no-more-mail/{token}", auth=None, response={200: LeftOut, 404: Problem})
def no_more_mail(request: HttpRequest, token: str) -> LeftOut:
    """RFC 8058: one POST, by the reader's mail program or by the page behind the link, without signing in."""
    user, kinds = _by_token(token)
    for kind in kinds:
        choose(user, kind, ByMail.NEVER)
    return LeftOut(email=user.email, words=[ABOUT[kind].words for kind in kinds])


def _by_token(token: str) -> tuple[User, list[Kind]]:
    try:
        return read_leave_token(token)
    except ValueError as error:
        raise Refused(404, "no_address", _NO_ADDRESS) from error
