"""What differs from what was handed in, and what of it the close hands in by itself."""

from __future__ import annotations

import unittest

from folio_core.page import Recipe, Tone
from folio_core.placing import Arrangement, Changed, Placement, changed_since
from folio_core.question_map import Question, QuestionMap

MAP = QuestionMap(tuple(Question(label) for label in ("1a", "1b", "2", "3", "4", "5", "6")))


def laid(*order: int, **more: object) -> Arrangement:
    return Arrangement(order=order, **more)  # type: ignore[arg-type]


class ChangedSince(unittest.TestCase):
    def since(self, frozen: Arrangement, board: Arrangement) -> Changed:
        found = changed_since(frozen, board, MAP)
        assert found is not None
        return found

    def test_what_the_reader_does_not_see_is_no_change(self) -> None:
        frozen = laid(1, 2, 3, removed=frozenset({3}), placements={"2": (Placement(1),)})
        same = laid(
            1, 2, 3, 4, removed=frozenset({3, 4}), placements={"2": (Placement(1), Placement(4))}, sides=2,
            recipes={2: Recipe()}, dismissed={1: frozenset({"blurred"})}, notes={3: "a word"},
        )  # fmt: skip
        self.assertIsNone(changed_since(frozen, same, MAP))
        self.assertIsNone(changed_since(frozen, frozen, MAP))

    def test_a_page_that_came_is_handed_in_by_itself_and_one_that_went_is_not_taken_away(self) -> None:
        found = self.since(laid(1, 2), laid(1, 3, 2, removed=frozenset({2})))
        self.assertEqual(found.what, ("1 page added", "1 page removed"))
        self.assertEqual(found.by_itself, ("1 page added",))
        self.assertEqual(found.left_out, ("1 page removed",))

    def test_another_order_and_a_correction_count_only_when_handed_in(self) -> None:
        found = self.since(laid(1, 2), laid(2, 1, recipes={2: Recipe(turn=90, tone=Tone.CLEAN)}))
        self.assertEqual(found.what, ("another order", "1 page corrected"))
        self.assertEqual((found.by_itself, found.left_out), ((), found.what))

    def test_places_and_words_are_taken_when_placing_ends(self) -> None:
        board = laid(1, 2, placements={"1a": (Placement(1, 0.2),)}, left_blank=frozenset({"3"}), comment="see page 2")
        found = self.since(laid(1, 2), board)
        self.assertEqual(found.what, ("1a, 3 placed otherwise", "another word to the reader"))
        self.assertEqual((found.by_itself, found.left_out), (found.what, ()))

    def test_where_an_answer_begins_counts_and_many_questions_are_counted(self) -> None:
        frozen = laid(1, placements={"2": (Placement(1, 0.1),)})
        lower = laid(1, placements={"2": (Placement(1, 0.5),)})
        self.assertEqual(self.since(frozen, lower).what, ("2 placed otherwise",))
        all_of_it = {question.id: (Placement(1),) for question in MAP.questions}
        self.assertEqual(self.since(laid(1), laid(1, placements=all_of_it)).what, ("7 questions placed otherwise",))
        self.assertEqual(self.since(laid(1), laid(1, loose=frozenset({1}))).what, ("loose pages",))


if __name__ == "__main__":
    unittest.main()
