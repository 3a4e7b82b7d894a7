from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from folio_core.rehearsal import Sitting, look_back

BEGUN = datetime(2026, 3, 2, 9, tzinfo=UTC)
GOOD = Sitting(
    begun=BEGUN, writing_ends=BEGUN + timedelta(minutes=90), closes=BEGUN + timedelta(minutes=105),
    arrived=[BEGUN + timedelta(minutes=91, seconds=20 * k) for k in range(4)],
    handed_in=BEGUN + timedelta(minutes=93), by_itself=False, advised=0, taken_again=0, open_questions=0, open_pages=0,
)  # fmt: skip


class LookingBack(unittest.TestCase):
    def test_the_steps_are_the_whole_sitting_without_gap_or_overlap(self) -> None:
        told = look_back(GOOD)
        self.assertEqual(sum(step.seconds for step in told.steps), (GOOD.handed_in - GOOD.begun).total_seconds())
        self.assertEqual(told.seconds_a_page, 20)

    def test_a_good_rehearsal_is_told_so(self) -> None:
        (only,) = look_back(GOOD).better
        self.assertIn("in good time", only)

    def test_each_trouble_has_its_own_advice(self) -> None:
        worse = {
            "closes first|close came first": replace(GOOD, by_itself=True, handed_in=GOOD.closes),
            "handover was used up": replace(GOOD, handed_in=BEGUN + timedelta(minutes=104)),
            "a minute went by": replace(GOOD, arrived=[BEGUN + timedelta(minutes=91 + 2 * k) for k in range(3)]),
            "advice on 2 pages": replace(GOOD, advised=2),
            "taken again": replace(GOOD, taken_again=1),
            "still open": replace(GOOD, open_questions=1),
        }
        for words, sitting in worse.items():
            with self.subTest(words):
                self.assertRegex(" ".join(look_back(sitting).better), words)

    def test_without_a_page_there_is_nothing_to_look_back_on(self) -> None:
        with self.assertRaises(ValueError):
            look_back(replace(GOOD, arrived=[]))
