"""What a decoder that was taken over would try, to see that it cannot; and ways to die, to see that they cost a page.

Run in the sandbox by `isolation`, the tests and `./folio bench attack`. Each returns what it got; "" is nothing.
"""

from __future__ import annotations

import errno
import fcntl
import os
import resource
import signal
import socket
import subprocess
import termios
import time
from collections.abc import Callable
from dataclasses import astuple, dataclass
from pathlib import Path

from ..errors import PageError, Trouble


def read_environment() -> str:
    secrets = [name for name in os.environ if name.startswith("FOLIO") or "PASSWORD" in name or "KEY" in name]
    try:
        parent = Path(f"/proc/{os.getppid()}/environ").read_bytes().decode(errors="replace")
    except OSError:
        parent = ""
    return " ".join([*secrets, *(each for each in parent.split("\0") if each.startswith("FOLIO"))])


@dataclass(frozen=True, slots=True)
class Got:
    """What each attempt of one child came to; "" is nothing."""

    secrets: str
    files: str
    network: str
    programs: str
    other_processes: str
    writing: str


def try_everything() -> Got:
    """In one child: nine would cost a worker's start half a second."""
    return Got(
        secrets=read_environment(),
        files=read_file("/etc/passwd") + list_folder("/home"),
        network=open_network("127.0.0.1", 1) + open_socket(),
        programs=start_program(),
        other_processes=stop_others(),
        writing=write_file("/tmp"),
    )


def what_a_child_gets() -> tuple[int, str, int]:
    """Bytes of memory this process has in hand (proc(5), resident), all that the other probes get, and its number."""
    resident = int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize()
    return resident, " ".join(got for got in astuple(try_everything()) if got), os.getpid()


def read_file(path: str) -> str:
    try:
        return Path(path).read_bytes()[:100].decode(errors="replace")
    except OSError:
        return ""


def list_folder(path: str) -> str:
    try:
        return " ".join(os.listdir(path))
    except OSError:
        return ""


def open_network(address: str, port: int) -> str:
    try:
        with socket.create_connection((address, port), timeout=2):
            return "connected"
    except ConnectionRefusedError:
        return "reached the machine"
    except OSError:
        return ""


def open_socket() -> str:
    try:
        socket.socket().close()
    except OSError:
        return ""
    return "a socket"


def start_program() -> str:
    try:
        return subprocess.run(["/usr/bin/id"], capture_output=True, text=True, check=True).stdout
    except (OSError, subprocess.SubprocessError):
        return ""


def write_file(folder: str) -> str:
    written = Path(folder, f"probe-{os.getpid()}")
    try:
        written.write_bytes(b"x" * 100)
        written.unlink()
    except OSError:
        return ""
    return "written"


def stop_others() -> str:
    """Other pages' children have the numbers around ours; 0 only asks whether it could."""
    reached = []
    for pid in range(1, os.getpid() + 3):
        try:
            os.kill(pid, 0)
            reached.append(str(pid))
        except OSError:
            continue
    return " ".join(reached)


def type_into_terminal() -> str:
    """ioctl_tty(2), TIOCSTI: refused is another error than that there is no terminal."""
    try:
        fcntl.ioctl(0, termios.TIOCSTI, b"x")
    except OSError as error:
        return "" if error.errno == errno.EPERM else "no terminal there"
    return "typed"


def loop() -> str:
    while True:
        pass


def sleep() -> str:
    time.sleep(10_000)
    return ""


def hoard() -> str:
    kept = []
    while True:
        kept.append(bytes(50_000_000))


def crash() -> str:
    os.abort()


def be_ended() -> str:
    """As by a machine that is out of memory: by SIGKILL, which the hard limit of processor time sends."""
    signal.signal(signal.SIGXCPU, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_CPU, (1, 1))
    return loop()


def speak_then_crash(*, early: Callable[[str], None] | None = None) -> str:
    if early:
        early("early")
    os.abort()


def speak_for_ever(*, early: Callable[[str], None] | None = None) -> str:
    while True:
        if early:
            early("early")


def fail() -> str:
    raise PageError(Trouble.WRONG_KIND, "It failed as it should.")


def lie() -> int:
    return "not a number"  # type: ignore[return-value]
