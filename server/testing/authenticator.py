"""An authenticator in software, for tests: what a security key does (Web Authentication Level 2, 6 and 8.7)."""

from __future__ import annotations

import base64
import hashlib
import json
import secrets
import struct
from typing import Any

import cbor2
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.hashes import SHA256

_PRESENT, _WITH_KEY = 0x01, 0x40


class Authenticator:
    """Holds one key pair for one site. ``origin``: the address of the pages that ask."""

    def __init__(self, host: str, origin: str) -> None:
        self.host, self.origin = host, origin
        self.id, self.count = secrets.token_bytes(16), 0
        self._key = ec.generate_private_key(ec.SECP256R1())

    def create(self, options: dict[str, Any]) -> str:
        """As ``navigator.credentials.create()`` answers, in its JSON form; attestation "none"."""
        numbers = self._key.public_key().public_numbers()
        key = {1: 2, 3: -7, -1: 1, -2: numbers.x.to_bytes(32), -3: numbers.y.to_bytes(32)}  # COSE: EC2, ES256, P-256
        attested = bytes(16) + struct.pack(">H", len(self.id)) + self.id + cbor2.dumps(key)
        data = self._data(_PRESENT | _WITH_KEY) + attested
        response = {
            "clientDataJSON": _text(self._client("webauthn.create", options)),
            "attestationObject": _text(cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": data})),
        }
        return self._credential(response)

    def get(self, options: dict[str, Any]) -> str:
        """As ``navigator.credentials.get()`` answers, in its JSON form."""
        self.count += 1
        data, client = self._data(_PRESENT), self._client("webauthn.get", options)
        signature = self._key.sign(data + hashlib.sha256(client).digest(), ec.ECDSA(SHA256()))
        response = {"clientDataJSON": _text(client), "authenticatorData": _text(data), "signature": _text(signature)}
        return self._credential(response)

    def _data(self, flags: int) -> bytes:
        return hashlib.sha256(self.host.encode()).digest() + struct.pack(">BI", flags, self.count)

    def _client(self, kind: str, options: dict[str, Any]) -> bytes:
        return json.dumps({"type": kind, "challenge": options["challenge"], "origin": self.origin}).encode()

    def _credential(self, response: dict[str, str]) -> str:
        known = _text(self.id)
        return json.dumps(
            {"id": known, "rawId": known, "type": "public-key", "response": response, "clientExtensionResults": {}}
        )


def _text(data: bytes) -> str:
    return base64.urlsafe_b64encode(data).rstrip(b"=").decode()
