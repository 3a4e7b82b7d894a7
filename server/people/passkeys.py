"""Passkeys as a second factor (Web Authentication, W3C Level 2): kept by a phone, a computer or a security key."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from urllib.parse import urlsplit

from django.conf import settings
from django.http import HttpRequest
from webauthn import (
    generate_authentication_options,
    generate_registration_options,
    options_to_json,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.helpers import base64url_to_bytes, bytes_to_base64url
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from plumbing.errors import Refused

from .models import Passkey, User

MOST = 10
_CHALLENGE = {"make": "passkey_to_make", "use": "passkey_to_use"}  # keys in the session
_WRONG = "This passkey was not recognised. Try again, or use a code."


@dataclass(frozen=True, slots=True)
class Site:
    """What a passkey is bound to: the host's name, and the address of the pages (scheme, host, port)."""

    host: str
    origin: str

    @classmethod
    def of(cls, request: HttpRequest) -> Site:
        parts = urlsplit(settings.FOLIO_ADDRESS or request.build_absolute_uri("/"))
        return cls(parts.hostname or "", f"{parts.scheme}://{parts.netloc}")


def begin(request: HttpRequest, person: User, issuer: str) -> dict[str, Any]:
    """Options for ``navigator.credentials.create()`` in their JSON form. Raises Refused (409) with too many."""
    if person.passkeys.count() >= MOST:
        raise Refused(409, "too_many", f"There are {MOST} passkeys already. Remove one first.")
    options = generate_registration_options(
        rp_id=Site.of(request).host, rp_name=issuer, user_name=person.email, user_display_name=person.name,
        user_id=f"folio-{person.pk}".encode(), exclude_credentials=_descriptors(person),
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.DISCOURAGED, user_verification=UserVerificationRequirement.DISCOURAGED
        ),
    )  # fmt: skip
    return _remember(request, "make", person, options)


def add(request: HttpRequest, person: User, name: str, credential: str, now: datetime) -> Passkey:
    """``credential``: what the browser made, as JSON. Raises Refused (422)."""
    site, challenge = Site.of(request), _challenge(request, "make", person)
    try:
        made = verify_registration_response(
            credential=credential, expected_challenge=challenge, expected_rp_id=site.host, expected_origin=site.origin
        )
    except (WebAuthnException, ValueError, KeyError, TypeError) as error:
        raise Refused(422, "wrong_passkey", "This passkey could not be checked. Try once more.") from error
    credential_id = bytes_to_base64url(made.credential_id)
    if Passkey.objects.filter(credential_id=credential_id).exists():
        raise Refused(422, "wrong_passkey", "This passkey is set up already.")
    return person.passkeys.create(
        credential_id=credential_id, public_key=made.credential_public_key, sign_count=made.sign_count,
        name=name.strip()[:80] or "Passkey", made_at=now,
    )  # fmt: skip


def ask(request: HttpRequest, person: User) -> None:
    """The password was right: from now on ``asked`` gives what the browser must sign, once."""
    if not person.passkeys.exists():
        return
    options = generate_authentication_options(
        rp_id=Site.of(request).host, allow_credentials=_descriptors(person),
        user_verification=UserVerificationRequirement.DISCOURAGED,
    )  # fmt: skip
    request.session["passkey_options"] = _remember(request, "use", person, options)


def asked(request: HttpRequest) -> dict[str, Any] | None:
    """Options for ``navigator.credentials.get()`` in their JSON form, after a right password."""
    options: dict[str, Any] | None = request.session.get("passkey_options")
    return options


def check(request: HttpRequest, person: User, credential: str, now: datetime) -> None:
    """``credential``: what the browser signed, as JSON. Raises Refused (401)."""
    site, challenge = Site.of(request), _challenge(request, "use", person)
    request.session.pop("passkey_options", None)
    try:
        passkey = person.passkeys.get(credential_id=json.loads(credential)["id"])
        used = verify_authentication_response(
            credential=credential, expected_challenge=challenge, expected_rp_id=site.host, expected_origin=site.origin,
            credential_public_key=bytes(passkey.public_key), credential_current_sign_count=passkey.sign_count,
        )  # fmt: skip
    except (WebAuthnException, ValueError, KeyError, TypeError, Passkey.DoesNotExist) as error:
        raise Refused(401, "wrong_code", _WRONG) from error
    passkey.sign_count, passkey.used_at = used.new_sign_count, now
    passkey.save(update_fields=["sign_count", "used_at"])


def _descriptors(person: User) -> list[PublicKeyCredentialDescriptor]:
    known = person.passkeys.values_list("credential_id", flat=True)
    return [PublicKeyCredentialDescriptor(id=base64url_to_bytes(one)) for one in known]


def _remember(request: HttpRequest, act: Literal["make", "use"], person: User, options: Any) -> dict[str, Any]:
    as_json: dict[str, Any] = json.loads(options_to_json(options))
    request.session[_CHALLENGE[act]] = [person.pk, as_json["challenge"]]
    return as_json


def _challenge(request: HttpRequest, act: Literal["make", "use"], person: User) -> bytes:
    """Good once, for the person it was made for. Raises Refused (401)."""
    owner, challenge = request.session.pop(_CHALLENGE[act], None) or (None, "")
    if owner != person.pk:
        raise Refused(401, "second_factor", "Try again: the question of before has run out.")
    return base64url_to_bytes(challenge)
