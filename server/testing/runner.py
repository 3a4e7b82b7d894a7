"""Django's test runner, which ends what tests share before the database they used is removed and names the slowest."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any
from unittest import TestCase, TextTestResult

from django.db import connection
from django.db.backends.base.operations import BaseDatabaseOperations
from django.test.runner import DiscoverRunner
from hypothesis import settings
from whitenoise.base import WhiteNoise

# A busy machine is no fault of the code's: no example has a time limit.
settings.register_profile("calm", deadline=None)
settings.load_profile("calm")

at_the_end: list[Callable[[], None]] = []
_flush = BaseDatabaseOperations.execute_sql_flush
_list_static_files = WhiteNoise.update_files_dictionary
_static_files: dict[tuple[str, str], dict[str, Any]] = {}
_SLOWEST = 15


def _flush_past_triggers(self: BaseDatabaseOperations, sql_list: Any) -> None:
    """Between tests all tables are emptied, the append-only record too: a superuser may pass over its trigger."""
    _flush(self, ["SET session_replication_role = replica", *sql_list, "SET session_replication_role = DEFAULT"])


def _list_static_files_once(self: WhiteNoise, root: str, prefix: str) -> None:
    """Each test client is an application anew, which read all static files: four fifths of the server tests' time."""
    if (root, prefix) not in _static_files:
        _list_static_files(self, root, prefix)
        _static_files[root, prefix] = dict(self.files)
    self.files.update(_static_files[root, prefix])


class _TimedResult(TextTestResult):
    """Seconds of each test, its ``setUp`` included; what a class makes for its tests is not counted."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.seconds: list[tuple[float, str]] = []
        self._began = 0.0

    def startTest(self, test: TestCase) -> None:
        self._began = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: TestCase) -> None:
        super().stopTest(test)
        self.seconds.append((time.perf_counter() - self._began, test.id()))


class Runner(DiscoverRunner):
    def setup_databases(self, **kwargs: Any) -> Any:
        BaseDatabaseOperations.execute_sql_flush = _flush_past_triggers  # type: ignore[method-assign]
        WhiteNoise.update_files_dictionary = _list_static_files_once
        config = super().setup_databases(**kwargs)
        if "default" in kwargs.get("aliases", ()):
            with connection.cursor() as cursor:  # a kept database has jobs of the tests before
                cursor.execute("TRUNCATE procrastinate_jobs CASCADE")
        return config

    def get_resultclass(self) -> Any:
        return super().get_resultclass() or _TimedResult

    def run_suite(self, suite: Any, **kwargs: Any) -> Any:
        result = super().run_suite(suite, **kwargs)
        if isinstance(result, _TimedResult):
            print(f"{sum(seconds for seconds, _ in result.seconds):.0f} s in {len(result.seconds)} tests; the slowest:")
            for seconds, name in sorted(result.seconds, reverse=True)[:_SLOWEST]:
                print(f"{seconds:7.2f} s  {name}")
        return result

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        for end in at_the_end:
            end()
        super().teardown_databases(old_config, **kwargs)
