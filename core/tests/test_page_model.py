"""How labels are taken: parts without their number, dots that were lost, questions out of their place."""

from __future__ import annotations

import unittest

from folio_core.placing.page_evidence import PageEvidence
from folio_core.placing.proposal import SAID
from folio_core.reading import Mark, PageReading

from marks import ProposalTest, mark, page  # isort: skip


class HowLabelsAreTaken(ProposalTest):
    def test_a_number_alone_opens_the_parts_that_follow_it(self) -> None:
        made = self.proposal("1a-b, 2a-b", page("1", "a", "b", "2", "a", "b"))
        self.assertEqual(self.placed(made), {"1a": [0], "1b": [0], "2a": [0], "2b": [0]})

    def test_a_number_alone_is_not_its_first_part_where_another_part_follows(self) -> None:
        made = self.proposal("1a-b, 2a-c", page("1a", "b", "2", "b", "c"))
        self.assertEqual(self.placed(made), {"1a": [0], "1b": [0], "2b": [0], "2c": [0]})
        self.assertEqual(set(made.missing), {"2a"})

    def test_a_number_alone_is_not_followed_by_a_label_that_repeats_it(self) -> None:
        work = [Mark(0.12, line / 30, 0.1, 0.02, 0.999, (), 0.0, 1.0, line) for line in range(3, 10)]
        marks = (mark("2", 2, sure=0.97, hang=0.5), *work, mark("2a", 12))
        made = self.proposal(
            "1a-b, 2a-b", page("1a", "1b"), PageEvidence(PageReading(marks, 24, "by hand")), known=True
        )
        self.assertEqual(self.placed(made)["1b"], [0, 1])  # "2 x = …" is no number alone: 1b runs on

    def test_a_dot_that_was_lost_is_not_missed_unless_the_map_has_the_number_without_it(self) -> None:
        made = self.proposal("1.1, 1.2, 1.3", page("11", "12", "1.3"))
        self.assertEqual(self.placed(made), {"1.1": [0], "1.2": [0], "1.3": [0]})
        made = self.proposal("1.1, 11", page("1.1", "11"))
        tops = [one.top for one in made.places if one.question == "11"]
        self.assertGreater(tops[0] or 0, 0.3)

    def test_what_follows_a_label_on_its_line_and_was_read_with_it_is_left_out(self) -> None:
        for says in ("2b6", "2b.1"):
            made = self.proposal("1a-b, 2a-b, 3", page("1a", "1b", "2a", says, "3"))
            self.assertEqual(self.placed(made).get("2b"), [0], says)
        for says in ("2b6", "26"):  # question 2 has no part; another question
            self.assertNotIn("2", self.placed(self.proposal("1, 2, 3", page("1", says, "3"))))

    def test_a_question_out_of_its_place_is_placed_though_it_is_not_read_plainly(self) -> None:
        made = self.proposal("1a-c, 2a-c", page("1a", "1b", "1c", "2a", "2c|20|2e|2", "2b"))
        self.assertEqual(self.placed(made)["2c"], [0])
        self.assertEqual(len(made.places), 6)

    def test_one_question_out_of_its_place_is_placed_where_it_stands(self) -> None:
        """After it one goes on where one was: two jumps would be less likely than a label that is none."""
        made = self.proposal("1a-d, 2a-c, 3", page("1b", "1c", "1d", "1a", "2a", "2b"), page("2c", "3"))
        self.assertEqual(self.placed(made)["1a"], [0])
        self.assertGreater(next(one.confidence for one in made.places if one.question == "1a"), 0.6)

    def test_a_part_alone_is_a_letter_sooner_than_a_number(self) -> None:
        """Below 1.2 a line that begins with 3 is hardly 1.3; below 1b a "c" is 1c."""
        for parts, said in (("abcd", True), (".1 .2 .3 .4", False)):
            names = [f"1{part}" for part in (parts.split() if "." in parts else parts)]
            alone = mark(names[2].lstrip("1."), 20, sure=0.7)
            first = PageEvidence(PageReading((*page(*names[:2]).reading.marks, alone), 24, "by hand"))
            made = self.proposal(", ".join(names), first, page(*names[2:]), known=True)
            third = [one.page for one in made.places if one.question == names[2] and one.confidence >= SAID]
            self.assertEqual(third, [0, 1] if said else [1])

    def test_what_is_followed_by_a_doubtful_label_only_is_not_passed_over(self) -> None:
        """2a stands alone in the middle of its page: its answer runs on to the next, and not 1b's."""
        doubtful = mark("x", 18, sure=0.8, hang=-0.5)
        third = PageEvidence(PageReading((*page("2a", begins=8).reading.marks, doubtful), 24, "by hand"))
        made = self.proposal(
            "1a-d, 2a-c, 3", page("1a"), page("1b"), third, page("1c", begins=10), page("1d", "2b"), known=True
        )
        self.assertEqual(self.placed(made)["2a"], [2, 3])

    def test_a_question_out_of_its_place_may_be_the_last_of_its_page_where_nothing_runs_on(self) -> None:
        made = self.proposal("1-9", page("1", "2", "7"), page("3", "4"), known=True)
        self.assertEqual(self.placed(made)["7"], [0])
        self.assertGreater(next(one.confidence for one in made.places if one.question == "7"), 0.9)
        made = self.proposal("1a-d, 2a-c", page("1a", "1b", "2a"), page("1c", "1d", "2b", begins=10), known=True)
        self.assertEqual(self.placed(made)["2a"], [0, 1])
        self.assertEqual(self.placed(made)["1b"], [0])


if __name__ == "__main__":
    unittest.main()
