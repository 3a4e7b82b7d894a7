"""A second factor: a code of an authenticator application (TOTP, RFC 6238), a passkey, or a spare code on paper."""

from __future__ import annotations

import hmac
import secrets
from datetime import datetime

import pyotp
from django.db import transaction
from django.http import HttpRequest
from django.utils.crypto import salted_hmac

from plumbing.errors import Refused

from . import passkeys
from .models import Passkey, User

_STEP_SECONDS = 30
_SPARE_CODES = 8
_WRONG = "This code is not right. Take the one that your application shows now; each is good once."


def begin(person: User, issuer: str) -> str:
    """A new secret, as the address (``otpauth:``) that the application reads as a QR code. It asks for nothing yet."""
    if person.totp_since is not None:
        raise Refused(409, "has_one", "A second factor is set up already. Remove it first.")
    person.totp_secret = pyotp.random_base32()
    person.save(update_fields=["totp_secret"])
    return pyotp.TOTP(person.totp_secret, name=person.email, issuer=issuer).provisioning_uri()


def confirm(person: User, code: str, now: datetime) -> list[str]:
    """From now on signing in asks for a code. Returns spare codes, which are shown once. Raises Refused (422)."""
    if not person.totp_secret or not _is_good(person, code, now):
        raise Refused(422, "wrong_code", _WRONG)
    person.totp_since = now
    person.save(update_fields=["totp_since"])
    return _new_spare_codes(person)


def add_passkey(request: HttpRequest, person: User, name: str, credential: str, now: datetime) -> list[str]:
    """From now on signing in asks for it. Returns spare codes with the first one of all factors. Raises Refused."""
    is_first = not is_on(person)
    passkeys.add(request, person, name, credential, now)
    return _new_spare_codes(person) if is_first else []


def is_on(person: User) -> bool:
    return person.totp_since is not None or person.passkeys.exists()


def require(request: HttpRequest, person: User, now: datetime, *, code: str, passkey: str) -> None:
    """Raises Refused (401): ``second_factor`` where none was given, ``wrong_code`` where it is not right."""
    if not is_on(person):
        return
    try:
        _require(request, person, now, code=code, passkey=passkey)
    except Refused:
        passkeys.ask(request, person)
        raise


def _require(request: HttpRequest, person: User, now: datetime, *, code: str, passkey: str) -> None:
    if passkey:
        passkeys.check(request, person, passkey, now)
    elif code.strip():
        _require_code(person, code, now)
    else:
        raise Refused(401, "second_factor", "Your password is right. One more step, so that it is surely you.")


def remove_application(person: User) -> None:
    person.totp_secret, person.totp_since = "", None
    person.save(update_fields=["totp_secret", "totp_since"])
    _forget_spare_codes_without_factor(person)


def remove_passkey(person: User, passkey: int) -> None:
    """Raises Passkey.DoesNotExist."""
    Passkey.objects.get(person=person, pk=passkey).delete()
    _forget_spare_codes_without_factor(person)


@transaction.atomic
def _require_code(person: User, code: str, now: datetime) -> None:
    person = User.objects.select_for_update().get(pk=person.pk)
    is_application = person.totp_since is not None and _is_good(person, code, now)
    if not (is_application or _is_spare(person, code)):
        raise Refused(401, "wrong_code", _WRONG)


def _new_spare_codes(person: User) -> list[str]:
    codes = [f"{secrets.randbelow(10**8):08}" for _ in range(_SPARE_CODES)]
    person.spare_codes = [_hashed(person, one) for one in codes]
    person.save(update_fields=["spare_codes"])
    return codes


def _forget_spare_codes_without_factor(person: User) -> None:
    if not is_on(person):
        person.spare_codes = []
        person.save(update_fields=["spare_codes"])


def _is_good(person: User, code: str, now: datetime) -> bool:
    """Of this half minute or the two beside it (RFC 6238, 5.2), and of none that was used already."""
    typed = code.strip().replace(" ", "").encode()
    totp, here = pyotp.TOTP(person.totp_secret), int(now.timestamp()) // _STEP_SECONDS
    for step in (here - 1, here, here + 1):
        if step > person.totp_last_step and hmac.compare_digest(totp.generate_otp(step).encode(), typed):
            person.totp_last_step = step
            person.save(update_fields=["totp_last_step"])
            return True
    return False


def _is_spare(person: User, code: str) -> bool:
    hashed = _hashed(person, code.strip().replace(" ", ""))
    if hashed not in person.spare_codes:
        return False
    person.spare_codes = [one for one in person.spare_codes if one != hashed]
    person.save(update_fields=["spare_codes"])
    return True


def _hashed(person: User, code: str) -> str:
    return salted_hmac("people.second_factor", f"{person.pk} {code}", algorithm="sha256").hexdigest()
