from __future__ import annotations

import json
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from folio_core.answers import Answering, AnswerKind, Choice
from folio_core.placing import (
    Arrangement,
    BadArrangement,
    Placement,
    added_at_the_close,
    is_answered,
    placed_since,
    read_arrangement,
    readiness,
    write_arrangement,
)
from folio_core.placing.arrangement import SCALES
from folio_core.question_map import Question, QuestionMap, parse_question_map

import calm  # noqa: F401 isort: skip

MAP = parse_question_map("1a-b, 2, 3")


def arrangement(**more: object) -> Arrangement:
    return Arrangement(**{"order": (10, 11, 12), **more})  # type: ignore[arg-type]


class Invariants(unittest.TestCase):
    def test_a_contradiction_is_refused_when_it_is_made(self) -> None:
        contradictions: dict[str, dict[str, object]] = {
            "twice in the order": {"order": (10, 10)},
            "not in the order": {"loose": frozenset({99})},
            "twice on one page": {"placements": {"1a": (Placement(10), Placement(10, 0.5))}},
            "both placed and left blank": {"placements": {"1a": (Placement(10),)}, "left_blank": frozenset({"1a"})},
            "sides written": {"sides": -1},
            "at most 2000": {"notes": {10: "x" * 501}},
            "Page 99": {"notes": {99: "x"}},
            "loose page has": {"placements": {"1a": (Placement(10),)}, "loose": frozenset({10})},
        }
        for words, fields in contradictions.items():
            with self.subTest(words), self.assertRaisesRegex(BadArrangement, words):
                arrangement(**fields)

    def test_an_answer_begins_on_its_page(self) -> None:
        with self.assertRaises(BadArrangement):
            Placement(10, 1.2)

    def test_it_must_name_exactly_the_pages_of_the_folio_and_labels_of_the_map(self) -> None:
        arrangement().require_fits(MAP, [12, 11, 10])
        with self.assertRaisesRegex(BadArrangement, "every page"):
            arrangement().require_fits(MAP, [10, 11])
        with self.assertRaisesRegex(BadArrangement, "not on the question map"):
            arrangement(placements={"9z": (Placement(10),)}).require_fits(MAP, [10, 11, 12])

    def test_what_left_the_map_is_left_out(self) -> None:
        said = {"1a": (Placement(10),), "9z": (Placement(11),)}
        kept = arrangement(placements=said, left_blank=frozenset({"2", "8"})).kept_to(MAP)
        self.assertEqual((set(kept.placements), kept.left_blank), ({"1a"}, {"2"}))
        kept.require_fits(MAP, [10, 11, 12])

    def test_what_was_said_of_a_question_that_left_the_map_is_kept_beside_a_new_arrangement(self) -> None:
        stored = arrangement(placements={"9z": (Placement(11, 0.3), Placement(12))}, left_blank=frozenset({"8"}))
        sent = arrangement(placements={"1a": (Placement(10),)}, loose=frozenset({12}))
        kept = sent.with_hidden_of(stored, MAP)
        self.assertEqual(kept.placements, {"1a": (Placement(10),), "9z": (Placement(11, 0.3),)})
        self.assertEqual((kept.left_blank, kept.kept_to(MAP)), (frozenset({"8"}), sent))


class Pages(unittest.TestCase):
    def test_a_removed_page_takes_its_placements_out_of_count_and_keeps_them(self) -> None:
        removed = arrangement(placements={"1a": (Placement(11),)}, removed=frozenset({11}))
        self.assertEqual(removed.pages, (10, 12))
        self.assertEqual(removed.placed_questions, frozenset())
        self.assertEqual(removed.placements["1a"], (Placement(11),))

    def test_an_answer_on_several_pages_comes_in_page_order(self) -> None:
        spread = arrangement(placements={"2": (Placement(12), Placement(10, 0.5))})
        self.assertEqual([spot.page for spot in spread.pages_of("2")], [10, 12])

    def test_pages_of_a_file_come_in_after_its_first(self) -> None:
        self.assertEqual(arrangement().with_pages_after(10, (20, 21)).order, (10, 20, 21, 11, 12))
        self.assertEqual(arrangement().with_pages_after(None, (20,)).order, (10, 11, 12, 20))

    def test_a_page_that_proved_to_be_none_leaves_nothing_behind(self) -> None:
        left = arrangement(placements={"1a": (Placement(11), Placement(10))}, removed=frozenset({11})).without_page(11)
        self.assertEqual(left.order, (10, 12))
        self.assertEqual(left.placements, {"1a": (Placement(10),)})


class Readiness(unittest.TestCase):
    def test_what_is_open_is_neither_placed_nor_blank_and_a_page_neither_placed_nor_loose(self) -> None:
        ready = readiness(
            arrangement(placements={"1a": (Placement(10),)}, left_blank=frozenset({"2"}), loose=frozenset({12})), MAP
        )
        self.assertEqual((ready.open_questions, ready.open_pages), (("1b", "3"), (11,)))
        self.assertEqual((ready.answered, ready.questions), (2, 4))


PAGES = st.integers(1, 8)
LABELS = st.sampled_from(MAP.labels)
TYPED = st.text(st.characters(exclude_categories=["Cc", "Cs"]) | st.sampled_from("\n\t"), min_size=1, max_size=9)


@st.composite
def arrangements(draw: st.DrawFn) -> Arrangement:
    """Any arrangement that does not contradict itself."""
    order = tuple(draw(st.lists(PAGES, unique=True, min_size=1)))
    here = st.sampled_from(order)
    placed = draw(st.dictionaries(LABELS, st.lists(here, unique=True, min_size=1), max_size=4))
    taken = {page for row in placed.values() for page in row}
    return Arrangement(
        order=order,
        removed=draw(st.frozensets(here)),
        loose=draw(st.frozensets(here)) - taken,
        placements={label: tuple(Placement(page, draw(st.none() | st.floats(0, 1))) for page in row)
                    for label, row in placed.items()},
        left_blank=draw(st.frozensets(LABELS)) - placed.keys(),
        notes=draw(st.dictionaries(here, TYPED, max_size=2)),
        descriptions=draw(st.dictionaries(here, TYPED, max_size=2)),
        scales=draw(st.dictionaries(here, st.sampled_from(SCALES), max_size=2)),
    )  # fmt: skip


def asked_in_ways(text: str, kinds: dict[str, list[str]]) -> QuestionMap:
    """A map typed short, some of whose questions are answered in another way than on pages."""
    plain, choices = parse_question_map(text), (Choice("a", "one"), Choice("b", "another"))

    def asked(question: Question) -> Question:
        if question.id not in kinds:
            return question
        return replace(question, answering=Answering(tuple(map(AnswerKind, kinds[question.id])), choices=choices))

    return QuestionMap(tuple(asked(one) for one in plain.questions), plain.groups)


class Answered(unittest.TestCase):
    def test_examples_that_the_browser_is_held_to_as_well(self) -> None:
        table = json.loads((Path(__file__).parent / "readiness.json").read_text())
        for example in table:
            with self.subTest(example["why"]):
                question_map = asked_in_ways(example["map"], example.get("kinds", {}))
                said, on_screen = read_arrangement(example["arrangement"]), example.get("given", {})
                answered = [one.id for one in question_map.questions if is_answered(said, one, on_screen)]
                self.assertEqual(answered, example["answered"])
                ready = readiness(said, question_map, on_screen)
                self.assertEqual(list(ready.open_pages), example["open_pages"])
                if "open" in example:
                    self.assertEqual(list(ready.open_questions), example["open"])
                    self.assertEqual([ready.answered, ready.questions], example["settled"])


class AnyArrangement(unittest.TestCase):
    def test_control_characters_that_no_keyboard_writes_are_left_out(self) -> None:
        kept = read_arrangement({"order": [1], "comment": "a\x00b\n\x1fc", "notes": {"1": "\x08see\tabove"}})
        self.assertEqual((kept.comment, kept.notes), ("ab\nc", {1: "see\tabove"}))

    @given(arrangements())
    def test_what_is_written_is_read_back(self, any_: Arrangement) -> None:
        self.assertEqual(read_arrangement(json.loads(json.dumps(write_arrangement(any_)))), any_)

    @given(arrangements())
    def test_every_label_is_open_placed_or_left_blank_and_only_one_of_them(self, any_: Arrangement) -> None:
        ready = readiness(any_, MAP)
        states = [set(ready.open_questions), set(any_.placed_questions), set(any_.left_blank)]
        self.assertEqual(sum(map(len, states)), len(MAP.labels))
        self.assertEqual(set().union(*states), set(MAP.labels))
        self.assertEqual(ready.answered + len(ready.open_questions), ready.questions)

    @given(arrangements())
    def test_every_page_is_open_placed_loose_or_removed(self, any_: Arrangement) -> None:
        ready = readiness(any_, MAP)
        seen = set(ready.open_pages) | any_.placed_pages | (any_.loose - any_.removed) | any_.removed
        self.assertEqual(seen, set(any_.order))
        self.assertFalse(set(ready.open_pages) & any_.placed_pages)

    @given(arrangements(), st.lists(st.integers(20, 30), unique=True, max_size=4))
    def test_new_pages_change_nothing_that_was_there(self, any_: Arrangement, new: list[int]) -> None:
        grown = any_.with_pages_after(any_.order[0], tuple(new))
        self.assertEqual(tuple(page for page in grown.order if page < 20), any_.order)
        self.assertEqual((grown.placements, grown.left_blank), (any_.placements, any_.left_blank))

    @given(arrangements(), arrangements())
    def test_the_close_takes_nothing_away(self, handed_in: Arrangement, board: Arrangement) -> None:
        closed = added_at_the_close(handed_in, board)
        self.assertTrue(set(handed_in.pages) <= set(closed.pages) <= set(handed_in.pages) | set(board.pages))
        self.assertEqual([page for page in closed.pages if page in handed_in.pages], list(handed_in.pages))
        self.assertTrue(set(board.pages) <= set(closed.pages))
        for question in handed_in.placed_questions:
            before = {spot.page for spot in handed_in.pages_of(question)}
            self.assertTrue(before <= {spot.page for spot in closed.pages_of(question)})

    @given(arrangements(), arrangements(), st.sampled_from((added_at_the_close, placed_since)))
    def test_what_closes_leaves_handed_in_pages_as_they_look(
        self, handed_in: Arrangement, board: Arrangement, merged: Callable[[Arrangement, Arrangement], Arrangement]
    ) -> None:
        closed = merged(handed_in, board)
        for page in closed.pages:
            by = handed_in if page in handed_in.pages else board
            self.assertEqual(
                (closed.recipes.get(page), closed.scales.get(page)), (by.recipes.get(page), by.scales.get(page))
            )

    @given(arrangements())
    def test_a_replacement_given_up_changes_nothing(self, handed_in: Arrangement) -> None:
        given_up = replace(handed_in, removed=frozenset(handed_in.order))
        self.assertEqual(added_at_the_close(handed_in, given_up).pages, handed_in.pages)

    @given(arrangements())
    def test_when_placing_ends_the_boards_word_counts(self, board: Arrangement) -> None:
        handed_in = Arrangement(order=board.pages)
        self.assertEqual(placed_since(handed_in, board).placed_questions, board.placed_questions)

    @given(arrangements())
    def test_a_page_taken_out_is_nowhere_and_the_others_stay(self, any_: Arrangement) -> None:
        gone = any_.order[0]
        rest = any_.without_page(gone)
        named = set(rest.order) | rest.removed | rest.loose | set(rest.notes) | set(rest.scales)
        named |= {spot.page for row in rest.placements.values() for spot in row}
        self.assertNotIn(gone, named)
        self.assertEqual(rest.order, any_.order[1:])
        rest.require_fits(MAP, any_.order[1:])
