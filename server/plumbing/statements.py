"""Inserting new rows of several tables in one statement.

The query sets would build each statement anew, which takes longer than PostgreSQL takes to carry it out; every
arriving page waits for it (`./folio bench arrival --parts` measures what it saves).
"""

from __future__ import annotations

from functools import cache
from typing import Any

from django.db import connection
from django.db.models import Field, Model


def insert_together(*rows: Model) -> None:
    """Where one row names another by its id, that id must be set already."""
    values = [
        field.get_db_prep_save(field.pre_save(row, add=True), connection) for row in rows for field in _written(row)
    ]
    with connection.cursor() as cursor:
        cursor.execute(_inserting(tuple((type(row), row.pk is None) for row in rows)), values)


def _written(row: Model) -> list[Field[Any, Any]]:
    return [field for field in row._meta.concrete_fields if row.pk is not None or not field.primary_key]


@cache
def _inserting(kinds: tuple[tuple[type[Model], bool], ...]) -> str:
    inserts = [_insert(*kind) for kind in kinds]
    before = ", ".join(f"row_{number} AS ({insert})" for number, insert in enumerate(inserts[:-1]))
    return f"WITH {before} {inserts[-1]}"


def _insert(model: type[Model], numbered_by_table: bool) -> str:
    fields = [field for field in model._meta.concrete_fields if not (numbered_by_table and field.primary_key)]
    columns = ", ".join(connection.ops.quote_name(str(field.column)) for field in fields)
    return f"INSERT INTO {model._meta.db_table} ({columns}) VALUES ({', '.join(['%s'] * len(fields))})"
