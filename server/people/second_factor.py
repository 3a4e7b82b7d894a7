"""A second factor by an authenticator application: one-time codes by the time (TOTP, RFC 6238), and spare codes."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from datetime import datetime

import pyotp
from django.db import transaction

from plumbing.errors import Refused

from .models import User

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
    codes = [f"{secrets.randbelow(10**8):08}" for _ in range(_SPARE_CODES)]
    person.totp_since, person.spare_codes = now, [_hashed(person, one) for one in codes]
    person.save(update_fields=["totp_since", "spare_codes"])
    return codes


@transaction.atomic
def require(person: User, code: str, now: datetime) -> None:
    """Raises Refused (401): ``second_factor`` where none was given, ``wrong_code`` where it is not right."""
    person = User.objects.select_for_update().get(pk=person.pk)
    if person.totp_since is None:
        return
    if not code.strip():
        raise Refused(401, "second_factor", "Type the code that your authenticator application shows.")
    if not (_is_good(person, code, now) or _is_spare(person, code)):
        raise Refused(401, "wrong_code", _WRONG)


def remove(person: User) -> None:
    person.totp_secret, person.totp_since, person.spare_codes = "", None, []
    person.save(update_fields=["totp_secret", "totp_since", "spare_codes"])


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
    return hashlib.sha256(f"{person.pk} {person.totp_secret} {code}".encode()).hexdigest()
