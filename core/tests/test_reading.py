"""Finding where lines begin, spelling out what a network says, and keeping what was read."""

from __future__ import annotations

import itertools
import json
import unittest
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.light import writing_of
from folio_core.reading import Candidate, Mark, PageReading
from folio_core.reading.crops import ALPHABET, BLANK, CROP_HEIGHT, CROP_WIDTH
from folio_core.reading.decoding import chance_of_nothing, spellings
from folio_core.reading.engine import NetworkEngine, NullEngine, usual_engine
from folio_core.reading.finding import crop, find_starts
from folio_core.reading.looks import look_of
from folio_core.reading.page_reading import NOTHING_FOLLOWS, PageLook


def sheet() -> NDArray[np.uint8]:
    return np.zeros((1600, 1130), np.uint8)


def word(ink: NDArray[np.uint8], x: int, y: int, letters: int = 4, high: int = 22) -> None:
    """Strokes like letters, ``high`` pixels high, on a base line at ``y``."""
    for at in range(letters):
        cv2.rectangle(ink, (x + 16 * at, y - high), (x + 16 * at + 10, y), 255, 2)


class Finding(unittest.TestCase):
    def page(self) -> NDArray[np.uint8]:
        ink = sheet()
        for line in range(6):
            word(ink, 200, 200 + 60 * line, 20)
        word(ink, 80, 200, 2)
        word(ink, 80, 380, 2)
        return ink

    def test_a_label_in_the_margin_begins_its_line_and_the_text_after_a_gap_is_a_start_too(self) -> None:
        found = find_starts(self.page())
        self.assertEqual(found.lines, 6)
        firsts = [(round(one.left), one.line) for one in found.starts if one.first]
        self.assertEqual(firsts, [(79, 0), (199, 1), (199, 2), (79, 3), (199, 4), (199, 5)])
        self.assertEqual([one.line for one in found.starts if not one.first], [0, 3])
        self.assertAlmostEqual(found.pitch, 60, delta=2)

    def test_how_far_from_its_first_word_a_line_goes_on(self) -> None:
        ink = self.page()
        word(ink, 300, 700, 2)
        gaps = {(round(one.left), one.line): one.gap for one in find_starts(ink).starts}
        self.assertAlmostEqual(gaps[79, 0], 92, delta=3)
        self.assertEqual(gaps[199, 1], 0)  # a long word
        self.assertEqual(gaps[299, 6], np.inf)

    def test_a_line_that_begins_with_an_equals_sign_begins_there(self) -> None:
        ink = self.page()
        word(ink, 200, 700, 5)
        for y in (685, 693):
            cv2.line(ink, (176, y), (190, y), 255, 2)
        start = next(one for one in find_starts(ink).starts if one.top > 640)
        self.assertAlmostEqual(start.left, 175, delta=2)
        self.assertGreater(start.bottom - start.top, 15)  # the line's height is not that of the dashes

    def test_specks_the_edge_of_the_sheet_and_drawings_begin_no_line(self) -> None:
        ink = self.page()
        before = len(find_starts(ink).starts)
        cv2.circle(ink, (600, 1200), 200, 255, 3)
        ink[1000:1003, 50:52] = 255
        ink[:, :1] = 255
        self.assertEqual(len(find_starts(ink).starts), before)

    def test_lines_that_rise_are_followed(self) -> None:
        ink = sheet()
        for line in range(4):
            for at in range(12):
                word(ink, 100 + 70 * at, 300 + 70 * line - 3 * at, 3)
        self.assertEqual(find_starts(ink).lines, 4)

    def test_a_second_column_is_read_after_the_first(self) -> None:
        ink = sheet()
        for line in range(8):
            word(ink, 120, 200 + 60 * line, 12)
            word(ink, 640, 200 + 60 * line, 12)
        found = find_starts(ink)
        lefts = [round(one.left / 100) for one in found.starts]
        self.assertEqual(lefts, [1] * 8 + [6] * 8)
        self.assertEqual(len({one.line for one in found.starts}), 16)
        self.assertEqual([one.line for one in found.starts], sorted(one.line for one in found.starts))

    def test_a_label_of_the_second_column_is_a_start_though_the_first_column_comes_close(self) -> None:
        ink = sheet()
        for line in range(8):
            word(ink, 120, 200 + 60 * line, 4)
            word(ink, 200, 200 + 60 * line, 18)  # ends at 482
            word(ink, 640, 200 + 60 * line, 12)
        word(ink, 504, 320, 4)  # a word's gap after that, and a wide one before its own answer
        word(ink, 504, 500, 4)
        found = find_starts(ink)
        labels = [(round(one.top / 60), one.first) for one in found.starts if abs(one.left - 504) < 3]
        self.assertEqual(labels, [(5, True), (8, True)])
        self.assertGreaterEqual(next(one.line for one in found.starts if abs(one.left - 504) < 3), found.lines)

    def test_words_of_one_column_begin_no_line(self) -> None:
        ink = sheet()
        for line in range(8):
            word(ink, 80, 200 + 60 * line, 2)
            word(ink, 128, 200 + 60 * line, 1)  # the label's last sign
            word(ink, 240, 200 + 60 * line, 12)
        self.assertEqual({round(one.left / 10) for one in find_starts(ink).starts}, {8, 24})

    def test_how_far_down_is_written_counts_drawings_and_no_page_number(self) -> None:
        for drawn, foot in (
            ((), 500),
            (("page number",), 500),
            (("long last line",), 1200),
            (("drawing",), 1400),
            (("long rule",), 500),
            (("margin rule",), 500),
        ):
            ink = self.page()
            if "page number" in drawn:
                word(ink, 560, 1560, 2)
            if "long last line" in drawn:
                word(ink, 200, 1200, 20)
            if "drawing" in drawn:
                cv2.circle(ink, (600, 1200), 200, 255, 3)
            if "margin rule" in drawn:
                cv2.line(ink, (150, 100), (150, 1500), 255, 3)
            if "long rule" in drawn:
                cv2.line(ink, (200, 1300), (1000, 1300), 255, 3)
            self.assertAlmostEqual(find_starts(ink).foot, foot, delta=4, msg=str(drawn))

    def test_of_two_columns_the_second_one_says_how_far_down_is_written(self) -> None:
        ink = sheet()
        for line in range(14):
            word(ink, 120, 200 + 60 * line, 12)
            if line < 8:
                word(ink, 640, 200 + 60 * line, 12)
        self.assertAlmostEqual(find_starts(ink).foot, 620, delta=4)

    def test_an_empty_page_has_no_start(self) -> None:
        self.assertEqual(find_starts(sheet()).starts, ())

    def test_a_crop_holds_the_start_at_its_left_whatever_the_size_of_the_writing(self) -> None:
        for high in (14, 22, 44):
            ink = sheet()
            for line in range(4):
                word(ink, 300, 300 + 4 * high * line, 8, high)
            found = find_starts(ink)
            cut = crop(np.asarray(255 - ink), found.starts[0], found.digit)
            self.assertEqual(cut.shape, (CROP_HEIGHT, CROP_WIDTH))
            columns, rows = np.flatnonzero(cut.max(0) > 120), np.flatnonzero(cut.max(1) > 120)
            self.assertLess(columns[0], 16)
            self.assertTrue(12 <= rows[-1] - rows[0] <= 30, (high, rows[0], rows[-1]))


def steps(*rows: dict[str, float]) -> NDArray[np.float32]:
    """Log probabilities of each step; what is not named is blank."""
    said = np.full((len(rows), BLANK + 1), 1e-9)
    for at, row in enumerate(rows):
        for sign, share in row.items():
            said[at, ALPHABET.index(sign)] = share
        said[at, BLANK] = 1 - sum(row.values())
    return np.log(said).astype(np.float32)


class Decoding(unittest.TestCase):
    ROWS = ({"2": 0.6, "1": 0.1}, {"2": 0.3, "b": 0.3}, {"b": 0.5}, {"b": 0.2, "2": 0.1})

    def test_probabilities_are_those_of_all_ways_through_the_steps(self) -> None:
        """Graves, Fernández, Gomez, Schmidhuber (2006): a text's probability is the sum over all paths that collapse
        to it. Summed here path by path."""
        wanted: dict[str, float] = {}
        signs = "12b-"
        for path in itertools.product(signs, repeat=len(self.ROWS)):
            share = 1.0
            for sign, row in zip(path, self.ROWS, strict=True):
                share *= row.get(sign, 0.0) if sign != "-" else 1 - sum(row.values())
            text = "".join(sign for sign, _ in itertools.groupby(path)).replace("-", "")
            wanted[text] = wanted.get(text, 0.0) + share
        found = dict(spellings(steps(*self.ROWS)))
        for text in sorted(wanted, key=lambda one: -wanted[one])[:5]:
            self.assertAlmostEqual(found[text], wanted[text], places=4)

    def test_a_sign_twice_needs_a_blank_between(self) -> None:
        self.assertEqual(spellings(steps({"1": 0.99}, {"1": 0.99}))[0][0], "1")
        self.assertEqual(spellings(steps({"1": 0.99}, {}, {"1": 0.99}))[0][0], "11")

    def test_nothing_is_all_blanks(self) -> None:
        self.assertAlmostEqual(float(chance_of_nothing(steps(*self.ROWS)[None])[0]), 0.3 * 0.4 * 0.5 * 0.7, places=5)


class Looks(unittest.TestCase):
    """The colour of the ink and the ruling of the paper, from pages as they are prepared."""

    def look(self, pen: tuple[int, int, int], ruling: str) -> PageLook | None:
        page = np.full((1600, 1130, 3), 255, np.uint8)
        page += np.random.default_rng(3).integers(-3, 1, page.shape).astype(np.uint8)
        for y in range(100, 1550, 44) if ruling != "plain" else ():
            page[y : y + 2] = (205, 225, 245)
        for x in range(20, 1110, 44) if ruling == "squared" else ():
            page[:, x : x + 2] = (205, 225, 245)
        ink = sheet()
        for line in range(12):
            word(ink, 200, 200 + 60 * line, 20)
        page[ink > 0] = pen
        return look_of(page, writing_of(page))

    def test_the_pen_and_the_paper_are_told(self) -> None:
        for ruling in ("plain", "ruled", "squared"):
            for pen, taken in (
                ((30, 30, 34), (1.0, 1.0, 0.98)), ((30, 50, 140), (1.0, 0.91, 0.51)), ((190, 30, 30), (0.29, 1.0, 1.0)),
            ):  # fmt: skip
                look = self.look(pen, ruling)
                assert look is not None
                self.assertEqual(look.ruling, ruling)
                for mine, wanted in zip(look.ink, taken, strict=True):
                    self.assertAlmostEqual(mine, wanted, delta=0.05)

    def test_of_a_page_with_next_to_nothing_on_it_nothing_is_told(self) -> None:
        page = np.full((1600, 1130, 3), 250, np.uint8)
        self.assertIsNone(look_of(page, writing_of(page)))


class Engines(unittest.TestCase):
    def test_what_was_read_can_be_kept_and_read_again(self) -> None:
        made = Mark(0.1, 0.2, 0.05, 0.02, 0.03, (Candidate("2b", 0.9), Candidate("26", 0.05)), 2.5, 1.5, 4, 0.7, True)
        reading = PageReading((made,), 12, "by hand", look=PageLook((1.0, 0.8, 0.55), "ruled"), opening="so that")
        for one in (reading, replace(reading, room=3.25)):
            self.assertEqual(PageReading.from_document(json.loads(json.dumps(one.as_document()))), one)
        older = {key: value for key, value in reading.as_document().items() if key != "room"}
        self.assertIsNone(PageReading.from_document(older).room)
        older["marks"] = [{**mark, "at": mark["at"][:3]} for mark in older["marks"]]
        self.assertEqual(PageReading.from_document(older).marks, (replace(made, gap=0.0, drawn=False),))

    def test_what_a_page_has_in_a_table_is_told_and_what_follows_on_a_line(self) -> None:
        page = np.full((1600, 1130, 3), 252, np.uint8)
        ink = sheet()
        for line in range(10):
            word(ink, 200, 200 + 60 * line, 12)
        word(ink, 80, 200, 2)
        for x in (200, 320, 440):
            cv2.line(ink, (x, 1000), (x, 1120), 255, 3)
            word(ink, min(x, 320) + 40, 1040, 2)
        for y in (1000, 1060, 1120):
            cv2.line(ink, (200, y), (440, y), 255, 3)
        page[ink > 0] = (40, 40, 90)
        reading = usual_engine().read(page)
        marks = reading.marks
        self.assertEqual(PageReading.from_document(json.loads(json.dumps(reading.as_document()))).lines, reading.lines)
        self.assertEqual({one.drawn for one in marks if one.top < 0.5}, {False})
        self.assertEqual([one.drawn for one in marks if one.top > 0.62], [True, True])
        self.assertEqual(marks[-1].gap, NOTHING_FOLLOWS)

    def test_what_may_be_a_label_is_read_at_three_sizes_and_their_mean_counts(self) -> None:
        class Says(NetworkEngine):
            """Of the first crop "2", looked at again "3"; of all others nothing."""

            looked: list[int] = []

            def _signs(self, crops: NDArray[np.uint8]) -> NDArray[np.float32]:
                self.looked.append(len(crops))
                label = {"2": 0.9} if len(self.looked) == 1 else {"3": 0.9}
                return np.stack([steps(label if at == 0 else {"5": 1e-6}) for at in range(len(crops))])

        ink = sheet()
        for line in range(6):
            word(ink, 200, 200 + 60 * line, 20)
        engine = Says()
        first, *others = engine.read(cv2.cvtColor(np.asarray(255 - ink), cv2.COLOR_GRAY2RGB)).marks
        self.assertEqual(engine.looked, [6, 1, 1])
        self.assertEqual([one.text for one in first.candidates], ["3", "2"])
        for one, wanted in zip((*first.candidates, first.nothing), (0.6, 0.3, 0.1), strict=True):
            self.assertAlmostEqual(one if isinstance(one, float) else one.probability, wanted, places=3)
        self.assertTrue(all(one.candidates == () for one in others))

    def test_without_a_reader_nothing_is_read(self) -> None:
        self.assertEqual(NullEngine().read(np.full((400, 300, 3), 255, np.uint8)).marks, ())

    def test_labels_in_the_margin_are_read(self) -> None:
        """Printed by OpenCV's own stroke font, which is in no training data."""
        page = np.full((2339, 1654, 3), 255, np.uint8)
        labels = ("1", "2", "3a", "3b", "4")
        for at, label in enumerate(labels):
            y = 250 + 380 * at
            cv2.putText(page, f"{label})", (90, y), cv2.FONT_HERSHEY_SIMPLEX, 1.5, (40, 30, 30), 3, cv2.LINE_AA)
            for line in range(4):
                text = ("so the course is", "then we have x", "hence the speed", "by the rule of sines")[line]
                place = (260, y + 80 * line)
                cv2.putText(page, text, place, cv2.FONT_HERSHEY_SIMPLEX, 1.3, (40, 30, 30), 3, cv2.LINE_AA)
        reading = usual_engine().read(page)
        read = [mark.candidates[0].text for mark in reading.marks if mark.nothing < 0.5]
        self.assertEqual(tuple(read), labels)
        self.assertEqual(reading.lines, 20)
        self.assertEqual(reading.header, "")
        self.assertAlmostEqual(reading.room or 0, (2339 - 2010) / 80, delta=0.5)

    def test_name_and_number_at_the_head_are_read(self) -> None:
        page = np.full((2339, 1654, 3), 255, np.uint8)
        work = [("1) the course is", 400), *(("then we have", 480 + 80 * at) for at in range(7))]
        for text, y in (("Ilse Marrow 30417", 90), *work):
            cv2.putText(page, text, (200, y), cv2.FONT_HERSHEY_SIMPLEX, 1.5, (40, 30, 30), 3, cv2.LINE_AA)
        read = usual_engine().read(page)
        self.assertIn("30417", read.header)
        self.assertEqual(read.opening, "")  # it stands too low for a heading

    def test_the_first_line_below_the_head_is_read_where_it_may_be_a_heading(self) -> None:
        page = np.full((2339, 1654, 3), 255, np.uint8)
        work = [("1) the course is", 400), *(("then we have", 480 + 80 * at) for at in range(7))]
        lines = [(text, 200, y) for text, y in work]
        for text, x, y in (("so that x = 40", 300, 212), ("(8)", 1400, 184), *lines):
            cv2.putText(page, text, (x, y), cv2.FONT_HERSHEY_SIMPLEX, 1.5, (40, 30, 30), 3, cv2.LINE_AA)
        self.assertRegex(usual_engine().read(page).opening, r"^so ?that ?x ?= ?40")

    def test_a_short_page_is_read_whole(self) -> None:
        page = np.full((2339, 1654, 3), 255, np.uint8)
        for text, y in (("so that x = 40", 420), ("then we have", 520)):
            cv2.putText(page, text, (200, y), cv2.FONT_HERSHEY_SIMPLEX, 1.5, (40, 30, 30), 3, cv2.LINE_AA)
        self.assertRegex(usual_engine().read(page).opening, r"^so ?that ?x ?= ?40\nthen ?we ?have$")

    def test_an_empty_page_and_a_very_small_one_are_read_as_nothing(self) -> None:
        for size in ((2339, 1654, 3), (20, 30, 3)):
            self.assertEqual(usual_engine().read(np.full(size, 255, np.uint8)).marks, ())


if __name__ == "__main__":
    unittest.main()
