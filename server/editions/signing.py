"""The key that signs receipts: a file that only the job that binds reads, and the keys that are published."""

from __future__ import annotations

import base64
import stat
from datetime import datetime
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.conf import settings
from django.core.exceptions import ImproperlyConfigured

from folio_core.binding import Issuer

from .models import SigningKey

_HOW = "Set FOLIO_RECEIPT_KEY_FILE to a file that holds 32 random bytes in base64; ./folio makes one."


def issuer() -> Issuer:
    """Raises ImproperlyConfigured where the file does not hold a key."""
    try:
        key = base64.b64decode(Path(settings.RECEIPT_KEY_FILE).read_text(), validate=True)
        return Issuer(settings.FOLIO_ISSUER, Ed25519PrivateKey.from_private_bytes(key))
    except (OSError, ValueError) as error:
        raise ImproperlyConfigured(_HOW) from error


def require_key_file() -> None:
    """Raises ImproperlyConfigured where the file is missing, or others may read it. Does not read it."""
    try:
        mode = Path(settings.RECEIPT_KEY_FILE).stat().st_mode
    except OSError as error:
        raise ImproperlyConfigured(_HOW) from error
    if not stat.S_ISREG(mode) or mode & (stat.S_IRWXG | stat.S_IRWXO):
        raise ImproperlyConfigured("The file of the receipt key must be readable by its owner alone (chmod 600).")


def publish(of: Issuer, now: datetime) -> None:
    """From its first receipt on, a key is among those published, also when another one signs later."""
    SigningKey.objects.get_or_create(
        key_id=of.key_id, defaults={"public_key": of.public_key, "issuer": of.name, "first_used_at": now}
    )
