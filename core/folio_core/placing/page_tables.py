"""Forward tables over the marks of one page: how probable it is, and ways to read it that are as probable."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from folio_core.reading.page_reading import FEW_LINES

from .label_evidence import reads_like_cover, reads_like_work
from .nodes import BACK, Matrix, Nodes
from .page_evidence import PageEvidence

# How people write, as log probabilities; common practice, no source, then set on tuning folios.
_FREE_LINES = -1.0  # lines above the first label where nothing was begun: a heading
_SHORT_BEGINNING = -1.5  # work that begins with a page of few lines, which is rather a cover
_NUMBER_ALONE = -1.5  # a number at whose foot the page ends, without a part of it
_NO_QUESTION = -3.5  # a page of writing before any label
_LOOSE, _LOOSE_FEW_LINES, _COVER = -5.0, -1.2, -0.2
_COVER_LATER = -6.0  # what reads like a cover lies amid the work, or is some all the same


class Kind(IntEnum):
    """How a page begins: with a label, with what runs on from the page before, or it is no work at all."""

    BEGINS = 0
    RUNS_ON = 1
    LOOSE = 2


@dataclass(frozen=True, slots=True)
class PathOnPage:
    """One way to read a page: what was being answered above it, and which nodes begin at which marks."""

    kind: Kind
    entered: int
    begun: tuple[tuple[int, int], ...]  # node, mark


@dataclass(frozen=True, slots=True)
class Step:
    """One mark: what it changes, now × then; what it names aside, after which one goes on where one was; how probable
    it is that it is no label of the map; and if it is the first one, that something runs on above it."""

    mark: int
    labels: Matrix
    asides: Matrix
    nothing: float
    runs_on: bool


class PageTables:
    """``through``: kind × now × then, how probable the page is when one node is being answered above it and one
    below."""

    def __init__(self, page: PageEvidence, nodes: Nodes, steps: Sequence[Step]) -> None:
        self.page, self.nodes, self.steps = page, nodes, steps
        size = nodes.count
        held = self.page.held
        self.through = np.zeros((len(Kind), size, size))
        self.before = [np.ones(size)]
        self.after = [np.zeros((2, size, size))]
        if self.page.loose:
            self.through[Kind.LOOSE] = np.eye(size)
            return
        if held is not None:
            self.through[Kind.BEGINS] = self._through_held(held)
            return
        for step in self.steps:
            before, after = self.before[-1], self.after[-1]
            aside = step.asides.sum(axis=1)
            entered = before[:, None] * (self._entering(step) + self._entering_aside(step)[..., None] * np.eye(size))
            self.before.append(before * step.nothing)
            self.after.append(after * (step.nothing + aside) + after @ step.labels + entered)
        self.ended = self.after[-1].copy()
        self.ended[..., nodes.leaves : nodes.start] *= math.exp(_NUMBER_ALONE)
        self.goes_on = self.before[-1] * self._going_on()
        self.through[: Kind.LOOSE] = self.ended
        self.through[Kind.RUNS_ON] += np.diag(self.goes_on)
        self.through[Kind.LOOSE] = np.diag(self.before[-1] * self._chances_loose())

    def _entering(self, step: Step) -> Matrix:
        """The first label of a page, kind × now × then: with lines above it something must have been begun before."""
        entering = self._by_kind(step)[..., None] * step.labels
        if step.runs_on:
            entering[Kind.BEGINS, self.nodes.start] *= math.exp(_FREE_LINES)
        if self.page.reading.lines <= FEW_LINES:
            entering[Kind.BEGINS, self.nodes.start] *= math.exp(_SHORT_BEGINNING)
        return entering

    def _entering_aside(self, step: Step) -> Matrix:
        return self._by_kind(step) * step.asides.sum(axis=1)

    def _by_kind(self, step: Step) -> Matrix:
        """Whether something runs on above the page's first label: kind × now."""
        kinds = np.empty((2, self.nodes.count))
        kinds[Kind.RUNS_ON] = step.runs_on
        kinds[Kind.RUNS_ON, self.nodes.start] = 0.0
        kinds[Kind.BEGINS] = 1 - kinds[Kind.RUNS_ON]
        return kinds

    def _going_on(self) -> NDArray[np.float64]:
        shares = np.ones(self.nodes.count)
        shares[self.nodes.start] = math.exp(_NO_QUESTION)
        if self.page.reading.lines == 0:
            shares *= 0.05
        if reads_like_cover(self.page.reading):
            shares *= math.exp(_COVER_LATER)
        return shares

    def _chances_loose(self) -> NDArray[np.float64]:
        """By what is being answered: a short page before any label is a cover, if it does not read like work."""
        few = self.page.reading.lines <= FEW_LINES and not reads_like_work(self.page.reading)
        shares = np.full(self.nodes.count, math.exp(_LOOSE_FEW_LINES if few else _LOOSE))
        if reads_like_cover(self.page.reading):
            shares[:] = math.exp(_COVER_LATER)
        if few:
            shares[self.nodes.start] = math.exp(_COVER)
        return shares

    def _through_held(self, held: tuple[str, ...]) -> Matrix:
        nodes = self.nodes
        on_map = sorted(nodes.ids.index(one) for one in held if one in nodes.ids)
        through = np.zeros((nodes.count, nodes.count))
        if not on_map:
            return np.eye(nodes.count)
        first, last = on_map[0], on_map[-1]
        through[:, last] = np.maximum(nodes.moves[:, first], math.exp(BACK))
        through[first, last] = 1.0  # it runs on
        return through

    def sample(self, kind: Kind, now: int, then: int, chance: np.random.Generator) -> PathOnPage:
        """One way to read the page between these nodes, as probable as it is."""
        if kind == Kind.LOOSE or self.page.held is not None:
            return PathOnPage(kind, now, ())
        if kind == Kind.RUNS_ON and now == then:
            ways = np.array([self.ended[kind, now, then], self.goes_on[now]])
            if pick(ways, chance) == 1:
                return PathOnPage(kind, now, ())
        begun: list[tuple[int, int]] = []
        node = then
        for at in range(len(self.steps) - 1, -1, -1):
            step = self.steps[at]
            after, before = self.after[at][kind, now], self.before[at][now]
            stayed = after[node] * step.nothing
            entered = before * self._entering(step)[kind, now, node]
            aside = after[node] * step.asides[node].sum()
            entered_aside = before * self._entering_aside(step)[kind, now] if now == node else 0.0
            ways = np.concatenate([[stayed, entered, aside, entered_aside], after * step.labels[:, node]])
            picked = pick(ways, chance)
            if picked == 0:
                continue
            begun.append((pick(step.asides[node], chance) if picked in (2, 3) else node, step.mark))
            if picked in (1, 3):
                break
            node = node if picked == 2 else picked - 4
        return PathOnPage(kind, now, tuple(reversed(begun)))


def pick(weights: NDArray[np.float64], chance: np.random.Generator) -> int:
    """The place of one of the weights, as probable as it is heavy."""
    total = weights.sum()
    if not total > 0:
        return 0
    return int(np.searchsorted(np.cumsum(weights), chance.random() * total, side="right").clip(0, len(weights) - 1))
