"""What the reading of a whole folio suggests: the order of its pages, which questions they answer, what is missing.

One probabilistic model over all pages. A student writes through the question map, mostly forwards; an answer runs on
until the next label; pages come in any order, more likely in the one they were sent, photographed or named in. Of each
page a matrix says how probable its marks are when one question is being answered above it and another at its foot
(`page_model`). All orders of up to twelve pages are summed over; of up to `_MOST_ORDERED`, whose sets double with each
page, those that begin best (`page_orders`); more pages are taken to be in one of those three (`sent_orders`).
Confidences are shares of samples drawn from that sum (forward filtering, backward sampling), less where most labels are
doubtful; `./folio bench reading` says how they hold.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from folio_core.question_map import QuestionMap

from .folio_evidence import as_this_hand_labels
from .label_evidence import label_chance
from .nodes import Nodes
from .page_evidence import PageEvidence
from .page_model import PageModel
from .page_orders import Orders, Reading
from .page_tables import Kind, PathOnPage, pick
from .sent_orders import sent_orders

SAID = 0.52  # what is less sure is not proposed: on tuning folios 0.99 of the rest is right
MISSING_SAID = 0.6  # the same for a question that is on no page: of 140 on tuning folios 136 are said, 0.007 falsely
_MOST_ORDERED = 20  # of more, the search gives up right orders too soon, and may be sure of a wrong one
_SAMPLES = 240
_BY_CHANCE = 0.1  # of the samples: what is drawn less often counts as not drawn
_UNTOLD = 0.5  # of what rests neither on a mark nor on a person
_FEW_A_PAGE, _FEW_OF_QUESTIONS = 1 / 2, 1 / 3  # labels
_MANY, _MOST_OF_QUESTIONS = 3, 1 / 2
_PLAIN = 0.8  # a mark that is at least so probably a label is no doubtful one
# Whoever writes labels on several pages writes one at least so that its place is sure. Of 367 tuning folios with labels
# three had no such place (9 of 14 links right); of two without labels that still had links neither had (3 of 7 right).
_ONE_IS_SURE = 0.95
_SURELY_A_LABEL, _SURELY_READ = 0.95, 0.9  # from where on something outside the map is pointed out


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

    Of 12 pages in any order, and 30 questions, about a second of one core; of 20 two; of 100 in their order two to
    three.
    """
    if not pages or not question_map.questions:
        return Proposal(tuple(range(len(pages))), 0.0, ())
    nodes = Nodes(question_map)
    readings = as_this_hand_labels([page.reading for page in pages], nodes)
    pages = [replace(page, reading=reading) for page, reading in zip(pages, readings, strict=True)]
    models = [PageModel(page, nodes) for page in pages]
    as_it_is = tuple(range(len(pages)))
    orders = {as_it_is: 1.0} if order_is_known else sent_orders(pages)
    ways = [Orders(models, nodes, order, share) for order, share in orders.items()]
    if not order_is_known and 1 < len(pages) <= _MOST_ORDERED:
        ways.append(Orders(models, nodes, None))
    chance = np.random.default_rng(seed)
    weights = np.exp(np.array([way.weight for way in ways]) - max(way.weight for way in ways))
    samples = [ways[pick(weights, chance)].sample(chance) for _ in range(_SAMPLES)]
    return _told(samples, models, nodes)


_Spot = tuple[float | None, int | None]  # top, mark
_Links = dict[tuple[int, int], _Spot]  # leaf, page → where


def _links(order: Sequence[int], paths: Sequence[PathOnPage], models: Sequence[PageModel], nodes: Nodes) -> _Links:
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
        if path.kind == Kind.LOOSE:
            continue
        if path.kind == Kind.RUNS_ON and path.entered != nodes.start:
            links[nodes.first[path.entered], page] = (None, None)
        for at, (node, mark) in enumerate(path.begun):
            leaf = nodes.first[node]
            if node >= nodes.leaves and at + 1 < len(path.begun):
                following = path.begun[at + 1][0]
                if nodes.paths[following][: len(nodes.paths[node])] == nodes.paths[node]:
                    continue  # "2", and then "a": the part is what was begun
            _, before = links.setdefault((leaf, page), (marks[mark].top, mark))
            if before is not None and label_chance(marks[before]) < _PLAIN <= label_chance(marks[mark]):
                links[leaf, page] = (marks[mark].top, mark)  # read twice there, and plainly once
    return links


def _told(samples: Sequence[Reading], models: Sequence[PageModel], nodes: Nodes) -> Proposal:
    """The order that was drawn most, and what lies where in most of its samples; how sure all of them are of that."""
    count = len(samples)
    drawn = Counter(tuple(order) for order, _ in samples)
    order, times = drawn.most_common(1)[0]
    links = Counter[tuple[int, int]]()
    spots: dict[tuple[int, int], Counter[_Spot]] = {}
    loose, missing = Counter[int](), Counter[int]()
    used = Counter[tuple[int, int]]()
    for one in samples:
        found = _links(*one, models, nodes)
        links.update(found.keys())
        if tuple(one[0]) == order:
            for link, spot in found.items():
                spots.setdefault(link, Counter())[spot] += 1
        loose.update(page for page, path in zip(*one, strict=True) if path.kind == Kind.LOOSE)
        used.update((page, mark) for page, path in zip(*one, strict=True) for _, mark in path.begun)
        missing.update(set(range(nodes.leaves)) - {leaf for leaf, _ in found})
    trust = _trust([link for link, often in used.items() if 2 * often > count], models, nodes.leaves)
    if len(models) > 1 and all(_share(often, count) < _ONE_IS_SURE for often in links.values()):
        trust = min(trust, _UNTOLD)
    places = [
        ProposedPlace(nodes.ids[leaf], page, top, round(trust * _share(often, count), 3), mark)
        for (leaf, page), often in sorted(links.items(), key=lambda one: (one[0][0], order.index(one[0][1])))
        if 2 * spots.get((leaf, page), Counter()).total() > times
        for top, mark in [spots[leaf, page].most_common(1)[0][0]]
    ]
    return Proposal(
        order,
        _share(times, count),
        tuple(places),
        {page: _share(often, count) for page, often in loose.items() if 2 * often > count},
        _missing({leaf: _share(often, count) for leaf, often in missing.items() if 2 * often > count}, trust, nodes),
        _outside(models, nodes, {one for one, often in used.items() if often > _BY_CHANCE * count}),
    )


def _missing(shares: Mapping[int, float], trust: float, nodes: Nodes) -> dict[str, float]:
    """How sure it is of each. Where most of the questions up to the last one found seem to be passed over, their labels
    were not read, rather: nobody leaves out so many."""
    last = max(set(range(nodes.leaves)).difference(shares), default=0)
    passed_over = sum(leaf < last for leaf in shares)
    if 2 * passed_over > last + 1:
        trust = min(trust, _UNTOLD)
    return {nodes.ids[leaf]: round(trust * share, 3) for leaf, share in shares.items()}


def _trust(used: Sequence[tuple[int, int]], models: Sequence[PageModel], questions: int) -> float:
    """Of the marks that are taken for labels, by page and mark: where most are doubtful, all that rests on them is.
    Somebody who writes no labels has a digit at a line's beginning all the same; several of them, each as doubtful, are
    no label either. Nor are a few on many pages, of many questions, if they are not surely labels: whoever writes
    labels writes one or more a page (of 376 tuning folios none less; of 162 without labels seven of the nine for which
    something was proposed). Where most of the questions are named, in their places, each label bears out the others:
    nobody writes that by chance."""
    chances = [label_chance(models[page].page.reading.marks[mark]) for page, mark in used]
    if not chances:
        return 1.0 if any(model.page.held for model in models) else _UNTOLD
    if len(chances) >= max(_MANY, _MOST_OF_QUESTIONS * questions):
        return 1.0
    few = len(chances) <= min(_FEW_A_PAGE * len(models), _FEW_OF_QUESTIONS * questions)
    if few and min(chances) < _SURELY_A_LABEL:
        return min(_UNTOLD, *chances)
    sure = sum(chance >= _PLAIN for chance in chances)
    return 1.0 if 2 * sure >= len(chances) else sum(chances) / len(chances)


def _share(times: int, count: int) -> float:
    return round((times + 0.5) / (count + 1), 3)


def _outside(
    models: Sequence[PageModel], nodes: Nodes, used: Collection[tuple[int, int]]
) -> tuple[tuple[int, int, str], ...]:
    """Marks that are surely labels and name nothing of the map. ``used``: those that were taken for another label."""
    found = []
    for page, model in enumerate(models):
        for step in model.steps:
            mark = model.page.reading.marks[step.mark]
            if (page, step.mark) in used or label_chance(mark) < _SURELY_A_LABEL:
                continue
            text = mark.candidates[0].text.rstrip("~")
            sure = mark.candidates[0].probability > _SURELY_READ * (1 - mark.nothing)
            if sure and "/" not in text and text[0].isdecimal() and not nodes.says(text).any():
                found.append((page, step.mark, text))
    return tuple(found)
