"""The receipt: the manifest and the bound PDF's SHA-256, signed with Ed25519 (RFC 8032)."""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from .manifest import Manifest, canonical_json


class ReceiptError(Exception):
    """A receipt that does not hold. The message says what does not match."""


@dataclass(frozen=True, slots=True)
class Receipt:
    """``statement`` is what is signed: manifest and document hash."""

    statement: Mapping[str, Any]
    signature: str
    public_key: str

    def as_json(self) -> dict[str, Any]:
        return {"statement": dict(self.statement), "signature": self.signature, "public_key": self.public_key}

    @classmethod
    def from_json(cls, text: str | bytes) -> Receipt:
        try:
            document = json.loads(text)
            return cls(document["statement"], document["signature"], document["public_key"])
        except (ValueError, KeyError, TypeError) as error:
            raise ReceiptError("This file is not a receipt. Download the receipt again.") from error


def sign(manifest: Manifest, bound_pdf: bytes, key: Ed25519PrivateKey) -> Receipt:
    statement = {"manifest": manifest.as_json(), "bound_sha256": hashlib.sha256(bound_pdf).hexdigest()}
    signature = key.sign(canonical_json(statement))
    public = key.public_key().public_bytes_raw()
    return Receipt(statement, base64.b64encode(signature).decode(), base64.b64encode(public).decode())


def verify(receipt: Receipt, bound_pdf: bytes, public_key: str | None = None) -> bool:
    """Check a receipt against a file. Returns whether it is known who signed it. Raises ReceiptError.

    ``public_key`` (base64) is the one the college publishes; without it the receipt's own key is used, which
    proves that nothing was changed since signing, not who signed: anybody can make a key.
    """
    if public_key is not None and public_key != receipt.public_key:
        raise ReceiptError("This receipt was signed with another key than the one given.")
    try:
        key = Ed25519PublicKey.from_public_bytes(base64.b64decode(receipt.public_key))
        key.verify(base64.b64decode(receipt.signature), canonical_json(receipt.statement))
    except (InvalidSignature, ValueError) as error:
        raise ReceiptError("The signature does not fit: the receipt was changed.") from error
    if hashlib.sha256(bound_pdf).hexdigest() != receipt.statement["bound_sha256"]:
        raise ReceiptError("The PDF is not the one this receipt was made for, or it was changed.")
    return public_key is not None
