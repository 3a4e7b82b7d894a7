from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from folio_core.clock import (
    ExtraTime,
    NaiveDatetime,
    Phase,
    Rules,
    SittingClosed,
    Verdict,
    phase,
    require_open,
    verdict,
    window,
)

OPENS = datetime(2026, 3, 2, 9, tzinfo=UTC)
MINUTE = timedelta(minutes=1)


def rules(**more: object) -> Rules:
    return Rules(**{"opens": OPENS, "due": OPENS + timedelta(hours=6), **more})  # type: ignore[arg-type]


class TimedSittings(unittest.TestCase):
    def test_writing_and_handover_run_from_the_beginning(self) -> None:
        begun = OPENS + timedelta(hours=1)
        win = window(rules(writing_minutes=95), begun)
        self.assertEqual(win.writing_ends, begun + 95 * MINUTE)
        self.assertEqual(win.closes, begun + 110 * MINUTE)
        self.assertEqual(phase(win, begun + 94 * MINUTE), Phase.WRITING)
        self.assertEqual(phase(win, begun + 95 * MINUTE), Phase.HANDOVER)
        self.assertEqual(phase(win, begun + 110 * MINUTE), Phase.CLOSED)

    def test_the_due_moment_cuts_a_late_beginning_short_and_keeps_the_handover(self) -> None:
        sitting = rules(writing_minutes=95)
        win = window(sitting, sitting.due - 60 * MINUTE)
        self.assertEqual(win.closes, sitting.due)
        self.assertEqual(win.writing_ends, sitting.due - 15 * MINUTE)

    def test_a_due_moment_that_does_not_cut_leaves_the_full_time(self) -> None:
        sitting = rules(writing_minutes=95, due_cuts_sitting=False)
        self.assertEqual(window(sitting, sitting.due - MINUTE).closes, sitting.due + 109 * MINUTE)

    def test_extra_time_lengthens_writing_only(self) -> None:
        win = window(rules(writing_minutes=80), OPENS, ExtraTime(1.25, 5))
        self.assertEqual(win.writing_ends, OPENS + 105 * MINUTE)
        self.assertEqual(win.closes, OPENS + 120 * MINUTE)

    def test_the_latest_beginning_leaves_exactly_the_full_time(self) -> None:
        sitting = rules(writing_minutes=95)
        latest = window(sitting, None).latest_full_begin
        assert latest is not None
        self.assertEqual(window(sitting, latest).closes - latest, 110 * MINUTE)

    def test_nothing_is_taken_before_the_beginning(self) -> None:
        with self.assertRaisesRegex(SittingClosed, "Begin"):
            require_open(window(rules(writing_minutes=95), None), OPENS + MINUTE)


class UntimedWork(unittest.TestCase):
    def test_late_work_is_taken_and_marked_until_its_end(self) -> None:
        work = rules(late_until=OPENS + timedelta(hours=8))
        win = window(work, OPENS)
        self.assertEqual(verdict(win, work.due - MINUTE), Verdict.IN_TIME)
        self.assertEqual(verdict(win, work.due), Verdict.LATE)
        self.assertEqual(verdict(win, OPENS + timedelta(hours=8)), Verdict.REFUSED)

    def test_placing_may_go_on_after_the_close(self) -> None:
        work = rules(placing_minutes=30)
        win = window(work, OPENS)
        self.assertEqual(phase(win, work.due + 29 * MINUTE), Phase.PLACING)
        self.assertEqual(phase(win, work.due + 30 * MINUTE), Phase.CLOSED)


class BadMoments(unittest.TestCase):
    def test_a_moment_without_a_time_zone_is_refused_at_once(self) -> None:
        with self.assertRaises(NaiveDatetime):
            rules(due=datetime(2026, 3, 2, 12))  # noqa: DTZ001
        with self.assertRaises(NaiveDatetime):
            window(rules(), datetime(2026, 3, 2, 12))  # noqa: DTZ001

    def test_extra_time_never_takes_away(self) -> None:
        with self.assertRaises(ValueError):
            ExtraTime(0.5)


_ORDER = [Phase.NOT_OPEN, Phase.READY, Phase.WRITING, Phase.HANDOVER, Phase.LATE, Phase.PLACING, Phase.CLOSED]
_SITTINGS = st.builds(
    lambda writing, handover, cuts, placing: rules(
        writing_minutes=writing, handover_minutes=handover, due_cuts_sitting=cuts, placing_minutes=placing
    ),
    st.none() | st.integers(1, 400), st.integers(0, 60), st.booleans(), st.integers(0, 600),
)  # fmt: skip


class Properties(unittest.TestCase):
    @given(_SITTINGS, st.integers(0, 359), st.lists(st.integers(-60, 2000), min_size=2, max_size=8))
    def test_phases_never_run_backwards(self, sitting: Rules, begun: int, moments: list[int]) -> None:
        win = window(sitting, OPENS + begun * MINUTE)
        seen = [_ORDER.index(phase(win, OPENS + moment * MINUTE)) for moment in sorted(moments)]
        self.assertEqual(seen, sorted(seen))

    @given(_SITTINGS, st.integers(0, 359), st.floats(1, 3), st.integers(0, 120))
    def test_extra_time_never_makes_anything_earlier(
        self, sitting: Rules, begun: int, factor: float, minutes: int
    ) -> None:
        plain = window(sitting, OPENS + begun * MINUTE)
        longer = window(sitting, OPENS + begun * MINUTE, ExtraTime(factor, minutes))
        self.assertGreaterEqual(longer.closes, plain.closes)
        if plain.writing_ends and longer.writing_ends:
            self.assertGreaterEqual(longer.writing_ends, plain.writing_ends)
