"""Of pictures of the same printed page the better one is named, and none where something would be lost."""

from __future__ import annotations

import unittest
from typing import Any

from folio_bench.taken_twice import picture_of
from folio_camera.same_sheet import taken_twice
from folio_core.page import Advice
from folio_core.placing.better_picture import Drawback, PagePicture, better_of


def shot(ink: dict[str, float | None] | None = None, *advice: Advice, **more: Any) -> PagePicture:
    about: dict[str, Any] = {"is_own": True, "is_covered": False, "blur_sigma_px": 1.0, "resolution_dpi": 160.0} | more
    return PagePicture(ink_mm2={"1": 100.0, "2": 0.0} if ink is None else ink, advice=list(advice), **about)


class BetterPicture(unittest.TestCase):
    def better(self, *pictures: PagePicture) -> tuple[int, dict[int, Drawback | Advice]] | None:
        found = better_of(pictures)
        return found and (found.index, dict(found.drawbacks))

    def test_the_one_without_faults_is_better_and_the_weightier_fault_counts(self) -> None:
        fuzzy, shady = shot(None, Advice.OUT_OF_FOCUS, Advice.SHADOW_EDGE), shot(None, Advice.SHADOW_EDGE)
        drawbacks = {0: Advice.OUT_OF_FOCUS, 1: Advice.SHADOW_EDGE}
        self.assertEqual(self.better(fuzzy, shady, shot()), (2, drawbacks))
        self.assertEqual(self.better(fuzzy, shady), (1, {0: Advice.OUT_OF_FOCUS}))

    def test_what_says_nothing_of_the_picture_does_not_count(self) -> None:
        edge_cut = shot(None, Advice.SHEET_CUT_OFF)  # and yet all of the print is there
        self.assertEqual(self.better(edge_cut, shot(None, Advice.MOTION_BLUR)), (0, {1: Advice.MOTION_BLUR}))
        seen = shot(None, Advice.SEEN_BEFORE, Advice.TAKEN_BEFORE, Advice.TURN_UNSURE, Advice.NEARLY_EMPTY)
        self.assertEqual(self.better(seen, shot()), (0, {1: Drawback.NOTHING}))

    def test_where_more_is_written_is_better_though_it_is_out_of_focus(self) -> None:
        later = shot({"1": 100.0, "2": 40.0}, Advice.OUT_OF_FOCUS)
        self.assertEqual(self.better(shot(), later), (1, {0: Drawback.LESS_WRITTEN}))
        half = shot({"1": 60.0, "2": 0.0})
        self.assertEqual(self.better(half, shot()), (1, {0: Drawback.LESS_WRITTEN}))

    def test_ink_that_a_smeared_picture_shows_more_or_less_of_is_no_writing(self) -> None:
        for ink in (60.0, 143.0):
            smeared = shot({"1": ink, "2": 0.0}, Advice.MOTION_BLUR)
            self.assertEqual(self.better(smeared, shot()), (1, {0: Advice.MOTION_BLUR}))

    def test_where_each_shows_what_the_other_does_not_none_is_named(self) -> None:
        self.assertIsNone(self.better(shot({"1": 100.0, "2": 0.0}), shot({"1": 0.0, "2": 100.0})))
        upper, lower = shot({"1": 90.0, "2": None}, is_covered=True), shot({"1": None, "2": 90.0}, is_covered=True)
        self.assertIsNone(self.better(upper, lower))

    def test_one_that_shows_all_is_better_than_one_that_is_cut_off_or_covered(self) -> None:
        cut = shot({"1": 100.0, "2": None}, is_covered=True)
        self.assertEqual(self.better(cut, shot({"1": 100.0, "2": 30.0})), (1, {0: Drawback.NOT_ALL_SEEN}))
        self.assertEqual(self.better(shot(is_covered=True), shot()), (1, {0: Drawback.NOT_ALL_SEEN}))

    def test_the_edge_of_a_hand_is_no_writing_for_which_another_picture_goes(self) -> None:
        hand = shot({"1": 100.0, "2": 15.0}, is_covered=True)
        self.assertEqual(self.better(hand, shot()), (1, {0: Drawback.NOT_ALL_SEEN}))
        ink = {"1": 100.0, "2": 40.0}
        for covered in (shot(ink, is_covered=True), shot(ink, Advice.SHEET_NOT_FOUND), shot(ink, Advice.NO_PAGE)):
            self.assertIsNone(self.better(covered, shot()))

    def test_ones_own_copy_is_better_unless_the_other_holds_more(self) -> None:
        others = shot(is_own=False)
        self.assertEqual(self.better(others, shot(None, Advice.GLARE)), (1, {0: Drawback.ANOTHERS_COPY}))
        fuller = shot({"1": 100.0, "2": 70.0}, is_own=False)
        self.assertEqual(self.better(fuller, shot()), (0, {1: Drawback.LESS_WRITTEN}))

    def test_of_equals_the_sharper_one_on_paper_and_of_the_same_the_first(self) -> None:
        far = shot(resolution_dpi=90.0)
        self.assertEqual(self.better(far, shot()), (1, {0: Drawback.LESS_SHARP}))
        self.assertEqual(self.better(shot(blur_sigma_px=1.1), shot()), (1, {0: Drawback.NOTHING}))
        self.assertEqual(self.better(shot(), shot()), (0, {1: Drawback.NOTHING}))

    def test_photographs_of_one_sheet_are_held_against_each_other(self) -> None:
        for kind, seed in (("out of focus", 3), ("an answer written later", 4), ("each with another answer", 5)):
            pair = taken_twice(kind, seed)
            pictures = [picture_of(pair, data) for data in pair.pictures]
            better = better_of([one for one in pictures if one])
            self.assertEqual((len(pictures), better and better.index), (2, pair.better), kind)
