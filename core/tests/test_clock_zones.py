"""The clock against the calendar: daylight saving, leap days, midnight."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from folio_core.clock import NoSuchWallTime, Rules, wall_time, window
from folio_core.rules_file import BadRules, moment

import calm  # noqa: F401 isort: skip

HALIFAX = ZoneInfo("America/Halifax")
# Transitions from the IANA time zone database, files northamerica ("Rule Canada … Mar Sun>=8 2:00 … Nov Sun>=1 2:00",
# Halifax since 2007), europe ("Rule EU … lastSun 1:00u") and australasia (Lord Howe moves by half an hour).
TRANSITIONS = [
    ("America/Halifax", datetime(2026, 3, 8, 6, tzinfo=UTC), -4, -3),
    ("America/Halifax", datetime(2026, 11, 1, 5, tzinfo=UTC), -3, -4),
    ("Europe/Dublin", datetime(2026, 3, 29, 1, tzinfo=UTC), 0, 1),
    ("Europe/Dublin", datetime(2026, 10, 25, 1, tzinfo=UTC), 1, 0),
    ("Australia/Lord_Howe", datetime(2026, 4, 4, 15, tzinfo=UTC), 11, 10.5),
    ("Australia/Lord_Howe", datetime(2026, 10, 3, 15, 30, tzinfo=UTC), 10.5, 11),
]


class DaylightSaving(unittest.TestCase):
    def test_the_transitions_are_those_of_the_iana_database(self) -> None:
        for name, at, before, after in TRANSITIONS:
            with self.subTest(zone=name, at=at):
                zone = ZoneInfo(name)
                self.assertEqual((at - timedelta(seconds=1)).astimezone(zone).utcoffset(), timedelta(hours=before))
                self.assertEqual(at.astimezone(zone).utcoffset(), timedelta(hours=after))

    def test_a_sitting_over_a_transition_has_its_full_minutes(self) -> None:
        for name, at, _, _ in TRANSITIONS:
            with self.subTest(zone=name, at=at):
                sitting = Rules(
                    at - timedelta(hours=5), at + timedelta(hours=9), writing_minutes=95, zone=ZoneInfo(name)
                )
                begun = (at - timedelta(minutes=30)).astimezone(ZoneInfo(name))
                closes = window(sitting, begun).closes
                self.assertEqual(closes.astimezone(UTC) - begun.astimezone(UTC), timedelta(minutes=110))

    def test_a_time_that_comes_twice_ends_the_second_time_and_opens_the_first(self) -> None:
        wall = datetime(2026, 11, 1, 1, 30)  # noqa: DTZ001 (a wall time)
        self.assertEqual(wall_time(wall, HALIFAX, ends=False), datetime(2026, 11, 1, 4, 30, tzinfo=UTC))
        self.assertEqual(wall_time(wall, HALIFAX, ends=True), datetime(2026, 11, 1, 5, 30, tzinfo=UTC))

    def test_a_time_the_clocks_skip_is_refused_with_the_next_one(self) -> None:
        for ends in (False, True):
            with self.assertRaisesRegex(NoSuchWallTime, "America/Halifax.*03:30"):
                wall_time(datetime(2026, 3, 8, 2, 30), HALIFAX, ends=ends)  # noqa: DTZ001

    @given(
        st.datetimes(datetime(2020, 1, 1), datetime(2035, 1, 1)),  # noqa: DTZ001
        st.sampled_from(sorted({t[0] for t in TRANSITIONS})),
        st.booleans(),
    )
    def test_a_wall_time_comes_back_as_it_was_given(self, wall: datetime, name: str, ends: bool) -> None:
        zone = ZoneInfo(name)
        try:
            there = wall_time(wall, zone, ends=ends)
        except NoSuchWallTime:
            return
        self.assertEqual(there.astimezone(zone).replace(tzinfo=None), wall)


class Calendar(unittest.TestCase):
    def test_a_sitting_over_midnight_into_a_leap_day(self) -> None:
        opens = wall_time(datetime(2028, 2, 28, 20), HALIFAX, ends=False)  # noqa: DTZ001
        sitting = Rules(opens, opens + timedelta(days=1), writing_minutes=95, zone=HALIFAX)
        closes = window(sitting, opens + timedelta(hours=3)).closes.astimezone(HALIFAX)
        self.assertEqual(closes.replace(tzinfo=None), datetime(2028, 2, 29, 0, 50))  # noqa: DTZ001

    def test_moments_are_read_as_rfc_3339_says(self) -> None:
        """RFC 3339, section 5.8, the first three examples of one instant or its offset."""
        self.assertEqual(
            moment("1985-04-12T23:20:50.52Z", UTC, ends=True), datetime(1985, 4, 12, 23, 20, 50, 520_000, UTC)
        )
        west = moment("1996-12-19T16:39:57-08:00", UTC, ends=True)
        self.assertEqual(west, moment("1996-12-20T00:39:57Z", UTC, ends=True))
        dutch = moment("1937-01-01T12:00:27.87+00:20", UTC, ends=True)
        self.assertEqual(dutch, datetime(1937, 1, 1, 11, 40, 27, 870_000, UTC))

    def test_what_is_no_moment_is_said(self) -> None:
        with self.assertRaisesRegex(BadRules, "half past three"):
            moment("half past three", UTC, ends=True)
