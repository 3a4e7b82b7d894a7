"""Whether the printed words of a page are seen in a photograph that is laid over it: those words, not just anything
dark. A line of other words is as dark, and of the same height; only its letters differ."""

from __future__ import annotations

from dataclasses import dataclass

import cv2

from .blank import BlankPage, Floats, Image, letters_of

Place = tuple[int, int, int]

_AROUND_PX, _REACH_PX = 8, 3  # of a place: what is compared, and how far it may lie off
_ALIKE = 0.7  # normalized correlation
_LEAST_SHOWN = 0.5  # of the places
_HALF_OF = 1.5  # places that are taken as seen, and as many as not: few tell little


@dataclass(frozen=True, slots=True)
class WordsSeen:
    """Of a page's places with words: how many there are, how many are shown at all, and which look like their words."""

    places: int
    shown: int
    alike: tuple[Place, ...]

    @property
    def share(self) -> float | None:
        """Of the places that are shown, those that look like their words; what is not shown counts as unlike where
        that is most of them. None for a page without words."""
        if not self.places:
            return None
        counted = max(self.shown, _LEAST_SHOWN * self.places)
        return (len(self.alike) + _HALF_OF) / (counted + 2 * _HALF_OF)


def words_seen(page: BlankPage, straight: Image, seen: Image) -> WordsSeen:
    """``straight``: the photograph laid over the page, evenly lit. ``seen``: 255 where it shows the page."""
    photographed, shown, alike = letters_of(straight), 0, []
    for place in page.word_places:
        if not seen[_around(place, page, _REACH_PX)].all():
            continue
        shown += 1
        if _is_alike(place, page, photographed):
            alike.append(place)
    return WordsSeen(len(page.word_places), shown, tuple(alike))


def own_words(page: BlankPage, other: BlankPage, places: tuple[Place, ...]) -> int:
    """How many of these places have words that the other page has not at the same place."""
    if page.grey.shape != other.grey.shape:
        return len(places)
    return sum(not _is_alike(place, page, other.letters) for place in places)


def _is_alike(place: Place, page: BlankPage, letters: Floats) -> bool:
    printed, wide = page.letters[_around(place, page, 0)], letters[_around(place, page, _REACH_PX)]
    return float(cv2.matchTemplate(wide, printed, cv2.TM_CCOEFF_NORMED).max()) > _ALIKE


def _around(place: Place, page: BlankPage, more: int) -> tuple[slice, slice]:
    """The place with what is near it, and ``more`` pixels on each side."""
    y, x, size = place
    height, width = page.letters.shape
    top, bottom = max(_REACH_PX, y - _AROUND_PX), min(height - _REACH_PX, y + size + _AROUND_PX)
    left, right = max(_REACH_PX, x - _AROUND_PX), min(width - _REACH_PX, x + size + _AROUND_PX)
    return slice(top - more, bottom + more), slice(left - more, right + more)
