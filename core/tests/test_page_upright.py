"""The writing itself says which way up a page belongs; when it does not say, the page stays as it came."""

from __future__ import annotations

import io
import unittest
from unittest import mock

import cv2
import numpy as np
from PIL import Image
from skimage import data as skimage_data

from folio_camera import pictures, trials
from folio_camera.handwriting import HANDS, Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles, noon_sight
from folio_core.page import Advice, Prepared, Recipe, limits, prepare
from folio_core.page.light import writing_of
from folio_core.page.upright import chances_of, lines, upright
from folio_core.page.upright.evidence import Along, Evidence

from camera_shots import SMALL, shot  # isort: skip


def codes(page: Prepared) -> set[Advice]:
    return {finding.code for finding in page.advice}


def png(pixels: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


class QuarterTurns(unittest.TestCase):
    def test_every_hand_is_set_upright_from_every_side(self) -> None:
        for number, hand in enumerate(HANDS):
            written = write_sheet(
                noon_sight()[:5], Style(hand=hand, paper=("ruled", "squared", "plain")[number % 3]), 3
            )
            turns = number % 4
            page = prepare(photograph(written, Scene(size=SMALL, quarter_turns=turns), number).jpeg)
            with self.subTest(hand=hand, turns=turns):
                self.assertEqual(page.turn, -turns % 4 * 90)
                self.assertGreater(page.image_height, page.image_width)

    def test_scikit_images_printed_text_is_left_upright_and_set_upright(self) -> None:
        """skimage.data.text: a shipped photograph of printed words."""
        text = np.stack([skimage_data.text()] * 3, axis=2)
        for turns in range(4):
            with self.subTest(turns):
                page = prepare(png(np.ascontiguousarray(np.rot90(text, -turns))))
                self.assertIn(page.turn, (-turns % 4 * 90, 0))
                if not codes(page) & {Advice.TURN_UNSURE, Advice.MOTION_BLUR}:  # a blurred page is to be taken again
                    self.assertEqual(page.turn, -turns % 4 * 90)

    def test_a_folded_corner_is_not_taken_for_writing(self) -> None:
        """A tuning photograph: what shows under the corner, at the foot, spoke for turning the page over."""
        self.assertEqual(prepare(trials.make("around: dog-eared corner", 6_018_006).data).turn, 0)

    def test_writing_at_the_foot_of_a_page_is_not_turned_over(self) -> None:
        """Most writing begins at the top; where it does not, the words themselves must say more."""
        written = write_sheet(noon_sight()[:2], Style(hand="kalam", paper="plain"), 3)
        rows = np.flatnonzero(written.ink.any(axis=1))
        below = written.pixels.shape[0] - rows[-1] - 60
        page = prepare(pictures.jpeg(np.roll(written.pixels, below, axis=0)))
        self.assertEqual(page.turn, 0)

    def test_a_grid_that_shows_through_a_scan_does_not_turn_two_lines_of_writing(self) -> None:
        """Broken lines of squared paper gather more sharply than so little ink; what a reader makes of it decides."""
        for number in range(4):
            written = write_sheet(
                noon_sight()[2 * number : 2 * number + 1], Style(hand="indie", paper="squared"), number
            )
            for turns in (0, 1):
                scan = np.ascontiguousarray(np.rot90(written.pixels, -turns))
                page = prepare(pictures.jpeg(scan))
                with self.subTest(number, turns=turns):
                    self.assertEqual(page.turn, -turns % 4 * 90)

    def test_where_nothing_else_tells_lines_run_along_the_shorter_side(self) -> None:
        nothing = Along(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
        for portrait, likelier in ((True, (0, 2)), (False, (1, 3))):
            chances = chances_of(Evidence(0.0, portrait, nothing, nothing).table(), limits.TURN_WEIGHTS)
            self.assertGreater(min(chances[list(likelier)]), 0.4)
        unknown = chances_of(Evidence(0.0, None, nothing, nothing).table(), limits.TURN_WEIGHTS)
        self.assertEqual(list(unknown), [0.25] * 4)

    def test_what_is_plain_against_the_sheets_shape_is_read_in_all_four_ways(self) -> None:
        nothing = Along(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
        blank = np.full((1200, 848), 255, np.uint8)
        for gathered, asked in ((9.0, False), (-9.0, True)):
            stands = Along(6.0, 0.2, 0.2, 0.1, 8.0, 0.0, 0.0)
            seen = Evidence(gathered, True, *((stands, nothing) if gathered > 0 else (nothing, stands)))
            with (
                mock.patch("folio_core.page.upright.evidence_of", return_value=seen),
                mock.patch("folio_core.page.upright.lines.read", return_value=np.zeros((4, 3))) as read,
            ):
                upright(blank, blank)
            self.assertEqual([list(call.args[2]) for call in read.call_args_list], [[True] * 4] if asked else [])

    def test_without_the_sheets_edges_a_turn_must_be_surer_to_be_told(self) -> None:
        nothing = Along(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
        blank = np.full((1200, 848), 255, np.uint8)
        for sure, found, expected in ((0.95, True, (90, True)), (0.95, False, (0, False)), (0.99, False, (90, True))):
            chances = np.array([1 - sure, sure, 0.0, 0.0])
            with (
                self.subTest(sure, found=found),
                mock.patch("folio_core.page.upright.evidence_of", return_value=Evidence(0.0, None, nothing, nothing)),
                mock.patch("folio_core.page.upright.lines.read", return_value=np.zeros((4, 3))),
                mock.patch("folio_core.page.upright.chances_of", return_value=chances),
            ):
                told = upright(blank, blank, shape_known=found)
                self.assertEqual((told.turn, told.told), expected)

    def test_a_reader_makes_more_of_lines_that_stand_the_right_way_up(self) -> None:
        written = write_sheet(noon_sight()[:3], Style(hand="kalam", paper="plain"), 3)
        writing = writing_of(
            np.asarray(cv2.resize(written.pixels, (848, 1200), interpolation=cv2.INTER_AREA), np.uint8)
        )
        told = lines.read(writing.grey, writing.ink, np.array([True, True, True, False]))
        self.assertTrue((told[0] > told[2]).all() and (told[0] > told[1]).all())
        self.assertEqual(list(told[3]), [0, 0, 0])  # was not asked for

    def test_what_a_person_said_is_not_overruled(self) -> None:
        truth = shot(Scene(size=SMALL, quarter_turns=2))
        self.assertEqual(prepare(truth.jpeg, recipe=Recipe(turn=90)).turn, 90)

    def test_a_page_with_two_dots_stays_as_it_came_with_a_word(self) -> None:
        blank = write_sheet((), Style(paper="plain"), 1)
        page = prepare(photograph(blank, Scene(size=SMALL, quarter_turns=1), 1).jpeg)
        self.assertEqual(page.turn, 0)
        self.assertEqual(codes(page), {Advice.NEARLY_EMPTY})


class Lean(unittest.TestCase):
    def test_a_scan_that_lies_askew_is_set_straight(self) -> None:
        """Measured from outside: the angle of the ruled lines in the result, by OpenCV's Hough transform."""
        written = write_sheet(great_circles()[:3], Style(paper="ruled"), 2)
        height, width = written.pixels.shape[:2]
        for degrees in (-1.5, 1.0):
            askew = cv2.getRotationMatrix2D((width / 2, height / 2), degrees, 1.0)
            pixels = cv2.warpAffine(written.pixels, askew, (width, height), borderMode=cv2.BORDER_REPLICATE)
            page = prepare(pictures.jpeg(np.asarray(pixels, np.uint8)), recipe=Recipe())
            grey = cv2.imdecode(np.frombuffer(page.image, np.uint8), cv2.IMREAD_GRAYSCALE)
            edges = cv2.threshold(grey, 245, 255, cv2.THRESH_BINARY_INV)[1]
            lines = cv2.HoughLines(edges, 1, np.pi / 1440, 400, min_theta=1.4, max_theta=1.75)
            with self.subTest(degrees):
                self.assertTrue(page.sheet.fills)
                self.assertIsNotNone(lines)
                lean = np.degrees(np.median(lines[:20, 0, 1])) - 90
                self.assertLess(abs(lean), 0.3)
