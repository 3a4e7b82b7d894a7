"""What `./folio` itself promises: stamps, clear words, a private cluster, ports and keys that stay."""

from __future__ import annotations

import json
import os
import socket
import stat
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from unittest import mock

os.environ.setdefault("FOLIO_ROOT", str(Path(__file__).resolve().parents[2]))
sys.path.insert(0, os.environ["FOLIO_ROOT"])

from ops import checkout, install, places, postgres, running, testing


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


class Installing(Folder):
    def test_a_step_is_done_again_only_when_its_inputs_change(self) -> None:
        lock = self.folder / "lock"
        lock.write_text("one")
        with mock.patch.object(install, "ROOT", self.folder), mock.patch.object(install, "STATE", self.folder):
            stamp = install._Stamp("step", [lock])
            self.assertFalse(stamp.fresh)
            stamp.set()
            self.assertTrue(install._Stamp("step", [lock]).fresh)
            lock.write_text("two")
            self.assertFalse(install._Stamp("step", [lock]).fresh)

    def test_without_root_or_sudo_it_says_what_to_have_installed(self) -> None:
        missing = {"postgresql-15": self.folder / "none"}
        with (
            mock.patch.object(install, "DEBIAN_PACKAGES", missing),
            mock.patch("os.geteuid", return_value=1000),
            mock.patch("shutil.which", return_value=None),
            self.assertRaisesRegex(places.Stop, "apt-get install postgresql-15"),
        ):
            install.debian_packages(["postgresql-15"])

    def test_a_quicker_browser_that_cannot_be_had_stops_nothing(self) -> None:
        missing = dict.fromkeys(install.QUICKER_TESTS, self.folder / "none")
        with (
            mock.patch.object(install, "DEBIAN_PACKAGES", missing),
            mock.patch.object(install, "_run", side_effect=places.Stop("no network")) as tried,
        ):
            install._quicker_browser()
        tried.assert_called()

    def test_an_old_node_is_named(self) -> None:
        old = subprocess.CompletedProcess([], 0, "v18.19.0\n")
        with mock.patch("subprocess.run", return_value=old), self.assertRaisesRegex(places.Stop, r"found v18\.19\.0"):
            install._require_node()

    def test_a_failing_step_shows_the_end_of_its_output_and_where_the_rest_is(self) -> None:
        with (
            mock.patch.object(install, "LOGS", self.folder),
            self.assertRaisesRegex(places.Stop, r"(?s)no such thing.*This step failed: trying.*install\.log"),
        ):
            install._run(["sh", "-c", "echo no such thing; exit 3"], "trying", self.folder)

    def test_every_debian_package_for_the_tests_is_named_with_what_shows_it(self) -> None:
        self.assertTrue({*install.FOR_TESTING, *install.QUICKER_TESTS} == set(install.DEBIAN_PACKAGES))
        self.assertTrue(set(install.FOR_RUNNING) <= set(install.FOR_TESTING))


class TheCheckout(Folder):
    def test_its_keys_are_made_once_and_readable_by_its_owner_alone(self) -> None:
        file = self.folder / "checkout.json"
        with mock.patch.object(checkout, "_FILE", file), mock.patch.object(checkout, "STATE", self.folder):
            first = checkout.settings()
            self.assertEqual(checkout.settings(), first)
        self.assertEqual(stat.S_IMODE(file.stat().st_mode), 0o600)
        self.assertEqual(set(first), set(json.loads(file.read_text())))

    def test_a_database_port_that_something_else_took_meanwhile_is_changed_for_good(self) -> None:
        kept = {"database_port": 0, "database_password": "secret"}
        file = self.folder / "checkout.json"
        with socket.socket() as other, mock.patch.object(checkout, "_FILE", file):
            other.bind(("127.0.0.1", 0))
            other.listen()
            kept["database_port"] = other.getsockname()[1]
            file.write_text(json.dumps(kept))
            with mock.patch.object(checkout, "cluster_folder", return_value=self.folder / "none"):
                chosen = checkout.cluster().port
        self.assertNotEqual(chosen, kept["database_port"])
        self.assertEqual(json.loads(file.read_text())["database_port"], chosen)

    def test_a_taken_port_is_left_to_the_other_checkout(self) -> None:
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            taken = other.getsockname()[1]
            with mock.patch.object(checkout, "_FIRST_WEB_PORT", taken):
                self.assertNotEqual(checkout.web_port(), taken)


class ThePrivateCluster(Folder):
    def test_it_starts_on_loopback_keeps_its_data_and_never_runs_as_root(self) -> None:
        folder = postgres.cluster_folder("postgres-of-a-test")
        cluster = postgres.Cluster(folder, postgres.free_port(), "secret", durable=False)
        cluster.remove()
        self.addCleanup(cluster.remove)
        cluster.start()
        self.assertTrue(cluster.running)
        cluster.ensure_database("kept")
        cluster.ensure_database("kept")
        pid = int((folder / "postmaster.pid").read_text().splitlines()[0])
        self.assertNotEqual(Path(f"/proc/{pid}").stat().st_uid, 0)
        self.assertEqual(self.ask(cluster, "SHOW listen_addresses"), "127.0.0.1")
        cluster.stop()
        self.assertFalse(cluster.running)
        cluster.start()
        self.assertEqual(self.ask(cluster, "SELECT count(*) FROM pg_database WHERE datname = 'kept'"), "1")

    def ask(self, cluster: postgres.Cluster, query: str) -> str:
        psql = [str(install.POSTGRES_BIN / "psql"), "-h", "127.0.0.1", "-p", str(cluster.port), "-U", postgres.OWNER]
        done = subprocess.run(
            [*psql, "-d", "postgres", "-qAtc", query],
            env={**os.environ, "PGPASSWORD": cluster.password}, capture_output=True, text=True, check=True,
        )  # fmt: skip
        return done.stdout.strip()

    def test_where_its_account_cannot_enter_it_lies_elsewhere(self) -> None:
        with (
            mock.patch("os.geteuid", return_value=0),
            mock.patch.object(postgres, "_owner_can_enter", return_value=False),
        ):
            folder = postgres.cluster_folder("postgres")
        self.assertTrue(str(folder).startswith("/var/tmp/inked-folio-"))


def _running_in(group: int) -> list[int]:
    """Processes of a group that still run: what ended and waits for a slow init to collect it (state Z) does not."""
    alive = []
    for about in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):  # gone meanwhile
            state, _, member_of = about.read_text().rpartition(")")[2].split()[:3]  # proc(5): after the name in ( )
            if int(member_of) == group and state not in "ZX":
                alive.append(int(about.parent.name))
    return alive


class Processes(Folder):
    def until(self, true: Callable[[], bool]) -> None:
        deadline = time.monotonic() + 60
        while not true():
            self.assertLess(time.monotonic(), deadline, "waited too long")
            time.sleep(0.05)

    def test_leaving_stops_everything_that_was_started_children_too(self) -> None:
        with mock.patch.object(running, "LOGS", self.folder), running.Processes(os.environ) as processes:
            processes.start("sleeper", ["sh", "-c", "sleep 1000 & wait"], self.folder)
            group = processes._children["sleeper"].pid
            self.until(lambda: len(_running_in(group)) == 2)
            processes.require_alive()
        # A child that was told to end may take a moment more than its parent.
        self.until(lambda: not _running_in(group))

    def test_one_that_ends_by_itself_is_reported_with_its_last_words(self) -> None:
        with mock.patch.object(running, "LOGS", self.folder), running.Processes(os.environ) as processes:
            processes.start("web", ["sh", "-c", "echo address in use; exit 1"], self.folder)
            processes._children["web"].wait()
            with self.assertRaisesRegex(places.Stop, r"(?s)address in use.*web process ended"):
                processes.require_alive()

    def test_one_that_ends_is_started_again_but_not_for_ever(self) -> None:
        marks = self.folder / "marks"
        with (
            mock.patch.object(running, "LOGS", self.folder),
            mock.patch("builtins.print"),
            running.Processes(os.environ) as processes,
        ):
            processes.start("worker", ["sh", "-c", f"echo x >> {marks}; exit 3"], self.folder)
            with self.assertRaisesRegex(places.Stop, r"worker process ended by itself \(status 3\)"):
                processes.wait()
        self.assertEqual(len(marks.read_text().split()), 1 + running._MOST_ENDS)


class CountingTests(Folder):
    def count(self, output: str, status: int) -> tuple[int, int]:
        script = self.folder / "manage.py"
        script.write_text(f"print({output!r}); raise SystemExit({status})")
        with (
            mock.patch.object(testing, "SERVER", self.folder),
            mock.patch.object(testing, "PYTHON", Path(sys.executable)),
            mock.patch.object(testing, "LOGS", self.folder),
            mock.patch("builtins.print"),
        ):
            return testing._tests(testing.Job("any", 1, labels=("anything",)), dict(os.environ))[:2]

    def test_the_runners_closing_lines_are_counted(self) -> None:
        self.assertEqual(self.count("Ran 12 tests in 3s\n\nOK", 0), (12, 0))
        self.assertEqual(self.count("Ran 12 tests in 3s\n\nFAILED (failures=2, errors=1)", 1), (9, 3))

    def test_a_runner_that_did_not_run_has_failed(self) -> None:
        self.assertEqual(self.count("ImportError", 1), (0, 1))
        self.assertEqual(self.count("Ran 4 tests in 1s", 1), (3, 1))
