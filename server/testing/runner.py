"""Django's test runner, which ends what tests share before the database they used is removed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.test.runner import DiscoverRunner

at_the_end: list[Callable[[], None]] = []


class Runner(DiscoverRunner):
    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        for end in at_the_end:
            end()
        super().teardown_databases(old_config, **kwargs)
