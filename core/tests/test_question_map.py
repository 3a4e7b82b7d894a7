from __future__ import annotations

import json
import unittest
from dataclasses import replace
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from folio_core.labels import ROMAN, BadLabel, join_levels, natural_key, parse_labels, split_label
from folio_core.question_map import (
    Group,
    Question,
    QuestionMap,
    QuestionMapError,
    map_in_short,
    parse_question_map,
)

import calm  # noqa: F401 isort: skip

MAP = parse_question_map("1a-d, 2a-e, 3, 10")
_NUMBERS = st.integers(1, 199).map(str)
_PATHS = st.one_of(
    st.tuples(_NUMBERS),
    st.tuples(_NUMBERS, st.sampled_from("abcdefgh")),
    st.tuples(_NUMBERS, st.sampled_from(ROMAN)),
    st.tuples(_NUMBERS, st.sampled_from("abcdefgh"), st.sampled_from(ROMAN)),
    st.tuples(_NUMBERS, _NUMBERS, st.sampled_from("abcdefgh")),
)


class Labels(unittest.TestCase):
    def test_a_label_is_a_path_of_levels(self) -> None:
        paths = {
            "2": ("2",), "2b": ("2", "b"), "2B": ("2", "b"), "2(b)": ("2", "b"), "2ii": ("2", "ii"),
            "1aii": ("1", "a", "ii"),
            "1(a)(ii)": ("1", "a", "ii"), "1a(ii)": ("1", "a", "ii"), "1.1a": ("1", "1", "a"), "11a": ("11", "a"),
            "5.12": ("5", "12"), "3iva": ("3", "iv", "a"),
        }  # fmt: skip
        for text, levels in paths.items():
            with self.subTest(text):
                self.assertEqual(split_label(text), levels)

    def test_what_is_no_label_is_refused(self) -> None:
        for text in ("", "a", "0", "01", "1.0", "2abc", "²", "٣", "1a1", "2()", "(b)2", "1.2.3.4a", "2 - 3", "12345"):
            with self.subTest(text), self.assertRaises(BadLabel):
                split_label(text)

    @given(_PATHS)
    def test_a_path_is_written_so_that_it_is_read_back(self, path: tuple[str, ...]) -> None:
        self.assertEqual(split_label(join_levels(path)), path)


class ParsingAMap(unittest.TestCase):
    def test_ranges_and_lone_questions_come_in_the_order_written(self) -> None:
        self.assertEqual(MAP.labels, ("1a", "1b", "1c", "1d", "2a", "2b", "2c", "2d", "2e", "3", "10"))

    def test_ranges_of_questions_of_roman_parts_and_of_dotted_questions(self) -> None:
        written = {
            "1-3": ("1", "2", "3"),
            "2i-iv": ("2i", "2ii", "2iii", "2iv"),
            "1ai-iii, 1b": ("1ai", "1aii", "1aiii", "1b"),
            "1.1-1.3": ("1.1", "1.2", "1.3"),
            "373a-c, 377": ("373a", "373b", "373c", "377"),
            "1a-1c": ("1a", "1b", "1c"),
        }
        for text, labels in written.items():
            with self.subTest(text):
                self.assertEqual(parse_question_map(text).labels, labels)

    def test_the_same_label_twice_is_refused(self) -> None:
        for questions in (
            (Question("1a"), Question("1A", id="other")),
            (Question("1a", "same"), Question("1b", "same")),
        ):
            with self.subTest(questions), self.assertRaises(QuestionMapError):
                QuestionMap(questions)

    def test_a_question_beside_its_own_parts_is_refused(self) -> None:
        for text in ("1, 1a", "1a, 1ai", "1.1, 1"):
            with self.subTest(text), self.assertRaisesRegex(QuestionMapError, "Keep one"):
                parse_question_map(text)

    def test_what_is_no_label_is_refused_with_an_example(self) -> None:
        found_by_fuzzing = "1Zi-m"
        for text in ("", "one", "1a-2c", "a-d", "1a-", "3-1", "1d-a", "1-d", found_by_fuzzing):
            with self.subTest(text), self.assertRaisesRegex(QuestionMapError, r"1a-d|range"):
                parse_question_map(text)

    def test_a_question_of_an_unknown_group_is_refused(self) -> None:
        with self.assertRaises(QuestionMapError):
            QuestionMap((Question("1", group="g"),))

    def test_any_three_of_five_and_a_bonus(self) -> None:
        text = "1a(i)-(iii), any 3 of (2-5, 6a(i)), bonus (7)"
        read = parse_question_map(text)
        self.assertEqual(read.labels, ("1ai", "1aii", "1aiii", "2", "3", "4", "5", "6ai", "7"))
        self.assertEqual([group.choose for group in read.groups], [3, 0])
        self.assertEqual([one.group for one in read.questions[-3:]], ["1", "1", "2"])
        self.assertEqual(parse_question_map(map_in_short(read)), read)

    def test_a_group_that_leaves_no_choice_is_refused(self) -> None:
        for text in ("any 3 of (1-3)", "any 4 of (1-3)", "any 0 of (1-3)", "any 2 of ()", "bonus ()", "any 2 of (1-3"):
            with self.subTest(text), self.assertRaises(QuestionMapError):
                parse_question_map(text)

    def test_points_of_a_group_are_those_of_its_best_and_a_bonus_adds_none(self) -> None:
        points = {"1": 10.0, "2": 4.0, "3": 6.0, "4": 5.0, "5": 7.0}
        read = parse_question_map("1, any 2 of (2-4), bonus (5)")
        with_points = QuestionMap(tuple(replace(one, points=points[one.label]) for one in read.questions), read.groups)
        self.assertEqual(with_points.points, 10 + 6 + 5)

    def test_what_is_kept_of_a_map_is_read_back(self) -> None:
        kept = QuestionMap((Question("1a", "17", "the arc", 4.5, "g"), Question("2", "18")), (Group("g", 1),))
        self.assertEqual(QuestionMap.from_document(json.loads(json.dumps(kept.as_document()))), kept)


class TypingLabels(unittest.TestCase):
    def test_lines_as_people_type_them(self) -> None:
        """The same file holds the browser's reader to the same answers."""
        tables = json.loads((Path(__file__).parent / "typed_labels.json").read_text())
        for table in tables:
            labels_of_map = parse_question_map(table["map"]).labels
            for text, labels, unknown in table["lines"]:
                with self.subTest(map=table["map"], text=text):
                    typed = parse_labels(text, labels_of_map)
                    self.assertEqual((list(typed.labels), list(typed.unknown)), (labels, unknown))

    def test_what_is_not_on_the_map_is_said_with_the_nearest(self) -> None:
        typed = parse_labels("2a, 2x", MAP.labels)
        self.assertEqual((typed.labels, typed.unknown), (("2a",), ("2x",)))
        self.assertTrue(set(typed.nearest) <= set(MAP.labels) and typed.nearest)

    @given(st.text(max_size=40))
    def test_any_text_is_read_without_an_error_and_only_into_labels_of_the_map(self, text: str) -> None:
        typed = parse_labels(text, MAP.labels)
        self.assertTrue(set(typed.labels) <= set(MAP.labels))
        self.assertEqual(len(set(typed.labels)), len(typed.labels))

    @given(st.lists(st.sampled_from(MAP.labels), min_size=1, unique=True))
    def test_labels_written_out_are_read_back(self, labels: list[str]) -> None:
        self.assertEqual(parse_labels(", ".join(labels), MAP.labels).labels, tuple(labels))

    @given(st.lists(_PATHS, min_size=1, max_size=6, unique=True))
    def test_a_label_of_any_map_typed_whole_is_that_label(self, paths: list[tuple[str, ...]]) -> None:
        labels = [join_levels(path) for path in paths]
        for label in labels:
            self.assertEqual(parse_labels(label, labels).labels, (label,))


class NaturalOrder(unittest.TestCase):
    def test_two_comes_before_ten(self) -> None:
        self.assertEqual(sorted(["10", "2b", "2a", "1"], key=natural_key), ["1", "2a", "2b", "10"])
