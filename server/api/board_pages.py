"""The pages of a board, each with how it was made and what is advised about it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from datetime import datetime
from typing import Any, Literal

from ninja import Schema

from folio_core.clock import Rules
from folio_core.page import WORDS, Advice, Tone, Trouble, taken_before
from folio_core.placing import pictures_of_working
from folios.arrangements import current
from folios.models import Folio
from pages.models import Page

from .schemas import image_url

_OF_SHEETS = {Advice.NO_PAGE, Advice.SHEET_NOT_FOUND, Advice.SHEET_SMALL, Advice.SHEET_CUT_OFF, Advice.NEARLY_EMPTY}
_OF_LOOKS = {Advice.SEEN_BEFORE}


class AdviceOut(Schema):
    code: Advice
    seen: str
    do: str
    where: list[float] | None
    other: int | None

    @classmethod
    def of(cls, kept: dict[str, Any]) -> AdviceOut:
        words = WORDS[Advice(kept["code"])]
        return cls(code=kept["code"], seen=words.seen, do=words.do, where=kept["where"], other=kept.get("other"))


class FoundOut(Schema):
    """How the present image was made: corners in pixels of the source, clockwise turn, tone."""

    corners: list[list[float]]
    turn: int
    tone: Tone
    sheet_found: bool
    source_width: int
    source_height: int


class PageOut(Schema):
    id: int
    file_name: str
    index: int
    of: int
    half: Literal["", "left", "right"]  # of an open book
    state: Literal["waiting", "ready", "failed"]
    trouble: Trouble | Literal[""]
    message: str
    found: FoundOut | None
    image: str
    preview: str
    source: str
    width: int
    height: int
    dpi: float | None
    taken: str
    advice: list[AdviceOut]
    arrived: datetime
    original_id: int
    sha256: str
    promised: datetime | None


def pages_out(folio: Folio, pages: Sequence[Page], rules: Rules, told_twice: Collection[int]) -> list[PageOut]:
    """``told_twice``: by their print, and so not once more by their looks."""
    counts = Counter(page.original_id for page in pages if page.half == 0)
    books = {(page.original_id, page.index) for page in pages if page.half}
    since = folio.begun_at if rules.timed else rules.opens
    pictures = pictures_of_working(current(folio), folio.assignment.question_map)
    made = []
    for page in pages:
        without = (_OF_SHEETS if page.pk in pictures else set()) | (_OF_LOOKS if page.pk in told_twice else set())
        half, early = _half(page, books), _taken_before(page, since, rules)
        made.append(_page_out(page, counts[page.original_id], half, early, without))
    return made


def _taken_before(page: Page, since: datetime, rules: Rules) -> AdviceOut | None:
    """A word on a picture that is older than the sitting, or than the opening of untimed work."""
    taken = taken_before(page.taken, since, rules.zone)
    if taken is None:
        return None
    words = WORDS[Advice.TAKEN_BEFORE]
    when = f"{taken.day} {taken:%B %Y, %H:%M}"
    seen = f"By its camera this picture was taken on {when}, before {'you began' if rules.timed else 'this opened'}."
    return AdviceOut(code=Advice.TAKEN_BEFORE, seen=seen, do=words.do, where=None, other=None)


_Half = Literal["", "left", "right"]


def _half(page: Page, books: set[tuple[int, int]]) -> _Half:
    if (page.original_id, page.index) not in books:
        return ""
    return "right" if page.half else "left"


def _page_out(
    page: Page, pages_of_file: int, half: _Half, taken_early: AdviceOut | None, without: Collection[Advice]
) -> PageOut:
    """``without``: advice that is not for this page."""
    measures = page.findings.get("measures") or {}
    advice = [AdviceOut.of(one) for one in page.advice if one["code"] not in without]
    return PageOut(
        id=page.pk, file_name=page.original.file_name, index=page.index, of=pages_of_file, half=half, state=page.state,  # type: ignore[arg-type]
        trouble=page.trouble, message=page.trouble_message,  # type: ignore[arg-type]
        found=FoundOut(**page.findings) if page.findings else None,
        image=image_url(page.folio_id, page.image), preview=image_url(page.folio_id, page.preview),
        source=image_url(page.folio_id, page.source),
        width=page.width, height=page.height, dpi=measures.get("resolution_dpi"), taken=page.taken,
        advice=([taken_early] if taken_early else []) + advice,
        arrived=page.original.arrived_at, original_id=page.original_id, sha256=page.original.sha256,
        promised=page.original.promised_at,
    )  # fmt: skip
