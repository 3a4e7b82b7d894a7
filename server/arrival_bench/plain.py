"""The application with some of arrival's shortcuts taken the long way: those that FOLIO_BENCH_PLAIN names."""

from __future__ import annotations

import os
from typing import Any

from django.conf import settings

from inkedfolio.asgi import django_application
from pages import arrival
from pages.doors import DOORS
from pages.fast_lane import FastLane
from plumbing.body_gate import BodyGate

PLAIN = set(filter(None, os.environ.get("FOLIO_BENCH_PLAIN", "").split(",")))


def _insert_one_by_one(*rows: Any) -> None:
    for row in rows:
        row.save(force_insert=True)


def _seen_by_query_sets(folio: Any, received: Any) -> tuple[int | None, int | None, int, int, int, str]:
    from django.db import connection

    known = folio.originals.filter(sha256=received.sha256).values_list("pk", flat=True).first()
    pledge = folio.pledges.filter(sha256=received.sha256, size=received.size).values_list("pk", flat=True).first()
    ids = []
    for table in ("pages_original", "pages_page"):
        with connection.cursor() as cursor:
            cursor.execute("SELECT nextval(pg_get_serial_sequence(%s, 'id'))", [table])
            ids.append(int(cursor.fetchone()[0]))
    waiting = folio.pages.filter(state="waiting").count()
    return known, pledge, waiting, ids[0], ids[1], folio.assignment.page_kinds


def _store_and_announce(folio: Any, arrangement: Any) -> None:
    from folio_core.placing import write_arrangement
    from live.announcing import announce

    folio.arrangement = write_arrangement(arrangement)
    folio.version += 1
    folio.save(update_fields=["arrangement", "version"])
    announce(folio.topic, version=folio.version)


if "rows in one statement" in PLAIN:
    setattr(arrival, "insert_together", _insert_one_by_one)  # noqa: B010 (the module does not export it)
if "what is known in one statement" in PLAIN:
    arrival._seen = _seen_by_query_sets
if "store and announce in one statement" in PLAIN:
    setattr(arrival, "store", _store_and_announce)  # noqa: B010
inner = django_application if "the fast lane" in PLAIN else FastLane(django_application)
_MOST = settings.FOLIO_MAX_FILE_MB * 1_000_000
application = BodyGate(inner, small=settings.DATA_UPLOAD_MAX_MEMORY_SIZE, most=_MOST, doors=DOORS)
