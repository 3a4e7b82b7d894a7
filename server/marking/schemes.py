"""How an assignment is marked: by its instructors' scheme, or as usual."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from assignments.models import Assignment
from plumbing.errors import STALE_PAGE, Refused

from .models import MarkingScheme

STEPS = tuple(Decimal(one) for one in ("0.1", "0.25", "0.5", "1", "2", "5"))


def scheme_of(assignment: Assignment) -> MarkingScheme:
    """The usual one where nothing was chosen; then it is not saved."""
    found = MarkingScheme.objects.filter(assignment=assignment).first()
    return found or MarkingScheme(assignment=assignment, step=Decimal("0.5"))


@transaction.atomic
def change_scheme(assignment: Assignment, *, seen: int, fields: Mapping[str, Any]) -> MarkingScheme:
    """Raises Refused: stale (409) where it was changed since version ``seen``, scheme (422) for what cannot be."""
    Assignment.objects.select_for_update().get(pk=assignment.pk)
    scheme = scheme_of(assignment)
    if scheme.version != seen:
        raise Refused(409, "stale", STALE_PAGE)
    for name, value in fields.items():
        setattr(scheme, name, value)
    if scheme.step not in STEPS:
        raise Refused(422, "scheme", f"Points go in steps of {', '.join(map(str, STEPS))}.")
    try:
        scheme.full_clean()
    except ValidationError as error:
        raise Refused(422, "scheme", " ".join(error.messages)) from error
    scheme.version += 1
    scheme.save()
    return scheme
