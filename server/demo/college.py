"""A stand-in for a college's sign-in (OpenID Connect Core 1.0 and Discovery 1.0, code flow with PKCE), for the demo and
the tests: `python -m demo.college PORT BACK`. Anybody is whom they say they are; no password is asked for.
"""

from __future__ import annotations

import argparse
import base64
import json
import secrets
import threading
import time
from dataclasses import dataclass, field
from hashlib import sha256
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

from joserfc import jwt
from joserfc.jwk import RSAKey

CLIENT, SECRET = "inked-folio", "no-secret-at-all-of-the-demo"
_CODE_SECONDS, _TOKEN_SECONDS = 60, 300
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Kestrel Point · who are you?</title>
<style>body{font:16px/1.5 sans-serif;max-width:26em;margin:4em auto;padding:0 1em}
input,button{font:inherit;padding:.5em;width:100%;box-sizing:border-box;margin:.3em 0}</style>
<h1>Kestrel Point Maritime College</h1><p>A stand-in for the college's sign-in: it asks for no password.</p>
<form method="post"><label>Mail address<input name="email" type="email" required autofocus></label>
<button>Go on to Inked Folio</button><button name="deny" value="1" formnovalidate>Break it off</button></form></html>"""


@dataclass
class College:
    """``back``: the one address that people are sent back to. ``claims`` changes what the tokens say, ``key`` what they
    are signed with, ``verified`` whether mail addresses are: what a test wants wrong."""

    back: str
    port: int = 0
    verified: bool = True
    claims: dict[str, Any] = field(default_factory=dict)
    key: RSAKey = field(default_factory=lambda: RSAKey.generate_key(2048, {"kid": "one", "use": "sig", "alg": "RS256"}))

    def __post_init__(self) -> None:
        self._codes: dict[str, dict[str, Any]] = {}
        self.published = self.key.as_dict(private=False)
        college = self

        class Handler(_Handler):
            of = college

        self.server = ThreadingHTTPServer(("127.0.0.1", self.port), Handler)
        self.port = self.server.server_address[1]
        self.issuer = f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    def stop(self) -> None:
        self.server.shutdown()
        self.server.server_close()

    def metadata(self) -> dict[str, Any]:
        return {
            "issuer": self.issuer,
            "authorization_endpoint": f"{self.issuer}/authorize",
            "token_endpoint": f"{self.issuer}/token",
            "jwks_uri": f"{self.issuer}/keys",
            "response_types_supported": ["code"],
            "subject_types_supported": ["public"],
            "id_token_signing_alg_values_supported": ["RS256"],
            "code_challenge_methods_supported": ["S256"],
        }

    def refusal(self, asked: dict[str, str]) -> str:
        """What is wrong with a request to sign somebody in; nothing: ""."""
        wanted = {"client_id": CLIENT, "response_type": "code", "redirect_uri": self.back}
        wrong = [name for name, value in wanted.items() if asked.get(name) != value]
        wrong += ["scope"] if "openid" not in asked.get("scope", "").split() else []
        wrong += ["code_challenge"] if asked.get("code_challenge_method") != "S256" else []
        wrong += [name for name in ("state", "nonce", "code_challenge") if not asked.get(name)]
        return ", ".join(wrong)

    def code_for(self, email: str, asked: dict[str, str]) -> str:
        code = secrets.token_urlsafe(16)
        self._codes[code] = {**asked, "email": email.strip(), "until": time.time() + _CODE_SECONDS}
        return code

    def token_for(self, form: dict[str, str], basic: str) -> dict[str, Any] | None:
        """Once for each code, to the client that asked, with the verifier of its challenge."""
        given = self._codes.pop(form.get("code", ""), None)
        expected = base64.b64encode(f"{CLIENT}:{SECRET}".encode()).decode()
        verifier = sha256(form.get("code_verifier", "").encode()).digest()
        challenge = base64.urlsafe_b64encode(verifier).rstrip(b"=").decode()
        if (
            given is None
            or given["until"] < time.time()
            or basic != f"Basic {expected}"
            or form.get("redirect_uri") != self.back
            or challenge != given["code_challenge"]
        ):
            return None
        now, access = int(time.time()), secrets.token_urlsafe(16)
        claims = {
            "iss": self.issuer, "sub": sha256(given["email"].encode()).hexdigest()[:16], "aud": CLIENT, "iat": now,
            "exp": now + _TOKEN_SECONDS, "nonce": given["nonce"], "email": given["email"],
            "email_verified": self.verified,
        }  # fmt: skip
        claims = {name: value for name, value in {**claims, **self.claims}.items() if value is not None}
        token = jwt.encode({"alg": "RS256", "kid": "one"}, claims, self.key)
        return {"access_token": access, "token_type": "Bearer", "expires_in": _TOKEN_SECONDS, "id_token": token}


class _Handler(BaseHTTPRequestHandler):
    of: College

    def do_GET(self) -> None:
        address = urlsplit(self.path)
        match address.path:
            case "/.well-known/openid-configuration":
                self._json(200, self.of.metadata())
            case "/keys":
                self._json(200, {"keys": [self.of.published]})
            case "/authorize":
                wrong = self.of.refusal(_once(address.query))
                self._say(400, f"Wrong in this request: {escape(wrong)}") if wrong else self._say(200, _PAGE)
            case _:
                self._say(404, "There is nothing here.")

    def do_POST(self) -> None:
        address = urlsplit(self.path)
        form = _once(self.rfile.read(min(20_000, int(self.headers.get("Content-Length", 0)))).decode())
        if address.path == "/token":
            token = self.of.token_for(form, self.headers.get("Authorization", ""))
            self._json(*((200, token) if token else (400, {"error": "invalid_grant"})))
        elif address.path == "/authorize" and not self.of.refusal(asked := _once(address.query)):
            said = {"error": "access_denied"} if "deny" in form else {"code": self.of.code_for(form["email"], asked)}
            self.send_response(303)
            self.send_header("Location", f"{self.of.back}?{urlencode({**said, 'state': asked['state']})}")
            self.end_headers()
        else:
            self._say(400, "This request is wrong.")

    def _json(self, status: int, value: Any) -> None:
        self._answer(status, "application/json", json.dumps(value))

    def _say(self, status: int, page: str) -> None:
        self._answer(status, "text/html; charset=utf-8", page)

    def _answer(self, status: int, kind: str, body: str) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        self.wfile.write(body.encode())

    def log_message(self, format: str, *args: Any) -> None:
        """It has nothing to tell."""


def _once(query: str) -> dict[str, str]:
    return {name: values[0] for name, values in parse_qs(query).items()}


if __name__ == "__main__":
    wanted = argparse.ArgumentParser(prog="python -m demo.college")
    wanted.add_argument("port", type=int)
    wanted.add_argument("back", help="where people are sent back to")
    chosen = wanted.parse_args()
    College(chosen.back, chosen.port).server.serve_forever()
