"""A board with prepared pages to try out, and what the tests of it ask."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from board_bench.prepared import lay_prepared
from django.test import tag
from django.utils import timezone
from playwright.sync_api import Locator, Page

from assignments.models import Assignment, Question
from demo import sample_people
from folio_core.question_map import parse_question_map
from folios.beginning import create_folio
from folios.models import Folio
from people.models import User

from .browsing import BrowserTestCase

PARTS = "1a-d, 2a-e, 3a-c, 4, 5a-d, 6a-e"  # 22
PHONE: dict[str, Any] = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}


@tag("beside")
class BoardTestCase(BrowserTestCase):
    def folio(self, pages: int = 6, parts: str = PARTS, names: list[str] | None = None) -> Folio:
        now = timezone.now()
        work = Assignment.objects.create(
            course=self.assignments["great-circles"].course, title="Twenty-two parts", opens=now - timedelta(days=1),
            due=now + timedelta(days=1),
        )  # fmt: skip
        for position, label in enumerate(parse_question_map(parts).labels):
            Question.objects.create(assignment=work, position=position, label=label, points=2)
        ilse = User.objects.get(email=sample_people.ILSE.email)
        folio = create_folio(work, ilse, now - timedelta(minutes=5))
        lay_prepared(folio, pages, width=400, names=names or ())
        return folio

    def board(self, folio: Folio, **options: Any) -> Page:
        page = self.sign_in(sample_people.ILSE, self.context(**options), path=f"/folios/{folio.pk}")
        self.tiles(page, folio.pages.count())
        return page

    def laid(self, folio: Folio) -> dict[str, Any]:
        return self.by_label(folio)

    def placed(self, folio: Folio) -> dict[str, list[int]]:
        """Page numbers, from 1, by label."""
        arrangement = self.laid(folio)
        here = [page for page in arrangement["order"] if page not in arrangement["removed"]]
        return {
            label: sorted(here.index(spot["page"]) + 1 for spot in row if spot["page"] in here)
            for label, row in arrangement["placements"].items()
        }

    def drag(self, page: Page, start: Locator, end: Locator, *, to: tuple[float, float] = (0.5, 0.5)) -> None:
        a, b = start.bounding_box(), end.bounding_box()
        assert a
        assert b
        page.mouse.move(a["x"] + a["width"] / 2, a["y"] + a["height"] / 2)
        page.mouse.down()
        page.mouse.move(a["x"] + a["width"] / 2 + 12, a["y"] + a["height"] / 2 + 12, steps=3)
        page.mouse.move(b["x"] + b["width"] * to[0], b["y"] + b["height"] * to[1], steps=6)
        page.mouse.up()
