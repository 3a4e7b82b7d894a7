"""Decoding untrusted bytes in a child process that can do nothing but compute, with limits on memory and time.

The child has namespaces, a user and a network of its own (none), an empty environment, a read-only view of the code,
and few system calls; it answers in a plain format that is validated. Its death is one PageError in the caller and
harms nothing else. What holds on this machine, `isolation` finds out by trying.
"""

from __future__ import annotations

import logging
import os
import signal
import socket
import subprocess
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, fields
from typing import Any, TypeVar

from ..errors import PageError, Trouble
from ..limits import DEFAULT_LIMITS, Limits
from . import frames, launch, probes

logger = logging.getLogger(__name__)
R = TypeVar("R")
# The limit is one of processor time: a worker that has idle time only may wait long for it.
_WALL_TIMES = 20
_START_SECONDS = 120


def run_limited(
    function: Callable[..., R],
    *arguments: Any,
    limits: Limits = DEFAULT_LIMITS,
    early: Callable[[Any], None] | None = None,
) -> R:
    """``function(*arguments)`` in a limited child: a function of this package, whose arguments and result are plain
    values, bytes and dataclasses of them, as its type hints say.

    With ``early`` the function is given a keyword of that name: what it calls it with, before it is done, comes here.
    Raises PageError from the function itself, or TOOK_TOO_LONG (of processor time), TOO_MUCH_MEMORY, DECODER_DIED, and
    MACHINE_BUSY where the machine gave it no time, or ended it.
    """
    types = frames.types_of(function)
    ours, theirs = socket.socketpair()
    until = time.monotonic() + limits.seconds * _WALL_TIMES
    with ours:
        with theirs:
            _the_server().give(theirs)
        try:
            _ask(ours, function, arguments, limits, early is not None)
            while True:
                kind, said = frames.receive(ours, until)
                match kind:
                    case "early" if early is not None:
                        early(frames.as_type(types["early"], said))
                    case "done":
                        result: R = frames.as_type(types["return"], said)
                        return result
                    case "error":
                        raise PageError(Trouble(said["trouble"]), str(said["message"]))
                    case "ended":
                        raise _ended(int(said), limits)
                    case _:
                        raise ValueError(f"A frame “{kind}” was not expected.")
        except (EOFError, TimeoutError, OSError) as error:
            raise _busy() from error
        except (ValueError, KeyError, TypeError, IndexError) as error:
            logger.warning("A decoder's answer was none: %s", type(error).__name__)
            raise _died() from error


def _ask(to: socket.socket, function: Callable[..., Any], arguments: Any, limits: Limits, early: bool) -> None:
    name = f"{function.__module__}.{function.__qualname__}"
    frames.send(to, "run", {"function": name, "arguments": arguments, "limits": limits, "early": early})


@dataclass(frozen=True, slots=True)
class Isolation:
    """What a decoder on this machine cannot do, each found out by trying."""

    no_secrets: bool  # it sees no setting of the application
    no_files: bool  # nor accounts, nor other people's files
    no_network: bool
    no_programs: bool
    no_other_processes: bool
    no_writing: bool
    limited_calls: bool  # seccomp(2)

    @property
    def holds(self) -> bool:
        return not self.missing

    @property
    def missing(self) -> tuple[str, ...]:
        return tuple(field.name for field in fields(self) if not getattr(self, field.name))


def isolation() -> Isolation:
    limited_calls = _the_server().limited_calls
    got = run_limited(probes.try_everything)
    return Isolation(
        no_secrets=not got.secrets,
        no_files=not got.files,
        no_network=not got.network,
        no_programs=not got.programs,
        no_other_processes=not got.other_processes,
        no_writing=not got.writing,
        limited_calls=limited_calls,
    )


class _Server:
    """The fork server of this process; started at the first page."""

    def __init__(self, *, isolated: bool) -> None:
        """Raises EOFError where it cannot be started in this way."""
        self.pid, self._giving = os.getpid(), threading.Lock()
        self._control, theirs = socket.socketpair()
        with theirs:
            self._process = launch.start(theirs, isolated=isolated)
        try:
            _, said = frames.receive(self._control, time.monotonic() + _START_SECONDS)
        except (EOFError, OSError) as error:
            self.end()
            raise EOFError from error
        self.limited_calls = bool(said["limited_calls"])

    def give(self, connection: socket.socket) -> None:
        """Raises OSError where the server is gone."""
        with self._giving:
            socket.send_fds(self._control, [b"."], [connection.fileno()])

    @property
    def lives(self) -> bool:
        return self._process.poll() is None

    def end(self) -> None:
        self._control.close()
        with suppress(ProcessLookupError):
            os.killpg(self._process.pid, signal.SIGKILL)
        with suppress(subprocess.TimeoutExpired):
            self._process.wait(5)


_server: _Server | None = None
_starting = threading.Lock()


def _the_server() -> _Server:
    global _server
    with _starting:
        if _server is None or _server.pid != os.getpid() or not _server.lives:
            _server = _started()
        return _server


def start_beside() -> None:
    """Start the fork server beside whatever else this process begins with; the first page waits for both."""

    def start() -> None:
        with suppress(PageError):  # tried again, and told of, by whoever needs it
            _the_server()

    threading.Thread(target=start, daemon=True).start()


def _started() -> _Server:
    if launch.can_isolate():
        try:
            return _Server(isolated=True)
        except EOFError:
            logger.warning("Decoders get no namespaces of their own on this machine: bwrap did not start.")
    try:
        return _Server(isolated=False)
    except EOFError as error:
        raise _busy() from error


def _ended(exit_code: int, limits: Limits) -> PageError:
    """What a child that ended without an answer says of the file."""
    if exit_code == -signal.SIGXCPU:
        return PageError(
            Trouble.TOOK_TOO_LONG,
            f"This page was not ready after {limits.seconds} seconds of work. Export it simpler, or photograph it.",
        )
    if exit_code in (-signal.SIGKILL, -signal.SIGTERM):
        return _busy()  # out of memory on the machine, or stopping
    return _died()


def _died() -> PageError:
    return PageError(
        Trouble.DECODER_DIED, "Opening this page failed badly. Take it again, or export it as JPEG or PDF."
    )


def _busy() -> PageError:
    return PageError(Trouble.MACHINE_BUSY, "The server is busy. The file is safe, and is opened when there is time.")
