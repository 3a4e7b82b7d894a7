"""Starting the application's processes together, and stopping all of them when one ends or Ctrl-C comes."""

from __future__ import annotations

import os
import signal
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from types import FrameType

from . import checkout
from .places import LOGS, PYTHON, SERVER, Stop
from .postgres import APP_ROLE, Cluster

_GRACE_SECONDS = 10
_MOST_ENDS, _PATIENCE_SECONDS = 3, 60  # a process may end so often in so long a time before it is given up


class Processes:
    """A context: on leaving it, everything it started is stopped."""

    def __init__(self, environment: Mapping[str, str], grace_seconds: float = _GRACE_SECONDS) -> None:
        self._grace = grace_seconds
        self._environment = dict(environment)
        self._children: dict[str, subprocess.Popen[bytes]] = {}
        self._begun: dict[str, tuple[list[str], Path, bool]] = {}

    def __enter__(self) -> Processes:
        signal.signal(signal.SIGINT, _interrupt)  # a shell that starts us in the background has it ignored
        signal.signal(signal.SIGTERM, _interrupt)
        signal.signal(signal.SIGHUP, _interrupt)
        return self

    def start(
        self, name: str, command: list[str], folder: Path = SERVER, *, show: bool = False,
        environment: Mapping[str, str] | None = None,
    ) -> None:  # fmt: skip
        self._begun[name] = (command, folder, show)
        LOGS.mkdir(parents=True, exist_ok=True)
        with (LOGS / f"{name}.log").open("ab") as log:
            out, own = None if show else log, {**self._environment, **(environment or {})}
            # No session of its own: between sessions (autogroups) Linux heeds no idle class and no niceness, sched(7).
            self._children[name] = subprocess.Popen(
                command, cwd=folder, env=own, stdout=out, stderr=subprocess.STDOUT if not show else None,
                stdin=subprocess.DEVNULL, process_group=0,
            )  # fmt: skip

    def pid(self, name: str) -> int:
        return self._children[name].pid

    def kill(self, name: str) -> None:
        """As a crash would: without a chance to tidy up."""
        _signal_group(self._children[name], signal.SIGKILL)
        self._children[name].wait()

    def wait(self) -> None:
        """Until Ctrl-C. What ends by itself is started again, unless it keeps ending (which is an error)."""
        ends: dict[str, list[float]] = {}
        while True:
            for name in self.ended():
                at = ends.setdefault(name, [])
                at[:] = [one for one in at if one > time.monotonic() - _PATIENCE_SECONDS] + [time.monotonic()]
                if len(at) > _MOST_ENDS:
                    self.require_alive()
                print(f"The {name} process ended by itself; starting it again. Its log: {LOGS / name}.log", flush=True)
                self.start(name, *self._begun[name][:2], show=self._begun[name][2])
            time.sleep(0.5)

    def ended(self) -> list[str]:
        return [name for name, child in self._children.items() if child.poll() is not None]

    def require_alive(self) -> None:
        for name in self.ended():
            log = LOGS / f"{name}.log"
            tail = "\n".join(log.read_text(errors="replace").splitlines()[-20:]) if log.exists() else ""
            status = self._children[name].returncode
            raise Stop(f"{tail}\nThe {name} process ended by itself (status {status}). Its log: {log}")

    def __exit__(self, *_: object) -> None:
        for child in self._children.values():
            _signal_group(child, signal.SIGTERM)
        deadline = time.monotonic() + self._grace
        for child in self._children.values():
            try:
                child.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                _signal_group(child, signal.SIGKILL)
                child.wait()


def _interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _signal_group(child: subprocess.Popen[bytes], number: signal.Signals) -> None:
    with suppress(ProcessLookupError):
        os.killpg(child.pid, number)


def web_command(port: int, *more: str) -> list[str]:
    return [str(PYTHON), "-m", "inkedfolio.web", str(port), *more]


# Decoding takes minutes at a close: it has processes of its own, so that binding and upkeep never wait behind it.
# Reading labels comes last of all jobs, by its rank, and takes a fifth of a second a page.
WORKERS = {"pages": ("pages", 2), "editions": ("editions,upkeep,reading", 2)}


def worker_command(name: str) -> list[str]:
    """In idle time (sched(7), SCHED_IDLE): that a page is taken in goes before that it is made beautiful."""
    queues, jobs = WORKERS[name]
    return ["chrt", "--idle", "0", str(PYTHON), "manage.py", "work", queues, "--jobs", str(jobs)]


def start_workers(processes: Processes) -> None:
    for name in WORKERS:
        processes.start(f"worker-{name}", worker_command(name))


def manage(environment: Mapping[str, str], *arguments: str) -> None:
    done = subprocess.run([str(PYTHON), "manage.py", *arguments], cwd=SERVER, env=dict(environment))
    if done.returncode != 0:
        raise Stop(f"manage.py {' '.join(arguments)} failed; its words stand above.")


def migrate(cluster: Cluster, **more: str) -> None:
    """Tables as this version wants them, by their owner; who runs the application may then use them."""
    by_owner = checkout.environment(cluster, True, **more)
    manage(by_owner, "migrate", "--verbosity", "0")
    manage(by_owner, "grant_rights", APP_ROLE)


def wait_until_answering(address: str, processes: Processes, seconds: float = 40) -> None:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        processes.require_alive()
        try:
            with urllib.request.urlopen(address, timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.2)
    raise Stop(f"{address} did not answer within {seconds:.0f} seconds. See {LOGS}/web.log")
