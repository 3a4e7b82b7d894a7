"""Marks and pages as a reader would give them, made by hand."""

from __future__ import annotations

from folio_core.placing.page_model import PageEvidence
from folio_core.reading import Candidate, Mark, PageReading


def mark(says: str, line: int, *, sure: float = 0.999, hang: float = 3.0, top: float | None = None) -> Mark:
    """A label as it is read in the margin; ``says`` may name several, each less sure: "5|3"."""
    texts = says.split("|")
    shares = [sure * 0.7**at for at in range(len(texts))]
    scale = sure / sum(shares)
    candidates = tuple(Candidate(text, share * scale) for text, share in zip(texts, shares, strict=True))
    return Mark(0.06, line / 30 if top is None else top, 0.04, 0.02, 1 - sure, candidates, hang, 2.5, line)


def page(*labels: str, begins: int = 0, lines: int = 24) -> PageEvidence:
    """Labels one below the other, the first on line ``begins``; what stands above it runs on."""
    step = max(2, (lines - begins) // max(1, len(labels)))
    marks = [mark(says, begins + step * at) for at, says in enumerate(labels)]
    if begins:
        marks.insert(0, Mark(0.12, 0.12, 0.1, 0.02, 0.999, (), 0.0, 3.0, 0))
    return PageEvidence(PageReading(tuple(marks), lines, 0.05, "by hand"))
