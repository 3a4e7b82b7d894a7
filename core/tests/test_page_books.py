"""Open books become two pages, and bent lines become straight."""

from __future__ import annotations

import unittest
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_bench.books import lines_of, outcome_of
from folio_camera import book_trials, trials
from folio_camera.book_trials import BookTrial
from folio_camera.bound_book import BentPaper, bent
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import Photograph, photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles, noon_sight
from folio_core.page import Advice, Recipe, Tone, prepare
from folio_core.page.limits import BENT_SHEET_CONFIDENCE
from folio_core.page.sheet import find_sheet
from folio_core.page.sheet.book import facing_pages
from folio_core.page.sheet.gutter import gutter_in
from folio_core.page.straighten import straighten
from folio_core.page.upright import Upright, together

WIDE, HIGH = (2016, 1512), (1512, 2016)


@cache
def paper(kind: str, bulge_mm: float, seed: int = 3, pages: int = 2) -> BentPaper:
    answers = (noon_sight()[:4], great_circles()[:4])[:pages]
    sheets = [write_sheet(one, Style(paper=kind), seed + number) for number, one in enumerate(answers)]
    return bent(sheets, bulge_mm, np.random.default_rng(seed))


@cache
def book(turns: int = 0, kind: str = "ruled") -> Photograph:
    scene = Scene(size=WIDE if turns % 2 == 0 else HIGH, quarter_turns=turns, fill=0.93, tilt=0.06)
    return photograph(paper(kind, 18.0).sheet, scene, 5)


def seen_at(shot: Photograph, page: int, turns: int, points: list[tuple[float, float]]) -> NDArray[np.float64]:
    return book_trials.seen_at(paper("ruled", 18.0), shot, turns, page, np.array(points))


class OpenBook(unittest.TestCase):
    def test_its_left_page_comes_before_the_right_one_however_it_lay(self) -> None:
        for turns in range(4):
            shot = book(turns)
            for half in (0, 1):
                page = prepare(shot.jpeg, half=half)
                middle = np.mean(page.sheet.corners, axis=0)
                ((truth_x, truth_y),) = seen_at(shot, half, turns, [(0.5, 0.5)])
                with self.subTest(turns=turns, half=half):
                    self.assertEqual((page.halves, page.turn), (2, -turns % 4 * 90))
                    self.assertLess(np.hypot(middle[0] - truth_x, middle[1] - truth_y), 0.04 * max(WIDE))
                    self.assertGreater(page.image_height, page.image_width)
                    self.assertNotIn(Advice.TWO_SHEETS, [one.code for one in page.advice])

    def test_no_ink_of_either_page_is_cut(self) -> None:
        shot = book()
        inks = []
        for half in (0, 1):
            kept = np.zeros(shot.ink_seen.shape, np.uint8)
            corners = np.rint(np.array(prepare(shot.jpeg, half=half).sheet.corners) * 16).astype(np.int32)
            cv2.fillConvexPoly(kept, corners, 255, shift=4)
            inks.append(kept)
        lost = cv2.bitwise_and(cv2.compare(shot.ink_seen, 128, cv2.CMP_GT), ~cv2.bitwise_or(*inks))
        self.assertLess(cv2.countNonZero(lost), 12)

    def test_who_wants_the_whole_picture_gets_it(self) -> None:
        page = prepare(book().jpeg, half=None)
        self.assertEqual(page.halves, 1)
        self.assertGreater(page.image_width, page.image_height)

    def test_corners_set_by_hand_are_not_split(self) -> None:
        whole = ((0.0, 0.0), (2016.0, 0.0), (2016.0, 1512.0), (0.0, 1512.0))
        self.assertEqual(prepare(book().jpeg, recipe=Recipe(corners=whole)).halves, 1)

    def test_two_sheets_side_by_side_are_no_book(self) -> None:
        one, other = (write_sheet(answers()[:3], Style(), 4) for answers in (noon_sight, great_circles))
        self.assertEqual(prepare(photograph(one, Scene(size=WIDE, tilt=0.05), 7, other).jpeg).halves, 1)

    def test_a_folded_sheet_whose_lines_run_along_the_fold_is_no_book(self) -> None:
        """A book's lines run towards its gutter. The fold is as soft and as dark as a gutter's shadow."""
        written = write_sheet(great_circles()[:5], Style(paper="ruled"), 2)
        height = written.pixels.shape[0]
        away = np.abs(np.arange(height) - height / 2)
        shade = (1 - 0.5 * np.exp(-away / (height / 60)))[:, None, None]
        folded = type(written)((written.pixels * shade).astype(np.uint8), written.ink, written.labels)
        shot = photograph(folded, Scene(size=HIGH, fill=0.8, tilt=0.03), 3)
        pixels = decoded(shot.jpeg)
        self.assertIsNotNone(facing_pages(pixels, 1.0, pixels.shape[:2]))
        self.assertEqual(prepare(shot.jpeg).halves, 1)

    def test_pages_reach_to_the_gutter_where_their_shadow_has_a_clearer_edge(self) -> None:
        """Tuning photographs: the shadow's edge was taken for the page's."""
        for condition, seed in (("book: ruled", 104), ("book: squared", 100)):
            outcome = outcome_of((condition, seed))
            with self.subTest(condition):
                self.assertEqual((outcome.split, outcome.cut_ink), (True, False))

    def test_a_page_of_a_book_of_which_nothing_tells_how_it_bends_is_advised_about(self) -> None:
        page = prepare(book_trials.make("book: plain", 100).shot.jpeg, half=1)
        self.assertIsNone(page.curve)
        self.assertIn(Advice.CURVED, [one.code for one in page.advice])

    def test_a_gutter_is_a_valley_of_shadow_that_is_as_long_as_the_pages(self) -> None:
        across = np.abs(np.arange(518) - 259.5)
        shadow = 110 * np.exp(-across / 7)[None]
        for cut, expected in ((388, True), (100, False)):
            light = 235 - np.where(np.arange(388)[:, None] < cut, shadow, 0)
            picture = np.repeat(light[..., None], 3, axis=2).astype(np.uint8)
            for lying in (picture, np.ascontiguousarray(picture.transpose(1, 0, 2))):
                with self.subTest(cut=cut, shape=lying.shape):
                    self.assertEqual(gutter_in(lying) is not None, expected)

    def test_what_two_pages_say_together_runs_towards_their_gutter(self) -> None:
        def told(*chances: float) -> Upright:
            return Upright(0, 0.0, max(chances), False, chances)  # type: ignore[arg-type]

        unsure = told(0.5, 0.1, 0.3, 0.1)
        both = together(unsure, told(0.9, 0.0, 0.1, 0.0), sideways=False)
        assert both is not None
        self.assertEqual((both.turn, both.sure > 0.9), (0, True))
        self.assertIsNone(together(unsure, unsure, sideways=True))
        doubtful = together(told(0.5, 0.0, 0.5, 0.0), told(0.5, 0.0, 0.5, 0.0), sideways=False)
        assert doubtful is not None
        self.assertEqual((doubtful.turn, doubtful.sure), (0, 0.5))


class BentLines(unittest.TestCase):
    def test_the_lines_of_a_book_are_straightened(self) -> None:
        shot = book()
        for half in (0, 1):
            page = prepare(shot.jpeg, half=half)
            lines = lines_of(BookTrial("", shot, paper("ruled", 18.0), 0, WIDE), half, page)
            with self.subTest(half=half):
                self.assertLess(lines.left, 0.5 * lines.bent)
                self.assertNotIn(Advice.CURVED, [one.code for one in page.advice])

    def test_the_prepared_picture_shows_them_straight(self) -> None:
        """Measured from outside: how far ruled lines stand lower in the middle of the picture than at both sides."""
        shot = book()
        page = prepare(shot.jpeg, recipe=Recipe(tone=Tone.PHOTO), half=1)  # ruling is wiped away otherwise
        size = page.image_width, page.image_height
        crooked = straighten(decoded(shot.jpeg), page.sheet.corners, size)
        self.assertLess(sag(decoded(page.image)), 0.4 * sag(crooked))

    def test_a_flat_sheet_is_left_as_it_lies(self) -> None:
        for kind in ("ruled", "plain"):
            written = write_sheet(great_circles()[:4], Style(paper=kind), 2)
            page = prepare(photograph(written, Scene(size=HIGH), 3).jpeg)
            with self.subTest(kind):
                self.assertIsNone(page.curve)
                self.assertNotIn(Advice.CURVED, [one.code for one in page.advice])

    def test_a_flat_sheet_of_which_a_part_lies_outside_the_picture_is_left_as_it_lies(self) -> None:
        """What stands in for that part bends its lines and its edges alike."""
        number = list(trials.CONDITIONS).index("around: partly outside")
        for seed in (7, 21):
            page = prepare(trials.make("around: partly outside", 1000 * number + seed, (1944, 2592)).data)
            with self.subTest(seed=seed):
                self.assertEqual((page.curve, page.sheet.found), (None, True))

    def test_what_cannot_be_straightened_is_told(self) -> None:
        """Few words on plain paper: the sheet's edges bend, and the lines do not say how the rest does."""
        answers = (noon_sight()[:2], great_circles()[:2])
        sheets = [write_sheet(one, Style(paper="plain"), 5 + number) for number, one in enumerate(answers)]
        scene = Scene(size=WIDE, fill=0.93, tilt=0.06)
        page = prepare(photograph(bent(sheets, 20.0, np.random.default_rng(5)).sheet, scene, 5).jpeg)
        self.assertIsNone(page.curve)
        self.assertIn(Advice.CURVED, [one.code for one in page.advice])

    def test_a_plain_page_is_straightened_where_its_words_and_its_edges_bend_alike(self) -> None:
        for seed in (8, 103, 134):
            trial = book_trials.make("bent sheet: plain", seed)
            page = prepare(trial.shot.jpeg)
            lines = lines_of(trial, 0, page)
            with self.subTest(seed=seed):
                self.assertIsNotNone(page.curve)
                self.assertLess(lines.left, 0.5 * lines.bent)

    def test_plain_paper_of_which_only_the_edges_bend_is_told(self) -> None:
        page = prepare(book_trials.make("bent sheet: plain", 116).shot.jpeg)
        self.assertIsNone(page.curve)
        self.assertIn(Advice.CURVED, [one.code for one in page.advice])


class BentSheetFound(unittest.TestCase):
    """A sheet so bent that no straight outline is sure to be its own."""

    def test_edges_that_bend_as_its_lines_do_tell_it(self) -> None:
        for condition, seed in (("bent sheet: ruled", 138), ("bent sheet: plain", 132)):
            trial = book_trials.make(condition, seed)
            page = prepare(trial.shot.jpeg)
            outcome = outcome_of((condition, seed))
            with self.subTest(condition):
                self.assertFalse(find_sheet(decoded(trial.shot.jpeg)).found)
                self.assertEqual((page.sheet.found, page.sheet.confidence), (True, BENT_SHEET_CONFIDENCE))
                self.assertFalse(outcome.cut_ink)
                self.assertLess(outcome.pages[0].left, 0.5 * outcome.pages[0].bent)

    def test_an_outline_whose_side_runs_through_the_page_is_not_taken(self) -> None:
        page = prepare(book_trials.make("bent sheet: ruled", 129).shot.jpeg)
        self.assertEqual((page.sheet.found, page.halves), (False, 1))
        self.assertIn(Advice.SHEET_NOT_FOUND, [one.code for one in page.advice])

    def test_where_the_whole_picture_is_wanted_no_page_of_a_book_is_taken_for_it(self) -> None:
        page = prepare(book_trials.make("book: squared", 104).shot.jpeg, half=None)
        self.assertFalse(page.sheet.found)

    def test_flat_papers_upon_each_other_are_not_taken_for_one(self) -> None:
        number = list(trials.CONDITIONS).index("around: papers beneath")
        for seed in (0, 3):
            page = prepare(trials.make("around: papers beneath", 1000 * number + seed, (1944, 2592)).data)
            with self.subTest(seed=seed):
                self.assertFalse(page.sheet.found)


def decoded(jpeg: bytes) -> NDArray[np.uint8]:
    return np.asarray(cv2.imdecode(np.frombuffer(jpeg, np.uint8), cv2.IMREAD_COLOR_RGB), np.uint8)


def sag(picture: NDArray[np.uint8]) -> float:
    """In pixels, where nothing is written near the foot: three upright strips of it are laid over each other."""
    height, width = picture.shape[:2]
    dark = 255 - picture.min(axis=2).astype(np.float32)
    strips = [dark[:, round(at * width) - 25 : round(at * width) + 25].mean(axis=1) for at in (0.08, 0.5, 0.92)]
    strips = [strip - np.convolve(strip, np.ones(61) / 61, "same") for strip in strips]
    foot = slice(2 * height // 3, 11 * height // 12)
    left, middle, right = (strip[foot] - strip[foot].mean() for strip in strips)
    lower = [int(np.argmax([np.roll(side, by) @ middle for by in range(-25, 26)])) - 25 for side in (left, right)]
    return abs(sum(lower)) / 2
