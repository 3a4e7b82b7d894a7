"""The outbox: a message is a row of the transaction that caused it; a job sends it, and tries until it has gone.

Without a mail server it stays in the post box of this installation.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from smtplib import SMTPRecipientsRefused
from urllib.parse import urlsplit

from django.conf import settings
from django.core.mail import EmailMultiAlternatives
from django.db import transaction

from plumbing.queue import enqueue_once

from .models import Mail

SEND_MAIL = "notices.send_mail"
QUEUE = "upkeep"
KEPT_FOR = timedelta(days=30)


def post(
    to: str,
    subject: str,
    text: str,
    now: datetime,
    *,
    secret: bool = False,
    html: str = "",
    leave_path: str = "",
    attachment: tuple[str, bytes] | None = None,
) -> Mail:
    """``secret``: the text holds a link that is as good as a password. ``leave_path``: of the address that ends
    mails of this kind. ``attachment``: the name and bytes of a PDF."""
    name, data = attachment or ("", None)
    mail = Mail.objects.create(
        to=to, subject=" ".join(subject.split())[:200], text=text, html=html, leave_path=leave_path,
        attachment_name=name, attachment=data, made_at=now, secret=secret,
    )  # fmt: skip
    enqueue_once(SEND_MAIL, queue=QUEUE, only_one=f"mail {mail.pk}", mail_id=mail.pk)
    return mail


def send(mail_id: int, now: datetime) -> None:
    """Raises what the mail server says, so that the job is tried again; not where it refuses the address for good."""
    with transaction.atomic():
        mail = Mail.objects.select_for_update().filter(pk=mail_id, sent_at=None, bounced_at=None).first()
        if mail is None:
            return
        trouble = _delivered(mail)
        bounced = isinstance(trouble, SMTPRecipientsRefused) and _for_good(trouble)
        if trouble is None:
            mail.sent_at = now
        if bounced:
            mail.bounced_at = now
        if (trouble is None or bounced) and mail.secret and not _stays_here():
            mail.text = mail.html = ""
        mail.trouble = "" if trouble is None else _said(trouble)[:200]
        mail.save(update_fields=["sent_at", "bounced_at", "trouble", "text", "html"])
    if trouble is not None and not bounced:
        raise trouble


def _delivered(mail: Mail) -> OSError | None:
    if _stays_here():
        return None
    try:
        message_of(mail).send()
    except OSError as error:  # smtplib's too
        return error
    return None


def message_of(mail: Mail) -> EmailMultiAlternatives:
    """The same message each time it is tried: a receiver that has it already can tell by its id (RFC 5322, 3.6.4)."""
    host = urlsplit(settings.FOLIO_ADDRESS_IN_MAILS).hostname or "localhost"
    headers = {
        "Auto-Submitted": "auto-generated",
        "Message-ID": f"<mail-{mail.pk}-{mail.made_at:%Y%m%d%H%M%S%f}@{host}>",
    }
    if mail.leave_path:  # RFC 8058: one POST to this address, without a question
        headers["List-Unsubscribe"] = f"<{settings.FOLIO_ADDRESS_IN_MAILS}/api{mail.leave_path}>"
        headers["List-Unsubscribe-Post"] = "List-Unsubscribe=One-Click"
    message = EmailMultiAlternatives(mail.subject, mail.text, to=[mail.to], headers=headers)
    if mail.html:
        message.attach_alternative(mail.html, "text/html")
    if mail.attachment is not None:
        message.attach(mail.attachment_name, bytes(mail.attachment), "application/pdf")
    return message


def _for_good(refused: SMTPRecipientsRefused) -> bool:
    """RFC 5321, 4.2.1: what begins with 5 is not to be tried again."""
    return all(code >= 500 for code, _ in refused.recipients.values())


def _said(trouble: OSError) -> str:
    if isinstance(trouble, SMTPRecipientsRefused):
        return "; ".join(f"{code} {words.decode(errors='replace')}" for code, words in trouble.recipients.values())
    return type(trouble).__name__


def _stays_here() -> bool:
    return bool(settings.FOLIO_POST_BOX) and not settings.EMAIL_HOST


def forget_old(now: datetime) -> None:
    Mail.objects.filter(made_at__lt=now - KEPT_FOR).delete()


def enqueue_unsent() -> int:
    """What waits without a job gets one. Returns how many."""
    waiting = Mail.objects.filter(sent_at=None, bounced_at=None).values_list("pk", flat=True)
    for pk in waiting:
        enqueue_once(SEND_MAIL, queue=QUEUE, only_one=f"mail {pk}", mail_id=pk)
    return len(waiting)
