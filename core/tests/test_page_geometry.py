"""The sheet's own shape, worked out of its perspective, and recipes that are refused."""

from __future__ import annotations

import math
import unittest

import numpy as np

from folio_core.page import Recipe
from folio_core.page.limits import A4_MM, LETTER_MM
from folio_core.page.recipe import Corners
from folio_core.page.straighten import aspect_ratio, completed, output_size, turned_corners

PICTURE = (3000, 4000)


def seen(sheet_mm: tuple[float, float], pitch: float, yaw: float, roll: float, focal: float = 3000.0) -> Corners:
    """Corners of a sheet through a pinhole, by hand: rotate about z, x and y, move away, divide by depth."""
    width, height = sheet_mm
    points = []
    for x, y in (
        (-width / 2, -height / 2),
        (width / 2, -height / 2),
        (width / 2, height / 2),
        (-width / 2, height / 2),
    ):
        x, y = x * math.cos(roll) - y * math.sin(roll), x * math.sin(roll) + y * math.cos(roll)
        y, z = y * math.cos(pitch), y * math.sin(pitch)
        x, z = x * math.cos(yaw) + z * math.sin(yaw), -x * math.sin(yaw) + z * math.cos(yaw)
        z += 420.0
        points.append((x / z * focal + PICTURE[0] / 2, y / z * focal + PICTURE[1] / 2))
    return points[0], points[1], points[2], points[3]


class AspectFromPerspective(unittest.TestCase):
    """Zhang and He, Whiteboard scanning and image enhancement (Digital Signal Processing 17, 2007), section 3."""

    def test_the_shape_of_the_sheet_is_told_from_any_side(self) -> None:
        for sheet in (A4_MM, LETTER_MM, (297.0, 210.0), (200.0, 200.0)):
            for pitch, yaw in ((0.5, 0.3), (-0.4, 0.25), (0.35, -0.45)):
                with self.subTest(sheet=sheet, pitch=pitch, yaw=yaw):
                    ratio = aspect_ratio(seen(sheet, pitch, yaw, 0.1), PICTURE)
                    self.assertAlmostEqual(ratio, sheet[0] / sheet[1], delta=0.004)

    def test_another_lens_does_not_mislead_it_where_perspective_is_clear(self) -> None:
        ratio = aspect_ratio(seen(A4_MM, 0.5, 0.4, 0.0, focal=6000.0), PICTURE)
        self.assertAlmostEqual(ratio, A4_MM[0] / A4_MM[1], delta=0.004)

    def test_from_straight_above_it_is_the_ratio_of_the_sides(self) -> None:
        self.assertAlmostEqual(aspect_ratio(seen(A4_MM, 0, 0, 0.2), PICTURE), A4_MM[0] / A4_MM[1], places=6)

    def test_a4_and_letter_seen_aslant_become_exactly_that(self) -> None:
        """ISO 216: A4 is 210 × 297 mm. ANSI/ASME Y14.1: Letter is 8.5 × 11 in."""
        for sheet in (A4_MM, LETTER_MM):
            width, height = output_size(seen(sheet, 0.3, 0.2, 0.05), PICTURE, snap=True)
            self.assertAlmostEqual(height / width, sheet[1] / sheet[0], places=2)

    def test_what_is_neither_is_not_stretched_into_one(self) -> None:
        width, height = output_size(seen((200.0, 200.0), 0.3, 0.2, 0), PICTURE, snap=True)
        self.assertAlmostEqual(height / width, 1.0, delta=0.01)


class CutOff(unittest.TestCase):
    def test_the_missing_side_is_laid_so_that_the_sheet_is_a_rectangle_and_nothing_seen_is_lost(self) -> None:
        whole = seen(A4_MM, 0.25, 0.15, 0.06)
        edge = 2900.0  # the picture ends here; the sheet goes on below
        cut = []
        for inner, outer in ((whole[1], whole[2]), (whole[0], whole[3])):
            share = (edge - inner[1]) / (outer[1] - inner[1])
            cut.append((inner[0] + share * (outer[0] - inner[0]), edge))
        corners = completed((whole[0], whole[1], cut[0], cut[1]), 2, PICTURE)
        self.assertEqual(corners[:2], whole[:2])
        for found, side in ((corners[2], (whole[1], whole[2])), (corners[3], (whole[0], whole[3]))):
            (a, b), (c, d) = np.subtract(side[1], side[0]), np.subtract(found, side[0])
            across = a * d - b * c
            self.assertLess(abs(across) / math.dist(*side), 1.0)  # on the sheet's own side
            self.assertGreaterEqual(found[1], edge - 1.0)
        kept = (corners[2][1] - edge) + (corners[3][1] - edge)
        self.assertLess(kept, 500)


class Recipes(unittest.TestCase):
    def test_corners_go_round_clockwise_without_a_dent(self) -> None:
        Recipe(corners=((0, 0), (10, 0), (10, 10), (0, 10)))
        for wrong in (
            ((0, 0), (0, 10), (10, 10), (10, 0)),
            ((0, 0), (10, 0), (2, 2), (0, 10)),
            ((0, 0), (10, 10), (10, 0), (0, 10)),
            ((0, 0), (0, 0), (10, 10), (0, 10)),
        ):
            with self.subTest(wrong), self.assertRaisesRegex(ValueError, "clockwise"):
                Recipe(corners=wrong)  # type: ignore[arg-type]

    def test_a_quarter_turn_makes_the_lower_left_corner_the_first(self) -> None:
        self.assertEqual(turned_corners(((0, 0), (4, 0), (4, 6), (0, 6)), 90)[0], (0, 6))
        self.assertEqual(turned_corners(((0, 0), (4, 0), (4, 6), (0, 6)), 270)[0], (4, 0))
