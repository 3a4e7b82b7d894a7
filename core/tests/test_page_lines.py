"""The parts of finding a sheet: lines, what other edges do in an outline, what is compared in a trial."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from skimage.transform import hough_line, hough_line_peaks

from folio_bench.corners import distances, seen_distances
from folio_core.page.sheet.candidates import candidates_of
from folio_core.page.sheet.crossings import crossings
from folio_core.page.sheet.features import FEATURES
from folio_core.page.sheet.hough import edges
from folio_core.page.sheet.lines import CHANNELS, THIN, ground_of, lines_of
from folio_core.page.sheet.lines import Lines as Edges
from folio_core.page.sheet.quad import least, most


class Lines(unittest.TestCase):
    """Made pictures in CIE Lab as OpenCV keeps it in bytes: a desk of 60, a sheet of 220, another of 212."""

    def lab(self, *sheets: tuple[int, int, int, int, float]) -> np.ndarray:
        lab = np.full((500, 400, 3), (60, 128, 128), np.float32)
        for left, top, right, bottom, lightness in sheets:
            lab[top:bottom, left:right, 0] = lightness
        grain = np.random.default_rng(4).normal(0, 1.2, lab.shape[:2]).astype(np.float32)
        lab[..., 0] += cv2.GaussianBlur(grain, (0, 0), 1)
        return np.asarray(cv2.GaussianBlur(lab, (0, 0), 1.2))

    def test_a_weak_edge_near_a_strong_one_has_its_turn(self) -> None:
        lab = self.lab((40, 60, 340, 440, 212), (62, 80, 330, 420, 220))
        lines = lines_of(ground_of(lab, np.zeros(lab.shape[:2], np.float32), lab[..., 0]), 14.0, shadows=True)
        upright = np.abs(lines.normal[:, 0]) > 0.99
        for place in (40, 62, 330, 340):
            away = np.abs(lines.distance[upright] * np.sign(lines.normal[upright, 0]) - place)
            self.assertLess(away.min(), 2, place)

    def test_a_sheet_on_another_as_white_shows_by_its_narrow_shadow(self) -> None:
        thin = self.lab((40, 60, 340, 440, 220))
        closed = thin.copy()
        thin[180:184, 40:340, 0] -= 18  # above an edge across the whole sheet
        thin = cv2.GaussianBlur(thin[..., 0], (0, 0), 1)
        lines = lines_of(ground_of(closed, np.zeros(closed.shape[:2], np.float32), thin), 14.0, shadows=True)
        flat = np.abs(lines.normal[:, 1]) > 0.99
        away = np.abs(lines.distance * np.sign(lines.normal[:, 1]) - 184)
        edge = int(np.argmin(np.where(flat, away, np.inf)))
        self.assertLess(away[edge], 2)
        thin_along = lines.sums[edge, -1, THIN] / (lines.sums.shape[1] - 1) * np.sign(lines.normal[edge, 1])
        self.assertGreater(thin_along, 0.3)  # paler below, where the upper sheet lies

    def test_an_outline_round_two_sheets_has_an_edge_inside_and_the_upper_sheet_has_none(self) -> None:
        lab = self.lab((40, 60, 250, 440, 205), (150, 60, 360, 440, 222))
        lines = lines_of(ground_of(lab, np.zeros(lab.shape[:2], np.float32), lab[..., 0]), 14.0, shadows=True)
        found = candidates_of(lines, 400, 500)
        inside = found.features[:, FEATURES.index("edge inside")]
        for left, right, low, high in ((150, 360, 0.0, 0.2), (40, 360, 0.5, 1.0)):
            truth = np.array([(left, 60), (right, 60), (right, 440), (left, 440)], float)
            nearest = int(np.argmin(distances(found.corners, truth)))
            self.assertLess(distances(found.corners, truth)[nearest], 4)
            self.assertTrue(low <= inside[nearest] <= high, inside[nearest])

    def test_the_part_of_an_outline_that_is_seen_is_compared(self) -> None:
        whole = np.array([(-50, 10), (90, 10), (90, 80), (-50, 80)], float)
        moved = np.array([(-20, 10), (90, 10), (90, 80), (-20, 83)], float)
        self.assertAlmostEqual(seen_distances(whole[None], whole, (100, 100))[0], 0)
        self.assertAlmostEqual(seen_distances(moved[None], whole, (100, 100))[0], 2.45, delta=0.05)


class Hough(unittest.TestCase):
    def test_the_four_sides_of_a_sheet_are_those_scikit_image_finds(self) -> None:
        """Against skimage.transform.hough_line_peaks on the sheet's outline, drawn one pixel wide. What it finds at an
        angle near the table's ends it may find twice or not at all, so no sheet here lies straight."""
        for lean, across, down in ((7.0, 220, 320), (-12.0, 250, 300), (17.0, 240, 340), (-6.0, 200, 280)):
            box = np.rint(cv2.boxPoints(((200.0, 250.0), (across, down), lean))).astype(np.int32)
            lab = np.full((500, 400, 3), (60, 128, 128), np.float32)
            cv2.fillConvexPoly(lab, box, (220, 128, 128))
            ours = edges(np.asarray(cv2.GaussianBlur(lab, (0, 0), 1.2)), (lab[..., 0] > 140).astype(np.float32))
            outline = np.zeros((500, 400), np.uint8)
            cv2.polylines(outline, [box], True, 255)
            table, angles, places = hough_line(outline, np.linspace(-np.pi / 2, np.pi / 2, 360, endpoint=False))
            theirs = hough_line_peaks(table, angles, places, num_peaks=4, min_distance=20, min_angle=10)
            self.assertEqual(len(theirs[1]), 4)
            for angle, place in zip(*theirs[1:], strict=True):
                aligned = ours[:, :2] @ np.array([math.cos(angle), math.sin(angle)])
                apart = np.abs(ours[:, 2] * np.sign(aligned) - place)
                near = (np.abs(aligned) > math.cos(math.radians(2))) & (apart < 8)
                with self.subTest(lean=lean, angle=math.degrees(angle), place=place):
                    self.assertTrue(near.any())


class Crossings(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10_000))
    def test_how_far_an_edge_runs_inside_is_what_single_points_on_it_say(self, seed: int) -> None:
        chance = np.random.default_rng(seed)
        box = cv2.boxPoints(((200.0, 250.0), tuple(chance.uniform(120, 260, 2)), float(chance.uniform(-40, 40))))
        along = np.roll(box, -1, axis=0) - box
        normals = np.stack([along[:, 1], -along[:, 0]], axis=1) / np.linalg.norm(along, axis=1)[:, None]
        turn = chance.uniform(0, math.pi)
        other = np.array([math.cos(turn), math.sin(turn)])
        normal = np.vstack([normals, other]).astype(float)
        through = np.vstack([box, np.array([200.0, 250.0]) + chance.uniform(-150, 150, 2)])
        distance = (normal * through).sum(axis=1)
        direction = np.stack([-normal[:, 1], normal[:, 0]], axis=1)
        start = normal * distance[:, None] - direction * 600
        sums = np.tile(np.arange(1201, dtype=np.float32)[None, :, None], (5, 1, CHANNELS))  # an edge all along
        lines = Edges(normal, distance, np.zeros(5, bool), start, np.full(5, 1200.0), sums)
        inward = np.where(normals @ np.array([200.0, 250.0]) > distance[:4], 1, -1).astype(np.float32)[None]
        size = math.sqrt(cv2.contourArea(box))
        found = crossings(lines, np.array([[0, 1, 2, 3]]), inward, np.array([size]))[0, 0]
        points = start[4] + np.arange(1200)[:, None] * direction[4]
        run = sum(cv2.pointPolygonTest(box, (float(x), float(y)), False) > 0 for x, y in points) - 2 * 0.04 * size
        if run > 0.3 * size and found > 0:  # shorter ones, and those close along a side, are told as none
            self.assertAlmostEqual(found, min(run / size, 1), delta=0.03)
        else:
            self.assertLessEqual(found, max(run, 0) / size + 0.03)


class Fours(unittest.TestCase):
    @given(st.lists(st.lists(st.floats(-1e6, 1e6), min_size=4, max_size=4), min_size=1, max_size=5))
    def test_least_and_most_of_four_are_numpys(self, rows: list[list[float]]) -> None:
        values = np.array(rows)
        np.testing.assert_array_equal(least(values), values.min(axis=-1))
        np.testing.assert_array_equal(most(values), values.max(axis=-1))
