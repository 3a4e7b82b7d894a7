"""Which pages of a folio look alike: written with one ink, on one kind of paper."""

from __future__ import annotations

from collections.abc import Sequence

from folio_core.reading.page_reading import PageReading

_OTHER_INK = 0.15  # of one colour: between pages of one pen it differs by 0.04 at most, of blue and black by 0.35

Kinds = tuple[int, ...]  # sets of pages, as bits


def alike_pages(readings: Sequence[PageReading]) -> tuple[Kinds, ...]:
    """By ink, and by paper, each only where there is more than one kind. A page of which it is not known is in none."""
    parts = _by_ink(readings), _by_ruling(readings)
    return tuple(kinds for kinds in parts if len(kinds) > 1)


def _by_ink(readings: Sequence[PageReading]) -> Kinds:
    """Pages whose inks are near one another, each to the next."""
    groups: list[list[tuple[int, tuple[float, ...]]]] = []
    for at, reading in enumerate(readings):
        if reading.look is None:
            continue
        mine = at, reading.look.ink
        near = [group for group in groups if any(_is_near(mine[1], other) for _, other in group)]
        groups = [group for group in groups if group not in near] + [[mine, *(one for group in near for one in group)]]
    return tuple(sorted(sum(1 << at for at, _ in group) for group in groups))


def _is_near(one: Sequence[float], other: Sequence[float]) -> bool:
    return max(abs(mine - theirs) for mine, theirs in zip(one, other, strict=True)) <= _OTHER_INK


def _by_ruling(readings: Sequence[PageReading]) -> Kinds:
    kinds: dict[str, int] = {}
    for at, reading in enumerate(readings):
        if reading.look is not None and reading.look.ruling:
            kinds[reading.look.ruling] = kinds.get(reading.look.ruling, 0) | 1 << at
    return tuple(sorted(kinds.values()))
