"""Connections as an attacker opens them: half a request, an answer that is never read."""

from __future__ import annotations

import os
import socket
import time
from collections.abc import Iterable
from contextlib import suppress

from arrival_bench.sending import _TOKEN
from arrival_bench.stand import Student

_TIMEOUT_SECONDS = 20


def head(method: str, path: str, student: Student | None = None, **headers: str) -> bytes:
    lines = [f"{method} {path} HTTP/1.1", "Host: 127.0.0.1"]
    if student is not None:
        cookie = f"{os.environ['FOLIO_SESSION_COOKIE']}={student.cookie}"
        lines += [f"Cookie: {cookie}; csrftoken={_TOKEN}", f"X-CSRFToken: {_TOKEN}"]
    lines += [f"{name.replace('_', '-')}: {value}" for name, value in headers.items()]
    return ("\r\n".join(lines) + "\r\n\r\n").encode()


class Stalled:
    """Many connections on which something was sent and nothing more happens. A context: closed at its end."""

    def __init__(self, port: int, sent: Iterable[bytes]) -> None:
        self.sockets = []
        for text in sent:
            line = socket.create_connection(("127.0.0.1", port), timeout=_TIMEOUT_SECONDS)
            line.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
            with suppress(OSError):
                line.sendall(text)
            self.sockets.append(line)

    def __enter__(self) -> Stalled:
        return self

    def __exit__(self, *_: object) -> None:
        for line in self.sockets:
            line.close()

    def still_open(self) -> int:
        """How many the server has not closed."""
        count = 0
        for line in self.sockets:
            line.setblocking(False)
            try:
                if line.recv(1, socket.MSG_PEEK) != b"":
                    count += 1
            except BlockingIOError:
                count += 1
            except OSError:
                continue
        return count


def answer_to(port: int, text: bytes) -> tuple[int, bytes]:
    """Status and what was read of the answer; (0, b"") where the connection was closed."""
    with socket.create_connection(("127.0.0.1", port), timeout=_TIMEOUT_SECONDS) as line:
        try:
            line.sendall(text)
            data = b""
            until = time.monotonic() + _TIMEOUT_SECONDS
            while time.monotonic() < until and (chunk := line.recv(65536)):
                data += chunk
        except OSError:
            return 0, b""
    return (int(data.split(b" ", 2)[1]), data) if data.startswith(b"HTTP/") else (0, data)
