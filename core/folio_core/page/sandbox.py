"""Decoding untrusted bytes in a child process with limits on memory and time.

A fork server with the decoders already loaded starts one child a call (about 10 ms); the child's death is one
PageError in the caller and harms nothing else.
"""

from __future__ import annotations

import multiprocessing
import resource
import signal
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from .errors import PageError, Trouble
from .limits import DEFAULT_LIMITS, Limits

R = TypeVar("R")
# The limit is one of processor time: a worker that has idle time only may wait long for it.
_WALL_TIMES = 20
_DYING_SECONDS = 5

_context = multiprocessing.get_context("forkserver")
_context.set_forkserver_preload(["folio_core.page.warm"])


def run_limited(
    function: Callable[..., R],
    *arguments: Any,
    limits: Limits = DEFAULT_LIMITS,
    early: Callable[[Any], None] | None = None,
) -> R:
    """``function(*arguments)`` in a limited child; its result must pickle.

    With ``early`` the function is given a keyword of that name: what it calls it with, before it is done, comes here.
    Raises PageError from the function itself, or TOOK_TOO_LONG (of processor time), TOO_MUCH_MEMORY, DECODER_DIED, and
    MACHINE_BUSY where the machine gave it no time, or ended it.
    """
    ours, theirs = _context.Pipe(duplex=False)
    child = _context.Process(
        target=_in_child, args=(theirs, function, arguments, limits, early is not None), daemon=True
    )
    child.start()
    theirs.close()
    until = time.monotonic() + limits.seconds * _WALL_TIMES
    try:
        done = False
        while not done:
            if not ours.poll(max(0.0, until - time.monotonic())):
                raise _busy()
            done, said = ours.recv()
            if not done and early is not None:
                early(said)
    except EOFError as error:
        child.join(_DYING_SECONDS)
        raise _ended(child.exitcode, limits) from error
    finally:
        ours.close()
        child.kill()
        child.join()
    if isinstance(said, Exception):
        raise said
    result: R = said
    return result


def _ended(exit_code: int | None, limits: Limits) -> PageError:
    """What a child that ended without an answer says of the file."""
    if exit_code == -signal.SIGXCPU:
        return PageError(
            Trouble.TOOK_TOO_LONG,
            f"This page was not ready after {limits.seconds} seconds of work. Export it simpler, or photograph it.",
        )
    if exit_code in (-signal.SIGKILL, -signal.SIGTERM, None):
        return _busy()  # out of memory on the machine, or stopping
    return PageError(
        Trouble.DECODER_DIED, "Opening this page failed badly. Take it again, or export it as JPEG or PDF."
    )


def _busy() -> PageError:
    return PageError(Trouble.MACHINE_BUSY, "The server is busy. The file is safe, and is opened when there is time.")


def _in_child(
    pipe: Connection, function: Callable[..., Any], arguments: tuple[Any, ...], limits: Limits, early: bool
) -> None:
    # A worker that is told to stop, with its whole group, finishes the pages it has begun; we end a child by SIGKILL.
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory_bytes, limits.memory_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (limits.seconds, limits.seconds + 5))  # SIGXCPU, then SIGKILL
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))  # a decoder has nothing to write
    telling = {"early": lambda said: pipe.send((False, said))} if early else {}
    try:
        pipe.send((True, function(*arguments, **telling)))
    except PageError as error:
        pipe.send((True, error))
    except MemoryError:
        pipe.send((True, PageError(Trouble.TOO_MUCH_MEMORY, "This page needs too much memory. Export it smaller.")))
