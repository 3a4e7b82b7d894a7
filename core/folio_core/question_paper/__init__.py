"""What an instructor's question paper says of itself: `read_paper` (in a limited child) → `propose_map`."""

from .lines import PaperText, Piece, read_paper
from .proposal import Item, Proposal, propose_map

__all__ = ["Item", "PaperText", "Piece", "Proposal", "propose_map", "read_paper"]
