"""`./folio test`: every linter, type check and test, then one closing line `N passed, N failed`.

Everything is cut into jobs. Two lanes take them, the longest first, each with a database and a folder of files of its
own, so that both cores are used to the end. ``--quick`` leaves out what needs a browser.
"""

from __future__ import annotations

import re
import subprocess
import threading
import time
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from . import checkout, install
from .places import CORE, LOGS, PYTHON, ROOT, SERVER, STATE, VENV, WEB
from .postgres import Cluster, cluster_folder, free_port
from .running import manage

_BIN = VENV / "bin"
_LANES = 2
_BROWSER_JOBS = 6
_BROWSER = SERVER / "browser_tests"


@dataclass(frozen=True, slots=True)
class Job:
    """``labels``: tests of Django's runner; else ``command`` is a check that passes or fails as a whole.

    ``seconds``: about how long it takes, so that the longest begin first.
    """

    name: str
    seconds: int
    labels: tuple[str, ...] = ()
    command: tuple[str, ...] = ()
    folder: Path = ROOT


def run_everything(tests: list[str], *, checks: bool, quick: bool = False) -> int:
    install.everything(testing=True)
    cluster = Cluster(cluster_folder("postgres-test"), free_port(), "test-only", durable=False)
    cluster.remove()
    began, idle = time.monotonic(), _Idle()
    try:
        cluster.start()
        jobs = [Job("tests", 1, labels=tuple(tests))] if tests else _jobs(checks=checks, quick=quick)
        passed, failed = _Run(cluster, jobs).results()
    finally:
        cluster.remove()
    print(f"\n{time.monotonic() - began:.0f} s, {idle.share():.0%} of the processors' time idle")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


def _jobs(*, checks: bool, quick: bool) -> list[Job]:
    jobs = [*_test_jobs(quick=quick), *(_checks() if checks else ())]
    return sorted(jobs, key=lambda job: -job.seconds)


def _test_jobs(*, quick: bool) -> Iterable[Job]:
    apps = sorted(path.parent.name for path in SERVER.glob("*/tests") if path.parent != _BROWSER)
    yield Job("server", 900, labels=tuple(apps))
    slow = {"test_page_finding", "test_page_advice", "test_page_formats", "test_page_properties"}
    core = sorted(path.stem for path in (CORE / "tests").glob("test_*.py"))
    yield Job("core, pictures", 200, labels=tuple(name for name in core if name in slow))
    yield Job("core", 400, labels=tuple(name for name in core if name not in slow))
    yield Job("ops", 40, labels=(str(ROOT / "ops" / "tests"),))
    if not quick:
        # A server, a worker and a browser are started for each of these: for every file it took minutes.
        files = [f"browser_tests.{path.stem}" for path in sorted(_BROWSER.glob("test_*.py"))]
        for number in range(_BROWSER_JOBS):
            yield Job(f"browser {'abcdef'[number]}", 300, labels=tuple(files[number::_BROWSER_JOBS]))


def _checks() -> Iterable[Job]:
    django = (str(PYTHON), "manage.py")
    yield Job("mypy", 20, command=(str(_BIN / "mypy"),))
    yield Job("eslint", 20, command=("npm", "run", "--silent", "lint"), folder=WEB)
    yield Job("front end's rules (vitest)", 15, command=("npm", "run", "--silent", "test"), folder=WEB)
    yield Job("tsc", 10, command=("npm", "run", "--silent", "typecheck"), folder=WEB)
    yield Job("import rules", 8, command=(str(_BIN / "lint-imports"),))
    yield Job("API types up to date", 8, command=(*django, "api_types", "--check"), folder=SERVER)
    yield Job("missing migrations", 5, command=(*django, "makemigrations", "--check", "--dry-run"), folder=SERVER)
    yield Job("system check", 5, command=(*django, "check", "--fail-level", "WARNING"), folder=SERVER)
    yield Job("ruff", 2, command=(str(_BIN / "ruff"), "check", "."))
    yield Job("ruff format", 2, command=(str(_BIN / "ruff"), "format", "--check", "."))


class _Run:
    """The jobs, taken by lanes; results and output are told as each ends."""

    def __init__(self, cluster: Cluster, jobs: list[Job]) -> None:
        self._cluster, self._left = cluster, jobs
        self._lock = threading.Lock()
        self._passed = self._failed = 0

    def results(self) -> tuple[int, int]:
        """Passed and failed."""
        # One after another: the first makes what the checkout keeps for itself.
        places = [_environment(self._cluster, f"test-{number}") for number in range(min(_LANES, len(self._left)))]
        lanes = [threading.Thread(target=self._lane, args=(place,)) for place in places]
        for lane in lanes:
            lane.start()
        for lane in lanes:
            lane.join()
        return self._passed, self._failed

    def _lane(self, environment: dict[str, str]) -> None:
        while job := self._next():
            began = time.monotonic()
            try:
                passed, failed, output = _tests(job, environment) if job.labels else _check(job, environment)
            except Exception as error:
                passed, failed, output = 0, 1, repr(error)
            words = f"{passed} passed, {failed} failed" if job.labels else "passed" if passed else "failed"
            line = f"{'FAILED' if failed else 'ok    '} {job.name}: {words} ({time.monotonic() - began:.0f} s)"
            self._count(passed, failed, f"{output}\n{line}" if failed else line)

    def _next(self) -> Job | None:
        with self._lock:
            return self._left.pop(0) if self._left else None

    def _count(self, passed: int, failed: int, words: str) -> None:
        with self._lock:
            self._passed, self._failed = self._passed + passed, self._failed + failed
            print(words, flush=True)


def _environment(cluster: Cluster, name: str) -> dict[str, str]:
    """A database and a folder of files of that name: what two lanes must not share."""
    database = f"inkedfolio_{name}"
    environment = checkout.environment(
        cluster, owner=True, FOLIO_DB_NAME=database, FOLIO_STATE=str(STATE / name), FOLIO_LOG_LEVEL="ERROR"
    )
    environment["PYTHONPATH"] += f":{CORE / 'tests'}"
    cluster.ensure_database(database)
    manage(environment, "collectstatic", "--noinput", "--verbosity", "0")
    return environment


def _check(job: Job, environment: dict[str, str]) -> tuple[int, int, str]:
    done = subprocess.run(job.command, cwd=job.folder, env=environment, capture_output=True, text=True)
    return int(done.returncode == 0), int(done.returncode != 0), done.stdout + done.stderr


def _tests(job: Job, environment: dict[str, str]) -> tuple[int, int, str]:
    """Django's test runner; its closing lines are counted. The lane's database is kept from job to job."""
    LOGS.mkdir(parents=True, exist_ok=True)
    command = [str(PYTHON), "-u", "manage.py", "test", "--noinput", "--keepdb", *job.labels]
    log = LOGS / f"test-{re.sub(r'[^a-z]+', '-', job.name)}.log"
    with log.open("w") as out:
        done = subprocess.run(command, cwd=SERVER, env=environment, stdout=out, stderr=subprocess.STDOUT)
    text = log.read_text(errors="replace")
    ran = re.search(r"^Ran (\d+) tests?", text, re.MULTILINE)
    bad = sum(int(number) for number in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text))
    if ran is None:
        return 0, 1, text
    if done.returncode != 0:
        bad = max(bad, 1)
    return int(ran[1]) - bad, bad, text


class _Idle:
    """How much of the processors' time was left: a figure of a busy machine says little (proc(5), /proc/stat)."""

    def __init__(self) -> None:
        self._began = self._read()

    def share(self) -> float:
        idle, total = (now - then for now, then in zip(self._read(), self._began, strict=True))
        return idle / total if total else 0.0

    def _read(self) -> tuple[int, int]:
        fields = [int(field) for field in Path("/proc/stat").read_text().splitlines()[0].split()[1:9]]
        return fields[3] + fields[4], sum(fields)
