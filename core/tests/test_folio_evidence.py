"""What a whole folio shows of its marks: which of them are hardly labels."""

from __future__ import annotations

import unittest
from dataclasses import replace

from folio_core.placing.folio_evidence import as_this_hand_labels
from folio_core.placing.label_evidence import label_chance, page_numbers
from folio_core.placing.nodes import Nodes
from folio_core.question_map import parse_question_map
from folio_core.reading import PageReading

from marks import mark  # isort: skip

NUMBERS = Nodes(parse_question_map("1-9"))


class FolioEvidence(unittest.TestCase):
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

    def test_a_page_number_inside_the_writing_keeps_its_number(self) -> None:
        own = replace(mark("7", 0, sure=0.9, hang=-9.0, top=0.03), left=0.9)
        readings = [PageReading((own, mark("1", 4), mark("2", 12)), 24, "by hand")] * 2
        told = as_this_hand_labels(readings, NUMBERS)[0]
        self.assertLess(label_chance(told.marks[0]), label_chance(own))
        self.assertEqual(page_numbers(told), page_numbers(readings[0]))

    def test_what_stands_beside_a_name_at_the_head_of_a_page_is_no_label(self) -> None:
        def likely(header: str, top: float = 0.02) -> bool:
            number = replace(mark("5", 0, top=top), left=0.4)
            told = as_this_hand_labels([PageReading((number,), 24, "by hand", header=header)], NUMBERS)[0]
            return label_chance(told.marks[0]) > 0.6

        for header in ("Ilse Marrow 30417 Set 5", "I. Marrow 5", "1. Marrow 2/3", "MARROW NAV 231", "llse Marrow"):
            self.assertFalse(likely(header), header)
        for header in ("Problem 5", "Question 5a Since", "1. Since the ship", "Q5 Since", "5a) x = 3", ""):
            self.assertTrue(likely(header), header)
        self.assertTrue(likely("Ilse Marrow", top=0.1))

    def test_numbered_steps_are_no_labels(self) -> None:
        labels = PageReading((mark("1", 0), mark("2", 12)), 24, "by hand")
        steps = [replace(mark(str(at), 4 + at, hang=0.0), left=0.15) for at in (1, 2, 3)]
        answer = PageReading((mark("3", 0), *steps, mark("4", 16)), 24, "by hand")
        told = as_this_hand_labels([labels, answer], NUMBERS)
        self.assertEqual([label_chance(one) > 0.6 for one in told[0].marks], [True, True])
        self.assertEqual([label_chance(one) > 0.6 for one in told[1].marks], [True, False, False, False, True])

    def test_numbers_that_are_parts_of_the_map_are_steps_only_where_labels_are_written_whole(self) -> None:
        parts = [replace(mark(str(at), 4 + at, hang=0.0), left=0.15) for at in (1, 2, 3)]
        for labels, likely in (("1 2", True), ("1.1 1.2 2.1 2.2", False)):
            first = PageReading(tuple(mark(one, 6 * at) for at, one in enumerate(labels.split())), 24, "by hand")
            nodes = Nodes(parse_question_map("1.1, 1.2, 2.1, 2.2, 2.3"))
            told = as_this_hand_labels([first, PageReading(tuple(parts), 24, "by hand")], nodes)[1]
            self.assertEqual([label_chance(one) > 0.6 for one in told.marks], [likely] * 3)


if __name__ == "__main__":
    unittest.main()
