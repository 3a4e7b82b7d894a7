"""What a mark says by itself, and beside the others of its folio: whether it is a label, and what stands above it."""

from __future__ import annotations

import unittest
from dataclasses import replace

from folio_core.placing.label_evidence import (
    as_this_hand_labels,
    label_chance,
    lines_above,
    page_numbers,
    reads_like_work,
)
from folio_core.reading import PageReading

from marks import mark  # isort: skip


class LabelEvidence(unittest.TestCase):
    def test_where_numbers_hang_in_the_margin_those_that_begin_lines_of_the_writing_are_no_labels(self) -> None:
        def likely(hang: float, inside: str, pages: int = 2) -> list[bool]:
            marks = (mark("1", 0, hang=hang), mark(inside, 8, sure=0.98, hang=0.0), mark("2", 16, hang=hang))
            made = as_this_hand_labels([PageReading(marks, 24, "by hand")] * pages)
            return [label_chance(one) > 0.5 for one in made[0].marks]

        self.assertEqual(likely(3.0, "7"), [True, False, True])
        self.assertEqual(likely(3.0, "b"), [True] * 3)  # part letters do stand there
        self.assertEqual(likely(0.5, "7"), [True] * 3)  # nobody's hang
        self.assertEqual(likely(3.0, "7", pages=1), [True] * 3)  # a page alone tells too little

    def test_two_parts_of_one_line_do_not_stand_above_one_another(self) -> None:
        label = replace(mark("2", 4), line=1)
        beside = replace(label, left=0.2, line=0)
        self.assertEqual(lines_above(PageReading((beside, label), 24, "by hand"), label), 0)
        self.assertEqual(lines_above(PageReading((replace(beside, top=0.1), label), 24, "by hand"), label), 1)

    def test_a_sentence_reads_like_work_and_a_name_does_not(self) -> None:
        for opening, works in (
            ("So that the answer is 31.4", True),
            ("Ilse Marrow 30417", False),
            ("Problem set 4", False),
        ):
            self.assertEqual(reads_like_work(PageReading((), 24, "by hand", opening=opening)), works, opening)

    def test_a_mark_that_hangs_in_the_margin_is_sooner_a_label(self) -> None:
        self.assertGreater(label_chance(mark("2", 3, sure=0.8, hang=3)), label_chance(mark("2", 3, sure=0.8, hang=-3)))
        self.assertEqual(label_chance(mark("3/5", 0)), 0.0)

    def test_a_page_number_inside_the_writing_keeps_its_number(self) -> None:
        own = replace(mark("7", 0, sure=0.9, hang=-9.0, top=0.03), left=0.9)
        readings = [PageReading((own, mark("1", 4), mark("2", 12)), 24, "by hand")] * 2
        told = as_this_hand_labels(readings)[0]
        self.assertLess(label_chance(told.marks[0]), label_chance(own))
        self.assertEqual(page_numbers(told), page_numbers(readings[0]))


if __name__ == "__main__":
    unittest.main()
