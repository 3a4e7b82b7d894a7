"""The receipt: the manifest and the bound PDF's SHA-256, signed with Ed25519 (RFC 8032)."""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from .attaching import Place, appended, attached_receipt
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

    def as_bytes(self) -> bytes:
        """As it is attached to the bound PDF: in its canonical form."""
        return canonical_json(self.as_json())

    @classmethod
    def from_json(cls, text: str | bytes) -> Receipt:
        try:
            document = json.loads(text)
            made = cls(document["statement"], document["signature"], document["public_key"])
            if not (
                isinstance(made.statement, dict)
                and isinstance(made.signature, str)
                and isinstance(made.public_key, str)
            ):
                raise TypeError
            return made
        except (ValueError, KeyError, TypeError, RecursionError) as error:
            raise ReceiptError("This file is not a receipt. Download the receipt again.") from error


@dataclass(frozen=True, slots=True)
class Issuer:
    """Who signs: the college's name, and its key. ``key_id`` tells keys apart when they change over the years."""

    name: str
    key: Ed25519PrivateKey

    @property
    def public_key(self) -> str:
        return base64.b64encode(self.key.public_key().public_bytes_raw()).decode()

    @property
    def key_id(self) -> str:
        return key_id_of(self.public_key)


def key_id_of(public_key: str) -> str:
    """The first half of the SHA-256 of the key's 32 bytes, in hexadecimal."""
    return hashlib.sha256(base64.b64decode(public_key)).hexdigest()[:32]


def sign(
    manifest: Manifest, bound_sha256: str, issuer: Issuer, *, place: Place | None = None, replaces: str = ""
) -> Receipt:
    """``bound_sha256``: of the bound PDF as it was before this receipt was appended at ``place``.
    ``replaces``: the hash (`hash_of`) of the receipt of the same edition before, where it was bound anew."""
    statement: dict[str, Any] = {
        "manifest": manifest.as_json(), "manifest_sha256": manifest.sha256, "bound_sha256": bound_sha256,
        "issuer": issuer.name, "key_id": issuer.key_id, "replaces": replaces,
    }  # fmt: skip
    if place is not None:
        statement |= {"bound_size": place.size, "receipt_object": place.number}
    signature = issuer.key.sign(canonical_json(statement))
    return Receipt(statement, base64.b64encode(signature).decode(), issuer.public_key)


def hash_of(receipt: Receipt) -> str:
    return hashlib.sha256(receipt.as_bytes()).hexdigest()


def read_keys(text: str | bytes) -> tuple[str, ...]:
    """The public keys of the file that an Inked Folio publishes at ``/api/receipt-keys``. Raises ReceiptError."""
    try:
        return tuple(str(one["public_key"]) for one in json.loads(text)["keys"])
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise ReceiptError("This is not a file of receipt keys. Get it anew from the college's address.") from error


def verify(receipt: Receipt, file: bytes | None, trusted: Collection[str] = ()) -> bool:
    """Check a receipt, and the bound PDF it is for where there is one. Returns whether it is known who signed it.
    Raises ReceiptError.

    ``file``: the PDF as it was downloaded, or without the receipt that is appended to it.
    ``trusted``: the keys (base64) that the college publishes. Without them the receipt's own key is used, which proves
    that nothing was changed since signing, not who signed: anybody can make a key.
    """
    if trusted and receipt.public_key not in trusted:
        raise ReceiptError("This receipt was signed with another key than those given.")
    try:
        key = Ed25519PublicKey.from_public_bytes(base64.b64decode(receipt.public_key))
        key.verify(base64.b64decode(receipt.signature), canonical_json(receipt.statement))
    except (InvalidSignature, ValueError) as error:
        raise ReceiptError("The signature does not fit: the receipt was changed.") from error
    if receipt.statement.get("key_id") != key_id_of(receipt.public_key):
        raise ReceiptError("This receipt names another key than the one it was signed with.")
    if file is not None:
        _require_its_file(receipt, file)
    return bool(trusted)


def _require_its_file(receipt: Receipt, file: bytes) -> None:
    """The document byte for byte, followed by nothing or by this very receipt."""
    size = int(receipt.statement.get("bound_size", len(file)))
    document, rest = file[:size], file[size:]
    if hashlib.sha256(document).hexdigest() != receipt.statement.get("bound_sha256"):
        raise ReceiptError("The PDF is not the one this receipt was made for, or it was changed.")
    if rest:
        place = Place(size, int(receipt.statement["receipt_object"]))
        if rest != appended(document, place, receipt.as_bytes()):
            raise ReceiptError("The PDF was changed: what follows the signed document is not its receipt.")


def receipt_of(file: bytes) -> Receipt:
    """The receipt that is attached to a bound PDF. Raises ReceiptError."""
    attached = attached_receipt(file)
    if attached is None:
        raise ReceiptError("There is no receipt in this PDF. Give the receipt's own file beside it.")
    return Receipt.from_json(attached)
