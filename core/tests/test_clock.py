from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta, timezone

from hypothesis import given
from hypothesis import strategies as st

from folio_core.clock import (
    ExtraTime,
    Judgement,
    Lengthening,
    NaiveDatetime,
    Phase,
    Rules,
    SittingClosed,
    Verdict,
    Window,
    judge,
    judged_by_staff,
    phase,
    require_arrival,
    require_open,
    verdict,
    window,
)
from folio_core.terms import Terms

import calm  # noqa: F401 isort: skip

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


class WhatIsGrantedToOneStudent(unittest.TestCase):
    def test_a_personal_due_moment_takes_the_place_of_the_common_one_and_late_work_keeps_its_length(self) -> None:
        work = rules(late_until=OPENS + timedelta(hours=8))
        win = window(work, OPENS, personal_due=work.due + timedelta(hours=3))
        self.assertEqual(verdict(win, work.due + timedelta(hours=2)), Verdict.IN_TIME)
        self.assertEqual(win.closes, OPENS + timedelta(hours=11))

    def test_extra_time_moves_the_due_moment_by_as_much_as_the_sitting_grew(self) -> None:
        sitting = rules(writing_minutes=80, handover_minutes=20)
        win = window(sitting, None, ExtraTime(1.5, 10, on_handover=True, on_due=True))
        self.assertEqual(win.rules.due, sitting.due + (40 + 10 + 10) * MINUTE)
        plain = window(sitting, None)
        self.assertEqual(win.latest_full_begin, plain.latest_full_begin)

    def test_extra_time_moves_the_due_moment_of_untimed_work_by_its_minutes(self) -> None:
        self.assertEqual(window(rules(), OPENS, ExtraTime(1.5, 30, on_due=True)).closes, rules().due + 30 * MINUTE)

    def test_extra_handover_does_not_shorten_writing_before_a_cut(self) -> None:
        sitting = rules(writing_minutes=95)
        begun = sitting.due - 60 * MINUTE
        win = window(sitting, begun, ExtraTime(2, on_handover=True))
        self.assertEqual(win.writing_ends, window(sitting, begun).writing_ends)

    def test_a_lengthening_while_writing_moves_both_ends_also_past_the_due_moment(self) -> None:
        sitting = rules(writing_minutes=95)
        begun = sitting.due - 110 * MINUTE
        win = window(sitting, begun, lengthenings=[Lengthening(begun + 10 * MINUTE, 7)])
        self.assertEqual(win.writing_ends, begun + 102 * MINUTE)
        self.assertEqual(win.closes, sitting.due + 7 * MINUTE)

    def test_a_lengthening_in_the_handover_moves_only_its_end(self) -> None:
        sitting = rules(writing_minutes=95)
        win = window(sitting, OPENS, lengthenings=[Lengthening(OPENS + 100 * MINUTE, 5)])
        self.assertEqual(win.writing_ends, OPENS + 95 * MINUTE)
        self.assertEqual(win.closes, OPENS + 115 * MINUTE)

    def test_a_lengthening_after_the_close_opens_nothing_again(self) -> None:
        sitting = rules(writing_minutes=95)
        win = window(sitting, OPENS, lengthenings=[Lengthening(OPENS + 111 * MINUTE, 5)])
        self.assertEqual(win.closes, OPENS + 110 * MINUTE)


class Pledges(unittest.TestCase):
    sitting = rules(writing_minutes=95, pledge_minutes=10)
    win = window(sitting, OPENS)
    promised = win.closes - timedelta(seconds=19)

    def test_a_pledge_kept_after_the_close_counts_as_in_time(self) -> None:
        told = judge(self.win, self.win.closes + 3 * MINUTE, self.promised)
        self.assertEqual(told, Judgement(Verdict.IN_TIME))

    def test_the_allowance_has_an_end(self) -> None:
        with self.assertRaisesRegex(SittingClosed, "promised in time"):
            require_arrival(self.win, self.win.closes + 10 * MINUTE, self.promised)

    def test_a_pledge_made_after_the_close_counts_for_nothing(self) -> None:
        told = judge(self.win, self.win.closes + 3 * MINUTE, self.win.closes + MINUTE)
        self.assertIs(told.verdict, Verdict.REFUSED)

    def test_without_an_allowance_a_pledge_saves_nothing(self) -> None:
        win = window(rules(writing_minutes=95), OPENS)
        self.assertIs(judge(win, win.closes, win.closes - MINUTE).verdict, Verdict.REFUSED)

    def test_a_pledge_before_due_saves_a_page_from_being_late_only_within_the_allowance(self) -> None:
        work = rules(late_until=OPENS + timedelta(hours=8), pledge_minutes=10)
        win, promised = window(work, OPENS), work.due - MINUTE
        self.assertIs(judge(win, work.due + 9 * MINUTE, promised).verdict, Verdict.IN_TIME)
        told = judge(win, work.due + 25 * MINUTE, promised)
        self.assertEqual(told, Judgement(Verdict.LATE, 25 * MINUTE))


class AskedAgain(unittest.TestCase):
    """Staff ask for pages again: open after the close for that alone, and for nobody else's times."""

    sitting = rules(writing_minutes=95, placing_minutes=60, pledge_minutes=10)
    plain = window(sitting, OPENS)
    until = plain.closes + timedelta(days=1)
    win = window(sitting, OPENS, asked_until=until)

    def test_after_the_close_pages_are_taken_in_time_until_then_and_no_longer(self) -> None:
        for at, told in (
            (self.win.closes - MINUTE, Phase.HANDOVER), (self.win.closes, Phase.ASKED_AGAIN),
            (self.win.placing_ends + MINUTE, Phase.ASKED_AGAIN), (self.until, Phase.CLOSED),
        ):  # fmt: skip
            self.assertIs(phase(self.win, at), told, at)
        self.assertIs(verdict(self.win, self.until - MINUTE), Verdict.IN_TIME)
        with self.assertRaisesRegex(SittingClosed, "closed Tue 3 Mar"):  # not the day before, when the sitting ended
            require_open(self.win, self.until)

    def test_no_other_end_moves_by_it(self) -> None:
        for name in ("writing_ends", "handover_ends", "closes", "pledges_end", "placing_ends"):
            self.assertEqual(getattr(self.win, name), getattr(self.plain, name), name)
        self.assertEqual((self.win.all_ends, self.win.arranging_ends), (self.until, self.until))
        self.assertEqual(self.win.taking_ends(self.win.closes - MINUTE), self.win.closes)
        self.assertEqual(self.win.taking_ends(self.win.closes), self.until)
        self.assertEqual(self.plain.taking_ends(self.until), self.plain.closes)

    def test_until_a_moment_before_the_close_it_changes_nothing(self) -> None:
        self.assertEqual(window(self.sitting, OPENS, asked_until=self.plain.closes - MINUTE), self.plain)
        self.assertEqual(window(self.sitting, OPENS, asked_until=self.plain.closes), self.plain)

    def test_a_pledge_made_then_covers_the_end_of_the_asking(self) -> None:
        promised = self.until - MINUTE
        self.assertIs(judge(self.win, self.until + 9 * MINUTE, promised).verdict, Verdict.IN_TIME)
        self.assertIs(judge(self.win, self.until + 10 * MINUTE, promised).verdict, Verdict.REFUSED)

    def test_it_is_kept_with_the_terms_and_terms_kept_before_have_none(self) -> None:
        terms = Terms(self.sitting, asked_until=self.until)
        self.assertEqual(Terms.from_document(terms.as_document()).asked_until, self.until)
        before = {name: value for name, value in terms.as_document().items() if name != "asked_until"}
        self.assertIsNone(Terms.from_document(before).asked_until)


class TakenInByStaff(unittest.TestCase):
    def test_as_of_a_moment_before_the_limit_it_is_in_time_and_after_it_late_by_what_is_between(self) -> None:
        for work, limit in ((rules(), rules().due), (rules(writing_minutes=95), OPENS + 110 * MINUTE),
                            (rules(late_until=OPENS + timedelta(hours=7)), rules().due)):  # fmt: skip
            win = window(work, OPENS)
            self.assertEqual(judged_by_staff(win, limit - MINUTE), Judgement(Verdict.IN_TIME))
            for late in (5 * MINUTE, timedelta(days=3)):
                self.assertEqual(judged_by_staff(win, limit + late), Judgement(Verdict.LATE, late))

    def test_it_is_never_refused_not_even_before_the_beginning(self) -> None:
        self.assertIs(judged_by_staff(window(rules(writing_minutes=95), None), OPENS).verdict, Verdict.IN_TIME)


_ORDER = [
    Phase.NOT_OPEN,
    Phase.READY,
    Phase.WRITING,
    Phase.HANDOVER,
    Phase.LATE,
    Phase.ASKED_AGAIN,
    Phase.PLACING,
    Phase.CLOSED,
]
_MINUTES = st.integers(-60, 3000)
_SITTINGS = st.builds(
    lambda writing, handover, cuts, placing, pledge, late: rules(
        writing_minutes=writing, handover_minutes=handover, due_cuts_sitting=cuts, placing_minutes=placing,
        pledge_minutes=pledge, late_until=OPENS + (360 + late) * MINUTE if late and writing is None else None,
    ),
    st.none() | st.integers(1, 400), st.integers(0, 60), st.booleans(), st.integers(0, 600), st.integers(0, 60),
    st.none() | st.integers(0, 600),
)  # fmt: skip
_EXTRA = st.builds(ExtraTime, st.floats(1, 3), st.integers(0, 120), st.booleans(), st.booleans())
_GIVEN = st.lists(
    st.builds(lambda at, more: Lengthening(OPENS + at * MINUTE, more), _MINUTES, st.integers(1, 60)), max_size=4
)
_ZONES = st.integers(-23 * 60, 23 * 60).map(lambda minutes: timezone(timedelta(minutes=minutes)))


@st.composite
def _windows(draw: st.DrawFn) -> Window:
    begun = draw(st.none() | st.integers(0, 359).map(lambda minutes: OPENS + minutes * MINUTE))
    due = draw(st.none() | st.integers(1, 900).map(lambda minutes: OPENS + minutes * MINUTE))
    asked = draw(st.none() | st.integers(0, 2000).map(lambda minutes: OPENS + minutes * MINUTE))
    return window(draw(_SITTINGS), begun, draw(_EXTRA), personal_due=due, lengthenings=draw(_GIVEN), asked_until=asked)


def _instants(win: Window) -> list[datetime]:
    known = [win.begun if win.rules.timed else None, win.writing_ends, win.handover_ends, win.closes, win.placing_ends]
    return [each for each in known if each is not None]


class Properties(unittest.TestCase):
    @given(_windows(), st.lists(_MINUTES, min_size=2, max_size=8))
    def test_phases_never_run_backwards(self, win: Window, moments: list[int]) -> None:
        edges = [*_instants(win), win.rules.due, win.rules.opens]
        asked = sorted(
            [OPENS + moment * MINUTE for moment in moments]
            + [at + by * timedelta.resolution for at in edges for by in (-1, 0, 1)]
        )
        seen = [_ORDER.index(phase(win, at)) for at in asked]
        self.assertEqual(seen, sorted(seen))

    @given(_windows())
    def test_phases_never_overlap_their_instants_are_in_order(self, win: Window) -> None:
        self.assertEqual(_instants(win), sorted(_instants(win)))
        self.assertGreaterEqual(win.pledges_end, win.closes)

    @given(_SITTINGS, st.integers(0, 359), _EXTRA, _GIVEN)
    def test_extra_time_never_makes_anything_earlier(
        self, sitting: Rules, begun: int, extra: ExtraTime, given_too: list[Lengthening]
    ) -> None:
        at = OPENS + begun * MINUTE
        plain = window(sitting, at)
        for longer in (window(sitting, at, extra), window(sitting, at, extra, lengthenings=given_too)):
            for name in ("writing_ends", "handover_ends", "closes", "pledges_end", "placing_ends"):
                if getattr(plain, name) is not None:
                    self.assertGreaterEqual(getattr(longer, name), getattr(plain, name), name)

    @given(_windows(), _MINUTES, st.none() | _MINUTES, _ZONES)
    def test_a_verdict_depends_on_the_instant_alone_and_not_on_how_a_device_writes_it(
        self, win: Window, arrived: int, promised: int | None, zone: timezone
    ) -> None:
        at = OPENS + arrived * MINUTE
        pledged = None if promised is None else OPENS + promised * MINUTE
        elsewhere = None if pledged is None else pledged.astimezone(zone)
        self.assertEqual(judge(win, at, pledged), judge(win, at.astimezone(zone), elsewhere))

    @given(_windows(), _MINUTES, _MINUTES)
    def test_a_pledge_never_makes_a_verdict_worse(self, win: Window, arrived: int, promised: int) -> None:
        order = [Verdict.IN_TIME, Verdict.LATE, Verdict.REFUSED]
        at, pledged = OPENS + arrived * MINUTE, OPENS + promised * MINUTE
        told = judge(win, at, pledged)
        if verdict(win, at) is not Verdict.REFUSED:
            self.assertLessEqual(order.index(told.verdict), order.index(verdict(win, at)))
        if told != judge(win, at):
            last = max(win.rules.due, win.closes, win.asked_until or win.closes)
            self.assertLess(at, last + win.rules.pledge_minutes * MINUTE)
