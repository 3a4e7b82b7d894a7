"""Signing in by the college's own account: OpenID Connect Core 1.0, authorization code with PKCE (RFC 7636).

The college says who somebody is; what they may do here is said here, so only people who are known are let in. The first
time an account is found by the mail address that the college has verified, from then on by the college's own number.
"""

from __future__ import annotations

import logging
from functools import cache
from typing import Any

import requests
from authlib.integrations.base_client.errors import OAuthError
from authlib.integrations.django_client import OAuth
from django.conf import settings
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from joserfc.errors import JoseError

from plumbing.errors import Refused

from . import second_factor
from .models import CollegeAccount, User

logger = logging.getLogger(__name__)
_SECONDS = 10  # that the college's server may take to answer


def is_on() -> bool:
    return bool(settings.FOLIO_COLLEGE_ISSUER)


def leave_for_college(request: HttpRequest, back: str) -> HttpResponse:
    """Off to the college's sign-in. Raises Refused (502) where it does not answer."""
    try:
        answer: HttpResponse = _client().authorize_redirect(request, back)
    except (requests.RequestException, OAuthError, ValueError, RuntimeError) as error:
        raise _no_answer(error) from error
    return answer


def come_back(request: HttpRequest) -> User:
    """Who came back from the college's sign-in. Raises Refused, whose code says why nobody is signed in."""
    issuer = settings.FOLIO_COLLEGE_ISSUER
    if request.GET.get("iss", issuer) != issuer:  # RFC 9207
        raise _not_believed("another issuer")
    wanted = {"iss": {"essential": True, "values": [issuer]}}  # the library asks for the other claims by itself
    try:
        token = _client().authorize_access_token(request, claims_options=wanted)
    except OAuthError as error:
        if error.error == "access_denied":
            raise Refused(403, "college_denied", "The college's sign-in was broken off.") from error
        raise _not_believed(error.error) from error
    except (JoseError, KeyError, ValueError, RuntimeError) as error:
        raise _not_believed(type(error).__name__) from error
    except requests.RequestException as error:
        raise _no_answer(error) from error
    claims = token.get("userinfo")
    if not claims or not claims.get("sub"):
        raise _not_believed("no identity")
    return _person_of(issuer, claims)


@transaction.atomic
def _person_of(issuer: str, claims: dict[str, Any]) -> User:
    known = CollegeAccount.objects.select_related("person").filter(issuer=issuer, subject=claims["sub"]).first()
    person = known.person if known else _by_mail(issuer, claims)
    if not person.is_active:
        raise Refused(403, "college_unknown", "This account is closed here.")
    if person.is_staff or second_factor.is_on(person):
        raise Refused(
            403, "college_factor", "This account asks for more than the college's sign-in. Use your password here."
        )
    if known is None:
        CollegeAccount.objects.create(issuer=issuer, subject=claims["sub"], person=person)
    return person


def _by_mail(issuer: str, claims: dict[str, Any]) -> User:
    email = str(claims.get("email", "")).strip().lower()
    if not email or claims.get("email_verified") is not True:
        raise Refused(403, "college_unverified", "The college did not say that your mail address is really yours.")
    person = User.objects.select_for_update().filter(email=email).first()
    if person is None:
        raise Refused(
            403,
            "college_unknown",
            f"Nobody here has the address {email}. Ask your instructor to put you on the roster.",
        )
    if person.college_accounts.filter(issuer=issuer).exists():
        raise _not_believed("another subject with a known address")  # the address was given to somebody else
    return person


def _not_believed(why: str) -> Refused:
    logger.warning("A sign-in by the college was refused: %s", why)
    return Refused(403, "college_failed", "The college's sign-in could not be checked. Try again from the start.")


def _no_answer(error: Exception) -> Refused:
    logger.warning("The college's sign-in does not answer: %s", type(error).__name__)
    return Refused(502, "college_away", "The college's sign-in does not answer. Sign in with your password here.")


def _client() -> Any:
    return _client_of(settings.FOLIO_COLLEGE_ISSUER, settings.FOLIO_COLLEGE_CLIENT, settings.FOLIO_COLLEGE_SECRET)


@cache
def _client_of(issuer: str, client_id: str, secret: str) -> Any:
    """With the college's metadata and keys, which are fetched once (OpenID Connect Discovery 1.0)."""
    return OAuth().register(
        "college",
        client_id=client_id,
        client_secret=secret,
        server_metadata_url=f"{issuer.rstrip('/')}/.well-known/openid-configuration",
        client_kwargs={"scope": "openid email profile", "code_challenge_method": "S256", "default_timeout": _SECONDS},
    )
