"""What two editions differ in."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from folio_core.page import Recipe
from folio_core.placing import Arrangement, Placement
from folio_core.placing.comparing import Comparison, compare
from folio_core.question_map import Question, QuestionMap

MAP = QuestionMap((Question("1a", "q1"), Question("2", "q2"), Question("3", "q3")))


def compared(before: Arrangement, after: Arrangement, retaken: dict[int, int] | None = None) -> Comparison:
    return compare(before, after, (MAP, MAP), retaken or {})


class Comparing(unittest.TestCase):
    def test_the_same_differs_in_nothing(self) -> None:
        one = Arrangement(order=(1, 2), placements={"q1": (Placement(1, 0.5),)})
        self.assertEqual(compared(one, one), Comparison((), (), (), (), (), (), ()))

    def test_added_removed_and_taken_again_are_told_apart(self) -> None:
        before, after = Arrangement(order=(1, 2, 3)), Arrangement(order=(1, 2, 3, 8, 9), removed=frozenset({2, 3}))
        found = compared(before, after, {2: 7, 7: 8})
        self.assertEqual((found.added, found.removed, found.retaken), ((9,), (3,), ((2, 8),)))

    def test_a_page_that_is_gone_and_whose_successor_is_gone_too_was_removed(self) -> None:
        found = compared(Arrangement(order=(1, 2)), Arrangement(order=(1,)), {2: 7})
        self.assertEqual((found.removed, found.retaken), ((2,), ()))

    def test_moving_one_page_is_told_of_one_page(self) -> None:
        found = compared(Arrangement(order=(1, 2, 3, 4, 5)), Arrangement(order=(5, 1, 2, 3, 4)))
        self.assertEqual(found.moved, (5,))

    @given(st.permutations(range(1, 8)))
    def test_what_is_left_without_the_moved_pages_is_in_order(self, order: list[int]) -> None:
        moved = compared(Arrangement(order=tuple(range(1, 8))), Arrangement(order=tuple(order))).moved
        stayed = [page for page in order if page not in moved]
        self.assertEqual(stayed, sorted(stayed))
        for page in moved:  # none of them could have stayed as well
            more = [one for one in order if one in stayed or one == page]
            self.assertNotEqual(more, sorted(more))

    def test_turned_and_corrected(self) -> None:
        corners = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
        recipes = {1: Recipe(turn=90), 2: Recipe(corners=corners)}
        found = compared(Arrangement(order=(1, 2, 3)), Arrangement(order=(1, 2, 3), recipes=recipes))
        self.assertEqual((found.turned, found.corrected), ((1,), (2,)))

    def test_placements_say_the_page_numbers_of_each_edition(self) -> None:
        before = Arrangement(order=(1, 2, 3), placements={"q1": (Placement(2),), "q2": (Placement(3),)})
        after = Arrangement(
            order=(3, 1, 2), placements={"q1": (Placement(2), Placement(1)), "q2": (Placement(3),)},
            left_blank=frozenset({"q3"}),
        )  # fmt: skip
        told = {one.label: (one.before, one.after, one.left_blank) for one in compared(before, after).placed}
        self.assertEqual(told["1a"], ((2,), (2, 3), (False, False)))
        self.assertEqual(told["3"], ((), (), (False, True)))
        self.assertNotIn("2", told)  # the same page, which only stands elsewhere
