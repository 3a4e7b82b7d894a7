"""The simulated camera tells the truth about its photographs, and the same seed gives the same picture."""

from __future__ import annotations

import io
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
from PIL import ExifTags, Image

from folio_camera.film import FPS, film, flags
from folio_camera.handwriting import HANDS, SHEET_SIZE, Style, write_sheet
from folio_camera.photograph import Photograph, photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles, noon_sight, rule_of_twelfths
from folio_camera.surfaces import DESKS
from folio_core.page.straighten import homography

from camera_shots import sheet, shot  # isort: skip

TINY = (756, 1008)


def upright(photo: Photograph) -> np.ndarray:
    image = Image.open(io.BytesIO(photo.jpeg))
    return np.asarray(image)


class Writing(unittest.TestCase):
    def test_every_hand_writes_an_answer_of_each_set(self) -> None:
        for hand in HANDS:
            answers = [of_a_set[0] for of_a_set in (great_circles(), noon_sight(), rule_of_twelfths())]
            with self.subTest(hand=hand):
                written = write_sheet(answers, Style(hand=hand), 1)
                self.assertGreater(np.count_nonzero(written.ink), 10_000)

    def test_each_label_stands_in_the_margin_at_the_height_that_is_said(self) -> None:
        written = sheet()
        width, height = SHEET_SIZE
        margin = written.ink[:, : width // 8]
        for at in written.labels:
            rows = slice(round(at.top * height), round(at.top * height) + height // 30)
            self.assertTrue(margin[rows].any(), at.label)
        self.assertEqual([at.label for at in written.labels], ["1a", "1b", "2a"])

    def test_what_does_not_fit_is_an_error(self) -> None:
        with self.assertRaisesRegex(ValueError, "does not fit"):
            write_sheet(great_circles() * 2, Style(), 1)

    def test_ink_is_darker_than_paper_exactly_where_the_truth_says(self) -> None:
        written = sheet()
        grey = written.pixels.mean(axis=2)
        self.assertLess(grey[written.ink].mean() + 80, grey[~written.ink].mean())


class Photographing(unittest.TestCase):
    def test_the_same_seed_gives_the_same_bytes_and_another_does_not(self) -> None:
        scene = Scene(size=TINY)
        first, again, other = (photograph(sheet(), scene, seed) for seed in (1, 1, 2))
        self.assertEqual(first.jpeg, again.jpeg)
        self.assertNotEqual(first.jpeg, other.jpeg)

    def test_the_corners_lie_inside_the_picture_on_every_desk(self) -> None:
        for number, desk in enumerate(DESKS):
            for tilt in (0, 0.3, 0.6):
                scene = Scene(desk=desk, size=TINY, tilt=tilt, rotation_deg=10, fill=0.7)
                corners = np.array(shot(scene, number).corners)
                with self.subTest(desk=desk, tilt=tilt):
                    self.assertGreater(corners.min(), 0)
                    self.assertTrue((corners < TINY).all())

    def test_the_true_corners_lead_back_to_the_sheet(self) -> None:
        """Undone by the true homography, the photograph shows the sheet's own ink where the mask has it."""
        photo = shot(Scene(size=(1512, 2016), light=0.1, rotation_deg=6, tilt=0.3))
        size = (SHEET_SIZE[0] // 2, SHEET_SIZE[1] // 2)
        flat = cv2.warpPerspective(upright(photo), homography(photo.corners, *size), size).mean(axis=2)
        ink = cv2.resize(photo.ink.astype(np.uint8), size, interpolation=cv2.INTER_AREA) > 0
        self.assertLess(flat[ink].mean() + 30, np.median(flat[~ink]))

    def test_a_quarter_turned_sheet_says_how_to_turn_it_back(self) -> None:
        for turns, wanted in ((0, 0), (1, 270), (2, 180), (3, 90)):
            self.assertEqual(shot(Scene(size=TINY, quarter_turns=turns)).turn, wanted)

    def test_the_exif_says_how_the_phone_was_held_and_when(self) -> None:
        from datetime import UTC, datetime

        photo = shot(Scene(size=TINY, exif_orientation=6, taken=datetime(2026, 11, 23, 15, 41, tzinfo=UTC)))
        image = Image.open(io.BytesIO(photo.jpeg))
        self.assertEqual(image.size, (TINY[1], TINY[0]))
        self.assertEqual(image.getexif()[ExifTags.Base.Orientation], 6)
        self.assertEqual(image.getexif()[ExifTags.Base.DateTime], "2026:11:23 15:41:00")

    def test_a_hands_shadow_and_blur_do_what_they_say(self) -> None:
        plain, dark, soft = (upright(shot(Scene(size=TINY, light=0, noise=0, **more))).astype(int) for more in (
            {}, {"hand_shadow": True}, {"blur_sigma_px": 6},
        ))  # fmt: skip
        self.assertLess(dark.mean(), plain.mean() - 4)
        sharpness = [cv2.Laplacian(one.astype(np.uint8), cv2.CV_64F).var() for one in (soft, plain)]
        self.assertLess(sharpness[0], sharpness[1] / 4)


class AFilm(unittest.TestCase):
    """Judged by FFmpeg, as OpenCV brings it: it reads back what a y4m file holds."""

    def test_each_picture_is_shown_for_its_seconds_upright_and_in_its_colour(self) -> None:
        pictures = []
        for colour in ((200, 40, 40), (40, 40, 200)):
            out = io.BytesIO()
            Image.new("RGB", (80, 60), colour).save(out, "PNG")
            pictures.append(out.getvalue())
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "film.y4m"
            path.write_bytes(b"".join(film(pictures, seconds_each=2, size=(64, 48))))
            reel = cv2.VideoCapture(str(path))
            frames = []
            while (read := reel.read())[0]:
                frames.append(read[1])
        self.assertEqual(len(frames), 2 * 2 * FPS)
        self.assertEqual(frames[0].shape, (48, 64, 3))
        for frame, expected in ((frames[0], (40, 40, 200)), (frames[-1], (200, 40, 40))):  # OpenCV's order: B, G, R
            np.testing.assert_allclose(frame[24, 32], expected, atol=12)

    def test_chromium_is_told_where_it_lies(self) -> None:
        self.assertIn("--use-file-for-fake-video-capture=/tmp/a.y4m", flags("/tmp/a.y4m"))
