"""One page in the proposal of a folio: how probable its marks are when one question is being answered above it and
another at its foot. Moves and their costs: how people write and label."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import IntEnum
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from folio_core.question_map import QuestionMap
from folio_core.reading.page_reading import FEW_LINES, Mark, PageReading

from .label_evidence import by_column, label_chance, lines_above, page_numbers, reads_like_work

Matrix = NDArray[np.float64]

_LEAST_MARK = 0.02  # what is less probably a label is not looked at

# How people write, as log probabilities; common practice, no source, then set on tuning folios.
_NEXT, _SKIP_ONE, _SKIP_MORE, _SKIP_FAR, _BACK, _AGAIN, _CONTINUED = -0.15, -2.2, -0.5, -3.3, -3.3, -4.5, -0.3
_OUTSIDE_MAP = 0.01  # of labels: they name what the map lacks
_OUTSIDE_BY_CHANCE = 0.0008  # they do, and are read as a label of the map all the same
_SAYS_IT_BY_CHANCE = 0.15  # of what is no label and is read as one: it reads like one of this map
_DOT_LOST = 0.5  # of labels with a dot: it is too small to be seen, or not written
_MISREAD = 0.002  # a label that the reader gave no chance
_PART, _DECIMAL_PART = 0.95, 0.3  # alone, of a number that is being answered: "b" for 2b; "3" for 1.3
_NUMBER_FORGOTTEN = 0.05  # of part letters: without the number above them
_NUMBER_REPEATED = 0.1  # of whole labels: right after a line with the number alone, below which part letters do
_FREE_LINES = -1.0  # lines above the first label where nothing was begun: a heading
_PLAIN_ASIDE, _ASIDE_HANGS = 0.99, 1.0  # only plain labels in the margin are taken so
_PLAIN_AFTER = 0.8  # what follows such a question on its page is at least so probably a label
_ASIDE = -3.0  # a question that was passed over, or comes too early: after it one goes on where one was
_SHORT_BEGINNING = -1.5  # work that begins with a page of few lines, which is rather a cover
_NUMBER_ALONE = -1.5  # a number at whose foot the page ends, without a part of it
_NO_QUESTION = -3.5  # a page of writing before any label
_LOOSE, _LOOSE_FEW_LINES, _COVER = -5.0, -1.2, -0.2


@dataclass(frozen=True, slots=True)
class PageEvidence:
    """What is known of one page. ``held``: the questions a person placed on it, which are never overruled; None where
    nobody did. ``loose``: a person said that it is. ``taken``: when it was photographed, as EXIF has it, "" if unknown;
    ``file_name``: "" if unknown."""

    reading: PageReading
    held: tuple[str, ...] | None = None
    loose: bool = False
    taken: str = ""
    file_name: str = ""


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
            return _BACK
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


@dataclass(frozen=True, slots=True)
class _Step:
    """One mark: what it changes, now × then; what it names aside, after which one goes on where one was; how probable
    it is that it is no label of the map; and if it is the first one, that something runs on above it."""

    mark: int
    labels: Matrix
    asides: Matrix
    nothing: float
    runs_on: float


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


class PageModel:
    """``through``: kind × now × then, how probable the page is when one node is being answered above it and one
    below."""

    def __init__(self, page: PageEvidence, nodes: Nodes) -> None:
        self.page, self.nodes = page, nodes
        self.number = page_numbers(page.reading)
        self.steps = [] if page.held is not None or page.loose else self._steps()
        self._tables()

    def _steps(self) -> list[_Step]:
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
            above = float(lines_above(self.page.reading, mark) > 0)
            made.append(_Step(at, share * labels, asides, nothing, above))
        return _without_last_asides(made, marks)

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
            on_map += one.probability / whole * bool(said_so.any())
            weights = said_so * (one.probability / whole)
            if one.text.endswith("~"):
                again += weights
            else:
                said += weights
                whole_labels += weights * (said_so == 1.0)
        moves = nodes.moves
        resumed = np.exp(np.where(np.eye(nodes.count, dtype=bool), _CONTINUED, _BACK))
        return np.asarray((said + _MISREAD / nodes.start) * moves + again * resumed), whole_labels, on_map

    def _tables(self) -> None:
        """Forward tables: before the first label of the page, and after, by kind."""
        nodes = self.nodes
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

    def _entering(self, step: _Step) -> Matrix:
        """The first label of a page, kind × now × then: with lines above it something must have been begun before."""
        entering = self._by_kind(step)[..., None] * step.labels
        if step.runs_on:
            entering[Kind.BEGINS, self.nodes.start] *= math.exp(_FREE_LINES)
        if self.page.reading.lines <= FEW_LINES:
            entering[Kind.BEGINS, self.nodes.start] *= math.exp(_SHORT_BEGINNING)
        return entering

    def _entering_aside(self, step: _Step) -> Matrix:
        return self._by_kind(step) * step.asides.sum(axis=1)

    def _by_kind(self, step: _Step) -> Matrix:
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
        return shares

    def _chances_loose(self) -> NDArray[np.float64]:
        """By what is being answered: a short page before any label is a cover, if it does not read like work."""
        few = self.page.reading.lines <= FEW_LINES and not reads_like_work(self.page.reading)
        shares = np.full(self.nodes.count, math.exp(_LOOSE_FEW_LINES if few else _LOOSE))
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
        through[:, last] = np.maximum(nodes.moves[:, first], math.exp(_BACK))
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


def _without_last_asides(steps: list[_Step], marks: Sequence[Mark]) -> list[_Step]:
    """What is named aside must be followed by a plain label on its page: else it would be what runs on."""
    last = max((at for at, step in enumerate(steps) if label_chance(marks[step.mark]) >= _PLAIN_AFTER), default=-1)
    return [step if at < last else replace(step, asides=np.zeros_like(step.asides)) for at, step in enumerate(steps)]


def pick(weights: NDArray[np.float64], chance: np.random.Generator) -> int:
    """The place of one of the weights, as probable as it is heavy."""
    total = weights.sum()
    if not total > 0:
        return 0
    return int(np.searchsorted(np.cumsum(weights), chance.random() * total, side="right").clip(0, len(weights) - 1))
