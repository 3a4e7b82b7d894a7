from __future__ import annotations

import json
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from folio_core.outline import Item, Outline, OutlineError, natural_key, parse_labels, parse_outline

import calm  # noqa: F401 isort: skip

MAP = parse_outline("1a-d, 2a-e, 3, 10")


class ParsingAnOutline(unittest.TestCase):
    def test_ranges_and_lone_questions_come_in_the_order_written(self) -> None:
        self.assertEqual(MAP.labels, ("1a", "1b", "1c", "1d", "2a", "2b", "2c", "2d", "2e", "3", "10"))

    def test_a_range_of_questions(self) -> None:
        self.assertEqual(parse_outline("1-3").labels, ("1", "2", "3"))

    def test_the_same_label_twice_is_refused(self) -> None:
        with self.assertRaises(OutlineError):
            Outline((Item("1", "a"), Item("1", "a")))

    def test_what_is_no_label_is_refused_with_an_example(self) -> None:
        for text in ("", "one", "1a-2c", "a-d"):
            with self.subTest(text), self.assertRaisesRegex(OutlineError, r"1a-d|range"):
                parse_outline(text)


class TypingLabels(unittest.TestCase):
    def test_lines_as_people_type_them(self) -> None:
        """The same file holds the browser's reader to the same answers."""
        table = json.loads((Path(__file__).parent / "typed_labels.json").read_text())
        outline = parse_outline(table["map"])
        for text, labels, unknown in table["lines"]:
            with self.subTest(text):
                typed = parse_labels(text, outline)
                self.assertEqual((list(typed.labels), list(typed.unknown)), (labels, unknown))

    def test_what_is_not_on_the_map_is_said_with_the_nearest(self) -> None:
        typed = parse_labels("2a, 2x", MAP)
        self.assertEqual((typed.labels, typed.unknown), (("2a",), ("2x",)))
        self.assertTrue(set(typed.nearest) <= set(MAP.labels) and typed.nearest)

    @given(st.text(max_size=40))
    def test_any_text_is_read_without_an_error_and_only_into_labels_of_the_map(self, text: str) -> None:
        typed = parse_labels(text, MAP)
        self.assertTrue(set(typed.labels) <= set(MAP.labels))
        self.assertEqual(len(set(typed.labels)), len(typed.labels))

    @given(st.lists(st.sampled_from(MAP.labels), min_size=1, unique=True))
    def test_labels_written_out_are_read_back(self, labels: list[str]) -> None:
        self.assertEqual(parse_labels(", ".join(labels), MAP).labels, tuple(labels))


class NaturalOrder(unittest.TestCase):
    def test_two_comes_before_ten(self) -> None:
        self.assertEqual(sorted(["10", "2b", "2a", "1"], key=natural_key), ["1", "2a", "2b", "10"])
