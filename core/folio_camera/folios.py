"""Whole folios for measuring the reading: a student's pages with everything that is true of them.

A folio is a pure function of its condition, its hand and its seed. Everything in it is invented.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, replace
from pathlib import Path

from folio_core.question_map import parse_question_map  # the map's labels, as the product splits them

from .folio_writer import Digits, Habits, Writer
from .handwriting import WrittenSheet

MAPS = (
    "1a-d, 2a-c, 3", "1a-c, 2a-d, 3a-b, 4", "1, 2, 3, 4, 5", "1a-b, 2a-b, 3a-b, 4a-b", "1, 2a-c, 3a-e, 4",
    "1a-d, 2a-e, 3a-e, 4a-b, 5, 6", "1, 2, 3a-d, 4a-b, 5, 6a-c", "1i-iv, 2i-iii, 3", "1.1, 1.2, 1.3, 2.1, 2.2, 3",
    "5, 6, 7, 8, 9, 10, 11, 12", "1a-f, 2a-f", "1a, 1bi-iii, 2a-b, 3",
)  # fmt: skip
_LARGE_MAPS = (
    "1a-d, 2a-e, 3a-c, 4a-d, 5a-b", "1-12", "1a-c, 2a-c, 3a-c, 4a-c, 5a-c, 6a-c", "1a-e, 2a-d, 3i-iv, 4a-c, 5, 6a-b",
    "1.1, 1.2, 1.3, 1.4, 2.1, 2.2, 2.3, 3.1, 3.2, 3.3, 3.4", "1a-h, 2a-f, 3a-g, 4a-d", "1-18", "11-25",
    "1a-b, 2, 3a-d, 4, 5a-c, 6, 7a-d, 8, 9a-c, 10", "1, 2a-f, 3ai-iii, 3bi-iii, 4a-d, 5a-e, 6",
)  # fmt: skip
_LONGER = (0.7, 1.0, 1.4, 2.0, 2.8)
_PAGES = (3, 3, 3, 3, 4, 4, 4, 5, 5, 6, 7, 8, 10)  # of a folio; longer ones are rarer
_LINES_A_PAGE = 30
_FULL = (0.4, 1.0)  # of the answers that such a page can hold; they are made longer until they fill it
_ON_NEW_PAGES = 0.25  # of all students begin each problem on a new page


CONDITIONS: dict[str, Habits] = {
    "tidy": Habits(),
    "tidy, part letters alone": Habits(parts_alone=True),
    "shuffled": Habits(shuffled=True),
    "messy": Habits(sloppy=1.0, shuffled=True),
    "running on": Habits(running_on=True, lines=(7, 16)),
    "missing parts": Habits(missing=2),
    "distractors": Habits(distractors=True),
    "middle of the page": Habits(where="own"),
    "inline": Habits(where="inline"),
    "page numbers": Habits(page_numbers="any", shuffled=True),
    "a cover": Habits(cover=True),
    "out of the map's order": Habits(out_of_order=True),
    "no labels": Habits(unlabelled=True, lines=(6, 12)),
    "set off": Habits(set_off="any"),
    "real digits": Habits(real_digits=True),
    "two columns": Habits(columns=True, lines=(2, 5)),
    "with another pen or paper": Habits(changes=True, running_on=True, shuffled=True, lines=(7, 16)),
}


@dataclass(frozen=True, slots=True)
class Folio:
    """``sheets`` in the order they arrive. The truth, in indices of that order: ``order``, ``placements``, ``tops``
    (label → index and share of the page's height), ``loose``, ``missing``. ``legible``: labels that were written."""

    map: str
    sheets: tuple[WrittenSheet, ...]
    order: tuple[int, ...]
    placements: dict[str, tuple[int, ...]]
    tops: dict[str, tuple[int, float]]
    loose: tuple[int, ...]
    missing: tuple[str, ...]
    legible: frozenset[str]


def make_folio(
    condition: str, hand: Path, seed: int, digits: Digits | None = None, *, pages: tuple[int, int] | None = None
) -> Folio:
    """``hand``: a font's file; ``digits``: real ones, for the condition that asks for them. ``pages``: about so many at
    least and at most; how many is drawn, then a map with enough questions, and answers are longer until they fill so
    many. None: a smaller map, and as many pages as come."""
    if pages is None:
        return _folio(*_written(condition, hand, seed, digits))
    least, most = pages
    chance = random.Random(f"{condition} {seed} pages")
    wanted = min(max(chance.choice(_PAGES), least), most)
    plan = _plan(CONDITIONS[condition], wanted, chance)
    kept = None
    for longer in _LONGER:
        made = _written(condition, hand, seed, digits, replace(plan, longer=longer))
        if kept is not None and len(made[0].layers) > most:
            break
        kept = made
        if len(made[0].layers) >= wanted:
            break
    assert kept is not None
    return _folio(*kept)


@dataclass(frozen=True, slots=True)
class _Plan:
    """``longer``: as many lines an answer as somebody of these habits writes, times so many."""

    map: str | None = None
    longer: float = 1.0
    on_new_pages: bool = False


def _plan(habits: Habits, pages: int, chance: random.Random) -> _Plan:
    """A map whose answers fill about so many ``pages``."""
    most = pages * _LINES_A_PAGE * (2 if habits.columns else 1) / (sum(habits.lines) / 2 + 1)
    few, many = (round(share * most) for share in _FULL)
    maps = [one for one in MAPS + _LARGE_MAPS if few <= len(parse_question_map(one).labels) <= many]
    chosen = chance.choice(maps or [max(_LARGE_MAPS, key=lambda one: len(parse_question_map(one).labels))])
    problems = {one.levels[0] for one in parse_question_map(chosen).questions}
    return _Plan(chosen, on_new_pages=len(problems) <= pages and chance.random() < _ON_NEW_PAGES)


@dataclass(frozen=True, slots=True)
class _Task:
    """``written``: the labels in the order they are answered. ``chance``: what is drawn next."""

    condition: str
    map: str
    labels: list[str]
    written: list[str]
    chance: random.Random


def _written(
    condition: str, hand: Path, seed: int, digits: Digits | None, plan: _Plan = _Plan()
) -> tuple[Writer, _Task]:
    chance = random.Random(f"{condition} {seed}")
    habits = CONDITIONS[condition]
    short = plan.map or chance.choice(MAPS)
    questions = parse_question_map(short).questions
    labels = [one.label for one in questions]
    written = list(labels)
    if habits.missing:
        for label in chance.sample(labels, min(habits.missing, len(labels) - 2)):
            written.remove(label)
    if habits.out_of_order:
        at = chance.randrange(len(written) - 1)
        moved = written.pop(at)
        written.insert(chance.randrange(len(written)), moved)
    few, many = habits.lines
    habits = replace(
        habits, lines=(round(plan.longer * few), round(plan.longer * many)), on_new_pages=plan.on_new_pages
    )
    writer = Writer(habits, hand, chance, digits if habits.real_digits else None)
    if habits.cover:
        writer.cover()
    levels = {one.label: one.levels for one in questions}
    before: tuple[str, ...] = ()
    for label in written:
        writer.answer(label, levels[label], before)
        before = levels[label]
    return writer, _Task(condition, short, labels, written, chance)


def _folio(writer: Writer, task: _Task) -> Folio:
    habits = CONDITIONS[task.condition]
    sheets = writer.finish()
    count = len(sheets)
    arrival = list(range(count))  # arrival[k] is the page that comes k-th
    if habits.shuffled:
        task.chance.shuffle(arrival)
    index = {page: at for at, page in enumerate(arrival)}
    return Folio(
        map=task.map,
        sheets=tuple(sheets[page] for page in arrival),
        order=tuple(index[page] for page in range(count)),
        placements={label: tuple(index[page] for page in pages) for label, pages in writer.pages.items()},
        tops={label: (index[page], top) for label, (page, top) in writer.tops.items()},
        loose=tuple(index[page] for page in writer.loose),
        missing=tuple(label for label in task.labels if label not in task.written),
        legible=frozenset() if habits.unlabelled else frozenset(task.written),
    )
