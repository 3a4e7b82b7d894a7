"""Every kind of file and every bad one, made here with Pillow, pillow-heif (libheif), pikepdf and PDFium."""

from __future__ import annotations

import io
import unittest

import numpy as np
import pikepdf
from PIL import ExifTags, Image, ImageCms, ImageDraw

from folio_camera.scene import Scene
from folio_core.page import (
    DEFAULT_LIMITS,
    Limits,
    PageError,
    Recipe,
    Trouble,
    count_pages,
    kind_of,
    prepare,
)
from folio_core.page.opening import open_page

from camera_shots import SMALL, shot  # isort: skip


def picture(width: int = 300, height: int = 400) -> Image.Image:
    """Red in the top-left quarter, so that every turn and flip shows."""
    image = Image.new("RGB", (width, height), "white")
    ImageDraw.Draw(image).rectangle((0, 0, width // 2, height // 2), fill="red")
    return image


def saved(image: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def opened(data: bytes, index: int = 0) -> np.ndarray:
    return open_page(data, index, DEFAULT_LIMITS).pixels


def trouble_of(data: bytes, limits: Limits = DEFAULT_LIMITS) -> Trouble:
    """The trouble a file meets on its way, as the worker takes it: counted, then opened."""
    try:
        count_pages(data, limits)
        open_page(data, 0, limits)
    except PageError as error:
        return error.trouble
    raise AssertionError("opened without trouble")


def text_pdf(pages: int = 1, **save_options: object) -> bytes:
    out = io.BytesIO()
    with pikepdf.new() as pdf:
        for _ in range(pages):
            page = pdf.add_blank_page(page_size=(595, 842))
            page.Contents = pdf.make_stream(b"0 0 1 rg 100 600 200 100 re f")
        pdf.save(out, **save_options)
    return out.getvalue()


class Kinds(unittest.TestCase):
    def check_quarter(self, pixels: np.ndarray, tolerance: int = 40) -> None:
        height, width = pixels.shape[:2]
        np.testing.assert_allclose(pixels[height // 4, width // 4], (255, 0, 0), atol=tolerance)
        np.testing.assert_allclose(pixels[3 * height // 4, 3 * width // 4], (255, 255, 255), atol=tolerance)

    def test_every_picture_kind_opens_with_its_colours(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP", "TIFF", "HEIF"):
            with self.subTest(kind):
                self.check_quarter(opened(saved(picture(), kind)))

    def test_every_mode_becomes_rgb(self) -> None:
        with_hole = picture().convert("RGBA")
        with_hole.putalpha(Image.new("L", with_hole.size, 255))
        self.check_quarter(opened(saved(with_hole, "PNG")))
        self.check_quarter(opened(saved(picture().convert("P"), "PNG")))
        self.check_quarter(opened(saved(picture().convert("CMYK"), "JPEG")))
        deep = Image.fromarray(np.full((40, 30), 40000, np.uint16))
        np.testing.assert_allclose(opened(saved(deep, "PNG")), 40000 >> 8, atol=1)

    def test_transparency_lies_on_white(self) -> None:
        clear = Image.new("RGBA", (40, 40), (0, 0, 0, 0))
        self.assertEqual(opened(saved(clear, "PNG")).min(), 255)

    def test_an_embedded_profile_is_turned_into_srgb(self) -> None:
        """Against ImageCms of Pillow (LittleCMS): a Lab profile's mid lightness is not 128 in sRGB."""
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        self.check_quarter(opened(saved(picture(), "JPEG", icc_profile=profile)))

    def test_the_eight_exif_orientations_stand_upright(self) -> None:
        """EXIF 2.32, tag 0x0112. The camera stores the inverse of each; both JPEG ways (OpenCV, Pillow) are tried."""
        for orientation in range(1, 9):
            for kind in ("JPEG", "PNG"):
                stored = _stored_as(np.asarray(picture()), orientation)
                exif = Image.Exif()
                exif[ExifTags.Base.Orientation] = orientation
                with self.subTest(orientation=orientation, kind=kind):
                    pixels = opened(saved(Image.fromarray(stored), kind, exif=exif))
                    self.assertEqual(pixels.shape, (400, 300, 3))
                    self.check_quarter(pixels)

    def test_the_cameras_orientations_stand_upright_too(self) -> None:
        for orientation in (3, 6, 8):
            with self.subTest(orientation):
                page = prepare(shot(Scene(size=SMALL, exif_orientation=orientation)).jpeg)
                self.assertEqual((page.width, page.height), SMALL)

    def test_every_page_of_a_pdf_and_every_frame_of_a_tiff_is_a_page(self) -> None:
        self.assertEqual(count_pages(text_pdf(3), DEFAULT_LIMITS), 3)
        frames = saved(picture(), "TIFF", save_all=True, append_images=[picture(200, 100)])
        self.assertEqual(count_pages(frames, DEFAULT_LIMITS), 2)
        self.assertEqual(opened(frames, 1).shape, (100, 200, 3))

    def test_a_drawn_pdf_page_comes_at_two_hundred_dpi_and_is_not_cut(self) -> None:
        page = prepare(text_pdf())
        self.assertEqual((page.width, page.height), (1653, 2339))  # ISO 216 A4 at 200 dpi, of 595 × 842 points
        self.assertEqual(page.sheet.corners[2], (1653.0, 2339.0))

    def test_a_photograph_inside_a_pdf_is_found_like_any_other(self) -> None:
        import img2pdf

        page = prepare(img2pdf.convert(shot(Scene(size=SMALL)).jpeg))
        self.assertTrue(page.sheet.found)
        self.assertGreater(page.sheet.corners[0][0], 10)


def _stored_as(upright: np.ndarray, orientation: int) -> np.ndarray:
    """From the table of EXIF 2.32: where the 0th row and column of the stored picture lie when it is seen."""
    turns = {1: 0, 2: 0, 3: 2, 4: 2, 5: 1, 6: 1, 7: 3, 8: 3}
    mirrored = upright[:, ::-1] if orientation in (2, 4, 5, 7) else upright
    return np.ascontiguousarray(np.rot90(mirrored, turns[orientation]))


class BadFiles(unittest.TestCase):
    def test_what_is_no_page_is_named_with_a_way_out(self) -> None:
        cases = {
            b"": Trouble.EMPTY,
            b"hello": Trouble.WRONG_KIND,
            b"PK\x03\x04" + b"\0" * 60: Trouble.WRONG_KIND,
            b"<svg xmlns='http://www.w3.org/2000/svg'/>": Trouble.WRONG_KIND,
        }
        for data, wanted in cases.items():
            with self.subTest(data[:10]):
                self.assertEqual(trouble_of(data), wanted)

    def test_an_office_file_is_told_to_become_a_pdf(self) -> None:
        with self.assertRaisesRegex(PageError, "Export it as PDF"):
            kind_of(b"PK\x03\x04" + b"\0" * 60)

    def test_cut_off_files_are_said_to_be_so(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP", "TIFF", "HEIF"):
            data = saved(picture(600, 800), kind)
            with self.subTest(kind):
                self.assertEqual(trouble_of(data[: len(data) * 6 // 10]), Trouble.TRUNCATED)
        self.assertEqual(trouble_of(text_pdf()[:300]), Trouble.TRUNCATED)

    def test_a_locked_pdf(self) -> None:
        locked = text_pdf(encryption=pikepdf.Encryption(owner="o", user="u"))
        self.assertEqual(trouble_of(locked), Trouble.ENCRYPTED)

    def test_a_name_that_lies_does_not_matter(self) -> None:
        self.assertEqual(opened(saved(picture(), "PNG")).shape, (400, 300, 3))  # whatever it was called

    def test_limits_on_bytes_pixels_pages_and_size_of_paper(self) -> None:
        small = Limits(file_bytes=100)
        self.assertEqual(trouble_of(saved(picture(), "PNG"), small), Trouble.TOO_LARGE)
        bomb = saved(Image.new("1", (20_000, 20_000)), "PNG")
        self.assertLess(len(bomb), 100_000)
        self.assertEqual(trouble_of(bomb), Trouble.TOO_MANY_PIXELS)
        self.assertEqual(trouble_of(text_pdf(101)), Trouble.TOO_MANY_PAGES)
        with pikepdf.new() as pdf:
            pdf.add_blank_page(page_size=(14_400, 14_400))
            pdf.Root.Pages.Kids[0].UserUnit = 2
            out = io.BytesIO()
            pdf.save(out)
        self.assertEqual(trouble_of(out.getvalue()), Trouble.TOO_MANY_PIXELS)


class StrangePictures(unittest.TestCase):
    def test_strips_and_crumbs_full_of_ink_are_pages_too(self) -> None:
        """No line, no ruling and no letter fits on them; corners set by hand can leave as little."""
        chance = np.random.default_rng(3)
        for size in ((4, 900), (900, 4), (20, 300), (9, 9), (40, 40), (70, 70)):
            inked = (chance.random((size[1], size[0])) < 0.4).astype(np.uint8) * np.uint8(200)
            picture = Image.fromarray(255 - inked).convert("RGB")
            with self.subTest(size):
                self.assertEqual(prepare(saved(picture, "PNG")).halves, 1)
        large = shot(Scene(size=SMALL)).jpeg
        for side in (3.0, 14.0, 60.0):
            corners = ((700.0, 700.0), (700.0 + side, 700.0), (700.0 + side, 700.0 + side), (700.0, 700.0 + side))
            with self.subTest(side=side):
                self.assertIsNone(prepare(large, recipe=Recipe(corners=corners)).curve)

    def test_tiny_and_blank_pictures_are_pages_too(self) -> None:
        for size in ((1, 1), (5, 3), (60, 84), (2000, 3), (300, 400)):
            for shade in (0, 255):
                with self.subTest(size=size, shade=shade):
                    page = prepare(saved(Image.new("RGB", size, (shade, shade, shade)), "PNG"))
                    self.assertEqual((page.image_width, page.image_height), size)
