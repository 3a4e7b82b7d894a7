"""One clock for all machines: the database's. Each web process measures how far its own is from it."""

from __future__ import annotations

import logging
import threading
import time
from datetime import timedelta

from django.db import connection

from .errors import Refused

logger = logging.getLogger(__name__)
_EVERY_SECONDS = 60.0
_SAME_SECONDS = 0.05
_WRONG_SECONDS = 1.0


class DatabaseClock:
    """``offset``: what is added to this machine's time."""

    def __init__(self) -> None:
        self.offset = timedelta(0)
        self._is_wrong = False
        self._measured: float | None = None
        self._measuring = threading.Lock()

    def measure_if_due(self) -> None:
        """Asks the database now and then. Call it where there is a connection anyway."""
        due = self._measured is None or time.monotonic() - self._measured > _EVERY_SECONDS
        if not due or not self._measuring.acquire(blocking=False):
            return
        try:
            before = time.time()
            with connection.cursor() as cursor:
                cursor.execute("SELECT extract(epoch FROM clock_timestamp())::float8")
                theirs = float(cursor.fetchone()[0])
            after = time.time()
            self.set_apart(theirs - (before + after) / 2, within=(after - before) / 2)
            self._measured = time.monotonic()
        finally:
            self._measuring.release()

    def set_apart(self, seconds: float, within: float = 0.0) -> None:
        """This machine's clock is so much behind the database's, as far as asking could tell (``within``)."""
        apart = abs(seconds) - within
        self.offset = timedelta(seconds=seconds if apart > _SAME_SECONDS else 0)
        was_wrong, self._is_wrong = self._is_wrong, apart > _WRONG_SECONDS
        if self._is_wrong and not was_wrong:
            logger.critical("This machine's clock is %.1f s off the database's: it judges nothing until set.", seconds)

    def require_right(self) -> None:
        """Raises Refused (503) where this machine's clock is so wrong that it must not judge what is in time."""
        if self._is_wrong:
            message = "This server's clock is wrong, so it takes nothing. Another one is asked; nothing is lost."
            raise Refused(503, "wrong_clock", message)


database_clock = DatabaseClock()
