"""Which page answers which question: the arrangement of a folio, and what is still open in it."""

from .arrangement import Arrangement, BadArrangement, Placement
from .readiness import Readiness, readiness

__all__ = ["Arrangement", "BadArrangement", "Placement", "Readiness", "readiness"]
