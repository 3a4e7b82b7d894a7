"""The keys that receipts are signed with, for anybody who checks one."""

from __future__ import annotations

from datetime import datetime

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema

from editions.models import SigningKey

router = Router(tags=["receipt"])


class SigningKeyOut(Schema):
    """``public_key``: the 32 bytes of an Ed25519 key (RFC 8032) in base64."""

    key_id: str
    public_key: str
    issuer: str
    first_used: datetime


class KeysOut(Schema):
    issuer: str
    keys: list[SigningKeyOut]


@router.get("/receipt-keys", auth=None, response=KeysOut)
def receipt_keys(request: HttpRequest) -> KeysOut:
    """All of them, the newest first: a receipt of years ago is checked by the key of then."""
    keys = [
        SigningKeyOut(key_id=one.key_id, public_key=one.public_key, issuer=one.issuer, first_used=one.first_used_at)
        for one in SigningKey.objects.all()
    ]
    return KeysOut(issuer=settings.FOLIO_ISSUER, keys=keys)
