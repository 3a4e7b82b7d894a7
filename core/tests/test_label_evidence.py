"""What a mark says by itself: whether it is a label, and what stands above it."""

from __future__ import annotations

import unittest
from dataclasses import replace

from folio_core.placing.label_evidence import (
    by_column,
    label_chance,
    lines_above,
    reads_like_work,
)
from folio_core.reading import Mark, PageReading

from marks import mark  # isort: skip


class LabelEvidence(unittest.TestCase):
    def test_two_parts_of_one_line_do_not_stand_above_one_another(self) -> None:
        label = replace(mark("2", 4), line=1)
        beside = replace(label, left=0.2, line=0)
        self.assertEqual(lines_above(PageReading((beside, label), 24, "by hand"), label), 0)
        self.assertEqual(lines_above(PageReading((replace(beside, top=0.1), label), 24, "by hand"), label), 1)

    def test_a_label_that_was_crossed_out_and_written_again_is_no_line_above_it(self) -> None:
        struck, label = replace(mark("7", 2, top=0.08), line=0), replace(mark("2.3", 3), line=1)
        for opening, above in (("2.3t", 0), ("2. 3 t", 0), ("2.35 t", 1), ("23 m", 1), ("x = 2.3", 1)):
            reading = PageReading((struck, label), 24, "by hand", opening=opening)
            self.assertEqual(lines_above(reading, label), above, opening)

    def test_what_stands_in_the_column_left_of_a_label_is_above_it_and_what_stands_right_of_it_is_not(self) -> None:
        line = Mark(0.12, 0.1, 0.1, 0.02, 0.999, (), 0.0, 1.0, 0)
        first = [replace(line, top=top, line=at) for at, top in enumerate((0.1, 0.2, 0.3))]
        second = [replace(one, left=0.62, top=one.top + 0.01, line=9 + one.line) for one in first]
        label = replace(mark("2", 3, top=0.1), left=0.55, line=9)
        below = [replace(second[0], top=0.1 + 0.04 * at, line=10 + at) for at in (1, 2)]
        self.assertEqual(lines_above(PageReading((*first, label, *below), 24, "by hand"), label), 3)
        self.assertEqual(lines_above(PageReading((*first, label), 24, "by hand"), label), 0)  # alone: on its own line
        left = mark("1", 4, top=0.15)
        self.assertEqual(lines_above(PageReading((replace(second[0], line=0), left), 24, "by hand"), left), 0)

    def test_one_label_a_column_makes_two_where_lines_stand_below_both(self) -> None:
        labels = (replace(mark("2", 2), left=0.55), mark("1", 8))
        below = [
            Mark(left, (line + at) / 30, 0.1, 0.02, 0.999, (), 0.0, 1.0, line + at)
            for left, line in ((0.62, 2), (0.12, 8))
            for at in (1, 2)
        ]
        for lines, order in ((below, [3, 4, 5, 0, 1, 2]), (below[:2], [0, 1, 2, 3])):
            marks = sorted([*labels, *lines], key=lambda one: one.top)
            self.assertEqual(by_column(marks), order)

    def test_a_sentence_reads_like_work_and_a_name_does_not(self) -> None:
        for opening, works in (
            ("So that the answer is 31.4", True),
            ("Ilse Marrow 30417", False),
            ("Problem set 4", False),
            ("2596 m", True),
            ("69x +454", True),
            ("hence the", True),
            ("lse Marrow 30417", False),  # "Ilse", its first stroke lost
            ("llseMarrow", False),
            ("30417", False),
        ):
            self.assertEqual(reads_like_work(PageReading((), 24, "by hand", opening=opening)), works, opening)

    def test_a_page_of_few_lines_reads_like_work_by_its_equations(self) -> None:
        for opening, works in (
            ("D-46022\nx = 4", True),
            ("T = 2 L / 6", True),
            ("using the law of cosines", True),
            ("ilse marrow\nnav 231\nproblem set 4", False),
            ("Ilse Marrow\n30417\nintroduction to the stars", False),
        ):
            self.assertEqual(reads_like_work(PageReading((), 4, "by hand", opening=opening)), works, opening)

    def test_a_mark_that_hangs_in_the_margin_is_sooner_a_label(self) -> None:
        self.assertGreater(label_chance(mark("2", 3, sure=0.8, hang=3)), label_chance(mark("2", 3, sure=0.8, hang=-3)))
        self.assertEqual(label_chance(mark("3/5", 0)), 0.0)


if __name__ == "__main__":
    unittest.main()
