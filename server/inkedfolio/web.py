"""The web process: uvicorn, with limits on connections. `python -m inkedfolio.web PORT`.

What a proxy in front does for the open network (docs/running.md), each process also does for itself.
"""

from __future__ import annotations

import argparse
import asyncio
import os
import resource
import socket
from collections import Counter
from typing import Any

import uvicorn
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

_MOST_IN_ALL = int(os.environ.get("FOLIO_MOST_CONNECTIONS", "4000"))
# A whole hall may share one address; from a proxy on this machine all come.
_MOST_AN_ADDRESS = int(os.environ.get("FOLIO_MOST_CONNECTIONS_AN_ADDRESS", "1000"))
_HEADERS_SECONDS = float(os.environ.get("FOLIO_HEADERS_SECONDS", "20"))
_UNTAKEN_MS = 60_000  # TCP_USER_TIMEOUT, tcp(7): so long may what we send lie untaken


class Connections:
    """How many are open, by address."""

    def __init__(self, most_in_all: int, most_an_address: int) -> None:
        self.most_in_all, self.most_an_address = most_in_all, most_an_address
        self._open: Counter[str] = Counter()

    def admit(self, address: str) -> bool:
        if self._open.total() >= self.most_in_all or self._open[address] >= self.most_an_address:
            return False
        self._open[address] += 1
        return True

    def leave(self, address: str) -> None:
        self._open[address] -= 1
        if self._open[address] <= 0:
            del self._open[address]


connections = Connections(_MOST_IN_ALL, _MOST_AN_ADDRESS)


class PatientProtocol(HttpToolsProtocol):
    """HTTP as uvicorn speaks it. A connection that brings no whole head, or takes nothing, is not kept for long."""

    _address: str | None = None
    _head_due: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        address = (transport.get_extra_info("peername") or ("",))[0]
        super().connection_made(transport)
        if not connections.admit(address):
            transport.abort()
            return
        self._address = address
        taken = transport.get_extra_info("socket")
        if taken is not None:
            taken.setsockopt(socket.IPPROTO_TCP, socket.TCP_USER_TIMEOUT, _UNTAKEN_MS)
        self._expect_head()

    def on_message_begin(self) -> None:
        super().on_message_begin()
        if self._head_due is None:
            self._expect_head()

    def on_headers_complete(self) -> None:
        self._head_came()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._head_came()
        if self._address is not None:
            connections.leave(self._address)
            self._address = None
        super().connection_lost(exc)

    def shutdown(self) -> None:
        """At the end bodies under way are finished; a stream of news, which never is, ends at once."""
        if self.scope is not None and self.scope["path"].endswith("/news"):
            self.transport.close()
        super().shutdown()

    def _expect_head(self) -> None:
        self._head_due = self.loop.call_later(_HEADERS_SECONDS, self.transport.abort)

    def _head_came(self) -> None:
        if self._head_due is not None:
            self._head_due.cancel()
            self._head_due = None


def main() -> None:
    wanted = argparse.ArgumentParser(prog="python -m inkedfolio.web")
    wanted.add_argument("port", type=int)
    wanted.add_argument("--host", default="127.0.0.1")
    wanted.add_argument("--workers", type=int, default=min(4, os.cpu_count() or 1))  # Python keeps one core busy
    wanted.add_argument("--reload-dir", action="append", default=[])
    wanted.add_argument("--grace", type=int, default=3, help="seconds left to requests under way at the end")
    chosen = wanted.parse_args()
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(most, 65_536), most))
    uvicorn.run(
        "inkedfolio.asgi:application", host=chosen.host, port=chosen.port, http=PatientProtocol, log_level="warning",
        workers=None if chosen.reload_dir else chosen.workers, reload=bool(chosen.reload_dir), ws="none",
        reload_dirs=chosen.reload_dir or None, timeout_graceful_shutdown=chosen.grace, server_header=False,
    )  # fmt: skip


if __name__ == "__main__":
    main()
