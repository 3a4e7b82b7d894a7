"""One's own account: password, second factor, sessions; and the post box of an installation without a mail server."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from ninja.utils import check_csrf

from notices import outbox
from notices.models import Mail
from people import passkeys, passwords, second_factor, signing_in
from people.models import Passkey, User
from plumbing.errors import STALE_PAGE, Problem, Refused, not_yours
from plumbing.qr_codes import qr_modules
from plumbing.requests import address_of, moment

from .permissions import person

router = Router(tags=["account"])
_LETTER = """Somebody, most likely you, asked to set a new password for {email} at Inked Folio.

Open this address to set it. It is good once, and for three days:

{address}

If it was not you, nothing needs to be done: your password stays as it is.
"""


class PasskeyOut(Schema):
    id: int
    name: str
    made_at: datetime
    used_at: datetime | None


class AccountOut(Schema):
    name: str
    number: str
    email: str
    second_factor_since: datetime | None
    passkeys: list[PasskeyOut]
    spare_codes: int
    wants_proposals: bool


class PasswordIn(Schema):
    old: str
    new: str


class LinkAskedIn(Schema):
    email: str


class NewPasswordIn(Schema):
    person: str
    token: str
    new: str


class SecondFactorBegun(Schema):
    """``address``: for the authenticator application; ``modules``: the same as a QR code (ISO/IEC 18004)."""

    address: str
    secret: str
    modules: list[str]


class CodeIn(Schema):
    code: str


class PasskeyIn(Schema):
    """``credential``: what the browser made, as JSON."""

    name: str = ""
    credential: str


class PasswordAgainIn(Schema):
    password: str


class SpareCodesOut(Schema):
    codes: list[str]


class MailOut(Schema):
    id: int
    to: str
    subject: str
    text: str
    made: datetime


@router.get("/account", response=AccountOut)
def account(request: HttpRequest) -> AccountOut:
    user = person(request)
    return AccountOut(
        name=user.name, number=user.number, email=user.email, second_factor_since=user.totp_since,
        passkeys=[PasskeyOut.from_orm(one) for one in user.passkeys.order_by("made_at")],
        spare_codes=len(user.spare_codes),
        wants_proposals=user.wants_proposals,
    )  # fmt: skip


@router.post("/account/password", response={204: None, 422: Problem})
def change_password(request: HttpRequest, body: PasswordIn) -> tuple[int, None]:
    """This session goes on; all others end."""
    passwords.change(request, person(request), body.old, body.new)
    return 204, None


@router.delete("/account/sessions", response={204: None})
def sign_out_everywhere(request: HttpRequest, response: HttpResponse) -> tuple[int, None]:
    user = person(request)
    signing_in.sign_out(request)
    signing_in.sign_out_everywhere(user)
    response["Clear-Site-Data"] = '"cache"'
    return 204, None


@router.post("/account/second-factor", response={200: SecondFactorBegun, 409: Problem})
def begin_second_factor(request: HttpRequest) -> SecondFactorBegun:
    user = person(request)
    address = second_factor.begin(user, settings.FOLIO_ISSUER)
    return SecondFactorBegun(address=address, secret=user.totp_secret, modules=qr_modules(address))


@router.post("/account/second-factor/confirm", response={200: SpareCodesOut, 422: Problem})
def confirm_second_factor(request: HttpRequest, body: CodeIn) -> SpareCodesOut:
    return SpareCodesOut(codes=second_factor.confirm(person(request), body.code, moment()))


@router.post("/account/second-factor/remove", response={204: None, 422: Problem})
def remove_second_factor(request: HttpRequest, body: PasswordAgainIn) -> tuple[int, None]:
    second_factor.remove_application(_surely(request, body))
    return 204, None


@router.post("/account/passkeys/begin", response={200: dict[str, Any], 409: Problem})
def begin_passkey(request: HttpRequest) -> dict[str, Any]:
    """The JSON form of the options for ``navigator.credentials.create()`` (Web Authentication)."""
    return passkeys.begin(request, person(request), settings.FOLIO_ISSUER)


@router.post("/account/passkeys", response={200: SpareCodesOut, 401: Problem, 422: Problem})
def add_passkey(request: HttpRequest, body: PasskeyIn) -> SpareCodesOut:
    """Spare codes come with the first factor of all."""
    codes = second_factor.add_passkey(request, person(request), body.name, body.credential, moment())
    return SpareCodesOut(codes=codes)


@router.post("/account/passkeys/{passkey}/remove", response={204: None, 404: Problem, 422: Problem})
def remove_passkey(request: HttpRequest, passkey: int, body: PasswordAgainIn) -> tuple[int, None]:
    try:
        second_factor.remove_passkey(_surely(request, body), passkey)
    except Passkey.DoesNotExist as error:
        raise not_yours() from error
    return 204, None


def _surely(request: HttpRequest, body: PasswordAgainIn) -> User:
    """The person, who has typed the password once more. Raises Refused (422)."""
    user = person(request)
    if not signing_in.check_password(user, body.password):
        raise Refused(422, "wrong_password", "The password is another one. The second factor stays.")
    return user


@router.post("/password-links", auth=None, response={204: None, 403: Problem})
def ask_for_link(request: HttpRequest, body: LinkAskedIn) -> tuple[int, None]:
    """The same answer whether there is such an account or not."""
    _require_own_page(request)
    now = moment()
    user = User.objects.filter(email=body.email.strip().lower()[:254], is_active=True).first()
    if user is not None and passwords.may_be_asked_again(user, now):
        text = _LETTER.format(email=user.email, address=f"{address_of(request)}{passwords.link_path(user)}")
        outbox.post(user.email, "Set a new password for Inked Folio", text, now, secret=True)
    return 204, None


@router.post("/password-links/use", auth=None, response={204: None, 403: Problem, 422: Problem})
def use_link(request: HttpRequest, body: NewPasswordIn) -> tuple[int, None]:
    _require_own_page(request)
    passwords.set_by_link(body.person, body.token, body.new)
    return 204, None


def _require_own_page(request: HttpRequest) -> None:
    if check_csrf(request) is not None:
        raise Refused(403, "stale_page", STALE_PAGE)


@router.get("/post-box", auth=None, response={200: list[MailOut], 404: Problem})
def post_box(request: HttpRequest) -> list[MailOut]:
    """All that would have been mailed, where this installation only tries things out (FOLIO_POST_BOX)."""
    if not settings.FOLIO_POST_BOX:
        raise not_yours()
    return [
        MailOut(id=mail.pk, to=mail.to, subject=mail.subject, text=mail.text, made=mail.made_at)
        for mail in Mail.objects.all()[:50]
    ]
