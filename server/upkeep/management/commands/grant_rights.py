"""`manage.py grant_rights ROLE`: what the role that runs the application may do in the database. Run by its owner."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

from folios.models import Event

_RIGHTS = """
GRANT USAGE ON SCHEMA public TO {role};
REVOKE CREATE ON SCHEMA public FROM PUBLIC;
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {role};
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {role};
REVOKE UPDATE, DELETE ON {record} FROM {role};
"""


class Command(BaseCommand):
    help = "Let a role read and write rows, and nothing else: not change tables, triggers or the record."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("role")

    def handle(self, *_: Any, role: str, **__: Any) -> None:
        record = connection.ops.quote_name(Event._meta.db_table)
        with connection.cursor() as cursor:
            cursor.execute(_RIGHTS.format(role=connection.ops.quote_name(role), record=record))
