"""One page in the proposal of a folio: what each of its marks may be, and how probable the page is then."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from folio_core.reading.page_reading import Mark

from .label_evidence import by_column, label_chance, lines_above, page_numbers
from .nodes import BACK, Matrix, Nodes
from .page_ends import Following
from .page_evidence import PageEvidence
from .page_tables import PageTables, Step

_LEAST_MARK = 0.02  # what is less probably a label is not looked at

# How people write; common practice, no source, then set on tuning folios.
_OUTSIDE_MAP = 0.01  # of labels: they name what the map lacks
_OUTSIDE_BY_CHANCE = 0.0008  # they do, and are read as a label of the map all the same
_SAYS_IT_BY_CHANCE = 0.15  # of what is no label and is read as one: it reads like one of this map
_MISREAD = 0.002  # a label that the reader gave no chance
_RUNS_INTO_LINE = re.compile(r"(\d+[a-z]+)[\d.]")  # "4iii6": a label and what follows on its line
_READ_TOO_FAR = 0.5  # of such labels
_CONTINUED = -0.3  # log probability that what is continued is what is being answered
_PLAIN_ASIDE, _ASIDE_HANGS = 0.99, 1.0  # only plain labels in the margin are taken so
_PLAIN_BESIDE = 0.8  # the label beside it, which it is not itself, is at least so probably one
_ASIDE = -3.0  # log probability: a question passed over, or that comes too early; after it one goes on where one was


class PageModel:
    """``tables``: by what follows. Where something runs on, it is not what was named aside at the foot."""

    def __init__(self, page: PageEvidence, nodes: Nodes) -> None:
        self.page, self.nodes = page, nodes
        self.number = page_numbers(page.reading)
        self.steps = [] if page.held is not None or page.loose else self._steps()
        marks = page.reading.marks
        allowed = [_asides_allowed(self.steps, marks, may_be_last=last) for last in (True, False)]
        named_last = any(one.asides.any() and not other.asides.any() for one, other in zip(*allowed, strict=True))
        begins = PageTables(page, nodes, allowed[0])
        runs_on = PageTables(page, nodes, allowed[1]) if named_last else begins
        self.tables = {Following.BEGINS: begins, Following.RUNS_ON: runs_on, Following.ENDS: begins}

    def _steps(self) -> list[Step]:
        made = []
        marks = self.page.reading.marks
        for at in by_column(marks):
            mark = marks[at]
            share = label_chance(mark)
            if share < _LEAST_MARK:
                continue
            labels, said, on_map = self._labels(mark)
            outside = _OUTSIDE_MAP * (1 - on_map) + _OUTSIDE_BY_CHANCE
            working = (1 - share) * (1 - on_map + on_map * _SAYS_IT_BY_CHANCE)
            plain = share >= _PLAIN_ASIDE and mark.hang >= _ASIDE_HANGS
            asides = share * math.exp(_ASIDE) * said * plain
            nothing = working + share * outside
            above = lines_above(self.page.reading, mark) > 0
            made.append(Step(at, share * labels, asides, nothing, above))
        return made

    def _labels(self, mark: Mark) -> tuple[Matrix, Matrix, float]:
        """now × then, with the moves, and of whole labels without them; how probable it is that what is read is on the
        map at all."""
        nodes = self.nodes
        on_map = 0.0
        said = np.zeros((nodes.count, nodes.count))
        whole_labels = np.zeros((nodes.count, nodes.count))
        again = np.zeros((nodes.count, nodes.count))
        whole = max(1e-9, sum(one.probability for one in mark.candidates))
        for one in mark.candidates:
            if "/" in one.text:
                continue
            text = one.text.rstrip("~")
            if text == "":
                continue
            said_so = nodes.says(text)
            runs_on = _RUNS_INTO_LINE.match(text)
            if runs_on and not said_so.any():
                said_so = _READ_TOO_FAR * nodes.says(runs_on[1])
            on_map += one.probability / whole * bool(said_so.any())
            weights = said_so * (one.probability / whole)
            if one.text.endswith("~"):
                again += weights
            else:
                said += weights
                whole_labels += weights * (said_so == 1.0)
        moves = nodes.moves
        resumed = np.exp(np.where(np.eye(nodes.count, dtype=bool), _CONTINUED, BACK))
        return np.asarray((said + _MISREAD / nodes.start) * moves + again * resumed), whole_labels, on_map


def _asides_allowed(steps: list[Step], marks: Sequence[Mark], *, may_be_last: bool) -> list[Step]:
    """What is named aside must be followed by a plain label on its page, for else it is what runs on to the next; where
    nothing does, it may be the last of several."""
    plain = [at for at, step in enumerate(steps) if label_chance(marks[step.mark]) >= _PLAIN_BESIDE]
    allowed = set(range(plain[-1] if plain else 0))
    if may_be_last and len(plain) > 1:
        allowed.add(plain[-1])
    return [
        step if at in allowed else replace(step, asides=np.zeros_like(step.asides)) for at, step in enumerate(steps)
    ]
