"""Of several pictures of the same printed page the better one: that which shows all that is written, and plainest."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from ..page.advise import Advice
from ..page.limits import MM_PER_INCH, OUTPUT_DPI

# Of sheets photographed twice (`same_sheet` of the camera, tuning seeds) an answer's ink differs by up to 1.2 times
# where both pictures are good, by up to 1.43 times where one is smeared.
_MORE, _MORE_OF_POOR, _MORE_MM2 = 1.3, 1.6, 10.0
_PLAINLY_MM2 = 20.0  # along the edge of a hand ink is seen that is none, in empty spaces mostly up to 4 mm²
_SHARPER = 1.3  # so much wider edges are told; good pictures of one sheet differ by up to 1.25 times


class Drawback(StrEnum):
    """What is worse about a picture than about the better one, other than what it is advised of."""

    ANOTHERS_COPY = "anothers_copy"
    LESS_WRITTEN = "less_written"
    NOT_ALL_SEEN = "not_all_seen"
    LESS_SHARP = "less_sharp"
    NOTHING = "nothing"


@dataclass(frozen=True, slots=True)
class PagePicture:
    """``ink_mm2``, ``is_covered``: as `forms.Written` has them. ``advice``: codes. ``blur_sigma_px``,
    ``resolution_dpi``: as `Measures` has them."""

    is_own: bool
    ink_mm2: Mapping[str, float | None]
    is_covered: bool
    advice: Sequence[str]
    blur_sigma_px: float
    resolution_dpi: float

    @property
    def edge_mm(self) -> float:
        """How far the strokes' edges spread, on paper."""
        return self.blur_sigma_px / max(1.0, min(self.resolution_dpi, OUTPUT_DPI)) * MM_PER_INCH

    @property
    def may_be_covered(self) -> bool:
        """What lies over a sheet and has the colour of paper is noticed by its hiding the sheet's edge only."""
        return self.is_covered or Advice.NO_PAGE in self.advice or Advice.SHEET_NOT_FOUND in self.advice


@dataclass(frozen=True, slots=True)
class Better:
    """``drawbacks``: of each of the other pictures, by its index."""

    index: int
    drawbacks: Mapping[int, Drawback | Advice]


def better_of(pictures: Sequence[PagePicture]) -> Better | None:
    """None where each may lack something that is written on another: then none of them may go. Of equals the first."""
    whole = [one for one in pictures if not any(_holds_more(other, one) for other in pictures)]
    if not whole:
        return None
    best = min(whole, key=lambda one: (not one.is_own, _fault(one), one.may_be_covered, one.edge_mm))
    if best.may_be_covered and len(whole) < len(pictures):
        return None  # what it seems to hold more may be the edge of what lies over it
    index = next(at for at, one in enumerate(pictures) if one is best)
    return Better(index, {at: _drawback_of(one, best) for at, one in enumerate(pictures) if at != index})


def _holds_more(one: PagePicture, than: PagePicture) -> bool:
    return any(_has_more(one, than, answer) for answer in one.ink_mm2)


def _has_more(one: PagePicture, than: PagePicture, answer: str) -> bool:
    """Whether more of this answer is to be seen on the one than on the other."""
    ink, other = one.ink_mm2[answer], than.ink_mm2.get(answer)
    if not ink:
        return False
    if one.may_be_covered:
        return ink > _PLAINLY_MM2 and not other
    times = _MORE_OF_POOR if _fault(one) or _fault(than) else _MORE
    return other is None or ink > times * other + (_MORE_MM2 if other else 0.0)


def _drawback_of(one: PagePicture, best: PagePicture) -> Drawback | Advice:
    if best.is_own and not one.is_own:
        return Drawback.ANOTHERS_COPY
    more = [one.ink_mm2.get(answer) for answer in best.ink_mm2 if _has_more(best, one, answer)]
    if None in more:
        return Drawback.NOT_ALL_SEEN
    if 0.0 in more:
        return Drawback.LESS_WRITTEN
    if _fault(one) > _fault(best):
        return next(_weighty(one))  # for which less ink may be seen, too
    if more:
        return Drawback.LESS_WRITTEN
    if one.may_be_covered and not best.may_be_covered:
        return Drawback.NOT_ALL_SEEN
    return Drawback.LESS_SHARP if one.edge_mm > _SHARPER * best.edge_mm else Drawback.NOTHING


# Whether all of a printed page is to be seen is known better than by the sheet's edge.
_NOT_OF_THE_PICTURE = {
    Advice.NO_PAGE, Advice.SHEET_CUT_OFF, Advice.SEEN_BEFORE, Advice.TAKEN_BEFORE, Advice.TURN_UNSURE,
    Advice.NEARLY_EMPTY,
}  # fmt: skip


def _weighty(one: PagePicture) -> Iterator[Advice]:
    """About the picture as one, weightiest first."""
    return (code for code in Advice if code.value in one.advice and code not in _NOT_OF_THE_PICTURE)


def _fault(one: PagePicture) -> int:
    """0 without advice, higher for weightier."""
    codes = list(Advice)
    return next((len(codes) - codes.index(code) for code in _weighty(one)), 0)
