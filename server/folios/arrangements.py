"""The folio's arrangement: reading it as it holds now, and writing its next version."""

from __future__ import annotations

import json
from functools import cache

from django.db import connection

from folio_core.placing import Arrangement, read_arrangement, write_arrangement
from live.announcing import CHANNEL, payload

from .models import Folio


def current(folio: Folio) -> Arrangement:
    """Without what was said of questions that have left the question map since; that is kept in the stored one."""
    return read_arrangement(folio.arrangement).kept_to(folio.assignment.question_map)


def store(folio: Folio, arrangement: Arrangement) -> None:
    """Write a locked folio's arrangement as its next version, and tell who is looking."""
    folio.arrangement = write_arrangement(arrangement)
    folio.version += 1
    with connection.cursor() as cursor:
        news = payload(folio.topic, version=folio.version)
        cursor.execute(_store(), [json.dumps(folio.arrangement), folio.version, folio.pk, CHANNEL, news])


@cache
def _store() -> str:
    """The write and its announcement in one round trip: every arriving page waits for it."""
    return (
        f"WITH stored AS (UPDATE {Folio._meta.db_table} SET arrangement = %s, version = %s WHERE id = %s RETURNING 1)"
        " SELECT pg_notify(%s, %s) FROM stored"
    )
