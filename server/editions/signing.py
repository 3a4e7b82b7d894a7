"""The key that signs receipts."""

from __future__ import annotations

import base64

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.conf import settings
from django.core.exceptions import ImproperlyConfigured


def receipt_key() -> Ed25519PrivateKey:
    """Raises ImproperlyConfigured where FOLIO_RECEIPT_KEY is not 32 bytes in base64."""
    try:
        return Ed25519PrivateKey.from_private_bytes(base64.b64decode(settings.RECEIPT_KEY))
    except ValueError as error:
        raise ImproperlyConfigured("Set FOLIO_RECEIPT_KEY to 32 random bytes in base64; ./folio makes one.") from error
