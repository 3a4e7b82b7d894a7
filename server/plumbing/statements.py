"""Statements that every arriving page needs, made once from the models' own fields.

The query sets would build them anew each time, which takes longer than PostgreSQL takes to carry them out
(`./folio bench arrival`).
"""

from __future__ import annotations

from functools import cache
from typing import Any, cast

from django.db import connection
from django.db.models import Field, Model

from assignments.models import Assignment
from courses.models import Course

from .models import Folio

_TABLES: tuple[type[Model], ...] = (Folio, Assignment, Course)


def locked(folio_id: int) -> Folio:
    """The folio with its assignment and course; its row stays locked to the transaction's end. Raises DoesNotExist."""
    with connection.cursor() as cursor:
        cursor.execute(_locking(), [folio_id])
        row = cursor.fetchone()
    if row is None:
        raise Folio.DoesNotExist
    values = iter(row)
    folio, assignment, course = (_made(model, values) for model in _TABLES)
    assignment.course = course
    folio.assignment = assignment
    return cast(Folio, folio)


@cache
def _locking() -> str:
    columns = ", ".join(
        f"{model._meta.db_table}.{connection.ops.quote_name(str(field.column))}"
        for model in _TABLES
        for field in model._meta.concrete_fields
    )
    return (
        f"SELECT {columns} FROM folios_folio"
        " JOIN assignments_assignment ON assignments_assignment.id = folios_folio.assignment_id"
        " JOIN courses_course ON courses_course.id = assignments_assignment.course_id"
        " WHERE folios_folio.id = %s FOR UPDATE OF folios_folio"
    )


def _made(model: type[Model], values: Any) -> Any:
    fields = model._meta.concrete_fields
    return model.from_db(
        "default", [field.attname for field in fields], [_read(field, next(values)) for field in fields]
    )


def _read(field: Field[Any, Any], value: Any) -> Any:
    convert = getattr(field, "from_db_value", None)
    return convert(value, None, connection) if convert else value


def insert_together(*rows: Model) -> None:
    """New rows of several tables in one statement. Where one names another by its id, that id is set already."""
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
