"""`./folio test`: every linter, type check and test, then one closing line `N passed, N failed`."""

from __future__ import annotations

import re
import subprocess
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from . import checkout, install
from .places import CORE, LOGS, PYTHON, ROOT, SERVER, STATE, VENV, WEB
from .postgres import Cluster, cluster_folder, free_port
from .running import manage

_BIN = VENV / "bin"


def run_everything(tests: list[str], *, checks: bool) -> int:
    install.everything(testing=True)
    cluster = Cluster(cluster_folder("postgres-test"), free_port(), "test-only", durable=False)
    cluster.remove()
    try:
        cluster.start()
        environment = _environment(cluster, "test")
        passed = failed = 0
        if checks and not tests:
            passed, failed = _checks(environment)
        more_passed, more_failed = _tests(tests, environment, cluster)
        passed, failed = passed + more_passed, failed + more_failed
    finally:
        cluster.remove()
    print(f"\n{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


def _environment(cluster: Cluster, name: str) -> dict[str, str]:
    """A database and a folder of files of that name: what two runners at once must not share."""
    database = f"inkedfolio_{name}"
    environment = checkout.environment(
        cluster, FOLIO_DB_NAME=database, FOLIO_STATE=str(STATE / name), FOLIO_LOG_LEVEL="ERROR"
    )
    cluster.ensure_database(database)
    manage(environment, "collectstatic", "--noinput", "--verbosity", "0")
    return environment


def _checks(environment: dict[str, str]) -> tuple[int, int]:
    manage = [str(PYTHON), "manage.py"]
    commands: dict[str, tuple[list[str], Path]] = {
        "ruff": ([str(_BIN / "ruff"), "check", "."], ROOT),
        "ruff format": ([str(_BIN / "ruff"), "format", "--check", "."], ROOT),
        "mypy": ([str(_BIN / "mypy")], ROOT),
        "import rules": ([str(_BIN / "lint-imports")], ROOT),
        "missing migrations": ([*manage, "makemigrations", "--check", "--dry-run"], SERVER),
        "system check": ([*manage, "check", "--fail-level", "WARNING"], SERVER),
        "API types up to date": ([*manage, "api_types", "--check"], SERVER),
        "tsc": (["npm", "run", "--silent", "typecheck"], WEB),
        "front end's rules (vitest)": (["npm", "run", "--silent", "test"], WEB),
        "eslint": (["npm", "run", "--silent", "lint"], WEB),
    }
    results = [_check(name, *command, environment) for name, command in commands.items()]
    return results.count(True), results.count(False)


def _check(name: str, command: list[str], folder: Path, environment: dict[str, str]) -> bool:
    began = time.monotonic()
    done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, text=True)
    print(f"{'ok    ' if done.returncode == 0 else 'FAILED'} {name} ({time.monotonic() - began:.0f} s)", flush=True)
    if done.returncode != 0:
        print(done.stdout + done.stderr, flush=True)
    return done.returncode == 0


def _tests(tests: list[str], environment: dict[str, str], cluster: Cluster) -> tuple[int, int]:
    """Server and browser, which wait a lot; beside them core and ops, which only compute, and then the tests that are
    tagged for it. Passed and failed."""
    if tests:
        return _runner(tests, environment, print)
    held: list[str] = []
    second = _environment(cluster, "test-beside")
    with ThreadPoolExecutor(1) as beside:
        others = [
            beside.submit(_runner, labels, second, held.append)
            for labels in ([str(CORE / "tests"), str(ROOT / "ops" / "tests")], ["--tag=beside", str(SERVER)])
        ]
        results = [_runner(["--exclude-tag=beside", str(SERVER)], environment, print)]
        results += [other.result() for other in others]
    print("\nBeside:\n" + "\n".join(held), flush=True)
    return sum(passed for passed, _ in results), sum(failed for _, failed in results)


def _runner(tests: list[str], environment: dict[str, str], say: Callable[[str], object]) -> tuple[int, int]:
    """Django's test runner; its closing lines are counted."""
    LOGS.mkdir(parents=True, exist_ok=True)
    command = [str(PYTHON), "-u", "manage.py", "test", "--noinput", *tests]
    output = []
    with subprocess.Popen(
        command, cwd=SERVER, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    ) as process:
        assert process.stdout is not None
        for line in process.stdout:
            output.append(line)
            say(line.rstrip("\n"))
    text = "".join(output)
    ran = re.search(r"^Ran (\d+) tests?", text, re.MULTILINE)
    bad = sum(int(number) for number in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text))
    if ran is None:
        return 0, 1
    if process.returncode != 0:
        bad = max(bad, 1)
    return int(ran[1]) - bad, bad
