"""Printed forms: which page a photograph shows, where its points lie, what is empty; held against other libraries."""

from __future__ import annotations

import io
import unittest
from dataclasses import replace
from functools import lru_cache

import cv2
import numpy as np
import pikepdf
import pypdfium2
from PIL import Image
from reportlab.pdfgen.canvas import Canvas
from skimage.transform import ProjectiveTransform

from folio_camera.form_trials import FormTrial, make, photographed, photographed_with_number
from folio_camera.printed_forms import LOOKS, PrintedForm, make_form
from folio_core.forms import Registered, empty_answers, ink_in, propose_spaces, register
from folio_core.forms.answers import is_empty
from folio_core.forms.bending import Bend, bend_of
from folio_core.forms.blank import POINT_PX, blank_page
from folio_core.forms.from_files import BadSpaces, form_from, read_spaces
from folio_core.forms.marks import MARK_PT, Copy, marks_in, with_marks
from folio_core.forms.number_boxes import digits_in, likeliest, number_boxes, place_on
from folio_core.page import DEFAULT_LIMITS, PageError, run_limited
from folio_core.question_paper import propose_map, read_paper
from folio_core.reading.engine import NullEngine, usual_engine

SIZE = (1512, 2016)
CLOSE_MM = 1.5


form_of = lru_cache(8)(form_from)


def pixels_of(data: bytes) -> np.ndarray:
    with Image.open(io.BytesIO(data)) as image:
        return np.asarray(image.convert("RGB"), np.uint8)


def registered(trial: FormTrial) -> Registered:
    found = register(pixels_of(trial.data), form_of(trial.form.pdf))
    assert found is not None
    return found


def corners_of(trial: FormTrial) -> np.ndarray:
    return np.array(
        [
            corner
            for boxes in trial.form.spaces.values()
            for page, left, top, right, bottom in boxes
            if page == trial.page
            for corner in ((left, top), (right, top), (right, bottom), (left, bottom))
        ], float,
    )  # fmt: skip


class Registering(unittest.TestCase):
    def test_the_page_is_told_and_its_spaces_lie_where_they_are(self) -> None:
        """Upright and turned, printed smaller, with pages that differ by three numbers only, a third of it hidden."""
        trials = (
            ("plain", 11), ("turned", 12), ("steep", 13), ("fit to page, 94 %", 12), ("pages look alike", 22),
            ("a third hidden", 20),
        )  # fmt: skip
        for condition, seed in trials:
            trial = make(condition, seed, size=SIZE)
            found = registered(trial)
            self.assertEqual((found.page, found.is_known), (trial.page, True), condition)
            points = corners_of(trial)
            seen = trial.seen_at(points)
            shown = (seen > 0).all(axis=1) & (seen < SIZE).all(axis=1)
            away = np.linalg.norm(cv2.perspectiveTransform(seen[None], found.homography)[0] - points, axis=1)[shown]
            if condition != "a third hidden":
                self.assertLess(away.max() * 25.4 / 72, CLOSE_MM, condition)

    def test_it_agrees_with_scikit_images_estimate_from_the_truth(self) -> None:
        """`skimage.transform.ProjectiveTransform` and `cv2.findHomography` on known points (direct linear transform,
        Hartley and Zisserman, 4.1); to a millimetre over the whole page."""
        trial = make("plain", 15, size=SIZE)
        points = corners_of(trial)
        seen = trial.seen_at(points)
        theirs = ProjectiveTransform.from_estimate(seen, points)
        ours = registered(trial).homography
        by_opencv, _ = cv2.findHomography(seen, points, 0)
        for truth in (theirs.params, by_opencv):
            apart = cv2.perspectiveTransform(seen[None], ours)[0] - cv2.perspectiveTransform(seen[None], truth)[0]
            self.assertLess(np.abs(apart).max() * 25.4 / 72, 1.0)

    def test_a_creased_sheet_is_not_taken_for_a_page_with_few_words(self) -> None:
        """Of which all are dark in it, by chance; but they are other words."""
        for seed in (35, 52):
            trial = make("creased", seed)
            found = registered(trial)
            self.assertEqual(found.page, trial.page)
            self.assertTrue(found.is_known)

    def test_words_in_a_narrow_strip_tell_a_page_where_its_sides_say_the_rest(self) -> None:
        """They alone make a homography by which no sheet can lie."""
        trial = make("a third hidden", 204)
        found, points = registered(trial), corners_of(trial)
        self.assertEqual((found.page, found.is_known), (trial.page, True))
        away = cv2.perspectiveTransform(trial.seen_at(points)[None], found.homography)[0] - points
        self.assertLess(np.abs(away).max() * 25.4 / 72, CLOSE_MM)

    def test_scrap_and_another_form_are_no_page_of_it(self) -> None:
        for condition, seed in (("scrap paper", 11), ("another form", 11)):
            trial = make(condition, seed, size=SIZE)
            found = register(pixels_of(trial.data), form_of(trial.form.pdf))
            self.assertFalse(found is not None and found.is_known, condition)

    def test_a_picture_that_is_cut_to_the_sheet_and_a_marked_page_are_told_too(self) -> None:
        form = make_form("lines", 3, pages=3)
        sheet = form_of(form.pdf).pages[1]
        straight = cv2.cvtColor(cv2.resize(sheet.grey, None, fx=1.7, fy=1.7), cv2.COLOR_GRAY2RGB)
        found = register(straight, form_of(form.pdf), is_sheet=True)
        assert found is not None
        self.assertEqual((found.page, found.is_known), (1, True))
        self.assertEqual(register(straight, form_of(form.pdf), 1, is_sheet=True).page, 1)  # type: ignore[union-attr]


class Empty(unittest.TestCase):
    def test_empty_answers_are_told_and_written_ones_are_not(self) -> None:
        """Pen and pencil; boxes, lines and dots."""
        for condition, seed in (("plain", 20), ("pencil", 21), ("blank", 22), ("written full", 20)):
            trial = make(condition, seed, size=SIZE)
            found = registered(trial)
            here = {label for label, boxes in trial.form.spaces.items() if boxes[0][0] == trial.page}
            told = empty_answers(pixels_of(trial.data), form_of(trial.form.pdf), found, trial.form.spaces)
            self.assertEqual(set(told), trial.empty & here, condition)

    def test_print_inside_a_space_is_no_answer(self) -> None:
        """Units, dotted lines and words that are printed where one writes; also a little off their places."""
        out = io.BytesIO()
        canvas = Canvas(out, pagesize=(595, 842), invariant=1)
        for number in range(4):
            y = 760 - 180 * number
            canvas.drawString(60, y, f"{number + 1}. How long does it take to be emptied through pipe {number + 5}?")
            canvas.drawString(300, y - 60, "minutes and")
            canvas.drawString(460, y - 90, "seconds")
        canvas.showPage()
        canvas.save()
        spaces = {str(number + 1): [(0, 60.0, 90 + 180.0 * number, 540.0, 240 + 180.0 * number)] for number in range(4)}
        form = PrintedForm(out.getvalue(), spaces, 1, (595, 842))
        pixels = pixels_of(photographed(form, 0, ["3"], 8, SIZE))
        known = register(pixels, form_of(form.pdf))
        assert known is not None
        self.assertEqual(empty_answers(pixels, form_of(form.pdf), known, spaces), ["1", "2", "4"])

    def test_of_a_space_that_is_hidden_nothing_is_said(self) -> None:
        form = make_form("boxes", 11, pages=4)
        pixels = pixels_of(photographed(form, 1, [], 4, SIZE)).copy()
        known = register(pixels, form_of(form.pdf))
        assert known is not None
        self.assertEqual(set(empty_answers(pixels, form_of(form.pdf), known, form.spaces)), {"4", "5"})
        blank = form_of(form.pdf).pages[1]
        _, left, top, right, bottom = form.spaces["5"][0]
        for wide, high, least, most in ((0.3, 0.4, 0.6, 0.95), (1.0, 1.0, -0.1, 0.6)):  # where it begins; all of it
            to_right, down = left + wide * (right - left), top + high * (bottom - top)
            corners = np.array([[(left, top), (to_right, top), (to_right, down), (left, down)]], float)
            hand = cv2.perspectiveTransform(corners, np.linalg.inv(known.homography))[0].astype(np.int32)
            cv2.fillPoly(pixels, [hand], (150, 96, 70))
            self.assertEqual(empty_answers(pixels, form_of(form.pdf), known, form.spaces), ["4"])
            part = ink_in(pixels, blank, known.homography, form.spaces)["5"][0]
            self.assertTrue(least < part.seen < most, part)
            self.assertLess(part.beginning_seen, 0.6)
            self.assertIsNone(is_empty([replace(part, ink_mm2=0.0)]))  # what was written may lie beneath the hand


class Marks(unittest.TestCase):
    def test_each_page_of_each_copy_says_in_two_corners_what_it_is(self) -> None:
        """Written by segno, read by ZXing and by OpenCV's own reader. ISO/IEC 18004, 6.3.1: a code of version v has
        17 + 4 v modules a side."""
        form = make_form("boxes", 2, pages=2)
        printed = with_marks(
            form.pdf, 37, [Copy(30417, "Ilse Marrow", "30417"), Copy(30402, "Tobin Ashgrove", "30402")]
        )
        with pypdfium2.PdfDocument(printed) as document:
            self.assertEqual(len(document), 4)
            self.assertIn("Ilse Marrow", document[0].get_textpage().get_text_range())
            for number, page in enumerate(document):
                pixels = page.render(scale=3).to_numpy()[:, :, :3].copy()
                marks = marks_in(pixels)
                self.assertEqual([(one.assignment, one.page) for one in marks], [(37, number % 2)] * 2)
                self.assertEqual({one.copy for one in marks}, {(30417, 30402)[number // 2]})
                corner = pixels[: (80 * 3), -(80 * 3) :]
                text, _, _ = cv2.QRCodeDetector().detectAndDecode(corner)
                self.assertEqual(text, marks[0].text)
        self.assertAlmostEqual(MARK_PT * 25.4 / 72, 12, delta=0.1)

    def test_a_photograph_of_a_marked_sheet_tells_its_copy(self) -> None:
        form = make_form("boxes", 2, pages=2)
        marked = PrintedForm(with_marks(form.pdf, 37, [Copy(5)]), form.spaces, 2, form.size_pt)
        pixels = pixels_of(photographed(marked, 1, [], 6))
        self.assertEqual({(one.assignment, one.page, one.copy) for one in marks_in(pixels)}, {(37, 1, 5)})
        found = register(pixels, form_of(form.pdf), 1)
        self.assertEqual(found and (found.page, found.is_known), (1, True))

    def test_boxes_for_the_number_stand_where_the_form_is_white(self) -> None:
        for look in LOOKS:
            form = make_form(look, 7, pages=1)
            blank = form_of(form.pdf).pages[0]
            place = place_on(blank)
            assert place is not None
            left, top, _, _ = number_boxes(place)[0]
            right, bottom = number_boxes(place)[-1][2:]
            x, y, to_x, to_y = (round(side * POINT_PX) for side in (left, top, right, bottom))
            self.assertGreater(blank.grey[y:to_y, x:to_x].min(), 200, look)
            self.assertLess(bottom, blank.height_pt)
            self.assertFalse(right > blank.width_pt - MARK_PT - 20 and top < MARK_PT + 20, look)
        white = blank_page(0, np.full((842, 595), 255, np.uint8), (595.0, 842.0))
        place = place_on(white)
        assert place is not None
        right, bottom = number_boxes(place)[-1][2:]
        self.assertEqual((place[1], right <= 595 - MARK_PT - 20), (20.0, True))  # in line with the code, and left of it
        black = blank_page(0, np.zeros((842, 595), np.uint8), (595.0, 842.0))
        self.assertIsNone(place_on(black))

    def test_digits_in_the_boxes_tell_whose_number_of_the_roster_it_is(self) -> None:
        roster = [str(30400 + at) for at in range(60)]
        for seed, number in enumerate(("30417", "30402", "30459")):
            form = make_form("boxes", seed, pages=1)
            blank = form_of(form.pdf).pages[0]
            place = place_on(blank)
            assert place is not None
            marked = PrintedForm(with_marks(form.pdf, 37, first=blank), {}, 1, form.size_pt)
            pixels = pixels_of(photographed_with_number(marked, number, number_boxes(place), seed))
            found = register(pixels, form_of(form.pdf), 0)
            assert found is not None
            digits = digits_in(pixels, blank, found.homography, usual_engine())
            self.assertEqual(digits[5:], [None] * 3)
            told = likeliest(digits, roster)
            assert told is not None
            self.assertEqual(told[0], number)
            self.assertGreater(told[1], 0.8)
            self.assertIsNone(likeliest(digits, ["304", "304175", "A0417"]))  # none is of five digits
            self.assertEqual(digits_in(pixels, blank, found.homography, NullEngine())[5:], [None] * 3)

    def test_a_number_that_nobody_has_is_nobodys(self) -> None:
        """Worked by hand: two boxes, surely 4 and 2 against a roster that has only 17."""
        sure = [[float(digit == wanted) for digit in range(10)] for wanted in (4, 2)]
        self.assertEqual(likeliest([None, *sure, None], ["42", "17"]), ("42", 1 / (1 + 1e-8 + 0.01)))
        told = likeliest(sure, ["17"])
        assert told is not None
        self.assertLess(told[1], 1e-5)
        self.assertIsNone(likeliest([None, None], ["42"]))

    def test_codes_of_others_are_nobodys_business(self) -> None:
        import segno

        out = io.BytesIO()
        segno.make("https://example.org/FOLIO/1/1/1").save(out, kind="png", scale=8, border=4)
        self.assertEqual(marks_in(pixels_of(out.getvalue())), [])


class Bending(unittest.TestCase):
    """A sheet that does not lie flat."""

    def test_a_fold_is_found_and_undone(self) -> None:
        """The blank page itself, its lower half moved up and aside: how far each point lies is known."""
        page = form_of(make_form("boxes", 5, pages=1).pdf).pages[0]
        height, width = page.grey.shape
        down = np.arange(height, dtype=np.float32)[:, None] + np.zeros((1, width), np.float32)
        lower = np.clip(down - height / 2, 0, None)
        columns = np.arange(width, dtype=np.float32)[None] + 0.006 * lower
        seen = cv2.remap(page.grey, columns, down + 0.012 * lower, cv2.INTER_LINEAR, borderValue=255)
        bend = bend_of(page, np.asarray(seen, np.uint8), np.eye(3))
        assert bend is not None
        for y in (0.1, 0.4, 0.6, 0.8):
            spot = np.array([[0.5 * width, y * height]])
            beyond = max(0.0, (y - 0.5) * height)
            truth = (spot + beyond * np.array([0.006, 0.012])) / POINT_PX
            self.assertLess(np.abs(bend.at(spot / POINT_PX) - truth).max() * POINT_PX, 2.0, y)
        nearest, left = bend.flattened()
        spots = np.array([[100.0, 700.0], [500.0, 120.0], [300.0, 420.0]])
        again = left.at(cv2.perspectiveTransform(spots[None], nearest)[0])
        self.assertLess(np.abs(again - bend.at(spots)).max(), 1.0)

    def test_what_one_homography_does_is_left_to_it(self) -> None:
        """A plane's move at every node: nothing is left beside the homography (by OpenCV's least squares)."""
        tilt = np.array([[1.01, 0.004, 3.0], [-0.003, 0.995, -2.0], [1e-6, 2e-6, 1.0]])
        nodes = np.stack(np.meshgrid(np.linspace(0, 595, 7), np.linspace(0, 842, 13)), -1).reshape(-1, 2)
        moves = (cv2.perspectiveTransform(nodes[None], tilt)[0] - nodes).reshape(13, 7, 2)
        nearest, left = Bend(moves, 595.0, 842.0).flattened()
        self.assertLess(np.abs(nearest / nearest[2, 2] - tilt)[:2, :2].max(), 2e-3)
        self.assertLess(np.abs(left.moves).max(), 0.15)

    def test_a_flat_sheet_is_not_bent_and_without_print_nothing_is_said(self) -> None:
        flat = registered(make("plain", 3, size=SIZE))
        self.assertIsNone(flat.bend)
        white = blank_page(0, np.full((842, 595), 255, np.uint8), (595.0, 842.0))
        self.assertIsNone(bend_of(white, white.grey, np.eye(3)))

    def test_on_a_creased_sheet_points_lie_nearer_than_by_the_homography_alone(self) -> None:
        away = []
        for seed in (1, 3, 12):
            trial = make("creased", seed, size=SIZE)
            found, points = registered(trial), corners_of(trial)
            seen = trial.seen_at(points)
            flat = cv2.perspectiveTransform(seen[None], found.homography)[0]
            away.append([np.linalg.norm(one - points, axis=1).max() for one in (flat, found.on_page(seen))])
        by_homography, by_bend = np.sum(away, axis=0)
        self.assertLess(by_bend, 0.8 * by_homography)


class Spaces(unittest.TestCase):
    def test_the_room_below_each_questions_words_is_found(self) -> None:
        for look in LOOKS:
            form = make_form(look, 4, pages=3)
            text = run_limited(read_paper, form.pdf, DEFAULT_LIMITS)
            proposed = propose_spaces(text, propose_map(text))
            self.assertEqual(set(proposed), set(form.spaces), look)
            for label, boxes in form.spaces.items():
                self.assertGreater(_overlap(proposed[label][0], boxes[0]), 0.6, f"{look} {label}")

    def test_a_file_of_spaces_is_read_and_anything_else_refused(self) -> None:
        self.assertEqual(read_spaces('{"1a": [[0, 10, 20, 30, 40]]}'), {"1a": [(0, 10.0, 20.0, 30.0, 40.0)]})
        for bad in (
            "",
            "[]",
            '{"1": 3}',
            '{"1": [[0, 1, 2]]}',
            '{"1": [[0, 30, 20, 10, 40]]}',
            '{"1": [[-1, 1, 2, 3, 4]]}',
        ):
            with self.assertRaises(BadSpaces, msg=bad):
                read_spaces(bad)


class BadForms(unittest.TestCase):
    def test_a_locked_one_a_thick_one_and_one_without_print_say_what_to_do(self) -> None:
        locked, empty = io.BytesIO(), io.BytesIO()
        with pikepdf.open(io.BytesIO(make_form("boxes", 2, pages=2).pdf)) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(owner="a", user="b"))
        canvas = Canvas(empty)
        canvas.showPage()
        canvas.save()
        thick = make_form("white", 2, pages=61).pdf
        for data, words in ((locked.getvalue(), "password"), (empty.getvalue(), "no print"), (thick, "at most 60")):
            with self.assertRaisesRegex(PageError, words):
                form_from(data)


def _overlap(one: tuple[float, ...], other: tuple[float, ...]) -> float:
    """Intersection over union of two boxes on the same page."""
    if one[0] != other[0]:
        return 0.0
    width = min(one[3], other[3]) - max(one[1], other[1])
    height = min(one[4], other[4]) - max(one[2], other[2])
    common = max(0.0, width) * max(0.0, height)
    area = sum((box[3] - box[1]) * (box[4] - box[2]) for box in (one, other))
    return common / (area - common)
