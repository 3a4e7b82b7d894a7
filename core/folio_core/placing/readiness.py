"""What is settled and what is open before a hand-in. It informs; it never blocks."""

from __future__ import annotations

from dataclasses import dataclass

from ..outline import Outline
from .arrangement import Arrangement


@dataclass(frozen=True, slots=True)
class Readiness:
    """Labels and page ids in the order of the map and of the folio."""

    open_labels: tuple[str, ...]
    open_pages: tuple[int, ...]
    settled: int
    labels: int


def readiness(arrangement: Arrangement, outline: Outline) -> Readiness:
    settled = arrangement.placed_labels | arrangement.left_blank
    open_labels = tuple(label for label in outline.labels if label not in settled)
    done = arrangement.placed_pages | arrangement.loose
    return Readiness(
        open_labels=open_labels,
        open_pages=tuple(page for page in arrangement.pages if page not in done),
        settled=len(outline.labels) - len(open_labels),
        labels=len(outline.labels),
    )
