"""What is handed in by itself where an edition stands already: the close never takes anything away.

Pure. The edition's pages stay, each by the recipe and as wide as it was; pages that came after it are added where they
lie on the board (a page taken again stands behind the one it was to replace). A replacement begun and given up changes
nothing.
"""

from __future__ import annotations

from dataclasses import replace

from .arrangement import Arrangement, Placement


def added_at_the_close(frozen: Arrangement, board: Arrangement) -> Arrangement:
    """The edition with what came since: new pages, and what was placed besides what it says already."""
    return _merged(frozen, board, keeps_placements=True)


def placed_since(frozen: Arrangement, board: Arrangement) -> Arrangement:
    """The edition's pages as they were placed since, for the end of placing: there the board's word counts."""
    return _merged(frozen, board, keeps_placements=False)


def _merged(frozen: Arrangement, board: Arrangement, *, keeps_placements: bool) -> Arrangement:
    here = set(board.pages)
    order = _order(frozen, board)
    old = set(frozen.pages)
    placements: dict[str, tuple[Placement, ...]] = {}
    for question in [*frozen.placements, *(one for one in board.placements if one not in frozen.placements)]:
        told = board.pages_of(question)
        kept = (spot for spot in frozen.pages_of(question) if keeps_placements or spot.page not in here)
        row = {spot.page: spot for spot in [*kept, *told]}
        if row:
            placements[question] = tuple(row.values())
    placed = {spot.page for row in placements.values() for spot in row}
    blank = board.left_blank | frozen.left_blank if keeps_placements else board.left_blank
    loose = (board.loose & here) | (frozen.loose - (frozenset() if keeps_placements else here))
    shown = set(order)
    return replace(
        board,
        order=order,
        removed=frozenset(),
        loose=frozenset((loose & shown) - placed),
        placements=placements,
        left_blank=frozenset(blank - placements.keys()),
        recipes={
            **{page: recipe for page, recipe in board.recipes.items() if page in shown - old},
            **{page: recipe for page, recipe in frozen.recipes.items() if page in old},
        },
        scales={
            **{page: scale for page, scale in board.scales.items() if page in shown - old},
            **{page: scale for page, scale in frozen.scales.items() if page in old},
        },
        dismissed={page: codes for page, codes in board.dismissed.items() if page in shown},
        notes={page: note for page, note in {**frozen.notes, **board.notes}.items() if page in shown},
        descriptions={
            page: words for page, words in {**frozen.descriptions, **board.descriptions}.items() if page in shown
        },
    )


def _order(frozen: Arrangement, board: Arrangement) -> tuple[int, ...]:
    """The edition's pages in their order; each new page behind the page it lies behind on the board."""
    order = list(frozen.pages)
    removed = board.removed
    before: int | None = None
    for page in board.order:
        if page in order:
            before = page
        elif page not in removed:
            order.insert(order.index(before) + 1 if before is not None else 0, page)
            before = page
    return tuple(order)
