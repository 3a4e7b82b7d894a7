"""Who needs an instructor, and when."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta

from folio_core.attention import Need, Seen, needs
from folio_core.clock import Rules, window

OPENS = datetime(2026, 11, 27, 13, 0, tzinfo=UTC)
RULES = Rules(opens=OPENS, due=OPENS + timedelta(hours=3), writing_minutes=95, handover_minutes=15, pledge_minutes=10)
NOTHING = Seen(pages=0, failed=0, editions=0)


def at(minutes: float) -> datetime:
    return OPENS + timedelta(minutes=minutes)


class Needs(unittest.TestCase):
    def test_no_page_with_little_time(self) -> None:
        begun = window(RULES, OPENS)  # closes after 110 minutes
        self.assertEqual(needs(begun, NOTHING, at(94)), ())
        self.assertEqual(needs(begun, NOTHING, at(95)), (Need.NO_PAGE,))
        self.assertEqual(needs(begun, Seen(1, 0, 0), at(105)), ())
        self.assertEqual(needs(begun, NOTHING, at(110)), ())

    def test_promised_and_not_delivered(self) -> None:
        begun = window(RULES, OPENS)
        promised = Seen(2, 0, 0, (at(100),))
        self.assertEqual(needs(begun, promised, at(101)), ())
        self.assertEqual(needs(begun, promised, at(102)), (Need.PROMISED,))
        self.assertEqual(needs(begun, promised, at(119)), (Need.PROMISED,))  # also after the close, while it may come
        self.assertEqual(needs(begun, promised, at(120)), ())

    def test_a_page_that_cannot_be_opened_until_something_is_handed_in(self) -> None:
        begun = window(RULES, OPENS)
        self.assertEqual(needs(begun, Seen(3, 1, 0), at(60)), (Need.FAILED,))
        self.assertEqual(needs(begun, Seen(3, 1, 1), at(60)), ())

    def test_not_begun_though_the_full_time_cannot_be_had_any_more(self) -> None:
        waiting = window(RULES, None)  # 110 minutes before the due moment is minute 70
        self.assertEqual(needs(waiting, NOTHING, at(70)), ())
        self.assertEqual(needs(waiting, NOTHING, at(71)), (Need.TIME_RUNS,))
        self.assertEqual(needs(waiting, NOTHING, at(181)), ())


if __name__ == "__main__":
    unittest.main()
