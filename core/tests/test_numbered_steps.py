"""Numbered steps, told from labels by where the same numbers are labels."""

from __future__ import annotations

import unittest
from dataclasses import replace

from folio_core.placing.numbered_steps import numbered_steps
from folio_core.reading import Mark, PageReading

from marks import mark  # isort: skip

INDENTED = 0.15  # labels made by hand stand at 0.06


def steps(*says: str, left: float = INDENTED, first: int = 10, apart: float = 1) -> list[Mark]:
    return [replace(mark(one, 0, top=(first + apart * at) / 30), left=left) for at, one in enumerate(says)]


class NumberedSteps(unittest.TestCase):
    def found(self, labels: str, *marks: Mark) -> list[int]:
        """The places that number steps, of marks that stand on a page below another one with these labels."""
        readings = [
            PageReading(tuple(mark(one, 6 * at) for at, one in enumerate(labels.split())), 24, "by hand"),
            PageReading(marks, 24, "by hand"),
        ]
        told = numbered_steps(readings, {(0, at) for at, _ in enumerate(readings[0].marks)})
        self.assertEqual({page for page, _ in told} - {1}, set())
        return sorted(at for _, at in told)

    def test_indented_ones_are_where_one_of_their_numbers_is_a_label_further_left(self) -> None:
        self.assertEqual(self.found("1", *steps("1", "2", "3")), [0, 1, 2])
        self.assertEqual(self.found("1a 1b", *steps("1", "2")), [0, 1])
        self.assertEqual(self.found("1", *steps("1", "2", "3", left=0.08)), [])
        self.assertEqual(self.found("4 5", *steps("1", "2", "3")), [])  # then they may be short answers

    def test_those_that_are_not_indented_are_where_all_but_one_are_labels_elsewhere(self) -> None:
        self.assertEqual(self.found("1 2", *steps("1", "2", "3", left=0.06)), [0, 1, 2])
        self.assertEqual(self.found("1", *steps("1", "2", "3", left=0.06)), [])
        self.assertEqual(self.found("1", *steps("1", "2", left=0.06)), [])

    def test_they_begin_with_one_and_follow_each_other_soon_and_below_one_another(self) -> None:
        self.assertEqual(self.found("1 2", *steps("2", "3", "4")), [])
        self.assertEqual(self.found("1 2", *steps("1")), [])
        self.assertEqual(self.found("1 2", *steps("1", "3", "4")), [])
        self.assertEqual(self.found("1 2", *steps("1", "2", apart=4)), [])
        one, two = steps("1", "2")
        self.assertEqual(self.found("1 2", one, replace(two, left=0.3)), [])

    def test_what_stands_between_them_does_not_part_them(self) -> None:
        one, two = steps("1", "2", apart=2)
        self.assertEqual(self.found("1 2", one, replace(mark("7", 0, top=11 / 30), left=INDENTED), two), [0, 2])

    def test_a_number_may_be_read_two_ways_but_must_not_be_nothing(self) -> None:
        self.assertEqual(self.found("1 2", *steps("7|1", "2~")), [0, 1])
        self.assertEqual(self.found("1 2", *steps("7|4|9|5|1", "2")), [])
        one, two = steps("1", "2")
        self.assertEqual(self.found("1 2", one, replace(two, nothing=0.95)), [])

    def test_of_two_runs_the_indented_one_numbers_steps(self) -> None:
        answers, inside = PageReading(tuple(steps("1", "2", "3", left=0.06))), PageReading(tuple(steps("1", "2")))
        labels = {(0, 0), (0, 1), (0, 2), (1, 0), (1, 1)}
        self.assertEqual(numbered_steps([answers, inside], labels), {(1, 0), (1, 1)})
        aligned = PageReading(tuple(steps("1", "2", left=0.06)))
        self.assertEqual(numbered_steps([answers, aligned], labels), set())


if __name__ == "__main__":
    unittest.main()
