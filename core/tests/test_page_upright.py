"""The writing itself says which way up a page belongs; when it does not say, the page stays as it came."""

from __future__ import annotations

import io
import unittest

import cv2
import numpy as np
from PIL import Image
from skimage import data as skimage_data

from folio_camera import pictures, trials
from folio_camera.handwriting import HANDS, Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles, noon_sight
from folio_core.page import Advice, Prepared, Recipe, prepare

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
                if Advice.TURN_UNSURE not in [finding.code for finding in page.advice]:
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
