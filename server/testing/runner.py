"""Django's test runner, which ends what tests share before the database they used is removed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import connection
from django.db.backends.base.operations import BaseDatabaseOperations
from django.test.runner import DiscoverRunner

at_the_end: list[Callable[[], None]] = []
_flush = BaseDatabaseOperations.execute_sql_flush


def _flush_past_triggers(self: BaseDatabaseOperations, sql_list: Any) -> None:
    """Between tests all tables are emptied, the append-only record too: a superuser may pass over its trigger."""
    _flush(self, ["SET session_replication_role = replica", *sql_list, "SET session_replication_role = DEFAULT"])


class Runner(DiscoverRunner):
    def setup_databases(self, **kwargs: Any) -> Any:
        BaseDatabaseOperations.execute_sql_flush = _flush_past_triggers  # type: ignore[method-assign]
        config = super().setup_databases(**kwargs)
        if "default" in kwargs.get("aliases", ()):
            with connection.cursor() as cursor:  # a kept database has jobs of the tests before
                cursor.execute("TRUNCATE procrastinate_jobs CASCADE")
        return config

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        for end in at_the_end:
            end()
        super().teardown_databases(old_config, **kwargs)
