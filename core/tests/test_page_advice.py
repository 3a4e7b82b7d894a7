"""The measures follow what the camera did, and advice is raised when it should and only then."""

from __future__ import annotations

import io
import unittest
from dataclasses import replace

import numpy as np
from PIL import Image

from folio_camera.photograph import Scene
from folio_core.page import WORDS, Advice, Prepared, Recipe, Tone, prepare

from camera_shots import SMALL, TWELVE, shot  # isort: skip

PLAIN = Scene(size=TWELVE)


def prepared(scene: Scene, *, faint: bool = False) -> Prepared:
    return prepare(shot(scene, faint=faint).jpeg)


class AdviceAboutAPage(unittest.TestCase):
    def test_a_good_photograph_gets_none(self) -> None:
        self.assertEqual(prepared(PLAIN).advice, ())

    def test_a_shadow_that_tone_can_remove_is_not_complained_about(self) -> None:
        self.assertEqual(prepared(replace(PLAIN, hand_shadow=True)).advice, ())

    def test_each_fault_is_named(self) -> None:
        self.assertIn(Advice.OUT_OF_FOCUS, prepared(replace(PLAIN, blur_sigma_px=8)).advice)
        self.assertIn(Advice.LOW_RESOLUTION, prepared(replace(PLAIN, size=SMALL, fill=0.6)).advice)
        self.assertIn(Advice.FAINT_INK, prepared(PLAIN, faint=True).advice)
        self.assertIn(Advice.UNEVEN_LIGHT, prepared(replace(PLAIN, light=0.9, hand_shadow=True)).advice)

    def test_every_code_says_what_is_seen_and_what_to_do(self) -> None:
        self.assertEqual(set(WORDS), set(Advice))
        self.assertTrue(all(words.seen.endswith(".") and words.do.endswith(".") for words in WORDS.values()))


class Measuring(unittest.TestCase):
    def test_resolution_is_the_sheets_long_side_over_a4s(self) -> None:
        truth = shot(PLAIN)
        sides = [np.linalg.norm(np.subtract(truth.corners[a], truth.corners[b])) for a, b in ((3, 0), (2, 1))]
        side = float(np.mean(sides))
        self.assertAlmostEqual(prepared(PLAIN).measures.resolution_dpi, side / (297 / 25.4), delta=4)

    def test_a_blurred_page_measures_as_more_blurred_than_a_sharp_one(self) -> None:
        sharp, soft, lost = (prepared(replace(PLAIN, blur_sigma_px=s)).measures.blur_sigma_px for s in (0.8, 4, 8))
        self.assertLess(1.5 * sharp, min(soft, lost))


class CleanPaper(unittest.TestCase):
    def page(self, scene: Scene, *, faint: bool = False) -> np.ndarray:
        return np.asarray(Image.open(io.BytesIO(prepared(scene, faint=faint).image))).astype(int)

    def test_paper_becomes_white_under_a_hands_shadow(self) -> None:
        page = self.page(replace(PLAIN, size=SMALL, hand_shadow=True, light=0.5))
        self.assertGreater(np.percentile(page, 20), 245)

    def test_blue_ink_stays_blue(self) -> None:
        page = self.page(replace(PLAIN, size=SMALL))
        ink = page.min(axis=2) < 100
        self.assertGreater((page[ink][:, 2] - page[ink][:, 0]).mean(), 30)

    def test_faint_pencil_is_made_darker_than_photographed(self) -> None:
        toned = self.page(replace(PLAIN, size=SMALL), faint=True)
        photo = prepare(shot(replace(PLAIN, size=SMALL), faint=True).jpeg, recipe=Recipe(tone=Tone.PHOTO))
        raw = np.asarray(Image.open(io.BytesIO(photo.image))).astype(int)
        contrast = [np.percentile(p, 50) - np.percentile(p, 0.5) for p in (raw, toned)]
        self.assertGreater(contrast[1], 1.5 * contrast[0])
