"""What the reading of a whole folio suggests: the order of its pages, which questions they answer, what is missing.

One probabilistic model over all pages. A student writes through the question map, mostly forwards; an answer runs on
until the next label; pages come in any order, more likely in the one they were sent in. Of each page a matrix says how
probable its marks are when one question is being answered above it and another at its foot (`_PageModel`). All orders
of up to `_MOST_ORDERED` pages are summed over by dynamic programming on sets (Held and Karp 1962); more pages are taken
to be in their order, for the sets double with each page. Confidences are shares of samples drawn from that sum
(forward filtering, backward sampling), less where most labels are doubtful; `./folio bench reading` says how they hold.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from folio_core.question_map import QuestionMap
from folio_core.reading.page_reading import HEAD, Mark, PageReading

Matrix = NDArray[np.float64]

SAID = 0.5  # what is less sure is not proposed
_MOST_ORDERED = 12
_SAMPLES = 240

# Log odds that a mark is a label, by what `evidence_of` gives. Set by hand on tuning folios: a fit to them
# (`./folio bench reading --fit`) leans on the space above a label, which the made-up folios always leave.
_MARK_WEIGHTS, _MARK_BIAS = (0.60, 0.50, 0.80, -0.60), -2.0
_LEAST_MARK = 0.02
_PLAIN = 0.8

# How people write, as log probabilities; common practice, no source, then set on tuning folios.
_NEXT, _SKIP_ONE, _SKIP_MORE, _BACK, _AGAIN, _CONTINUED = -0.15, -2.2, -0.5, -3.3, -4.5, -0.3
_OUTSIDE_MAP = 0.03  # of labels: they name what the map lacks
_OUTSIDE_BY_CHANCE = 0.0008  # they do, and are read as a label of the map all the same
_SAYS_IT_BY_CHANCE = 0.15  # of what is no label and is read as one: it reads like one of this map
_MISREAD = 0.002  # a label that the reader gave no chance
_NUMBER_FORGOTTEN = 0.05  # of part letters: without the number above them
_HEADING = 0.10  # of a page's height: down to there a single line above the first label is a heading, not work
_FREE_LINES = -1.0  # lines above the first label where nothing was begun: a heading
_NO_QUESTION = -3.5  # a page of writing before any label
_IN_ORDER = math.log(0.85)  # pages are sent in their order; else anyhow, near ones sooner (Mallows 1957)
_ANYHOW = math.log(0.15)
_INVERSION = 0.08  # then the cost of each pair of pages that came the other way round
_PAGE_NUMBER = 3.5  # what a page number that fits its place is worth at most
_LOOSE, _LOOSE_FEW_LINES, _FEW_LINES = -5.0, -1.2, 6


@dataclass(frozen=True, slots=True)
class PageEvidence:
    """What is known of one page. ``held``: the questions a person placed on it, which are never overruled; None where
    nobody did. ``loose``: a person said that it is."""

    reading: PageReading
    held: tuple[str, ...] | None = None
    loose: bool = False


@dataclass(frozen=True, slots=True)
class ProposedPlace:
    """``top``: where the answer begins, a share of the page's height; None where it runs on from the page before.
    ``mark``: which mark of the page's reading says so, or None."""

    question: str
    page: int
    top: float | None
    confidence: float
    mark: int | None = None


@dataclass(frozen=True, slots=True)
class Proposal:
    """Pages by their place in the order they were given. ``missing``: questions with how sure it is that they are on no
    page. ``outside``: marks that name what the map lacks: page, mark, what they say."""

    order: tuple[int, ...]
    order_confidence: float
    places: tuple[ProposedPlace, ...]
    loose: Mapping[int, float] = field(default_factory=dict)
    missing: Mapping[str, float] = field(default_factory=dict)
    outside: tuple[tuple[int, int, str], ...] = ()


def propose(
    pages: Sequence[PageEvidence], question_map: QuestionMap, *, order_is_known: bool = False, seed: int = 0
) -> Proposal:
    """``order_is_known``: the pages are in their order, by a person's hand. Deterministic for one ``seed``.

    Of 12 pages in any order, and 30 questions, about a second of one core; of 100 in their order two.
    """
    if not pages or not question_map.questions:
        return Proposal(tuple(range(len(pages))), 0.0, ())
    nodes = _Nodes(question_map)
    models = [_PageModel(page, nodes) for page in pages]
    ways = [_Orders(models, nodes, known=True)]
    if not order_is_known and 1 < len(pages) <= _MOST_ORDERED:
        ways.append(_Orders(models, nodes, known=False))
    best = max(ways, key=lambda way: way.best_weight).best()
    chance = np.random.default_rng(seed)
    weights = np.exp(np.array([way.weight for way in ways]) - max(way.weight for way in ways))
    samples = [ways[_pick(weights, chance)].sample(chance) for _ in range(_SAMPLES)]
    return _told(best, samples, models, nodes)


class _Nodes:
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
        self.joined = [_joined(path) for path in self.paths]
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
        return _NEXT if steps == 0 else _SKIP_ONE + _SKIP_MORE * (steps - 1)

    @lru_cache(maxsize=4096)  # noqa: B019 (lives as long as one proposal)
    def says(self, text: str) -> Matrix:
        """How well a text names each node, given which is being answered: now × then."""
        weights = np.zeros((self.count, self.count))
        for then, path in enumerate(self.paths):
            if text == self.joined[then]:
                weights[:, then] = 1.0
                continue
            for depth in range(1, len(path)):
                if text != _joined(path[depth:]):
                    continue
                for now in range(self.start):
                    known = self.paths[now][:depth] == path[:depth]
                    weights[now, then] = max(weights[now, then], 0.95 if known else _NUMBER_FORGOTTEN)
                weights[self.start, then] = max(weights[self.start, then], _NUMBER_FORGOTTEN)
        return weights


def _joined(path: Sequence[str]) -> str:
    """As the reader spells it: "2b", "1.1a", "1bii"."""
    text = path[0]
    for before, level in pairwise(path):
        text += ("." if before[-1].isdecimal() and level[0].isdecimal() else "") + level
    return text


@dataclass(frozen=True, slots=True)
class _Step:
    """One mark: what it changes, now × then, and how probable it is that it is no label of the map."""

    mark: int
    labels: Matrix
    nothing: float
    lines_above: int


@dataclass(frozen=True, slots=True)
class _PathOnPage:
    """One way to read a page: what runs on into it, and which nodes begin at which marks."""

    entered: int
    begun: tuple[tuple[int, int], ...]  # node, mark
    loose: bool


class _PageModel:
    """``through``: now × then, how probable the page is when one node is being answered above it and one below."""

    def __init__(self, page: PageEvidence, nodes: _Nodes) -> None:
        self.page, self.nodes = page, nodes
        self.number = page_numbers(page.reading)
        self.steps = [] if page.held is not None or page.loose else self._steps()
        self._tables()

    def _steps(self) -> list[_Step]:
        made = []
        for at, mark in enumerate(self.page.reading.marks):
            share = label_chance(mark)
            if share < _LEAST_MARK:
                continue
            labels, on_map = self._labels(mark)
            outside = _OUTSIDE_MAP * (1 - on_map) + _OUTSIDE_BY_CHANCE
            working = (1 - share) * (1 - on_map + on_map * _SAYS_IT_BY_CHANCE)
            made.append(_Step(at, share * labels, working + share * outside, _lines_above(self.page.reading, mark)))
        return made

    def _labels(self, mark: Mark) -> tuple[Matrix, float]:
        """now × then; and how probable it is that what is read is on the map at all."""
        nodes = self.nodes
        on_map = 0.0
        said = np.zeros((nodes.count, nodes.count))
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
        moves = nodes.moves
        resumed = np.exp(np.where(np.eye(nodes.count, dtype=bool), _CONTINUED, _BACK))
        return np.asarray((said + _MISREAD / nodes.start) * moves + again * resumed), on_map

    def _tables(self) -> None:
        """Forward tables: before the first label of the page, and after."""
        nodes = self.nodes
        size = nodes.count
        held = self.page.held
        self.loose = np.zeros(size)
        self.untouched = [np.ones(size)]
        self.touched: list[Matrix] = [np.zeros((size, size))]
        if self.page.loose:
            self.through = np.eye(size)
            return
        if held is not None:
            self.through = self._through_held(held)
            return
        for step in self.steps:
            before, after = self.untouched[-1], self.touched[-1]
            entering = self._entering(step)
            self.untouched.append(before * step.nothing)
            self.touched.append(after * step.nothing + after @ step.labels + (before[:, None] * entering))
        self.runs_on = self.untouched[-1] * self._running_on()
        self.loose = self.untouched[-1] * self._chance_loose()
        self.through = self.touched[-1] + np.diag(self.runs_on + self.loose)

    def _entering(self, step: _Step) -> Matrix:
        """The first label of a page: with lines above it something must have been begun before."""
        entering = step.labels.copy()
        if step.lines_above >= 1:
            entering[self.nodes.start] *= math.exp(_FREE_LINES)
        return entering

    def _running_on(self) -> NDArray[np.float64]:
        shares = np.ones(self.nodes.count)
        shares[self.nodes.start] = math.exp(_NO_QUESTION)
        if self.page.reading.lines == 0:
            shares *= 0.05
        return shares

    def _chance_loose(self) -> float:
        lines = self.page.reading.lines
        return math.exp(_LOOSE_FEW_LINES if lines <= _FEW_LINES else _LOOSE)

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

    def sample(self, now: int, then: int, chance: np.random.Generator | None) -> _PathOnPage:
        """One way to read the page between these nodes; the likeliest greedily where ``chance`` is None."""
        if self.page.loose:
            return _PathOnPage(now, (), True)
        if self.page.held is not None:
            return _PathOnPage(now, (), False)
        ways = [self.touched[-1][now, then]]
        if now == then:
            ways += [self.runs_on[now], self.loose[now]]
        way = _pick(np.array(ways), chance)
        if way:
            return _PathOnPage(now, (), way == 2)
        begun: list[tuple[int, int]] = []
        node = then
        for at in range(len(self.steps) - 1, -1, -1):
            step = self.steps[at]
            after, before = self.touched[at], self.untouched[at]
            stayed = after[now, node] * step.nothing
            moved = after[now] * step.labels[:, node]
            entered = before[now] * self._entering(step)[now, node]
            picked = _pick(np.concatenate([[stayed, entered], moved]), chance)
            if picked == 0:
                continue
            begun.append((node, step.mark))
            if picked == 1:
                break
            node = picked - 2
        return _PathOnPage(now, tuple(reversed(begun)), False)


def _pick(weights: NDArray[np.float64], chance: np.random.Generator | None) -> int:
    if chance is None:
        return int(np.argmax(weights))
    total = weights.sum()
    if not total > 0:
        return 0
    return int(np.searchsorted(np.cumsum(weights), chance.random() * total, side="right").clip(0, len(weights) - 1))


def _lines_above(reading: PageReading, label: Mark) -> int:
    """Lines of work above a label; what stands at the very head of a page, or alone near it, is a name or a number."""
    above = {mark.line: mark.top for mark in reading.marks if mark.line < label.line and mark.top >= HEAD}
    return 0 if len(above) == 1 and min(above.values()) < _HEADING else len(above)


def label_chance(mark: Mark) -> float:
    """That a mark is a label at all: what the network makes of it, and where it stands."""
    if not any("/" not in one.text for one in mark.candidates):
        return 0.0
    odds = _MARK_BIAS + sum(weight * value for weight, value in zip(_MARK_WEIGHTS, evidence_of(mark), strict=True))
    return 1 / (1 + math.exp(-odds))


def evidence_of(mark: Mark) -> tuple[float, ...]:
    """What speaks for a mark being a label: the network's log odds, how far it hangs in the margin, the paper above it,
    and whether its line begins the page's writing."""
    shown = float(np.clip(1 - mark.nothing, 1e-4, 1 - 1e-4))
    return (
        math.log(shown / (1 - shown)),
        float(np.clip(mark.hang, -3.0, 3.0)),
        min(mark.space, 3.0),
        float(mark.line == 0),
    )


def page_numbers(reading: PageReading) -> dict[int, float]:
    """Of each number how probable it is that it is the page's own: read at its head or foot as a page number."""
    found: dict[int, float] = {}
    for mark in reading.marks:
        at_edge = mark.top < 0.08 or mark.top > 0.92
        for one in mark.candidates:
            number, _, _ = one.text.strip("~").strip("/").partition("/")
            if number.isdecimal() and ("/" in one.text or (at_edge and (mark.left > 0.4))):
                weight = one.probability * (1.0 if at_edge else 0.3)
                found[int(number)] = max(found.get(int(number), 0.0), weight)
    return found


class _Orders:
    """All orders of the pages at once: for each set of pages that come first, how probable each node is at its end.

    ``known``: only the order they were sent in. ``weight``: the log probability of all that was read, ``best_weight``:
    of the likeliest order alone.
    """

    def __init__(self, models: Sequence[_PageModel], nodes: _Nodes, *, known: bool) -> None:
        self.models, self.nodes, self.known = models, nodes, known
        self.count = len(models)
        begin = np.zeros(nodes.count)
        begin[nodes.start] = 1.0
        self.sums: dict[int, tuple[NDArray[np.float64], float]] = {0: (begin, 0.0)}  # weights, and their log scale
        self.bests: dict[int, tuple[NDArray[np.float64], float]] = {0: (begin, 0.0)}
        layer = [0]
        for _ in range(self.count):
            layer = self._next(layer)
        prior = _IN_ORDER if known else _ANYHOW - _log_orders(self.count)
        (sums, scale), (bests, best_scale) = self.sums[layer[0]], self.bests[layer[0]]
        self.weight = prior + scale + math.log(sums.sum() + 1e-300)
        self.best_weight = prior + best_scale + math.log(bests.max() + 1e-300)

    def _next(self, layer: list[int]) -> list[int]:
        sums: dict[int, list[tuple[NDArray[np.float64], float]]] = {}
        bests: dict[int, list[tuple[NDArray[np.float64], float]]] = {}
        for first in layer:
            for page in self._may_follow(first):
                cost = self._cost(first, page)
                weights, scale = self.sums[first]
                sums.setdefault(first | 1 << page, []).append((weights @ self.models[page].through, scale + cost))
                weights, scale = self.bests[first]
                best = (weights[:, None] * self.models[page].through).max(0)
                bests.setdefault(first | 1 << page, []).append((best, scale + cost))
        for then, parts in sums.items():
            self.sums[then] = _scaled_sum(parts)
        for then, parts in bests.items():
            self.bests[then] = _scaled_best(parts)
        return list(sums)

    def _may_follow(self, first: int) -> list[int]:
        left = [page for page in range(self.count) if not first >> page & 1]
        return left[:1] if self.known else left

    def _cost(self, first: int, page: int) -> float:
        """Of this page coming next: pages that came later and stand before it, and what its own number says."""
        later = (first >> (page + 1)).bit_count()
        cost = -_INVERSION * later
        place = first.bit_count() + 1
        numbers = self.models[page].number
        if numbers:
            fits = numbers.get(place, 0.0)
            others = max(
                (share for number, share in numbers.items() if number != place and number <= self.count), default=0.0
            )
            cost += _PAGE_NUMBER * (fits - others)
        return cost

    def best(self) -> tuple[list[int], list[_PathOnPage]]:
        whole = (1 << self.count) - 1
        node = int(np.argmax(self.bests[whole][0]))
        return self._back(whole, node, self.bests, None)

    def sample(self, chance: np.random.Generator) -> tuple[list[int], list[_PathOnPage]]:
        whole = (1 << self.count) - 1
        node = _pick(self.sums[whole][0], chance)
        return self._back(whole, node, self.sums, chance)

    def _back(
        self, whole: int, node: int, tables: Mapping[int, tuple[NDArray[np.float64], float]],
        chance: np.random.Generator | None,
    ) -> tuple[list[int], list[_PathOnPage]]:  # fmt: skip
        order: list[int] = []
        paths: list[_PathOnPage] = []
        placed = whole
        while placed:
            ways, weights, scales = [], [], []
            for page in range(self.count):
                before = placed & ~(1 << page)
                if not placed >> page & 1 or before not in tables or page not in self._may_follow(before):
                    continue
                kept, scale = tables[before]
                ways.append(page)
                weights.append(kept * self.models[page].through[:, node])
                scales.append(scale + self._cost(before, page))
            top = max(scales)
            flat = np.concatenate([one * math.exp(scale - top) for one, scale in zip(weights, scales, strict=True)])
            picked = _pick(flat, chance)
            page, before_node = ways[picked // self.nodes.count], picked % self.nodes.count
            order.append(page)
            paths.append(self.models[page].sample(before_node, node, chance))
            placed, node = placed & ~(1 << page), before_node
        return order[::-1], paths[::-1]


def _log_orders(count: int) -> float:
    """The normalizer of the Mallows distribution: the sum over all orders of e to the minus cost of inversions."""
    ratio = math.exp(-_INVERSION)
    return sum(math.log((1 - ratio**size) / (1 - ratio)) for size in range(1, count + 1))


def _scaled_sum(parts: Sequence[tuple[NDArray[np.float64], float]]) -> tuple[NDArray[np.float64], float]:
    top = max(scale for _, scale in parts)
    total = sum((weights * math.exp(scale - top) for weights, scale in parts), start=np.zeros(len(parts[0][0])))
    most = float(total.max())
    return (total / most, top + math.log(most)) if most > 0 else (total, top)


def _scaled_best(parts: Sequence[tuple[NDArray[np.float64], float]]) -> tuple[NDArray[np.float64], float]:
    top = max(scale for _, scale in parts)
    best = np.max([weights * math.exp(scale - top) for weights, scale in parts], axis=0)
    most = float(best.max())
    return (best / most, top + math.log(most)) if most > 0 else (best, top)


_Links = dict[tuple[int, int], tuple[float | None, int | None]]  # leaf, page → top, mark


def _links(order: Sequence[int], paths: Sequence[_PathOnPage], models: Sequence[_PageModel], nodes: _Nodes) -> _Links:
    """Which questions lie on which pages, and where they begin there."""
    links: _Links = {}
    for page, path in zip(order, paths, strict=True):
        model = models[page]
        marks = model.page.reading.marks
        if model.page.held is not None:
            for one in model.page.held:
                if one in nodes.ids:
                    links[nodes.ids.index(one), page] = (None, None)
            continue
        if path.loose:
            continue
        runs_on = not path.begun or _lines_above(model.page.reading, marks[path.begun[0][1]]) > 0
        if path.entered != nodes.start and runs_on:
            links[nodes.first[path.entered], page] = (None, None)
        for at, (node, mark) in enumerate(path.begun):
            leaf = nodes.first[node]
            if node >= nodes.leaves and at + 1 < len(path.begun):
                following = path.begun[at + 1][0]
                if nodes.paths[following][: len(nodes.paths[node])] == nodes.paths[node]:
                    continue  # "2", and then "a": the part is what was begun
            links.setdefault((leaf, page), (marks[mark].top, mark))
    return links


def _told(
    best: tuple[list[int], list[_PathOnPage]], samples: Sequence[tuple[list[int], list[_PathOnPage]]],
    models: Sequence[_PageModel], nodes: _Nodes,
) -> Proposal:  # fmt: skip
    order, paths = best
    links = _links(order, paths, models, nodes)
    drawn = [_links(*one, models, nodes) for one in samples]
    count, trust = len(samples), _trust(order, paths, models)
    places = tuple(
        ProposedPlace(
            nodes.ids[leaf], page, top, round(trust * _share(sum((leaf, page) in one for one in drawn), count), 3), mark
        )
        for (leaf, page), (top, mark) in sorted(links.items(), key=lambda one: (one[0][0], order.index(one[0][1])))
    )
    loose = {
        page: _share(sum(one_paths[one.index(page)].loose for one, one_paths in samples), count)
        for page, path in zip(order, paths, strict=True)
        if path.loose
    }
    placed = {leaf for leaf, _ in links}
    missing = {
        nodes.ids[leaf]: round(trust * _share(sum(all(other != leaf for other, _ in one) for one in drawn), count), 3)
        for leaf in range(nodes.leaves)
        if leaf not in placed
    }
    return Proposal(
        tuple(order), _share(sum(one == order for one, _ in samples), count), places, loose, missing,
        _outside(models, nodes, paths, order),
    )  # fmt: skip


def _trust(order: Sequence[int], paths: Sequence[_PathOnPage], models: Sequence[_PageModel]) -> float:
    """Of the labels that were taken for such: where most are doubtful, all that rests on them is. Somebody who writes
    no labels has a digit at a line's beginning all the same."""
    chances = [
        label_chance(models[page].page.reading.marks[mark])
        for page, path in zip(order, paths, strict=True)
        for _, mark in path.begun
    ]
    sure = sum(chance >= _PLAIN for chance in chances)
    return 1.0 if not chances or 2 * sure >= len(chances) else sum(chances) / len(chances)


def _share(times: int, count: int) -> float:
    return round((times + 0.5) / (count + 1), 3)


def _outside(
    models: Sequence[_PageModel], nodes: _Nodes, paths: Sequence[_PathOnPage], order: Sequence[int]
) -> tuple[tuple[int, int, str], ...]:
    """Marks that are surely labels and name nothing of the map."""
    found = []
    for page, path in zip(order, paths, strict=True):
        used = {mark for _, mark in path.begun}
        for step in models[page].steps:
            mark = models[page].page.reading.marks[step.mark]
            if step.mark in used or not mark.candidates or label_chance(mark) < 0.95:
                continue
            text = mark.candidates[0].text.rstrip("~")
            sure = mark.candidates[0].probability > 0.9 * (1 - mark.nothing)
            if sure and "/" not in text and text[0].isdecimal() and not nodes.says(text).any():
                found.append((page, step.mark, text))
    return tuple(found)
