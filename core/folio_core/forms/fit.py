"""How well a page of a form fits a photograph once it is laid over it, and which of several pages fits best."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from .blank import DPI, BlankPage, Floats, Homography, Image, soft_of
from .covered import paper_seen
from .words_seen import WordsSeen, own_words, words_seen

_DARK = 38  # grey levels below the paper from which a photograph shows print
_REACH_PX = 2  # print is looked for so far around its place
_PLACE_PX, _LEAST_IN_PLACE, _NEARLY_ALL, _LEAST_SHOWN = 32, 25, 0.85, 0.35
_COARSER = 3  # times: what lies over the paper is told from a smaller picture
_NEARLY, _BEYOND_DOUBT = 0.2, 0.6  # two pages that are worth about the same; one that is worth so much more
_LEAST_OWN, _OWN_SHARE = 6, 0.15  # places with words that only one of two pages has, and of all it has that are shown
_UNLIKE = 0.5  # what a place speaks against its page that has other words, where one that has these speaks for it by 1
_DIFFERS, _LEAST_DIFFERENCE_PX = 40, 20  # grey levels, and pixels, from which two pages are printed differently

# How sure: log odds from `Evidence`. Fitted by `./folio bench forms --fit` on tuning seeds.
WEIGHTS, BIAS = (10.15, 4.56, 0.52, -1.74), -3.03


@dataclass(frozen=True, slots=True)
class Evidence:
    """``alike``: share of the places with printed words that look like these words. ``print_seen``: share of all print
    that is dark where it must be. ``ahead``: how much better this page explains what tells it from the next likely
    one. ``places``: how many places with words there are."""

    alike: float
    print_seen: float
    ahead: float
    places: int

    @property
    def values(self) -> tuple[float, ...]:
        return self.alike, self.print_seen, min(self.ahead, 0.4), min(math.log1p(self.places), 4.0)

    @property
    def confidence(self) -> float:
        odds = BIAS + sum(weight * value for weight, value in zip(WEIGHTS, self.values, strict=True))
        return 1 / (1 + math.exp(-max(-30.0, min(30.0, odds))))


@dataclass(frozen=True, eq=False)
class Fit:
    """``to_page``: pixels of the small photograph → pixels of the blank page. ``small``: that, RGB. ``straight``: the
    photograph laid over the page, evenly lit; ``dark``: where something in it is dark, with a little around it;
    ``seen``: which part of the page it shows at all."""

    page: BlankPage
    to_page: Homography
    small: NDArray[np.uint8]
    straight: Image
    dark: Image
    seen: Image

    def share_of(self, print_: Image) -> float:
        """How much of this print is dark in the photograph, where that shows the page at all."""
        wanted = cv2.bitwise_and(print_, self.seen)
        area = cv2.countNonZero(wanted)
        return cv2.countNonZero(cv2.bitwise_and(wanted, self.dark)) / area if area >= 60 else 0.0

    @cached_property
    def print_seen(self) -> float:
        return self.share_of(self.page.print_)

    @cached_property
    def words(self) -> tuple[float, int]:
        """Over the places of the page that have words: at how many of them nearly all is dark; how many there are."""
        all_words, shown = _summed(self.page.words), cv2.bitwise_and(self.page.words, self.seen)
        wanted, dark = _summed(shown), _summed(cv2.bitwise_and(shown, self.dark))
        places = wanted >= _LEAST_IN_PLACE
        # Of a page that lies nearly all outside the picture, nothing is told by the few words that do not.
        if places.sum() < _LEAST_SHOWN * (all_words >= _LEAST_IN_PLACE).sum():
            places = all_words >= _LEAST_IN_PLACE
        count = int(places.sum())
        seen = (dark[places] >= _NEARLY_ALL * wanted[places]) & (wanted[places] >= _LEAST_IN_PLACE)
        return (float(seen.sum()) / count if count else 0.0), count

    @property
    def words_dark(self) -> float:
        """How many of these places it sees."""
        return self.words[0] * self.words[1]

    @cached_property
    def alike_words(self) -> WordsSeen:
        """Where nothing lies over the page."""
        paper = _paper(self.small, self.to_page, (self.page.grey.shape[1], self.page.grey.shape[0]))
        return words_seen(self.page, self.straight, np.asarray(cv2.bitwise_and(self.seen, paper), np.uint8))

    @property
    def alike(self) -> float:
        """Share of the places with words that look like them; of a page without words the share of its print."""
        share = self.alike_words.share
        return self.print_seen if share is None else share

    @property
    def letters(self) -> float:
        """What the places with words say, in places: on a sheet that is bent a page of few words sees all of them dark
        sooner than the right one."""
        return self.words[1] * (self.alike - _UNLIKE * (1 - self.alike))

    @property
    def worth(self) -> float:
        return self.words[0] + 0.25 * self.print_seen


def _summed(layer: Image) -> NDArray[np.float64]:
    """Pixels that are set, by squares of `_PLACE_PX`."""
    height, width = (side // _PLACE_PX * _PLACE_PX for side in layer.shape)
    cut = (layer[:height, :width] > 0).reshape(height // _PLACE_PX, _PLACE_PX, width // _PLACE_PX, _PLACE_PX)
    return np.asarray(cut.sum(axis=(1, 3)), np.float64)


def chosen(fits: list[Fit]) -> tuple[Fit, Evidence]:
    """The page that sees most of its words; of those that see nearly as many, by what is printed on one and not on the
    other."""
    order = sorted(fits, key=lambda fit: fit.worth, reverse=True)
    best = order[0]
    for other in order[1:]:
        if _lead(best, other) < 0:
            best = other
    rivals = [_lead(best, fit) for fit in fits if fit is not best]
    return best, Evidence(best.alike, best.print_seen, min(rivals, default=0.4), best.words[1])


def _lead(one: Fit, other: Fit) -> float:
    """Of how much more it sees of its words, of whether they are those words, and of what tells it from the other."""
    more = one.worth - other.worth
    sees_less = more * (one.words_dark - other.words_dark) < 0
    if sees_less and (told := _told_by_own_words(one, other)):
        return told
    if abs(more) < _BEYOND_DOUBT:
        more += (one.letters - other.letters) / max(one.words[1], other.words[1], 1)
    return more + _ahead(one, other) if abs(more) < _NEARLY else more


def _told_by_own_words(one: Fit, other: Fit) -> float:
    """Above 0 where the photograph shows words that only the first page has, and none of only the second; below 0 the
    other way round; else 0. A page of few words, which another page has too, sees all of its own: also on a sheet
    of that other page, and sooner where that is creased."""
    mine, theirs = _share_of_own(one, other), _share_of_own(other, one)
    return 0.0 if bool(mine) == bool(theirs) else mine - theirs


def _share_of_own(fit: Fit, other: Fit) -> float:
    """Of all places that are shown, those that look like words which the other page has not; 0 where that may be by
    chance."""
    seen = fit.alike_words
    if len(seen.alike) < _LEAST_OWN:
        return 0.0
    own = own_words(fit.page, other.page, seen.alike)
    return own / seen.shown if own >= max(_LEAST_OWN, _OWN_SHARE * seen.shown) else 0.0


def _ahead(one: Fit, other: Fit) -> float:
    """Where the two pages are printed differently: how much more the photograph looks like the first there than like
    the second. Each is compared as it lies under its own homography."""
    grey = other.page.grey
    if grey.shape != one.page.grey.shape:
        size = (one.page.grey.shape[1], one.page.grey.shape[0])
        grey = np.asarray(cv2.resize(grey, size, interpolation=cv2.INTER_AREA), np.uint8)
    mine, theirs = soft_of(one.page.grey), soft_of(grey)
    differs = cv2.dilate((np.abs(mine - theirs) > _DIFFERS).astype(np.uint8), np.ones((5, 5), np.uint8))
    return _likeness(one, mine, differs) - _likeness(other, theirs, differs)


def _likeness(fit: Fit, page: Floats, where: Image) -> float:
    """Normalized correlation of photograph and page over a region, −1 to 1; 0 where there is next to none of it."""
    straight, shown = fit.straight, fit.seen
    if straight.shape != page.shape:
        size = (page.shape[1], page.shape[0])
        straight, shown = cv2.resize(straight, size), cv2.resize(shown, size, interpolation=cv2.INTER_NEAREST)
    region = (where > 0) & (shown > 0)
    if region.sum() < _LEAST_DIFFERENCE_PX:
        return 0.0
    seen, printed = soft_of(straight)[region], page[region]
    spread = float(seen.std() * printed.std())
    return float(((seen - seen.mean()) * (printed - printed.mean())).mean()) / spread if spread > 1e-3 else 0.0


def laid_over(page: BlankPage, small: NDArray[np.uint8], even: Image, to_page: Homography) -> Fit:
    """``small``: the photograph; ``even``: the same evenly lit; ``to_page``: its pixels → the page's."""
    size = (page.grey.shape[1], page.grey.shape[0])
    straight = np.asarray(cv2.warpPerspective(even, to_page, size, borderValue=255), np.uint8)
    shown = cv2.warpPerspective(np.full(even.shape, 255, np.uint8), to_page, size, flags=cv2.INTER_NEAREST)
    dark = np.where(straight < 255 - _DARK, 255, 0).astype(np.uint8)
    around = np.ones((2 * _REACH_PX + 1, 2 * _REACH_PX + 1), np.uint8)
    near_dark = np.asarray(cv2.dilate(dark, around), np.uint8)
    return Fit(page, to_page, small, straight, near_dark, np.asarray(shown, np.uint8))


def _paper(small: NDArray[np.uint8], to_page: Homography, size: tuple[int, int]) -> Image:
    """255 where nothing lies over the page."""
    to_coarse = np.diag([1 / _COARSER, 1 / _COARSER, 1.0]) @ to_page
    coarse = (size[0] // _COARSER, size[1] // _COARSER)
    colours = cv2.warpPerspective(small, to_coarse, coarse, borderMode=cv2.BORDER_REPLICATE)
    paper = paper_seen(np.asarray(colours, np.uint8), DPI / 25.4 / _COARSER)
    return np.asarray(cv2.resize(paper, size, interpolation=cv2.INTER_NEAREST), np.uint8)
