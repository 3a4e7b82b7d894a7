"""Marks and pages as a reader would give them, made by hand."""

from __future__ import annotations

import unittest

from folio_core.placing.page_evidence import PageEvidence
from folio_core.placing.proposal import Proposal, propose
from folio_core.question_map import parse_question_map
from folio_core.reading import Candidate, Mark, PageReading


def mark(says: str, line: int, *, sure: float = 0.999, hang: float = 3.0, top: float | None = None) -> Mark:
    """A label as it is read in the margin; ``says`` may name several, each less sure: "5|3"."""
    texts = says.split("|")
    shares = [sure * 0.7**at for at in range(len(texts))]
    scale = sure / sum(shares)
    candidates = tuple(Candidate(text, share * scale) for text, share in zip(texts, shares, strict=True))
    return Mark(0.06, line / 30 if top is None else top, 0.04, 0.02, 1 - sure, candidates, hang, 2.5, line)


def page(*labels: str, begins: int = 0, lines: int = 24, room: float | None = None) -> PageEvidence:
    """Labels one below the other, the first on line ``begins``; what stands above it runs on. ``room``: below them."""
    step = max(2, (lines - begins) // max(1, len(labels)))
    marks = [mark(says, begins + step * at) for at, says in enumerate(labels)]
    if begins:
        marks.insert(0, Mark(0.12, 0.12, 0.1, 0.02, 0.999, (), 0.0, 3.0, 0))
    return PageEvidence(PageReading(tuple(marks), lines, "by hand", room=room))


class ProposalTest(unittest.TestCase):
    def proposal(self, short: str, *pages: PageEvidence, known: bool = False) -> Proposal:
        return propose(pages, parse_question_map(short), order_is_known=known)

    def placed(self, made: Proposal) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for one in made.places:
            if one.confidence >= 0.5:
                found.setdefault(one.question, []).append(one.page)
        return found
