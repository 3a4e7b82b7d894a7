from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from folio_core.clock import Rules, window
from folio_core.pace import ASSUMED_SECONDS_A_PAGE, CHECK_SECONDS, Basis, pace

import calm  # noqa: F401 isort: skip

OPENS = datetime(2026, 3, 2, 9, tzinfo=UTC)
SITTING = Rules(OPENS, OPENS + timedelta(hours=6), writing_minutes=90)
WINDOW = window(SITTING, OPENS)


class PenDown(unittest.TestCase):
    def test_before_there_is_data_the_assumption_is_stated(self) -> None:
        plan = pace(WINDOW, [20.0, 30.0], expected_pages=30, pages_in=0)
        assert plan is not None
        self.assertEqual(
            (plan.basis, plan.seconds_a_page, plan.measured_pages), (Basis.ASSUMED, ASSUMED_SECONDS_A_PAGE, 0)
        )
        self.assertEqual(plan.pen_down, WINDOW.closes - timedelta(seconds=30 * ASSUMED_SECONDS_A_PAGE + CHECK_SECONDS))

    def test_it_plans_with_the_time_four_of_five_pages_stayed_within(self) -> None:
        plan = pace(WINDOW, [20, 25, 30, 70, 300], expected_pages=20, pages_in=4)
        assert plan is not None
        self.assertEqual((plan.basis, plan.seconds_a_page, plan.pages), (Basis.MEASURED, 70, 16))

    def test_the_pen_is_down_when_writing_ends_at_the_latest(self) -> None:
        plan = pace(WINDOW, [12] * 5, expected_pages=2, pages_in=0)
        assert plan is not None
        self.assertEqual(plan.pen_down, WINDOW.writing_ends)

    def test_there_is_no_plan_for_a_sitting_that_has_not_begun(self) -> None:
        self.assertIsNone(pace(window(SITTING, None), [], expected_pages=4, pages_in=0))

    def test_untimed_work_is_planned_for_the_due_moment_and_not_for_late_work(self) -> None:
        work = Rules(OPENS, OPENS + timedelta(hours=6), late_until=OPENS + timedelta(hours=9))
        plan = pace(window(work, OPENS), [], expected_pages=4, pages_in=0)
        assert plan is not None
        self.assertLess(plan.pen_down, work.due)

    @given(st.lists(st.floats(0, 900), max_size=40), st.integers(0, 60), st.integers(0, 60), st.integers(0, 350))
    def test_more_pages_never_let_one_write_longer_and_all_lies_in_the_sitting(
        self, seconds: list[float], expected: int, pages_in: int, begun: int
    ) -> None:
        win = window(SITTING, OPENS + timedelta(minutes=begun))
        plan, thicker = (pace(win, seconds, expected_pages=expected + more, pages_in=pages_in) for more in (0, 3))
        assert plan is not None
        assert thicker is not None
        assert win.begun is not None
        self.assertLessEqual(thicker.pen_down, plan.pen_down)
        self.assertTrue(win.begun <= plan.pen_down <= win.closes)
