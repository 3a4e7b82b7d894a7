"""Whatever bytes come, a page comes out or one PageError does; whatever corners, a page within its limits."""

from __future__ import annotations

import io
import math
import unittest

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from folio_core.page import DEFAULT_LIMITS, PageError, Recipe, count_pages, kind_of, prepare
from folio_core.page.light import otsu_of, turned
from folio_core.page.limits import OUTPUT_LONG_SIDE_PX
from folio_core.page.opening import open_page
from folio_core.page.straighten import homography, inset, output_size, sheet_size_px, straighten

import calm  # noqa: F401 isort: skip

SLOW = settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
_HEADS = (
    b"\xff\xd8\xff\xe0",
    b"\x89PNG\r\n\x1a\n",
    b"RIFF....WEBPVP8 ",
    b"II*\x00",
    b"%PDF-1.7\n",
    b"\0\0\0\x18ftypheic",
)


def jpeg(width: int, height: int, seed: int) -> bytes:
    out = io.BytesIO()
    noise = np.random.default_rng(seed).integers(0, 255, (height, width, 3), dtype=np.uint8)
    Image.fromarray(noise).save(out, "JPEG", quality=60)
    return out.getvalue()


class AnyBytes(unittest.TestCase):
    @given(st.binary(max_size=200))
    def test_a_head_is_a_kind_or_one_error(self, head: bytes) -> None:
        try:
            kind_of(head)
        except PageError as error:
            self.assertTrue(error.message)

    @SLOW
    @given(st.sampled_from(_HEADS), st.binary(max_size=400))
    def test_a_body_behind_a_right_head_is_opened_or_one_error(self, head: bytes, body: bytes) -> None:
        try:
            count_pages(head + body, DEFAULT_LIMITS)
            open_page(head + body, 0, DEFAULT_LIMITS)
        except PageError as error:
            self.assertTrue(error.message)

    @SLOW
    @given(st.integers(0, 4000), st.binary(min_size=1, max_size=8))
    def test_a_damaged_photograph_is_opened_or_one_error(self, at: int, damage: bytes) -> None:
        whole = jpeg(80, 60, 1)
        at %= len(whole)
        try:
            prepare(whole[:at] + damage + whole[at + len(damage) :])
        except PageError as error:
            self.assertTrue(error.message)

    @SLOW
    @given(st.integers(1, 300), st.integers(1, 300), st.integers(0, 9))
    def test_any_size_of_picture_comes_out_no_larger_than_it_was(self, width: int, height: int, seed: int) -> None:
        page = prepare(jpeg(width, height, seed))
        self.assertLessEqual(max(page.image_width, page.image_height), max(width, height))
        self.assertEqual((page.width, page.height), (width, height))

    def test_a_strip_however_thin_comes_out(self) -> None:
        """Also what a damaged header makes of a photograph: found by `test_a_damaged_photograph…`, with 60 × 32,645."""
        for width, height in ((60, 32_645), (80, 9000), (3, 5000), (5000, 3), (70, 3000), (12_000, 65)):
            page = prepare(jpeg(width, height, 1))
            self.assertEqual((page.width, page.height, page.sheet.found), (width, height, False))


_OFFSET = st.floats(-0.2, 0.2)


@st.composite
def quads(draw: st.DrawFn) -> tuple[tuple[float, float], ...]:
    """A convex sheet: a rectangle with each corner pulled by up to a fifth."""
    width, height = draw(st.floats(200, 3000)), draw(st.floats(200, 3000))
    corners = ((0, 0), (1, 0), (1, 1), (0, 1))
    return tuple(((x + draw(_OFFSET)) * width, (y + draw(_OFFSET)) * height) for x, y in corners)


class AnyCorners(unittest.TestCase):
    @given(quads(), st.booleans())
    def test_the_page_is_never_larger_than_the_source_nor_than_the_limit(self, corners: tuple, snap: bool) -> None:
        size = output_size(corners, (3600, 3600), snap=snap)
        self.assertLessEqual(max(size), OUTPUT_LONG_SIDE_PX)
        self.assertLessEqual(max(size), round(max(sheet_size_px(corners))))
        self.assertGreaterEqual(min(size), 1)

    @given(quads())
    def test_the_homography_takes_each_corner_to_its_place(self, corners: tuple) -> None:
        matrix = homography(corners, 210, 297)
        for (x, y), wanted in zip(corners, ((0, 0), (210, 0), (210, 297), (0, 297)), strict=True):
            u, v, w = matrix @ (x, y, 1)
            self.assertLess(math.dist((u / w, v / w), wanted), 0.05)

    @given(quads())
    def test_the_inset_stays_inside_and_takes_less_than_a_millimetre_of_a4(self, corners: tuple) -> None:
        cut = inset(corners)
        centre = np.mean(corners, axis=0)
        for before, after in zip(corners, cut, strict=True):
            self.assertLess(math.dist(after, centre), math.dist(before, centre))
            self.assertLess(math.dist(before, after) / math.dist(before, centre), 0.5 / 182)  # mm of A4's half diagonal

    def test_straightening_the_whole_picture_changes_nothing(self) -> None:
        picture = np.random.default_rng(3).integers(0, 255, (90, 60, 3), dtype=np.uint8)
        whole = ((0.0, 0.0), (60.0, 0.0), (60.0, 90.0), (0.0, 90.0))
        np.testing.assert_array_equal(straighten(picture, whole, (60, 90)), picture)

    def test_a_large_picture_is_averaged_not_skipped(self) -> None:
        """One-pixel black lines on white, shrunk by four: a quarter grey everywhere, no line lost or doubled."""
        lines = np.full((400, 400, 3), 255, np.uint8)
        lines[::4] = 0
        flat = straighten(lines, ((0, 0), (400, 0), (400, 400), (0, 400)), (100, 100))
        self.assertLess(abs(int(flat.min()) - 191), 3)
        self.assertLess(abs(int(flat.max()) - 191), 3)


class Turning(unittest.TestCase):
    @given(st.sampled_from([0, 90, 180, 270]), st.sampled_from([0, 90, 180, 270]))
    def test_turns_add_up(self, first: int, second: int) -> None:
        picture = np.arange(24, dtype=np.uint8).reshape(2, 4, 3)
        both = turned(turned(picture, first), second)
        np.testing.assert_array_equal(both, turned(picture, (first + second) % 360))

    def test_ninety_is_clockwise(self) -> None:
        picture = np.zeros((2, 3, 3), np.uint8)
        picture[0, 0] = 255
        self.assertEqual(turned(picture, 90)[0, -1, 0], 255)

    def test_other_angles_are_no_recipe(self) -> None:
        with self.assertRaises(ValueError):
            Recipe(turn=45)


class Thresholds(unittest.TestCase):
    @given(st.lists(st.integers(0, 5000), min_size=256, max_size=256))
    def test_otsu_is_always_a_grey_level(self, histogram: list[int]) -> None:
        self.assertIn(otsu_of(np.asarray(histogram, np.float32)), range(256))

    @given(st.integers(5, 120), st.integers(135, 250))
    def test_otsu_parts_two_heaps(self, low: int, high: int) -> None:
        histogram = np.zeros(256, np.float32)
        histogram[[low - 1, low, low + 1]] = 100
        histogram[[high - 1, high, high + 1]] = 300
        self.assertTrue(low <= otsu_of(histogram) < high)
