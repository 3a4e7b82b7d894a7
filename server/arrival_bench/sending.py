"""A browser's part of arrival, as small as it can be: one request, or tus in pieces."""

from __future__ import annotations

import base64
import http.client
import json
import os
from dataclasses import dataclass
from email.message import Message
from typing import Any

from .stand import Student

_TOKEN = "b" * 32  # Django compares the cookie's token with the header's
_TIMEOUT_SECONDS = 60


class Broken(Exception):
    """No acknowledgement came: the line broke, or the server is in trouble. To be tried again."""


class Denied(Exception):
    """The server will not take this file."""


@dataclass(slots=True)
class Sender:
    """Keeps one connection open, as a browser does, and makes a new one after a break."""

    port: int
    student: Student
    _line: http.client.HTTPConnection | None = None

    def put(self, data: bytes, name: str) -> dict[str, Any]:
        """The acknowledgement. Raises Broken or Denied."""
        path = f"/api/folios/{self.student.folio_id}/originals?name={name}"
        status, body, _ = self.request("PUT", path, data)
        return _acknowledged(status, body)

    def in_pieces(self, data: bytes, name: str, pieces: int) -> dict[str, Any]:
        metadata = "filename " + base64.b64encode(name.encode()).decode()
        path = f"/api/folios/{self.student.folio_id}/uploads"
        headers = {"Upload-Length": str(len(data)), "Upload-Metadata": metadata}
        status, body, told = self.request("POST", path, b"", headers)
        if status != 201:
            _acknowledged(status, body)
        address, step = told["Location"], len(data) // pieces + 1
        for start in range(0, len(data), step):
            piece = data[start : start + step]
            status, body, told = self.request("PATCH", address, piece, {"Upload-Offset": str(start)})
            if status != 204:
                _acknowledged(status, body)
        return _acknowledged(200, told.get("Folio-Acknowledged", "").encode())

    def request(
        self, method: str, path: str, data: bytes, headers: dict[str, str] | None = None
    ) -> tuple[int, bytes, Message]:
        cookies = f"{os.environ['FOLIO_SESSION_COOKIE']}={self.student.cookie}; csrftoken={_TOKEN}"
        sent = {
            "Cookie": cookies,
            "X-CSRFToken": _TOKEN,
            "Tus-Resumable": "1.0.0",
            "Content-Type": "application/offset+octet-stream",
            **(headers or {}),
        }
        try:
            self._line = self._line or http.client.HTTPConnection("127.0.0.1", self.port, timeout=_TIMEOUT_SECONDS)
            self._line.request(method, path, data, sent)
            response = self._line.getresponse()
            return response.status, response.read(), response.headers
        except (OSError, http.client.HTTPException) as error:
            self.hang_up()
            raise Broken(str(error)) from error

    def hang_up(self) -> None:
        if self._line is not None:
            self._line.close()
        self._line = None


def _acknowledged(status: int, body: bytes) -> dict[str, Any]:
    if 400 <= status < 500 and status not in (409, 423, 429):
        raise Denied(f"{status} {body[:300]!r}")
    try:
        told = json.loads(body) if status == 200 else None
    except ValueError:
        told = None
    if not isinstance(told, dict) or "page_id" not in told:
        raise Broken(f"{status} {body[:120]!r}")
    return told
