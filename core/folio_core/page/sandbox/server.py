"""The fork server inside the sandbox: the decoders are loaded once, and each page gets a child of its own.

A fork of a process that is warm takes some milliseconds, a cold start 0.4 s. It is given one end of a socket for each
page by its control socket, passes that on to the child, and says on it how the child ended where that did not.

While there is nothing to do a spare child waits for the next page, with the memory in hand that a page needs; it takes
that one page and no other. A page that finds none waiting gets a child that is forked then.
"""

from __future__ import annotations

import gc
import importlib
import os
import resource
import select
import signal
import socket
import sys
import traceback
from array import array
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, NoReturn

from ..errors import PageError, Trouble
from ..limits import Limits
from . import frames, seccomp, warm

_QUIET_MS = 100  # without a page: then a spare child is made
_OF_OURS = "folio_core."  # only functions of this package are run


@dataclass(frozen=True, slots=True)
class _Child:
    pid: int
    ended: int  # a descriptor that becomes readable when it has (pidfd_open(2))
    connection: socket.socket


@dataclass(frozen=True, slots=True)
class _Spare:
    """A child that waits to be given its page."""

    pid: int
    ended: int


@dataclass(frozen=True, slots=True)
class _Line:
    """From here to the spare child, of which there is one at a time; made while a socket can still be made."""

    ours: socket.socket
    theirs: socket.socket

    def give(self, connection: socket.socket) -> None:
        socket.send_fds(self.ours, [b"."], [connection.fileno()])

    def forget(self) -> None:
        """What a child that ended did not take: the next one must not."""
        one = array("i", [0])
        with suppress(BlockingIOError):
            while True:  # recv_fds does not pass its flags on (Python 3.11)
                told = self.theirs.recvmsg(1, socket.CMSG_LEN(one.itemsize), socket.MSG_DONTWAIT)[1]
                for _, _, given in told:
                    os.close(array("i", given)[0])


def main(descriptor: int) -> None:
    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(number, signal.SIG_IGN)  # it ends when its worker does
    control = _unix_socket(descriptor)
    warm.up()
    gc.collect()
    line = _Line(*socket.socketpair())
    gc.freeze()  # what is loaded is shared with the children, and not copied by a collection
    frames.send(control, "ready", {"limited_calls": seccomp.allow_only_computing()})
    _serve(control, line)


def _serve(control: socket.socket, line: _Line) -> None:
    children: dict[int, _Child] = {}  # by each of both descriptors
    spare: _Spare | None = None
    waiting = select.poll()
    waiting.register(control, select.POLLIN)
    while True:
        ready = waiting.poll(None if children or spare else _QUIET_MS)
        if not ready and not children and spare is None:
            spare = _spare(line)
            waiting.register(spare.ended, select.POLLIN)
        for descriptor, event in ready:
            if descriptor == control.fileno():
                given = socket.recv_fds(control, 1, 1)[1]
                if not given:
                    _end_all(children)
                    return  # a spare reads the end of its line, and ends
                if spare is not None and select.select([spare.ended], [], [], 0)[0]:
                    _bury_spare(spare, waiting)
                    spare = None
                child, spare = _given(_unix_socket(given[0]), spare, line), None
                children[child.ended] = children[child.connection.fileno()] = child
                waiting.register(child.ended, select.POLLIN)
                waiting.register(child.connection, 0)  # only whether the worker has hung up
            elif spare is not None and descriptor == spare.ended:
                _bury_spare(spare, waiting)
                spare = None
            elif descriptor in children:
                child = children[descriptor]
                if descriptor == child.ended:
                    _bury(child, waiting, children)
                    if not children and spare is None:
                        line.forget()
                elif event:
                    _kill(child)
                    waiting.unregister(child.connection)


def _unix_socket(descriptor: int) -> socket.socket:
    """Said in full: asking the system what kind it is, is not among the calls that are left."""
    return socket.socket(socket.AF_UNIX, socket.SOCK_STREAM, 0, fileno=descriptor)


def _begin(connection: socket.socket) -> _Child:
    pid = os.fork()
    if pid == 0:
        _child(connection)
    return _Child(pid, os.pidfd_open(pid), connection)


def _spare(line: _Line) -> _Spare:
    pid = os.fork()
    if pid == 0:
        _child(line.theirs, waits=True)
    return _Spare(pid, os.pidfd_open(pid))


def _given(connection: socket.socket, spare: _Spare | None, line: _Line) -> _Child:
    """The page to the child that waits, if one does."""
    if spare is None:
        return _begin(connection)
    line.give(connection)
    return _Child(spare.pid, spare.ended, connection)


def _bury_spare(spare: _Spare, waiting: select.poll) -> None:
    """Of one that was ended before it had a page, by a machine that is short of memory."""
    waiting.unregister(spare.ended)
    os.waitpid(spare.pid, 0)
    os.close(spare.ended)


def _bury(child: _Child, waiting: select.poll, children: dict[int, _Child]) -> None:
    status = os.waitstatus_to_exitcode(os.waitpid(child.pid, 0)[1])
    del children[child.ended], children[child.connection.fileno()]
    with suppress(KeyError):
        waiting.unregister(child.connection)
    waiting.unregister(child.ended)
    os.close(child.ended)
    with child.connection, suppress(OSError):  # the worker may have what it wanted and be gone
        frames.send(child.connection, "ended", status)


def _kill(child: _Child) -> None:
    with suppress(ProcessLookupError):
        os.kill(child.pid, signal.SIGKILL)


def _end_all(children: dict[int, _Child]) -> None:
    for child in children.values():
        _kill(child)


def _child(connection: socket.socket, *, waits: bool = False) -> NoReturn:
    """Nothing of other pages is left open in it, and it never returns. One that ``waits`` is told by ``connection``
    which page it is for."""
    status = 1
    try:
        os.closerange(3, connection.fileno())
        os.closerange(connection.fileno() + 1, resource.getrlimit(resource.RLIMIT_NOFILE)[0])
        seccomp.forbid_other_processes()
        warm.after_fork()
        if waits:
            warm.take_memory()
            given = socket.recv_fds(connection, 1, 1)[1]
            connection.close()
            if not given:
                os._exit(0)
            connection = _unix_socket(given[0])
        _answer(connection)
        status = 0
    except BaseException:
        traceback.print_exc()
    finally:
        sys.stderr.flush()
        os._exit(status)


def _answer(connection: socket.socket) -> None:
    _, asked = frames.receive(connection)
    limits: Limits = frames.as_type(Limits, asked["limits"])
    function, types = _function(asked["function"])
    names = [name for name in types if name not in ("early", "return")]
    arguments = [frames.as_type(types[name], value) for name, value in zip(names, asked["arguments"], strict=False)]
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory_bytes, limits.memory_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (limits.seconds, limits.seconds + 5))  # SIGXCPU, then SIGKILL
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))  # a decoder has nothing to write
    telling = {"early": lambda said: frames.send(connection, "early", said)} if asked["early"] else {}
    try:
        frames.send(connection, "done", function(*arguments, **telling))
    except PageError as error:
        frames.send(connection, "error", {"trouble": error.trouble, "message": error.message})
    except MemoryError:
        message = "This page needs too much memory. Export it smaller."
        frames.send(connection, "error", {"trouble": Trouble.TOO_MUCH_MEMORY, "message": message})


def _function(name: str) -> tuple[Any, dict[str, Any]]:
    module, _, attribute = name.rpartition(".")
    if not module.startswith(_OF_OURS):
        raise ValueError(f"{name} is not run here.")
    function = getattr(importlib.import_module(module), attribute)
    return function, frames.types_of(function)


if __name__ == "__main__":
    main(int(sys.argv[1]))
