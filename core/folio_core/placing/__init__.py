"""Which page answers which question: the arrangement of a folio, and what is still open in it."""

from .arrangement import Arrangement, BadArrangement, Placement
from .document import read_arrangement, read_recipe, write_arrangement, write_recipe
from .readiness import Readiness, is_answered, readiness

__all__ = [
    "Arrangement", "BadArrangement", "Placement", "Readiness", "is_answered", "read_arrangement", "read_recipe",
    "readiness", "write_arrangement", "write_recipe",
]  # fmt: skip
