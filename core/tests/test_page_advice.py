"""The measures follow what the camera did, and advice is raised when it should and only then."""

from __future__ import annotations

import io
import unittest
from dataclasses import replace

import cv2
import numpy as np
from PIL import Image
from skimage import data as skimage_data
from skimage.filters import threshold_otsu, threshold_sauvola

from folio_camera import pictures
from folio_camera.form_trials import photographed
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.printed_forms import make_form
from folio_camera.scene import Scene
from folio_core.page import WORDS, Advice, Prepared, Recipe, Sheet, Tone, limits, prepare, run_limited
from folio_core.page.advise import advise
from folio_core.page.measure import Places
from folio_core.page.straighten import straighten, whole_picture
from folio_core.page.upright import AS_IT_IS

from camera_shots import SMALL, TWELVE, sheet, shot  # isort: skip

PLAIN = Scene(size=SMALL)
FULL = Scene(size=TWELVE)


def prepared(scene: Scene, *, faint: bool = False) -> Prepared:
    return prepare(shot(scene, faint=faint).jpeg)


def codes(page: Prepared) -> set[Advice]:
    return {finding.code for finding in page.advice}


class AdviceAboutAPage(unittest.TestCase):
    def test_a_good_photograph_gets_none(self) -> None:
        self.assertEqual(codes(prepared(FULL)), set())

    def test_a_jpeg_with_a_part_lost_on_its_way_is_told_of(self) -> None:
        jpeg = bytearray(shot(FULL).jpeg)
        middle = len(jpeg) // 2
        jpeg[middle : middle + 400] = bytes((37 * k + 11) % 251 for k in range(400))
        self.assertEqual(prepare(bytes(jpeg)).advice[0].code, Advice.DAMAGED)
        self.assertEqual(run_limited(prepare, bytes(jpeg), 0).advice[0].code, Advice.DAMAGED)

    def test_of_a_picture_with_next_to_no_pixels_only_that_is_said(self) -> None:
        tiny = cv2.imencode(".png", cv2.resize(cv2.imdecode(np.frombuffer(shot(PLAIN).jpeg, np.uint8), 1), (40, 40)))[1]
        self.assertEqual(codes(prepare(tiny.tobytes())), {Advice.LOW_RESOLUTION})

    def test_a_shadow_that_tone_can_remove_is_not_complained_about(self) -> None:
        self.assertEqual(codes(prepared(replace(PLAIN, hand_shadow=True))), set())

    def test_each_fault_is_named(self) -> None:
        for wanted, scene in {
            Advice.OUT_OF_FOCUS: replace(PLAIN, blur_sigma_px=4),
            Advice.MOTION_BLUR: replace(PLAIN, motion_px=20),
            Advice.LOW_RESOLUTION: replace(PLAIN, size=(756, 1008)),
            Advice.SHEET_SMALL: replace(FULL, fill=0.4),
            Advice.UNDER_EXPOSED: replace(PLAIN, exposure=0.22),
            Advice.OVER_EXPOSED: replace(PLAIN, exposure=2.0),
            Advice.SHEET_CUT_OFF: replace(PLAIN, outside=0.1, fill=0.95),
        }.items():
            with self.subTest(wanted):
                self.assertIn(wanted, codes(prepared(scene)))
        self.assertIn(Advice.FAINT_INK, codes(prepared(PLAIN, faint=True)))

    def test_print_has_few_edges_that_lean_and_is_not_called_smeared_for_it(self) -> None:
        form = make_form("boxes", 19, pages=3)
        for seed in (19, 20):
            still = photographed(form, 0, ["1"], seed, SMALL)
            self.assertNotIn(Advice.MOTION_BLUR, codes(prepare(still)))

    def test_glare_and_a_shadows_edge_say_where_on_the_page(self) -> None:
        for code, scene in (
            (Advice.GLARE, replace(PLAIN, glare=True)),
            (Advice.SHADOW_EDGE, replace(PLAIN, shadow_edge=True)),
        ):
            finding = next(one for one in prepared(scene).advice if one.code is code)
            with self.subTest(code):
                self.assertIsNotNone(finding.where)
                left, top, width, height = finding.where or (0, 0, 0, 0)
                self.assertTrue(0 <= left < left + width <= 1 and 0 <= top < top + height <= 1)

    def test_what_is_no_page_of_work_is_said_to_be_none(self) -> None:
        chance = np.random.default_rng(7)
        for picture in (pictures.landscape(chance), pictures.face(chance), pictures.screenshot(chance)):
            self.assertEqual(codes(prepare(pictures.jpeg(picture))), {Advice.NO_PAGE})

    def test_scikit_images_cat_and_coffee_are_no_pages_and_its_printed_page_is_one(self) -> None:
        for name, expected in (("chelsea", True), ("coffee", True), ("page", False), ("text", False)):
            picture = getattr(skimage_data, name)()
            picture = picture if picture.ndim == 3 else np.stack([picture] * 3, axis=2)
            with self.subTest(name):
                found = codes(prepare(pictures.jpeg(np.ascontiguousarray(picture))))
                self.assertEqual(Advice.NO_PAGE in found, expected)

    def test_whoever_set_the_corners_is_not_advised_about_the_sheet(self) -> None:
        truth = shot(replace(PLAIN, outside=0.1, fill=0.95))
        page = prepare(truth.jpeg, recipe=Recipe(corners=((0, 0), (1512, 0), (1512, 2016), (0, 2016))))
        self.assertFalse(codes(page) & {Advice.SHEET_CUT_OFF, Advice.SHEET_NOT_FOUND, Advice.NO_PAGE})

    def test_every_code_says_what_is_seen_and_what_to_do(self) -> None:
        self.assertEqual(set(WORDS), set(Advice))
        self.assertTrue(all(words.seen.endswith(".") and words.do.endswith(".") for words in WORDS.values()))


class Measuring(unittest.TestCase):
    def test_resolution_is_the_sheets_long_side_over_a4s(self) -> None:
        truth = shot(FULL)
        sides = [np.linalg.norm(np.subtract(truth.corners[a], truth.corners[b])) for a, b in ((3, 0), (2, 1))]
        side = float(np.mean(sides))
        self.assertAlmostEqual(prepared(FULL).measures.resolution_dpi, side / (297 / 25.4), delta=4)

    def test_a_blurred_page_measures_as_more_blurred_than_a_sharp_one(self) -> None:
        sharp, soft, lost = (prepared(replace(PLAIN, blur_sigma_px=s)).measures.blur_sigma_px for s in (0.4, 2, 4))
        self.assertLess(1.5 * sharp, min(soft, lost))


class CleanPaper(unittest.TestCase):
    def page(self, scene: Scene, *, faint: bool = False) -> np.ndarray:
        return np.asarray(Image.open(io.BytesIO(prepared(scene, faint=faint).image))).astype(int)

    def test_paper_becomes_white_under_a_hands_shadow(self) -> None:
        page = self.page(replace(PLAIN, hand_shadow=True, light=0.5))
        self.assertGreater(np.percentile(page, 20), 245)

    def test_blue_ink_stays_blue(self) -> None:
        page = self.page(PLAIN)
        ink = page.min(axis=2) < 100
        self.assertGreater((page[ink][:, 2] - page[ink][:, 0]).mean(), 30)

    def test_faint_pencil_is_made_darker_than_photographed(self) -> None:
        toned = self.page(PLAIN, faint=True)
        photo = prepare(shot(PLAIN, faint=True).jpeg, recipe=Recipe(tone=Tone.PHOTO))
        raw = np.asarray(Image.open(io.BytesIO(photo.image))).astype(int)
        contrast = [np.percentile(p, 50) - np.percentile(p, 0.5) for p in (raw, toned)]
        self.assertGreater(contrast[1], 1.5 * contrast[0])


class InkOnly(unittest.TestCase):
    """Beside scikit-image's Otsu and Sauvola thresholds on the same crop, against the ink the camera saw."""

    def scores(self, scene: Scene, *, faint: bool = False) -> tuple[float, float, float]:
        truth = shot(scene, faint=faint)
        page = prepare(truth.jpeg, recipe=Recipe(corners=truth.corners, turn=0, tone=Tone.INK))
        size = (page.image_width, page.image_height)
        wanted = straighten(truth.ink_seen, truth.corners, size) > 127
        photo = np.asarray(Image.open(io.BytesIO(truth.jpeg)).convert("L"))
        crop = straighten(photo, truth.corners, size)
        ink = np.asarray(Image.open(io.BytesIO(page.image)).convert("L")) < 128
        otsu, sauvola = crop <= threshold_otsu(crop), crop <= threshold_sauvola(crop, window_size=51)
        return f_measure(ink, wanted), f_measure(otsu, wanted), f_measure(sauvola, wanted)

    def test_strokes_are_kept_better_than_by_otsu_and_sauvola(self) -> None:
        for scene in (Scene(size=SMALL), Scene(size=SMALL, hand_shadow=True, light=0.6), Scene(size=SMALL, warm=True)):
            ours, otsu, sauvola = self.scores(scene)
            with self.subTest(scene):
                self.assertGreater(ours, 0.8)
                self.assertGreater(ours, max(otsu, sauvola))

    def test_faint_pencil_too(self) -> None:
        ours, otsu, sauvola = self.scores(Scene(size=SMALL), faint=True)
        self.assertGreater(ours, max(otsu, sauvola))

    def test_it_is_one_bit_deep_and_small(self) -> None:
        truth = shot(Scene(size=SMALL))
        ink, clean = (prepare(truth.jpeg, recipe=Recipe(tone=tone)).image for tone in (Tone.INK, Tone.CLEAN))
        self.assertEqual(Image.open(io.BytesIO(ink)).mode, "1")
        self.assertLess(len(ink), len(clean) / 3)


def f_measure(ink: np.ndarray, wanted: np.ndarray) -> float:
    return 2 * np.count_nonzero(ink & wanted) / (np.count_nonzero(ink) + np.count_nonzero(wanted))


class WhatIsSaidOfAPicture(unittest.TestCase):
    """From measures as such pictures have them (see `limits`)."""

    def said(self, sheet: Sheet, **measured: float) -> set[Advice]:
        measures = replace(prepared(PLAIN).measures, **measured)
        findings = advise(measures, Places(None, None), sheet, AS_IT_IS, drawn=False, chosen=False, damaged=False)
        return {finding.code for finding in findings}

    def test_a_sheet_that_could_not_be_told_from_others_is_no_landscape(self) -> None:
        whole = Sheet(False, 0.3, whole_picture(100, 100))
        lost = self.said(whole, colour_spread=0.4, paper_level=0.6)
        self.assertIn(Advice.SHEET_NOT_FOUND, lost)
        self.assertNotIn(Advice.NO_PAGE, lost)
        self.assertEqual(
            self.said(replace(whole, confidence=0.03), colour_spread=0.4, paper_level=0.6), {Advice.NO_PAGE}
        )
        self.assertEqual(self.said(whole, colour_spread=0.4, paper_level=0.24), {Advice.NO_PAGE})

    def test_where_the_light_may_have_taken_the_writing_the_page_is_not_called_empty(self) -> None:
        sheet = Sheet(True, 0.9, whole_picture(100, 100))
        self.assertEqual(self.said(sheet, ink_share=0.0, letters=0), {Advice.NEARLY_EMPTY})
        self.assertEqual(self.said(sheet, ink_share=0.0, letters=0, clipped_share=0.9), {Advice.OVER_EXPOSED})

    def test_uneven_light_small_writing_and_a_turn_that_could_not_be_told(self) -> None:
        sheet = Sheet(True, 0.9, whole_picture(100, 100))
        for code, measured in (
            (Advice.UNEVEN_LIGHT, {"light_evenness": limits.LIGHT_EVENNESS}),
            (Advice.SMALL_WRITING, {"writing_height_px": limits.WRITING_HEIGHT_PX}),
        ):
            (name, edge), *_ = measured.items()
            with self.subTest(code):
                self.assertIn(code, self.said(sheet, **{name: 0.9 * edge}))
                self.assertNotIn(code, self.said(sheet, **{name: 1.1 * edge}))
        self.assertIn(Advice.TURN_UNSURE, self.said(sheet))  # `AS_IT_IS` is sure of nothing


class TwoSheets(unittest.TestCase):
    def test_both_are_on_the_page_and_the_student_is_told(self) -> None:
        scene = Scene(size=TWELVE, desk="dark", tilt=0.05)
        truth = photograph(sheet(), scene, 5, second=sheet())
        page = prepare(truth.jpeg)
        self.assertEqual(codes(page), {Advice.TWO_SHEETS})  # no shadow, no moved camera
        kept = np.zeros(truth.ink_seen.shape, np.uint8)
        cv2.fillConvexPoly(kept, np.rint(np.array(page.sheet.corners)).astype(np.int32), 255)
        self.assertEqual(np.count_nonzero((truth.ink_seen > 128) & (kept == 0)), 0)


class PaperAsBrightAsCanBe(unittest.TestCase):
    def test_ink_only_keeps_more_of_the_strokes_than_otsu_and_sauvola_do(self) -> None:
        """Against scikit-image's threshold_otsu and threshold_sauvola on the same crop of an over-exposed page."""
        truth = shot(Scene(size=SMALL, desk="wood", exposure=1.9, light=0.1), 31)
        recipe = Recipe(corners=truth.corners, turn=0, tone=Tone.INK)
        page = prepare(truth.jpeg, recipe=recipe)
        size = page.image_width, page.image_height
        ink = np.asarray(Image.open(io.BytesIO(page.image)).convert("L")) < 128
        seen = straighten(truth.ink_seen, truth.corners, size) > 127
        crop = straighten(np.asarray(Image.open(io.BytesIO(truth.jpeg)).convert("L")), truth.corners, size)
        rivals = crop <= threshold_otsu(crop), crop <= threshold_sauvola(crop, window_size=51)
        ours, *theirs = (2 * np.sum(way & seen) / (np.sum(way) + np.sum(seen)) for way in (ink, *rivals))
        self.assertGreater(ours, max(theirs))


class BlankPaper(unittest.TestCase):
    def test_squares_without_writing_are_an_empty_page_and_no_faint_writing(self) -> None:
        for seed in (10, 12):  # of the photographs in which the squares were taken for letters
            style = Style(paper="squared", hand="kalam")
            blank = photograph(write_sheet((), style, seed), Scene(size=TWELVE, desk="wood", noise=3.5), seed)
            with self.subTest(seed):
                self.assertEqual(codes(prepare(blank.jpeg)), {Advice.NEARLY_EMPTY})
