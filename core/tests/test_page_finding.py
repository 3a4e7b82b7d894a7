"""The sheet is found where the camera laid it, and straightened as an outside library would."""

from __future__ import annotations

import io
import math
import unittest

import cv2
import numpy as np
from PIL import Image
from skimage import data as skimage_data
from skimage.filters import threshold_otsu
from skimage.transform import ProjectiveTransform, warp

from folio_bench.corners import seen_distances
from folio_camera import pictures, trials
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import Photograph, photograph
from folio_camera.scene import Scene
from folio_camera.solutions import rule_of_twelfths
from folio_camera.surfaces import DESKS
from folio_core.page import Recipe, find_sheet, prepare
from folio_core.page.light import otsu_of
from folio_core.page.straighten import homography, inset, straighten, whole_picture

from camera_shots import SMALL, shot  # isort: skip
from camera_shots import sheet as sheet_of_twelfths  # isort: skip


def decoded(jpeg: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(jpeg)))


class Finding(unittest.TestCase):
    def test_the_corners_are_found_on_every_desk_within_half_a_percent_of_the_diagonal(self) -> None:
        for number, desk in enumerate(DESKS):
            scene = Scene(desk=desk, size=SMALL, tilt=0.3, rotation_deg=8, hand_shadow=number % 2 == 0)
            truth = shot(scene, 100 + number)
            sheet = find_sheet(decoded(truth.jpeg))
            with self.subTest(desk):
                self.assertTrue(sheet.found)
                error = max(math.dist(a, b) for a, b in zip(sheet.corners, truth.corners, strict=True))
                self.assertLess(error, 0.005 * math.hypot(*SMALL))

    def test_a_picture_without_a_sheet_is_kept_whole(self) -> None:
        noise = np.random.default_rng(1).integers(90, 130, (600, 450, 3), dtype=np.uint8)
        sheet = find_sheet(noise)
        self.assertFalse(sheet.found)
        self.assertEqual(sheet.corners, whole_picture(450, 600))

    def test_a_printed_page_without_an_edge_in_sight_is_kept_whole(self) -> None:
        """scikit-image's shipped photograph of a printed page, unevenly lit."""
        page = np.stack([skimage_data.page()] * 3, axis=2)
        height, width = page.shape[:2]
        self.assertEqual(find_sheet(page).corners, whole_picture(width, height))

    def test_scikit_images_other_photographs_hold_no_sheet_that_is_sure(self) -> None:
        """skimage.data: a cat, a cup of coffee, a rocket, an astronaut, coins: wrong with confidence would cut them."""
        for name in ("chelsea", "coffee", "rocket", "astronaut", "coins"):
            picture = getattr(skimage_data, name)()
            picture = picture if picture.ndim == 3 else np.stack([picture] * 3, axis=2)
            with self.subTest(name):
                sheet = find_sheet(np.ascontiguousarray(picture))
                self.assertTrue(not sheet.found or sheet.fills, sheet)

    def test_scans_and_a_tablets_exports_fill_their_picture_and_nothing_is_cut(self) -> None:
        written = write_sheet(rule_of_twelfths()[:3], Style(), 5)
        height, width = written.pixels.shape[:2]
        for picture in (pictures.scan(written, np.random.default_rng(3)), pictures.tablet_export(written)):
            sheet = find_sheet(picture)
            self.assertTrue(sheet.found and sheet.fills)
            self.assertEqual(sheet.corners, whole_picture(width, height))

    def test_among_other_papers_under_a_finger_with_a_folded_corner(self) -> None:
        scenes = (
            Scene(size=SMALL, desk="wood", beside=2, fill=0.7),
            Scene(size=SMALL, desk="slate", over_edge="finger"),
            Scene(size=SMALL, desk="cloth", over_edge="pen"),
            Scene(size=SMALL, desk="dark", corner="dog_eared"),
            Scene(size=SMALL, desk="oak", corner="rounded"),
            Scene(size=SMALL, desk="tartan", warm=True),
            Scene(size=SMALL, desk="white", tilt=0.2),
        )
        for number, scene in enumerate(scenes):
            truth = shot(scene, 40 + number)
            sheet = find_sheet(decoded(truth.jpeg))
            with self.subTest(scene):
                self.assertTrue(sheet.found)
                error = max(math.dist(a, b) for a, b in zip(sheet.corners, truth.corners, strict=True))
                self.assertLess(error, 0.005 * math.hypot(*SMALL))

    def test_on_top_of_other_white_papers_most_are_found_and_no_ink_is_cut(self) -> None:
        right = 0
        for number, desk in enumerate(("slate", "dark", "wood", "cloth", "pale", "tartan")):
            truth = shot(Scene(size=SMALL, desk=desk, beneath=2, fill=0.8), 60 + number)
            sheet = find_sheet(decoded(truth.jpeg))
            error = max(math.dist(a, b) for a, b in zip(sheet.corners, truth.corners, strict=True))
            right += error < 0.005 * math.hypot(*SMALL)
            with self.subTest(desk):
                self.assertEqual(self.ink_cut(truth, sheet.corners), 0)
        self.assertGreaterEqual(right, 3)

    def ink_cut(self, truth: Photograph, corners: object) -> int:
        kept = np.zeros(truth.ink_seen.shape, np.uint8)
        cv2.fillConvexPoly(kept, np.rint(np.array(corners)).astype(np.int32), 255)
        return int(np.count_nonzero((truth.ink_seen > 128) & (kept == 0)))

    def test_a_ruled_line_close_to_the_pictures_edge_is_not_taken_for_the_sheets_end(self) -> None:
        """The whole sheet's own end lies beyond the picture: what is cut is told, and nothing that is seen is lost."""
        truth = shot(Scene(size=SMALL, desk="oak", outside=0.1, fill=0.97, rotation_deg=1), 24)
        sheet = find_sheet(decoded(truth.jpeg))
        self.assertEqual(len(sheet.cut), 1)
        self.assertLess(
            seen_distances(np.array([sheet.corners]), np.array(truth.corners), SMALL)[0], 0.005 * math.hypot(*SMALL)
        )

    def test_of_a_sheet_partly_outside_all_that_is_seen_is_kept(self) -> None:
        truth = shot(Scene(size=SMALL, desk="wood", outside=0.12, fill=0.95), 3)
        page = prepare(truth.jpeg)
        self.assertEqual(len(page.sheet.cut), 1)
        self.assertEqual(self.ink_cut(truth, page.sheet.corners), 0)

    def test_of_a_side_mostly_outside_the_piece_in_sight_is_found(self) -> None:
        """Three tuning photographs of a sheet whose corner lies just inside the picture and the next far outside: the
        strip of desk between them was kept before, 1.8 to 3 % of the diagonal."""
        for seed in (6_019_002, 6_019_003, 6_019_017):
            trial = trials.make("around: partly outside", seed)
            sheet = find_sheet(decoded(trial.data))
            with self.subTest(seed):
                self.assertEqual(len(sheet.cut), 1)
                error = seen_distances(np.array([sheet.corners]), np.array(trial.corners), trial.size)[0]
                self.assertLess(error, 0.005 * math.hypot(*trial.size))

    def test_writing_that_the_pictures_edge_cuts_is_kept_to_that_edge(self) -> None:
        """A tuning photograph: the tops of the letters in its first rows were taken for the sheet's edge."""
        trial = trials.make("around: partly outside", 6_019_142)
        sheet = find_sheet(decoded(trial.data))
        self.assertEqual(sheet.cut, (0,))
        outside = np.ones(trial.ink_seen.shape, np.uint8)
        cv2.fillConvexPoly(outside, np.rint(np.array(inset(sheet.corners)) * 16).astype(np.int32), 0, shift=4)
        self.assertEqual(np.count_nonzero(outside[trial.ink_seen > 128]), 0)

    def test_a_line_of_squared_paper_is_not_taken_for_the_edge_beside_it(self) -> None:
        """A tuning photograph of grey squares on a pale desk: the outline's corner lay on the grid, with confidence."""
        trial = trials.make("hand: gochi", 6_034_009)
        sheet = find_sheet(decoded(trial.data))
        error = max(math.dist(a, b) for a, b in zip(sheet.corners, trial.corners or (), strict=True))
        self.assertLess(error, 0.005 * math.hypot(*trial.size))

    def test_two_sheets_in_one_picture_are_both_known_and_both_kept(self) -> None:
        truth = photograph(sheet_of_twelfths(), Scene(size=SMALL, desk="dark"), 5, second=sheet_of_twelfths())
        found = find_sheet(decoded(truth.jpeg))
        self.assertEqual(len(found.several), 2)
        kept = np.asarray(found.corners, np.float32)
        for corner in (*truth.corners, *found.several[1]):
            self.assertGreater(cv2.pointPolygonTest(kept, corner, True), -3)


class Straightening(unittest.TestCase):
    CORNERS = ((37.0, 22.0), (411.0, 40.0), (430.0, 560.0), (18.0, 533.0))

    def test_the_homography_is_scikit_images(self) -> None:
        """Against skimage.transform.ProjectiveTransform, estimated from the same four points."""
        theirs = ProjectiveTransform.from_estimate(
            np.array(self.CORNERS), np.array([(0, 0), (210, 0), (210, 297), (0, 297)])
        )
        ours = homography(self.CORNERS, 210, 297)
        np.testing.assert_allclose(ours / ours[2, 2], theirs.params / theirs.params[2, 2], atol=1e-4)

    def test_the_warp_is_scikit_images(self) -> None:
        """Against skimage.transform.warp on its shipped photograph of a coffee cup, in pixel-centre coordinates."""
        photo = skimage_data.coffee()[:, :450]
        corners = tuple((x * 0.7, y * 0.7) for x, y in self.CORNERS)
        size = (240, 330)
        ours = straighten(photo, corners, size)  # type: ignore[arg-type]
        target = np.array([(0, 0), (size[0], 0), size, (0, size[1])]) - 0.5
        back = ProjectiveTransform.from_estimate(target, np.array(corners) - 0.5)
        theirs = warp(photo, back, output_shape=(size[1], size[0]), order=1, mode="edge", preserve_range=True)
        inner = np.abs(ours.astype(float) - theirs)[2:-2, 2:-2]
        self.assertLess(float(inner.mean()), 0.6)
        self.assertLess(float(np.percentile(inner, 99)), 4)

    def test_given_corners_are_used_as_they_are(self) -> None:
        truth = shot(Scene(size=SMALL))
        page = prepare(truth.jpeg, recipe=Recipe(corners=truth.corners))
        self.assertEqual(page.sheet.corners, truth.corners)

    def test_the_straightened_writing_lies_where_it_was_written(self) -> None:
        truth = shot(Scene(size=SMALL, tilt=0.3, rotation_deg=8))
        page = decoded(prepare(truth.jpeg).image)
        ink = cv2.cvtColor(page, cv2.COLOR_RGB2GRAY) < 128
        wanted = cv2.resize(truth.ink.astype(np.uint8), (ink.shape[1], ink.shape[0]), interpolation=cv2.INTER_AREA) > 0
        near = cv2.dilate(wanted.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
        self.assertGreater(np.count_nonzero(ink & near) / np.count_nonzero(ink), 0.97)


class Otsu(unittest.TestCase):
    def test_the_threshold_is_scikit_images(self) -> None:
        """Against skimage.filters.threshold_otsu on four of its shipped pictures."""
        for name in ("page", "text", "coins", "camera"):
            picture = getattr(skimage_data, name)()
            with self.subTest(name):
                ours = otsu_of(np.bincount(picture.ravel(), minlength=256).astype(np.float32))
                self.assertLessEqual(abs(ours - int(threshold_otsu(picture))), 1)
