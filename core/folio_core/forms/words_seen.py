"""Whether the printed words of a page are seen in a photograph that is laid over it: those words, not just anything
dark. A line of other words is as dark, and of the same height; only its letters differ."""

from __future__ import annotations

import cv2

from .blank import BlankPage, Image, letters_of

_AROUND_PX, _REACH_PX = 8, 3  # of a place: what is compared, and how far it may lie off
_ALIKE = 0.7  # normalized correlation
_LEAST_SHOWN = 0.5  # of the places
_HALF_OF = 1.5  # places that are taken as seen, and as many as not: few tell little


def share_alike(page: BlankPage, straight: Image, seen: Image) -> float | None:
    """Of the page's places with words that ``seen`` shows, the share that look like their words in ``straight``; what
    is not shown counts as unlike where that is most of them. None for a page without words."""
    places = page.word_places
    if len(places) == 0:
        return None
    printed, photographed = page.letters, letters_of(straight)
    height, width = printed.shape
    shown = alike = 0
    for y, x, size in places:
        top, bottom = max(_REACH_PX, y - _AROUND_PX), min(height - _REACH_PX, y + size + _AROUND_PX)
        left, right = max(_REACH_PX, x - _AROUND_PX), min(width - _REACH_PX, x + size + _AROUND_PX)
        wide = slice(top - _REACH_PX, bottom + _REACH_PX), slice(left - _REACH_PX, right + _REACH_PX)
        if not seen[wide].all():
            continue
        shown += 1
        found = cv2.matchTemplate(photographed[wide], printed[top:bottom, left:right], cv2.TM_CCOEFF_NORMED)
        alike += float(found.max()) > _ALIKE
    counted = max(shown, _LEAST_SHOWN * len(places))
    return (alike + _HALF_OF) / (counted + 2 * _HALF_OF)
