"""Where the answer to one question stands: cut from its flag to the next one, over pages too."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

from ..placing import Arrangement

BEFORE, AFTER = 0.018, 0.012  # of the page's height: about half a line of writing (common practice, no source)
_LEAST_HEIGHT = 0.06  # two lines: flags closer than that were set by hand, and not exactly
_LEAST_ROWS = 2  # hundredths with writing: less is a page number, or the head of what stands below
_ROOM = 0.03  # left below the last writing: what is fainter than the rest must not be cut off
NO_ROWS: Mapping[int, str] = MappingProxyType({})


@dataclass(frozen=True, slots=True)
class Cut:
    """A strip of one page. ``top``, ``bottom``: shares of its height."""

    page: int
    top: float = 0.0
    bottom: float = 1.0

    @property
    def is_whole(self) -> bool:
        return self.top <= 0 and self.bottom >= 1


def cuts_of(arrangement: Arrangement, question: str, ink_rows: Mapping[int, str] = NO_ROWS) -> list[Cut]:
    """The strips that show an answer, in page order: from where it begins, with a little before, to where the next one
    on the page begins, with a little after.

    A page that goes on with an answer shows it from its top. Where it is not said how far down an answer begins that
    shares its page with others, the page is shown whole: it may stand anywhere on it.
    """
    cuts: list[Cut] = []
    before: int | None = None
    position = {page: at for at, page in enumerate(arrangement.pages)}
    for spot in arrangement.pages_of(question):
        others = _tops(arrangement, spot.page, without=question)
        goes_on = before is not None and position[spot.page] == before + 1
        before = position[spot.page]
        if spot.top is None and others and not goes_on:
            cuts.append(Cut(spot.page))
            continue
        top = spot.top or 0.0
        below = [other for other in others if other > top or (goes_on and spot.top is None)]
        bottom = min(below, default=1.0)
        if spot.top is not None and bottom - top < _LEAST_HEIGHT:
            bottom = min(1.0, top + _LEAST_HEIGHT)
        cut = Cut(spot.page, max(0.0, top - BEFORE), min(1.0, bottom + AFTER))
        cuts.append(_without_empty_foot(cut, ink_rows.get(spot.page, "")))
    return cuts


def _without_empty_foot(cut: Cut, rows: str) -> Cut:
    """An answer without any writing stays as it is: it may be too faint to be found."""
    inked = [(at + 1) / len(rows) for at, row in enumerate(rows) if row == "1" and cut.top < (at + 1) / len(rows)]
    ends = [end for end in inked if end <= cut.bottom]
    if not ends:
        return cut
    return replace(cut, bottom=min(cut.bottom, max(ends[-1] + _ROOM, cut.top + _LEAST_HEIGHT)))


def may_go_on(arrangement: Arrangement, question: str, ink_rows: Mapping[int, str]) -> list[Cut]:
    """What the cut may have missed: the head of the next page, above its first flag, with writing on it, where the
    answer runs to the foot of its last page and nobody says whose that head is."""
    spots = arrangement.pages_of(question)
    cuts = cuts_of(arrangement, question)
    if not spots or cuts[-1].bottom < 1:
        return []
    pages = arrangement.pages
    at = pages.index(spots[-1].page) + 1
    if at >= len(pages) or _is_claimed(arrangement, pages[at]):
        return []
    first = min(_tops(arrangement, pages[at]), default=1.0)
    rows = ink_rows.get(pages[at], "")
    above = rows[: int(max(0.0, first - BEFORE) * len(rows))]
    if above.count("1") < _LEAST_ROWS:
        return []
    return [_without_empty_foot(Cut(pages[at], 0.0, min(1.0, first + AFTER)), rows)]


def _is_claimed(arrangement: Arrangement, page: int) -> bool:
    """Whether some answer stands on the page without a flag, so that its head may be that one's; or it is loose."""
    if page in arrangement.loose:
        return True
    unsaid = (
        spot.top is None for one in arrangement.placements for spot in arrangement.pages_of(one) if spot.page == page
    )
    return any(unsaid)


def _tops(arrangement: Arrangement, page: int, without: str = "") -> list[float]:
    return [
        spot.top
        for question in arrangement.placements
        if question != without
        for spot in arrangement.pages_of(question)
        if spot.page == page and spot.top is not None
    ]
