"""Which page answers which question: the arrangement of a folio, and what is still open in it."""

from .arrangement import SIDES_MOST, Arrangement, BadArrangement, Placement
from .at_the_close import added_at_the_close, placed_since
from .changed import Changed, changed_since
from .document import read_arrangement, read_recipe, write_arrangement, write_recipe
from .pictures import pictures_of_working, scales_of
from .readiness import (
    NOTHING_GIVEN,
    Given,
    Readiness,
    given_by,
    is_answered,
    is_given,
    missing_kinds,
    open_questions,
    readiness,
)

__all__ = [
    "NOTHING_GIVEN", "SIDES_MOST", "Arrangement", "BadArrangement", "Changed", "Given", "Placement", "Readiness",
    "added_at_the_close", "changed_since", "given_by", "is_answered", "is_given", "missing_kinds", "open_questions",
    "pictures_of_working", "placed_since", "read_arrangement", "read_recipe", "readiness", "scales_of",
    "write_arrangement", "write_recipe",
]  # fmt: skip
