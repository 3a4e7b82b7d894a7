"""Which page of a form a photograph shows, by its words."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from PIL import Image, ImageDraw

from folio_core.forms.blank import BlankPage, blank_page
from folio_core.forms.fit import chosen, laid_over
from folio_core.forms.words_seen import words_seen


class Words(unittest.TestCase):
    """Words are told by their letters: other words in the same lines are as dark."""

    lines = (
        "State the theorem and say which of its conditions fails for the function",
        "A tank of volume forty litres is filled through one pipe and emptied by two",
    )

    def page(self, *lines: str) -> BlankPage:
        sheet = Image.new("L", (909, 1286), 255)
        for at, line in enumerate(lines):
            for down in (140, 300, 620, 900):
                ImageDraw.Draw(sheet).text((80, down + 36 * at), line, fill=40, font_size=17)
        return blank_page(0, np.asarray(sheet), (595.0, 842.0))

    def share(self, form: BlankPage, photographed: BlankPage, hidden: int = 0) -> float:
        seen = np.full(form.grey.shape, 255, np.uint8)
        seen[len(seen) - hidden :] = 0
        share = words_seen(form, cv2.GaussianBlur(photographed.grey, (0, 0), 1.0), seen).share
        assert share is not None
        return share

    def test_the_same_words_are_alike_and_others_in_their_lines_are_not(self) -> None:
        form = self.page(*self.lines)
        self.assertGreater(self.share(form, form), 0.97)
        self.assertLess(self.share(form, self.page(*reversed(self.lines))), 0.3)
        self.assertLess(self.share(form, self.page()), 0.05)

    def test_moved_a_little_and_written_across_they_are_still_the_same(self) -> None:
        form = self.page(*self.lines)
        moved = np.roll(form.grey, (2, 2), (0, 1))
        cv2.line(moved, (80, 120), (700, 320), 60, 3)
        self.assertGreater(self.share(form, blank_page(0, moved, (595.0, 842.0))), 0.75)

    def test_what_is_hidden_does_not_count_unless_it_is_most(self) -> None:
        form, covered = self.page(*self.lines), self.page(*self.lines).grey.copy()
        covered[760:] = 90
        photographed = blank_page(0, covered, (595.0, 842.0))
        self.assertGreater(self.share(form, photographed, hidden=len(covered) - 750), 0.95)
        self.assertLess(self.share(form, photographed), 0.8)
        self.assertLess(self.share(form, form, hidden=len(covered) - 220), 0.6)

    def test_a_page_without_words_says_nothing(self) -> None:
        page = self.page()
        self.assertIsNone(words_seen(page, page.grey, np.full((1286, 909), 255, np.uint8)).share)

    def test_a_page_of_few_words_that_another_page_has_too_does_not_win_on_a_creased_sheet_of_that_one(self) -> None:
        few, many = self.page(), self.page(*self.lines)
        head = few.grey.copy()
        head[:200] = many.grey[:200]
        few = blank_page(1, head, (595.0, 842.0))
        creased = many.grey.copy()
        creased[560:] = np.roll(many.grey, 14, 0)[560:]  # its foot lies where no print of it is looked for
        photographed = cv2.cvtColor(creased, cv2.COLOR_GRAY2RGB)
        fits = [laid_over(page, photographed, creased, np.eye(3)) for page in (few, many)]
        self.assertGreater(fits[0].worth, fits[1].worth)
        best, _ = chosen(fits)
        self.assertIs(best.page, many)
        best, _ = chosen(
            [laid_over(page, cv2.cvtColor(head, cv2.COLOR_GRAY2RGB), head, np.eye(3)) for page in (many, few)]
        )
        self.assertIs(best.page, few)
