"""Telling every web process that a folio changed: PostgreSQL NOTIFY, delivered when the transaction commits."""

from __future__ import annotations

import json

from django.db import connection

CHANNEL = "inked_folio"


def ring(folio_id: int, **news: object) -> None:
    """Within a transaction nothing is heard before its commit (PostgreSQL documentation, NOTIFY)."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, message(folio_id, **news)])


def message(folio_id: int, **news: object) -> str:
    """What is said on the channel; for a statement that says it itself."""
    return json.dumps({"folio": folio_id, **news})
