"""Moments as staff type them: times of day in the zone of the course."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import ZoneInfo

from folio_core.clock import NoSuchWallTime, wall_time
from plumbing.errors import Refused

WALL = "%Y-%m-%dT%H:%M"


def moment_typed(wall: str | None, zone: ZoneInfo, field: str) -> datetime | None:
    """An end, but for the field ``opens``. Raises Refused (422) at the field: no time, or one that the clocks skip."""
    if wall is None:
        return None
    try:
        return wall_time(datetime.strptime(wall[:16], WALL), zone, ends=field != "opens")  # noqa: DTZ007
    except NoSuchWallTime as error:
        raise Refused(422, f"field:{field}", str(error)) from error
    except ValueError as error:
        raise Refused(422, f"field:{field}", "Write a day and a time.") from error
