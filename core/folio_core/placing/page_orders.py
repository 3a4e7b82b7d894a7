"""All orders of a folio's pages at once, by dynamic programming on sets of pages (Held and Karp 1962); of many pages,
whose sets would be too many, the orders that begin best (beam search, Lowerre 1976)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from .nodes import Nodes
from .page_ends import Following, by_room
from .page_looks import alike_pages
from .page_model import PageModel
from .page_tables import Kind, PageTables, PathOnPage, pick

_IN_ORDER = 0.85  # pages are sent, photographed or named in their order; else anyhow, near ones sooner (Mallows 1957)
INVERSION = 0.08  # then the cost of each pair of pages that came the other way round
_PAGE_NUMBER = 3.5  # what a page number that fits its place is worth at most
_INTERRUPTED = 3.0  # the cost of a page of another ink or paper amid those of one; common practice, no source

_MOST_EXACT = 12  # pages: of so many all sets are kept
_MOST_STEPS = 30_000  # from one set to one of a page more, for more pages

Reading = tuple[list[int], list[PathOnPage]]  # pages in an order, and one way to read each


class Orders:
    """For each set of pages that come first, how probable each node is at its end, by what follows.

    ``known``: only this order, whose share of belief is ``share``; None is any. ``weight``: the log probability of all
    that was read.
    """

    def __init__(
        self, models: Sequence[PageModel], nodes: Nodes, known: tuple[int, ...] | None, share: float = 1.0
    ) -> None:
        self.models, self.nodes, self.known = models, nodes, known
        self.count = len(models)
        readings = [model.page.reading for model in models]
        self.kinds = alike_pages(readings)
        self.room = np.exp(by_room(readings))
        self.most_sets = _most_sets(self.count) if known is None else 1
        begin = np.zeros((len(Following), nodes.count))
        begin[:, nodes.start] = 1.0
        self.sums: dict[int, tuple[NDArray[np.float64], float]] = {0: (begin, 0.0)}  # weights, and their log scale
        layer = [0]
        for _ in range(self.count):
            layer = self._next(layer)
        weights, scale = self.sums[layer[0]]
        prior = math.log(_IN_ORDER * share) if known else math.log(1 - _IN_ORDER) - _log_orders(self.count)
        self.weight = prior + scale + math.log(weights[Following.ENDS].sum() + 1e-300)

    def _next(self, layer: list[int]) -> list[int]:
        """The sets of one page more."""
        sums: dict[int, list[tuple[NDArray[np.float64], float]]] = {}
        for first in layer:
            weights, scale = self.sums[first]
            for page in self._may_follow(first):
                after = self._after(weights, page), scale + self._cost(first, page)
                sums.setdefault(first | 1 << page, []).append(after)
        for then, parts in sums.items():
            self.sums[then] = _scaled_sum(parts)
        if len(sums) <= self.most_sets:
            return list(sums)
        kept = sorted(sums, key=self._promise, reverse=True)[: self.most_sets]
        for other in sums.keys() - set(kept):
            del self.sums[other]
        return kept

    def _promise(self, first: int) -> float:
        """How well the pages of this set go before all others: the log probability of what they say, against the best
        each could say in any place."""
        weights, scale = self.sums[first]
        best = sum(best for page, best in enumerate(self._best) if first >> page & 1)
        return scale + math.log(weights.sum() + 1e-300) - best

    @cached_property
    def _best(self) -> list[float]:
        """The log probability of each page where it fits best."""
        return [
            max(math.log(tables.through.sum(axis=(0, 2)).max() + 1e-300) for tables in model.tables.values())
            for model in self.models
        ]

    def _after(self, weights: NDArray[np.float64], page: int) -> NDArray[np.float64]:
        """How probable each node is at the foot of the page, by what follows it."""
        tables = self.models[page].tables
        begins = _work(weights, tables[Following.BEGINS])
        runs_on = begins
        if tables[Following.RUNS_ON] is not tables[Following.BEGINS]:
            runs_on = _work(weights, tables[Following.RUNS_ON])
        work = np.stack([begins, runs_on, begins]) * self.room[:, page, None]
        return np.asarray(work + weights @ tables[Following.BEGINS].through[Kind.LOOSE])

    def _may_follow(self, first: int) -> list[int]:
        if self.known:
            return [self.known[first.bit_count()]]
        return [page for page in range(self.count) if not first >> page & 1]

    def _cost(self, first: int, page: int) -> float:
        """Of this page coming next: pages that came later and stand before it, and what its own number says."""
        later = 0 if self.known else (first >> (page + 1)).bit_count()
        cost = -INVERSION * later
        place = first.bit_count() + 1
        numbers = self.models[page].number
        if numbers:
            fits = numbers.get(place, 0.0)
            others = max(
                (share for number, share in numbers.items() if number != place and number <= self.count), default=0.0
            )
            cost += _PAGE_NUMBER * (fits - others)
        return cost - _INTERRUPTED * self._interrupted(first, page)

    def _interrupted(self, first: int, page: int) -> int:
        """Inks and papers that are begun and not over when this page of another comes: people write with one pen, on
        one paper, and then perhaps go on with another."""
        return sum(
            0 < first & kind < kind
            for kinds in self.kinds
            if any(kind >> page & 1 for kind in kinds)
            for kind in kinds
            if not kind >> page & 1
        )

    def sample(self, chance: np.random.Generator) -> Reading:
        """One order with one way to read each page, as probable as it is."""
        placed = (1 << self.count) - 1
        following = Following.ENDS
        node = pick(self.sums[placed][0][following], chance)
        order: list[int] = []
        paths: list[PathOnPage] = []
        while placed:
            ways, weights, scales = [], [], []
            for page in range(self.count):
                before = placed & ~(1 << page)
                if before == placed or before not in self.sums or page not in self._may_follow(before):
                    continue
                kept, scale = self.sums[before]
                through = self.models[page].tables[following].through[..., node]
                room = self.room[following, page]
                ways.append(page)
                weights.append(
                    np.concatenate(
                        [
                            kept[Kind.BEGINS] * through[Kind.BEGINS] * room,
                            kept[Kind.RUNS_ON] * through[Kind.RUNS_ON] * room,
                            kept[following] * through[Kind.LOOSE],
                        ]
                    )
                )
                scales.append(scale + self._cost(before, page))
            top = max(scales)
            flat = np.concatenate([one * math.exp(scale - top) for one, scale in zip(weights, scales, strict=True)])
            picked, before_node = divmod(pick(flat, chance), self.nodes.count)
            at, number = divmod(picked, len(Kind))
            page, kind = ways[at], Kind(number)
            order.append(page)
            paths.append(self.models[page].tables[following].sample(kind, before_node, node, chance))
            placed, node = placed & ~(1 << page), before_node
            following = Following(kind) if kind != Kind.LOOSE else following
        return order[::-1], paths[::-1]


def _work(weights: NDArray[np.float64], tables: PageTables) -> NDArray[np.float64]:
    through = tables.through
    return np.asarray(weights[Kind.BEGINS] @ through[Kind.BEGINS] + weights[Kind.RUNS_ON] @ through[Kind.RUNS_ON])


def _most_sets(pages: int) -> int:
    """Of pages that come first, of each number of them."""
    return 2**pages if pages <= _MOST_EXACT else max(1, 2 * _MOST_STEPS // pages**2)


def _log_orders(count: int) -> float:
    """The normalizer of the Mallows distribution: the sum over all orders of e to the minus cost of inversions."""
    ratio = math.exp(-INVERSION)
    return sum(math.log((1 - ratio**size) / (1 - ratio)) for size in range(1, count + 1))


def _scaled_sum(parts: Sequence[tuple[NDArray[np.float64], float]]) -> tuple[NDArray[np.float64], float]:
    top = max(scale for _, scale in parts)
    total = sum((weights * math.exp(scale - top) for weights, scale in parts), start=np.zeros_like(parts[0][0]))
    most = float(total.max())
    return (total / most, top + math.log(most)) if most > 0 else (total, top)
