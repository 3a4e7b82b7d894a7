"""Telling every web process that something changed: PostgreSQL NOTIFY, delivered when the transaction commits.

Who listens, listens to a topic; what the topics are is decided by the apps above ("folio:12").
"""

from __future__ import annotations

import json

from django.db import connection

CHANNEL = "inked_folio"


def announce(topic: str, **news: object) -> None:
    """Within a transaction nothing is heard before its commit (PostgreSQL documentation, NOTIFY)."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, payload(topic, **news)])


def payload(topic: str, **news: object) -> str:
    """What is sent on the channel; for a statement that notifies by itself."""
    return json.dumps({"topic": topic, **news})
