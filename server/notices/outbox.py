"""The outbox: a message is a row of the transaction that caused it; a job sends it, and tries until it has gone.

Without a mail server it stays in the post box of this installation.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from django.conf import settings
from django.core.mail import EmailMessage
from django.db import transaction

from plumbing.queue import enqueue_once

from .models import Mail

SEND_MAIL = "notices.send_mail"
QUEUE = "upkeep"
KEPT_FOR = timedelta(days=30)


def post(to: str, subject: str, text: str, now: datetime, *, secret: bool = False) -> Mail:
    """``secret``: the text holds a link that is as good as a password."""
    mail = Mail.objects.create(to=to, subject=subject, text=text, made_at=now, secret=secret)
    enqueue_once(SEND_MAIL, queue=QUEUE, only_one=f"mail {mail.pk}", mail_id=mail.pk)
    return mail


def send(mail_id: int, now: datetime) -> None:
    """Raises what the mail server says, so that the job is tried again."""
    with transaction.atomic():
        mail = Mail.objects.select_for_update().filter(pk=mail_id, sent_at=None).first()
        if mail is None:
            return
        trouble = _delivered(mail)
        if trouble is None:
            mail.sent_at = now
            mail.text = "" if mail.secret and not _stays_here() else mail.text
        mail.trouble = "" if trouble is None else type(trouble).__name__
        mail.save(update_fields=["sent_at", "trouble", "text"])
    if trouble is not None:
        raise trouble


def _delivered(mail: Mail) -> OSError | None:
    if _stays_here():
        return None
    try:
        EmailMessage(mail.subject, mail.text, to=[mail.to], headers={"Auto-Submitted": "auto-generated"}).send()
    except OSError as error:
        return error
    return None


def _stays_here() -> bool:
    return bool(settings.FOLIO_POST_BOX) and not settings.EMAIL_HOST


def forget_old(now: datetime) -> None:
    Mail.objects.filter(made_at__lt=now - KEPT_FOR).delete()


def enqueue_unsent() -> int:
    """What waits without a job gets one. Returns how many."""
    waiting = Mail.objects.filter(sent_at=None).values_list("pk", flat=True)
    for pk in waiting:
        enqueue_once(SEND_MAIL, queue=QUEUE, only_one=f"mail {pk}", mail_id=pk)
    return len(waiting)
