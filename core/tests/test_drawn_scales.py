"""The numbers along an axis are told from labels."""

from __future__ import annotations

import unittest
from dataclasses import replace

from folio_core.placing.drawn_scales import scale_numbers
from folio_core.placing.folio_evidence import as_this_hand_labels
from folio_core.placing.label_evidence import label_chance
from folio_core.placing.nodes import Nodes
from folio_core.question_map import parse_question_map
from folio_core.reading import Candidate, Mark, PageReading
from folio_core.reading.page_reading import NOTHING_FOLLOWS

from marks import ProposalTest, mark, page  # isort: skip


def number(says: str, left: float, top: float, *, gap: float = NOTHING_FOLLOWS, nothing: float = 0.01) -> Mark:
    return Mark(
        left, top, 0.012 * len(says), 0.012, nothing, (Candidate(says, 0.97),), -1.0, 1.0, round(top * 30), gap=gap
    )  # fmt: skip


def column(*says: str, left: float = 0.15, top: float = 0.3, step: float = 0.03, gap: float = 20.0) -> list[Mark]:
    return [number(one, left, top + step * at, gap=gap) for at, one in enumerate(says)]


def row(*says: str, gap: float = 4.0) -> list[Mark]:
    return [number(one, 0.25 + 0.07 * at, 0.5, gap=gap) for at, one in enumerate(says)]


class ScaleNumbers(unittest.TestCase):
    def test_numbers_that_fall_evenly_down_the_page_are_a_scale(self) -> None:
        self.assertEqual(scale_numbers(column("10", "8", "6", "4", "2")), {0, 1, 2, 3, 4})
        self.assertEqual(scale_numbers(column("1.5", "1.0", "0.5", gap=1.0)), {0, 1, 2})  # whatever is beside them
        self.assertEqual(scale_numbers(column("6", "4")), frozenset())
        self.assertEqual(scale_numbers(column("6", "1", "5")), frozenset())

    def test_numbers_are_one_below_the_other_at_either_end(self) -> None:
        marks = [number("10", 0.138, 0.3), *column("8", "6", left=0.15, top=0.33)]
        self.assertEqual(scale_numbers(marks), {0, 1, 2})
        self.assertEqual(scale_numbers([number("10", 0.05, 0.3), *marks[1:]]), frozenset())

    def test_numbers_that_rise_down_the_page_are_labels_unless_nothing_stands_beside_them(self) -> None:
        self.assertEqual(scale_numbers(column("1", "2", "3", gap=3.0)), frozenset())
        self.assertEqual(scale_numbers(column("0", "5", "10")), {0, 1, 2})

    def test_a_graph_below_a_table_is_a_scale_of_its_own(self) -> None:
        self.assertEqual(scale_numbers([*column("1", "24", "3"), *column("10", "8", "6", top=0.45)]), {3, 4, 5})

    def test_what_stands_between_them_parts_them(self) -> None:
        marks = column("6", "4", "2")
        line = Mark(0.15, 0.345, 0.1, 0.02, 0.999, (), 0.0, 1.0, 11)
        self.assertEqual(scale_numbers([*marks, line]), frozenset())
        self.assertEqual(scale_numbers([*marks, replace(line, left=0.4)]), {0, 1, 2})  # that is within the graph

    def test_numbers_evenly_on_a_line_are_a_scale_if_they_stand_alone(self) -> None:
        self.assertEqual(scale_numbers(row("1", "2", "3", "4")), {0, 1, 2, 3})
        self.assertEqual(scale_numbers(row("1", "2", "3", "4", gap=0.6)), frozenset())  # "1. b   2. c"
        self.assertEqual(scale_numbers(row("4", "3", "2", "1")), frozenset())
        self.assertEqual(scale_numbers(row("1", "2")), frozenset())

    def test_one_of_them_may_be_misread(self) -> None:
        self.assertEqual(scale_numbers(column("10", "8", "5", "4", "2")), {0, 1, 2, 3, 4})
        self.assertEqual(scale_numbers(column("10", "3", "5", "4", "2")), frozenset())

    def test_what_stands_alone_inside_a_graph_is_no_label_either(self) -> None:
        below = number("1", 0.25, 0.39, gap=2.0)
        self.assertEqual(scale_numbers([*column("6", "4", "2"), below]), {0, 1, 2, 3})
        for other in (replace(below, gap=0.5), replace(below, left=0.1), replace(below, top=0.42)):
            self.assertEqual(scale_numbers([*column("6", "4", "2"), other]), {0, 1, 2})

    def test_what_is_probably_nothing_and_what_is_no_number_counts_for_nothing(self) -> None:
        marks = column("6", "4", "2")
        self.assertEqual(scale_numbers([replace(marks[0], nothing=0.6), *marks[1:]]), frozenset())
        for words in (("c", "b", "a"), ("nan", "inf", "1e5"), ("3e2", "2e2", "1e2"), (".", "..", "1.2.3")):
            self.assertEqual(scale_numbers(column(*words)), frozenset())


class Proposals(ProposalTest):
    def test_a_graph_names_no_questions(self) -> None:
        marks = (mark("1", 1, hang=0.0), *column("10", "8", "6", "4", "2"), mark("2", 25, hang=0.0))
        told = as_this_hand_labels([PageReading(marks, 28, "by hand")], Nodes(parse_question_map("1-10")))[0]
        self.assertEqual([label_chance(one) > 0.5 for one in told.marks], [True, *[False] * 5, True])
        drawn = replace(page("1"), reading=PageReading(marks, 28, "by hand"))
        self.assertEqual(self.placed(self.proposal("1-10", drawn)), {"1": [0], "2": [0]})


if __name__ == "__main__":
    unittest.main()
