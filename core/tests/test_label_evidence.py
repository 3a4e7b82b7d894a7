"""What a mark says by itself, and beside the others of its folio: whether it is a label, and what stands above it."""

from __future__ import annotations

import unittest
from dataclasses import replace

from folio_core.placing.label_evidence import (
    as_this_hand_labels,
    by_column,
    label_chance,
    lines_above,
    page_numbers,
    reads_like_work,
)
from folio_core.placing.nodes import Nodes
from folio_core.question_map import parse_question_map
from folio_core.reading import Mark, PageReading

from marks import mark  # isort: skip

NUMBERS = Nodes(parse_question_map("1-9"))


class LabelEvidence(unittest.TestCase):
    def test_where_numbers_hang_in_the_margin_those_that_begin_lines_of_the_writing_are_no_labels(self) -> None:
        def likely(hang: float, inside: str, pages: int = 2) -> list[bool]:
            marks = (mark("1", 0, hang=hang), mark(inside, 8, sure=0.98, hang=0.0), mark("2", 16, hang=hang))
            made = as_this_hand_labels([PageReading(marks, 24, "by hand")] * pages, NUMBERS)
            return [label_chance(one) > 0.5 for one in made[0].marks]

        self.assertEqual(likely(3.0, "7"), [True, False, True])
        self.assertEqual(likely(3.0, "b"), [True] * 3)  # part letters do stand there
        self.assertEqual(likely(0.5, "7"), [True] * 3)  # nobody's hang
        self.assertEqual(likely(3.0, "7", pages=1), [True] * 3)  # a page alone tells too little

    def test_where_labels_are_few_and_all_that_are_plain_hang_it_is_the_same(self) -> None:
        def doubted(inside: float, hanging: int = 3) -> bool:
            number = mark("7", 16, sure=inside, hang=0.5)
            first = (*(mark(str(at), 4 * at) for at in range(hanging)), number)
            readings = [PageReading(first, 24, "by hand"), *[PageReading((), 24, "by hand")] * 3]
            return label_chance(as_this_hand_labels(readings, NUMBERS)[0].marks[-1]) < label_chance(number)

        self.assertTrue(doubted(0.98))
        self.assertFalse(doubted(0.9999))  # that one is plain, and does not hang
        self.assertFalse(doubted(0.98, hanging=2))

    def test_what_stands_in_a_drawing_is_hardly_a_label(self) -> None:
        marks = (mark("1", 0), replace(mark("2", 10), drawn=True))
        told = as_this_hand_labels([PageReading(marks, 24, "by hand")], NUMBERS)[0]
        self.assertEqual([label_chance(one) > 0.6 for one in told.marks], [True, False])
        self.assertEqual(told.marks[1].candidates, marks[1].candidates)  # it may be the page's number

    def test_the_number_of_the_homework_on_a_cover_names_no_question(self) -> None:
        def likely(opening: str, lines: int = 3) -> bool:
            reading = PageReading((mark("6", 2),), lines, "by hand", opening=opening)
            return label_chance(as_this_hand_labels([reading], NUMBERS)[0].marks[0]) > 0.6

        self.assertFalse(likely("Ilse Marrow\nNo. 30417\n6"))
        self.assertFalse(likely("ilse marrow\nHomework6"))
        self.assertTrue(likely("because of the class\nfor example\n30417 m"))
        self.assertTrue(likely("Ilse Marrow\n6"))  # whoever begins so may have answered 6
        self.assertTrue(likely("Ilse Marrow\nHomework 6\nx = 2"))
        self.assertTrue(likely("Ilse Marrow\nHomework 6", lines=7))

    def test_somebody_who_writes_1a_and_1b_does_not_mean_question_2_by_a_2(self) -> None:
        def doubted(says: str, *labels: str, questions: str = "1a-d, 2a-d", sure: float = 0.999) -> bool:
            marks = (*(mark(one, 4 * at, sure=sure) for at, one in enumerate(labels)), mark(says, 20))
            told = as_this_hand_labels([PageReading(marks, 24, "by hand")], Nodes(parse_question_map(questions)))[0]
            return label_chance(told.marks[-1]) < label_chance(marks[-1])

        self.assertTrue(doubted("2", "1a", "1b", "1c"))
        self.assertTrue(doubted("2", "1.1", "1.2", "1.3", questions="1.1, 1.2, 1.3, 2.1, 2.2"))
        self.assertFalse(doubted("2", "1a", "1b"))  # too few to tell how somebody labels
        self.assertFalse(doubted("2", "1a", "1b", "1c", "d"))
        self.assertFalse(doubted("2", "1a", "1b", "1c", sure=0.1))  # these are none, most probably
        self.assertFalse(doubted("2|2a", "1a", "1b", "1c"))  # the part may have been lost
        self.assertFalse(doubted("2a", "1a", "1b", "1c"))

    def test_two_parts_of_one_line_do_not_stand_above_one_another(self) -> None:
        label = replace(mark("2", 4), line=1)
        beside = replace(label, left=0.2, line=0)
        self.assertEqual(lines_above(PageReading((beside, label), 24, "by hand"), label), 0)
        self.assertEqual(lines_above(PageReading((replace(beside, top=0.1), label), 24, "by hand"), label), 1)

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

    def test_a_page_number_inside_the_writing_keeps_its_number(self) -> None:
        own = replace(mark("7", 0, sure=0.9, hang=-9.0, top=0.03), left=0.9)
        readings = [PageReading((own, mark("1", 4), mark("2", 12)), 24, "by hand")] * 2
        told = as_this_hand_labels(readings, NUMBERS)[0]
        self.assertLess(label_chance(told.marks[0]), label_chance(own))
        self.assertEqual(page_numbers(told), page_numbers(readings[0]))


if __name__ == "__main__":
    unittest.main()
