"""The questions of a map as the proposal walks through them: how probable each move is, and what a label names."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from folio_core.question_map import QuestionMap

Matrix = NDArray[np.float64]

# How people write, as log probabilities; common practice, no source, then set on tuning folios.
_NEXT, _SKIP_ONE, _SKIP_MORE, _SKIP_FAR = -0.15, -2.2, -0.5, -3.3
BACK, _AGAIN = -3.3, -4.5
_DOT_LOST = 0.5  # of labels with a dot: it is too small to be seen, or not written
_PART, _DECIMAL_PART = 0.95, 0.3  # alone, of a number that is being answered: "b" for 2b; "3" for 1.3
_NUMBER_FORGOTTEN = 0.05  # of part letters: without the number above them
_NUMBER_REPEATED = 0.1  # of whole labels: right after a line with the number alone, below which part letters do


class Nodes:
    """The questions of the map, the levels above them ("2" of 2a), and the state before any: numbered."""

    def __init__(self, question_map: QuestionMap) -> None:
        self.ids = question_map.ids
        self.paths: list[tuple[str, ...]] = [question.levels for question in question_map.questions]
        self.leaves = len(self.paths)
        heads = {path[:depth] for path in self.paths for depth in range(1, len(path))}
        self.paths += sorted(heads)
        self.start = len(self.paths)
        self.count = self.start + 1
        self.first = [self._first_leaf(path) for path in self.paths]
        self.joined = [joined_levels(path) for path in self.paths]
        self.moves = self._moves()

    def _first_leaf(self, path: tuple[str, ...]) -> int:
        return next(at for at, leaf in enumerate(self.paths[: self.leaves]) if leaf[: len(path)] == path)

    def _moves(self) -> Matrix:
        """How probable it is that after one label another comes; continued answers apart."""
        moves = np.full((self.count, self.count), -np.inf)
        for now in range(self.count):
            for then in range(self.start):
                moves[now, then] = self._move(now, then)
        return np.exp(moves)

    def _move(self, now: int, then: int) -> float:
        if now == then:
            return _AGAIN
        here = -1 if now == self.start else self.first[now]
        there = self.first[then]
        if now != self.start and now >= self.leaves:  # from a heading: its first part is where one is already
            here -= 1
        steps = there - here - 1
        if steps < 0:
            return BACK
        return _NEXT if steps == 0 else max(_SKIP_ONE + _SKIP_MORE * (steps - 1), _SKIP_FAR)

    @lru_cache(maxsize=4096)  # noqa: B019 (lives as long as one proposal)
    def says(self, text: str) -> Matrix:
        """How well a text names each node, given which is being answered: now × then."""
        weights = np.zeros((self.count, self.count))
        for then, path in enumerate(self.paths):
            if text == self.joined[then]:
                weights[:, then] = 1.0
                weights[[self.paths.index(path[:depth]) for depth in range(1, len(path))], then] = _NUMBER_REPEATED
                continue
            if "." in self.joined[then] and text == self.joined[then].replace(".", "") and text not in self.joined:
                weights[:, then] = _DOT_LOST
                continue
            for depth in range(1, len(path)):
                if text != joined_levels(path[depth:]):
                    continue
                part = _DECIMAL_PART if path[depth][0].isdecimal() else _PART
                for now in range(self.start):
                    known = self.paths[now][:depth] == path[:depth]
                    weights[now, then] = max(weights[now, then], part if known else _NUMBER_FORGOTTEN)
                weights[self.start, then] = max(weights[self.start, then], _NUMBER_FORGOTTEN)
        return weights


def joined_levels(path: Sequence[str]) -> str:
    """As the reader spells it: "2b", "1.1a", "1bii"."""
    text = path[0]
    for before, level in pairwise(path):
        text += ("." if before[-1].isdecimal() and level[0].isdecimal() else "") + level
    return text
