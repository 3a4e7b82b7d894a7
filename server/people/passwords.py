"""Changing one's own password, and setting a new one by a link that came by mail."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.contrib.auth import password_validation, update_session_auth_hash
from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.http import HttpRequest
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode

from live.announcing import announce
from plumbing.errors import Refused

from .models import User
from .signing_in import check_password, person_topic

ASKED_AGAIN_AFTER = timedelta(minutes=2)


def change(request: HttpRequest, person: User, old: str, new: str) -> None:
    """This session goes on, all others end. Raises Refused (422)."""
    if not check_password(person, old):
        raise Refused(422, "wrong_password", "The password you have now is another one. Nothing was changed.")
    _set(person, new)
    update_session_auth_hash(request, person)


def link_path(person: User) -> str:
    """The path of a screen where a new password is set. Good once, and for three days (PASSWORD_RESET_TIMEOUT)."""
    number = urlsafe_base64_encode(force_bytes(person.pk))
    return f"/password/{number}/{default_token_generator.make_token(person)}"


def may_be_asked_again(person: User, now: datetime) -> bool:
    """A link a few minutes: nobody's post box is filled by others. Notes that one is sent now."""
    if person.link_sent_at is not None and now - person.link_sent_at < ASKED_AGAIN_AFTER:
        return False
    person.link_sent_at = now
    person.save(update_fields=["link_sent_at"])
    return True


def set_by_link(number: str, token: str, new: str) -> User:
    """All sessions end. Raises Refused (422)."""
    person = _of(number)
    if person is None or not default_token_generator.check_token(person, token):
        raise Refused(422, "link_ended", "This link was used already, or is too old. Ask for a new one.")
    _set(person, new)
    return person


def _of(number: str) -> User | None:
    try:
        return User.objects.filter(pk=int(urlsafe_base64_decode(number)), is_active=True).first()
    except (ValueError, OverflowError):
        return None


def _set(person: User, new: str) -> None:
    try:
        password_validation.validate_password(new, person)
    except ValidationError as error:
        raise Refused(422, "weak_password", " ".join(error.messages)) from error
    person.set_password(new)
    person.save(update_fields=["password"])
    announce(person_topic(person.pk), signed_out="everywhere")
