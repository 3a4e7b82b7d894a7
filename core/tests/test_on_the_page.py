"""How marks stand to the rest of their page, and where on it is drawn."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.light import writing_of
from folio_core.reading import Mark
from folio_core.reading.drawings import drawings_of
from folio_core.reading.finding import Found, Start
from folio_core.reading.on_the_page import on_the_page

DIGIT, PITCH = 20.0, 50.0
NONE = np.empty((0, 4))
Boxes = NDArray[np.float64]


def start(left: float, line: int, *, gap: float = 0.0, first: bool = True) -> Start:
    return Start(left, left + 30, 100 + PITCH * line, 120 + PITCH * line, line, first, gap)


def stand(starts: list[Start], drawings: Boxes = NONE, *, labels: tuple[int, ...] = (), lines: int = 30) -> list[Mark]:
    """The marks of these starts, of which only ``labels`` may be labels."""
    marks = [Mark(0.1, 0.1, 0.02, 0.02, 0.01 if at in labels else 0.99, ()) for at in range(len(starts))]
    return on_the_page(marks, Found(tuple(starts), DIGIT, PITCH, lines), drawings)


class OnThePage(unittest.TestCase):
    def test_a_label_hangs_by_so_many_digits_left_of_where_the_lines_begin(self) -> None:
        made = stand([start(100, 0), *[start(200, line) for line in range(1, 6)]], labels=(0,))
        self.assertEqual([one.hang for one in made], [5.0] + [0.0] * 5)
        many = stand(
            [*[start(100, line) for line in range(4)], *[start(200, 9 + at) for at in range(3)]], labels=(0, 1, 2, 3)
        )
        self.assertEqual([one.hang for one in many], [5.0] * 4 + [0.0] * 3)

    def test_a_second_column_has_an_edge_of_its_own(self) -> None:
        first = [start(100, line) for line in range(5)]
        second = [start(600, 30 + line) for line in range(1, 5)]
        made = stand([*first, start(540, 30), *second], labels=(5,))
        self.assertEqual(made[5].hang, 3.0)
        # Lines of the other column are none of its own, and those that begin anywhere are no edge.
        other = stand([*first, start(540, 29), *second], labels=(5,))
        ragged = [start(560 + 45 * at, 31 + at) for at in range(3)]
        anywhere = stand([*first, start(540, 30), *ragged], labels=(5,))
        for one in (other[5], anywhere[5]):
            self.assertLess(one.hang, -10)

    def test_the_space_above_is_that_to_the_line_above(self) -> None:
        made = stand([start(100, 0), start(100, 1), start(100, 4), start(900, 5)])
        self.assertEqual([one.space for one in made], [3.0, 1.0, 3.0, 3.0])

    def test_what_stands_within_a_drawing_is_told(self) -> None:
        table = np.array([[90.0, 180.0, 400.0, 330.0]])
        made = stand([start(100, line) for line in range(7)], table)
        self.assertEqual([one.drawn for one in made], [False, False, True, True, True, False, False])
        self.assertFalse(stand([start(80, 2), start(410, 3)], table)[0].drawn)

    def test_a_ring_around_a_label_is_no_drawing(self) -> None:
        lines = [start(200, line) for line in range(6)]
        ring = np.array([[90.0, 180.0, 170.0, 260.0]])
        self.assertFalse(stand([*lines, start(110, 2)], ring, labels=(6,))[-1].drawn)
        for more in (np.array([[0.0, -30, 0, 0]]), np.array([[0.0, 0, 60, 0]])):  # high; around the line beside it too
            self.assertTrue(stand([*lines, start(110, 2)], ring + more, labels=(6,))[-1].drawn)

    def test_lines_of_a_table_are_no_edge_of_the_writing(self) -> None:
        table = np.array([[90.0, 180.0, 400.0, 330.0]])
        made = stand([start(200, 0), *[start(100, line) for line in (2, 3, 4)], start(200, 6)], table)
        self.assertEqual([one.hang for one in made if not one.drawn], [0.0, 0.0])

    def test_what_stands_alone_beside_a_figure_names_a_part_of_it(self) -> None:
        figure = np.array([[300.0, 180.0, 500.0, 400.0]])
        lines = [start(100, line) for line in range(8)]
        for corner, told in (
            (start(270, 5, gap=np.inf), True),
            (start(270, 5, gap=2 * DIGIT), False),  # a line of writing goes on beside it
            (start(250, 5, gap=np.inf), False),  # too far away
            (start(120, 5, gap=np.inf), False),  # at the edge of the writing
        ):
            self.assertEqual(stand([*lines, corner], figure)[-1].drawn, told, corner)
        label = start(100, 3, gap=np.inf)  # its answer is the figure
        close = np.array([[120.0, 180.0, 500.0, 400.0]])
        self.assertFalse(stand([*lines, label], close)[-1].drawn)


class Drawings(unittest.TestCase):
    PEN, PALE = (40, 40, 90), (205, 220, 240)

    def page(self) -> NDArray[np.uint8]:
        page = np.full((1600, 1130, 3), 252, np.uint8)
        page += np.random.default_rng(5).integers(-3, 1, page.shape).astype(np.uint8)
        for line in range(10):
            for at in range(20):
                x, y = 160 + 24 * at, 200 + 60 * line
                cv2.rectangle(page, (x, y), (x + 12, y + 20), self.PEN, 2)
        return page

    def drawings(self, page: NDArray[np.uint8]) -> list[list[int]]:
        """In tens of pixels, without half of the pen's width."""
        inner = drawings_of(writing_of(page), DIGIT) + np.array([4, 4, -4, -4])
        return [[round(side / 10) for side in box] for box in inner]

    def grid(self, page: NDArray[np.uint8], pen: tuple[int, int, int], far: int = 600) -> None:
        for x in range(200, far + 1, 100):
            cv2.line(page, (x, 900), (x, 1100), pen, 3)
        for y in range(900, 1101, 100):
            cv2.line(page, (200, y), (far, y), pen, 3)

    def test_writing_alone_is_no_drawing(self) -> None:
        self.assertEqual(self.drawings(self.page()), [])

    def test_the_grid_of_a_table_is_one_and_so_are_a_circle_and_the_axes_of_a_graph(self) -> None:
        page = self.page()
        self.grid(page, self.PEN)
        self.assertEqual(self.drawings(page), [[20, 90, 60, 110]])
        page = self.page()
        cv2.circle(page, (600, 1200), 200, self.PEN, 3)
        self.assertEqual(self.drawings(page), [[40, 100, 80, 140]])
        page = self.page()
        cv2.line(page, (300, 900), (300, 1300), self.PEN, 3)
        cv2.line(page, (300, 1300), (800, 1300), self.PEN, 3)
        self.assertEqual(self.drawings(page), [[30, 90, 80, 130]])

    def test_letters_of_lines_that_touch_are_none(self) -> None:
        page = self.page()
        for x in range(160, 616, 24):
            for y in range(200, 680, 60):  # descenders as far as the next line, and strokes from letter to letter
                cv2.line(page, (x, y + 20), (x + 14, y + 60), self.PEN, 2)
                cv2.line(page, (x + 12, y + 4), (x + 24, y + 16), self.PEN, 2)
        cv2.line(page, (160, 214), (240, 214), self.PEN, 2)  # one straight stroke
        self.assertEqual(self.drawings(page), [])

    def test_a_table_of_two_low_rows_is_one_and_a_box_around_a_label_is_not(self) -> None:
        page = self.page()
        for x in range(200, 601, 100):
            cv2.line(page, (x, 900), (x, 954), self.PEN, 3)
        for y in (900, 927, 954):
            cv2.line(page, (200, y), (600, y), self.PEN, 3)
        self.assertEqual(self.drawings(page), [[20, 90, 60, 96]])
        page = self.page()
        cv2.rectangle(page, (200, 900), (260, 954), self.PEN, 3)
        self.assertEqual(self.drawings(page), [])

    def test_printed_rules_are_none_for_they_are_pale_or_go_all_over_the_page(self) -> None:
        page = self.page()
        self.grid(page, self.PALE)
        self.assertEqual(self.drawings(page), [])
        page = self.page()
        for y in (905, 985):
            cv2.line(page, (0, y), (1129, y), self.PEN, 3)
        cv2.line(page, (140, 905), (140, 985), self.PEN, 3)
        self.assertEqual(self.drawings(page), [])

    def test_what_goes_around_most_of_the_page_is_none(self) -> None:
        page = self.page()
        cv2.ellipse(page, (565, 800), (520, 760), 0, 0, 360, self.PEN, 3)
        self.assertEqual(self.drawings(page), [])

    def test_where_squares_are_printed_as_dark_as_the_writing_rules_tell_nothing(self) -> None:
        page = self.page()
        for y in range(30, 1580, 50):
            cv2.line(page, (60, y), (900, y), self.PEN, 2)  # not quite to the edge
        for x in range(60, 901, 50):
            cv2.line(page, (x, 30), (x, 700), self.PEN, 2)
        self.assertEqual(self.drawings(page), [])


if __name__ == "__main__":
    unittest.main()
