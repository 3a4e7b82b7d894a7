"""A page of a form whose print says where its head lies, and whose sides say the rest."""

from __future__ import annotations

import io
import unittest

import cv2
import numpy as np
from PIL import Image

from folio_camera.form_trials import make
from folio_core.forms import register
from folio_core.forms.bending import bend_of
from folio_core.forms.blank import POINT_PX, BlankPage, blank_page
from folio_core.forms.from_files import form_from
from folio_core.forms.settling import certainty_of
from folio_core.forms.sheet_sides import foot_away, held_by_sides
from folio_core.page.sheet import paper_edges

MM = POINT_PX * 72 / 25.4
DESK, HAND, PAPER = (92, 66, 52), (196, 150, 126), (240, 240, 236)


def page_with_a_head() -> BlankPage:
    """A4; words on its first 40 mm only."""
    grey = np.full((1754, 1240), 255, np.uint8)
    for y in (90, 150, 210):
        cv2.putText(grey, "A theorem and one of its conditions", (110, y), cv2.FONT_HERSHEY_SIMPLEX, 1.5, 0, 3)
    return blank_page(0, grey, (595.0, 842.0))


PAGE = page_with_a_head()
HEAD = np.array([(x, y) for x in range(80, 820, 20) for y in (60, 90, 110, 140)], np.float32)
FOOT = np.array([(60, 1200), (450, 1250), (850, 1200)], np.float64)
INTO_PICTURE = np.array([[0.9, 0.06, 120], [-0.03, 0.88, 100], [2e-5, 4e-5, 1]])


def photographed(scale: float = 1.0, paper: tuple[int, ...] = PAPER, desk: tuple[int, ...] = DESK) -> np.ndarray:
    """The sheet on a desk. ``scale``: of the print on it, about its middle."""
    height, width = PAGE.grey.shape
    printed = np.array([[scale, 0, (1 - scale) * width / 2], [0, scale, (1 - scale) * height / 2], [0, 0, 1]])
    back = INTO_PICTURE @ np.linalg.inv(printed)  # the sheet's pixels, where the print's are `INTO_PICTURE`'s
    sheet = np.full((height, width, 3), paper, np.uint8)
    picture = np.full((1500, 1150, 3), desk, np.uint8)
    return cv2.warpPerspective(sheet, back, (1150, 1500), dst=picture, borderMode=cv2.BORDER_TRANSPARENT)


def wrong_below() -> np.ndarray:
    """Right to about a millimetre where there is print, and two centimetres wrong at the foot."""
    drift = np.array([[1.003, 0.01, -1.5], [0.0, 1.03, -2.5], [0, -2.5e-5, 1.0]])
    return np.asarray(drift @ np.linalg.inv(INTO_PICTURE))


def wrong_mm(to_page: np.ndarray, points: np.ndarray) -> float:
    seen = cv2.perspectiveTransform(points[None].astype(np.float64), INTO_PICTURE)
    return float(np.linalg.norm(cv2.perspectiveTransform(seen, to_page)[0] - points, axis=1).max()) / MM


class SheetSides(unittest.TestCase):
    def held(self, picture: np.ndarray) -> np.ndarray:
        certainty = certainty_of(HEAD, 4.0, PAGE)
        return held_by_sides(PAGE, wrong_below(), certainty, paper_edges(picture), picture)[0]

    def test_the_foot_lies_right_by_the_sides_that_are_seen(self) -> None:
        self.assertGreater(wrong_mm(wrong_below(), FOOT), 15)
        self.assertLess(wrong_mm(wrong_below(), HEAD), 1.5)
        self.assertLess(wrong_mm(self.held(photographed()), FOOT), 1.5)

    def test_also_where_a_hand_lies_over_one_side(self) -> None:
        picture = photographed()
        hidden = np.array([(1150, 0), (840, 0), (900, 300), (790, 700), (860, 1100), (800, 1500), (1150, 1500)])
        cv2.fillPoly(picture, [hidden], HAND)
        self.assertLess(wrong_mm(self.held(picture), FOOT), 3)

    def test_print_that_is_smaller_on_its_sheet_is_not_drawn_to_the_sheets_size(self) -> None:
        self.assertLess(wrong_mm(self.held(photographed(scale=0.94)), FOOT), 3)

    def test_edges_of_which_the_paper_is_on_the_wrong_side_are_no_sides_of_it(self) -> None:
        before = wrong_below()
        inside_out = self.held(photographed(paper=DESK, desk=PAPER))
        np.testing.assert_allclose(inside_out, before / before[2, 2], atol=1e-9)

    def test_what_leads_to_nothing_that_can_be_leaves_what_was_known_as_it_is(self) -> None:
        picture, nothing = photographed(), np.full((3, 3), np.nan)
        edges = paper_edges(picture)
        for to_page, certainty in (
            (nothing, certainty_of(HEAD, 4.0, PAGE)), (wrong_below(), np.full((8, 8), np.nan)),
            (wrong_below(), -1e-9 * np.eye(8)),
        ):  # fmt: skip
            held, told = held_by_sides(PAGE, to_page, certainty, edges, picture)
            self.assertIs(held, to_page)
            self.assertIs(told, certainty)

    def test_a_photograph_of_which_a_third_is_hidden_lies_right_to_its_foot(self) -> None:
        trial = make("a third hidden", 5)
        with Image.open(io.BytesIO(trial.data)) as image:
            found = register(np.asarray(image.convert("RGB"), np.uint8), form_from(trial.form.pdf))
        assert found is not None
        self.assertEqual(found.page, trial.page)
        foot = np.array([(80.0, 760.0), (300.0, 770.0), (500.0, 760.0)])
        away = found.on_page(trial.seen_at(foot)) - foot
        self.assertLess(np.linalg.norm(away, axis=1).max() * 25.4 / 72, 4)  # 70 mm by the print alone


class Foot(unittest.TestCase):
    """Of a folded sheet whose lower part leans away, with no print below the fold."""

    def lain(self, shorter: float) -> np.ndarray:
        """The sheet straight on its desk, below its middle shorter by that share."""
        height, width = PAGE.grey.shape
        picture = np.full((height + 160, width + 120, 3), DESK, np.uint8)
        foot = round(height - shorter * height / 2)
        picture[80 : 80 + foot, 60 : 60 + width] = PAPER
        head = picture[80 : 80 + height // 4, 60 : 60 + width]
        head[...] = np.minimum(head, PAGE.grey[: height // 4, :, None])
        return picture

    def test_it_tells_how_far_the_sheet_leans(self) -> None:
        to_page = np.array([[1.0, 0, -60], [0, 1.0, -80], [0, 0, 1]])
        folded = self.lain(0.02)
        away = foot_away(PAGE, to_page, paper_edges(folded), folded)
        assert away is not None
        np.testing.assert_allclose(away, 0.01 * PAGE.grey.shape[0], atol=2)
        flat = self.lain(0.0)
        self.assertIsNone(foot_away(PAGE, to_page, paper_edges(flat), flat))

    def test_the_space_above_it_is_drawn_along_and_the_print_is_not(self) -> None:
        to_page = np.array([[1.0, 0, -60], [0, 1.0, -80], [0, 0, 1]])
        even = cv2.cvtColor(self.lain(0.02), cv2.COLOR_RGB2GRAY)
        self.assertIsNone(bend_of(PAGE, even, to_page))
        lean = 0.01 * PAGE.grey.shape[0]
        bend = bend_of(PAGE, even, to_page, np.array([lean, lean]))
        assert bend is not None
        foot, head = np.array([(300.0, 815.0)]), np.array([(300.0, 70.0)])
        self.assertGreater((bend.at(foot) - foot)[0, 1] * POINT_PX, 0.6 * lean)
        self.assertLess(abs((bend.at(head) - head)[0, 1]) * POINT_PX, 0.15 * lean)
