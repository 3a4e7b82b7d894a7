"""Every format by real files, judged from outside: libheif, libavif, LittleCMS (through Pillow), PDFium, bare bytes."""

from __future__ import annotations

import io
import struct
import unittest
import zlib

import numpy as np
import pikepdf
import pillow_heif
from PIL import Image, ImageCms, ImageDraw

from folio_core.page import DEFAULT_LIMITS, Kind, PageError, Trouble, count_pages, kind_of, prepare
from folio_core.page.opening import open_page

from test_page_opening import opened, picture, saved, trouble_of  # isort: skip


class Pictures(unittest.TestCase):
    def check_quarter(self, pixels: np.ndarray, tolerance: int = 40) -> None:
        height, width = pixels.shape[:2]
        np.testing.assert_allclose(pixels[height // 4, width // 4], (255, 0, 0), atol=tolerance)
        np.testing.assert_allclose(pixels[3 * height // 4, 3 * width // 4], (255, 255, 255), atol=tolerance)

    def test_avif_bmp_and_gif_open_with_their_colours(self) -> None:
        for kind, name in ((Kind.AVIF, "AVIF"), (Kind.BMP, "BMP"), (Kind.GIF, "GIF")):
            with self.subTest(name):
                data = saved(picture(), name)
                self.assertEqual(kind_of(data), kind)
                self.check_quarter(opened(data))

    def test_of_an_animation_the_first_picture_is_the_page(self) -> None:
        later = Image.new("RGB", (300, 400), "blue")
        for name in ("GIF", "WEBP", "AVIF"):
            data = saved(picture(), name, save_all=True, append_images=[later], duration=100)
            with self.subTest(name):
                self.assertEqual(count_pages(data, DEFAULT_LIMITS), 1)
                self.check_quarter(opened(data))

    def test_of_a_heif_sequence_the_first_picture_is_the_page(self) -> None:
        several = pillow_heif.from_pillow(picture())
        several.add_from_pillow(Image.new("RGB", (300, 400), "blue"))
        out = io.BytesIO()
        several.save(out, quality=90)
        self.assertEqual(count_pages(out.getvalue(), DEFAULT_LIMITS), 1)
        self.check_quarter(opened(out.getvalue()))

    def test_sixteen_bits_a_colour(self) -> None:
        self.check_quarter(opened(_deep_png(np.asarray(picture()).astype(np.uint16) * 257)))
        self.check_quarter(opened(_deep_tiff(np.asarray(picture()).astype(np.uint16) * 257)))

    def test_palette_alpha_and_cmyk(self) -> None:
        palette = picture().convert("P", palette=Image.Palette.ADAPTIVE)
        self.check_quarter(opened(saved(palette, "PNG", transparency=200)))
        self.check_quarter(opened(saved(palette, "BMP")))
        self.check_quarter(opened(saved(picture().convert("CMYK"), "TIFF")))
        grey_alpha = picture().convert("LA")
        self.assertEqual(tuple(opened(saved(grey_alpha, "PNG"))[-1, -1]), (255, 255, 255))

    def test_a_wide_profile_is_turned_into_srgb(self) -> None:
        """Against LittleCMS itself: the same numbers under another profile are other colours."""
        profile = _linear_profile()
        grey = Image.new("RGB", (80, 80), (55, 55, 55))  # 55/255 = 0.216 linear; sRGB's curve (IEC 61966-2-1) says 128
        for name in ("PNG", "JPEG", "WEBP"):
            with self.subTest(name):
                pixels = opened(saved(grey, name, icc_profile=profile))
                np.testing.assert_allclose(pixels[40, 40], (128, 128, 128), atol=3)

    def test_a_very_large_jpeg_comes_at_half_scale_and_its_corners_in_full(self) -> None:
        wide = picture(7200, 5000)
        data = saved(wide, "JPEG", quality=60)
        reduced = open_page(data, 0, DEFAULT_LIMITS, reduced=True)
        self.assertEqual((reduced.width, reduced.height), (7200, 5000))
        self.assertEqual(reduced.pixels.shape[:2], (2500, 3600))
        self.check_quarter(reduced.pixels)
        page = prepare(data)
        self.assertEqual((page.width, page.height), (7200, 5000))

    def test_a_file_that_claims_a_kind_it_is_not_is_damaged_and_not_tried_with_other_decoders(self) -> None:
        liar = b"\x89PNG\r\n\x1a\n" + saved(picture(), "BMP")
        self.assertEqual(trouble_of(liar), Trouble.TRUNCATED)


class NeverDecoded(unittest.TestCase):
    def test_each_is_named_with_a_way_out(self) -> None:
        ways = {
            b"{\\rtf1 hello}": "as PDF",
            b"%!PS-Adobe-3.0": "as PDF",
            b"PK\x03\x04" + bytes(60): "as PDF",
            b"\x1f\x8b\x08" + bytes(40): "Unpack",
            b"Rar!\x1a\x07" + bytes(40): "Unpack",
            b"<!DOCTYPE html><p>": "Print it to PDF",
            b"#!/bin/sh\nrm": "script",
            b"  <svg xmlns='http://www.w3.org/2000/svg'>": "PDF or PNG",
        }
        for data, way in ways.items():
            with self.subTest(data[:12]), self.assertRaisesRegex(PageError, way) as caught:
                kind_of(data)
            self.assertEqual(caught.exception.trouble, Trouble.WRONG_KIND)


class Pdf(unittest.TestCase):
    def one_page(self, content: bytes, **entries: object) -> bytes:
        out = io.BytesIO()
        with pikepdf.new() as pdf:
            page = pdf.add_blank_page(page_size=(595, 842))
            page.Contents = pdf.make_stream(content)
            for name, value in entries.items():
                page[f"/{name}"] = value
            pdf.save(out)
        return out.getvalue()

    def test_only_the_crop_box_is_the_page(self) -> None:
        """ISO 32000-2, 14.11.2.2."""
        data = self.one_page(b"0 0 1 rg 100 500 200 200 re f", CropBox=pikepdf.Array([100, 500, 300, 700]))
        pixels = opened(data)
        self.assertEqual(pixels.shape[:2], (556, 556))  # 200 points at 200 dpi
        np.testing.assert_array_equal(pixels[278, 278], (0, 0, 255))

    def test_a_turned_page_is_turned(self) -> None:
        pixels = opened(self.one_page(b"0 0 1 rg 0 742 100 100 re f", Rotate=90))
        self.assertEqual(pixels.shape[:2], (1653, 2339))
        np.testing.assert_array_equal(pixels[100, -100], (0, 0, 255))  # what was top left is top right

    def test_pages_of_mixed_sizes_each_keep_their_own(self) -> None:
        out = io.BytesIO()
        with pikepdf.new() as pdf:
            for size in ((595, 842), (842, 595), (200, 300)):
                pdf.add_blank_page(page_size=size)
            pdf.save(out)
        self.assertEqual(
            [opened(out.getvalue(), index).shape[:2] for index in range(3)], [(2339, 1653), (1653, 2339), (834, 556)]
        )

    def test_what_was_filled_into_a_form_and_drawn_as_annotation_is_seen(self) -> None:
        pixels = opened(_pdf_with_form_and_ink())
        self.assertLess(pixels[_px(842 - 610), _px(150)].min(), 120)  # the square annotation's own drawing
        field = pixels[_px(842 - 720) : _px(842 - 700), _px(100) : _px(300)]
        self.assertLess(field.min(), 100)  # letters of the value

    def test_a_scan_comes_at_its_own_resolution_also_under_invisible_text(self) -> None:
        scan = saved(Image.effect_noise((1240, 1754), 60).convert("RGB"), "JPEG")  # A4 at 150 dpi
        for text in (b"", b" BT /F1 12 Tf 3 Tr 50 50 Td (found by a machine) Tj ET"):
            page = open_page(_pdf_with_picture(scan, (1240, 1754), text), 0, DEFAULT_LIMITS)
            with self.subTest(text):
                self.assertFalse(page.drawn)
                self.assertAlmostEqual(page.width, 1240, delta=3)
        visible = _pdf_with_picture(scan, (1240, 1754), b" BT /F1 40 Tf 0 Tr 50 50 Td (mine) Tj ET")
        self.assertTrue(open_page(visible, 0, DEFAULT_LIMITS).drawn)

    def test_absurd_files_are_refused_in_time(self) -> None:
        out = io.BytesIO()
        with pikepdf.new() as pdf:
            for _ in range(5000):
                pdf.add_blank_page(page_size=(595, 842))
            pdf.save(out)
        self.assertEqual(trouble_of(out.getvalue()), Trouble.TOO_MANY_PAGES)
        ten_metres = self.one_page(b"", MediaBox=pikepdf.Array([0, 0, 595, 14_400]), UserUnit=2)
        self.assertEqual(trouble_of(ten_metres), Trouble.TOO_MANY_PIXELS)


def _px(points: float) -> int:
    return round(points / 72 * 200)


def _pdf_with_picture(jpeg: bytes, size: tuple[int, int], more: bytes) -> bytes:
    out = io.BytesIO()
    with pikepdf.new() as pdf:
        page = pdf.add_blank_page(page_size=(595, 842))
        image = pdf.make_stream(jpeg)
        image.Type, image.Subtype, image.Filter = pikepdf.Name.XObject, pikepdf.Name.Image, pikepdf.Name.DCTDecode
        image.Width, image.Height = size
        image.ColorSpace, image.BitsPerComponent = pikepdf.Name.DeviceRGB, 8
        font = pikepdf.Dictionary(Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name.Helvetica)
        page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(I=image), Font=pikepdf.Dictionary(F1=font))
        page.Contents = pdf.make_stream(b"q 595 0 0 842 0 0 cm /I Do Q" + more)
        pdf.save(out)
    return out.getvalue()


def _pdf_with_form_and_ink() -> bytes:
    """ISO 32000-2, 12.5.6.8 (square annotations) and 12.7.5.3 (text fields)."""
    out = io.BytesIO()
    with pikepdf.new() as pdf:
        page = pdf.add_blank_page(page_size=(595, 842))
        drawn = pdf.make_stream(b"1 0 0 rg 0 0 100 60 re f")
        drawn.Type, drawn.Subtype, drawn.BBox = (
            pikepdf.Name.XObject, pikepdf.Name.Form, pikepdf.Array([0, 0, 100, 60])
        )  # fmt: skip
        square = pdf.make_indirect(
            pikepdf.Dictionary(
                Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Square, Rect=pikepdf.Array([100, 580, 200, 640]), F=4,
                AP=pikepdf.Dictionary(N=drawn),
            )
        )  # fmt: skip
        font = pikepdf.Dictionary(Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name.Helvetica)
        written = pdf.make_stream(b"/Tx BMC BT /Helv 18 Tf 0 g 4 6 Td (T = 12.4 s) Tj ET EMC")
        written.Type, written.Subtype, written.BBox = (
            pikepdf.Name.XObject, pikepdf.Name.Form, pikepdf.Array([0, 0, 200, 24])
        )  # fmt: skip
        written.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(Helv=font))
        field = pdf.make_indirect(
            pikepdf.Dictionary(
                Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Widget, FT=pikepdf.Name.Tx, T="answer", V="T = 12.4 s",
                DA="/Helv 18 Tf 0 g", Rect=pikepdf.Array([100, 698, 300, 722]), F=4,
                AP=pikepdf.Dictionary(N=written),
            )
        )  # fmt: skip
        page.Annots = pikepdf.Array([square, field])
        pdf.Root.AcroForm = pikepdf.Dictionary(
            Fields=pikepdf.Array([field]), DR=pikepdf.Dictionary(Font=pikepdf.Dictionary(Helv=font))
        )
        pdf.save(out)
    return out.getvalue()


def _deep_png(pixels: np.ndarray) -> bytes:
    """PNG (ISO/IEC 15948) with sixteen bits a sample, written out by hand: no library here writes one."""
    height, width = pixels.shape[:2]
    rows = b"".join(b"\0" + row.astype(">u2").tobytes() for row in pixels)

    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    header = struct.pack(">IIBBBBB", width, height, 16, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


def _deep_tiff(pixels: np.ndarray) -> bytes:
    """TIFF 6.0 with sixteen bits a sample, one strip, little-endian."""
    height, width = pixels.shape[:2]
    body = pixels.astype("<u2").tobytes()
    bits_at, body_at = 8, 16
    tags = [(256, 4, 1, width), (257, 4, 1, height), (258, 3, 3, bits_at), (259, 3, 1, 1), (262, 3, 1, 2),
            (273, 4, 1, body_at), (277, 3, 1, 3), (278, 4, 1, height), (279, 4, 1, len(body)),
            (284, 3, 1, 1)]  # fmt: skip
    entries = b"".join(struct.pack("<HHII", *tag) for tag in tags)
    directory = struct.pack("<H", len(tags)) + entries + struct.pack("<I", 0)
    return b"II*\0" + struct.pack("<I", body_at + len(body)) + struct.pack("<HHHH", 16, 16, 16, 0) + body + directory


def _linear_profile() -> bytes:
    """sRGB's colours with a straight curve: LittleCMS's own profile, its three curves replaced (ICC.1, 10.6)."""
    profile = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    count = struct.unpack(">I", profile[128:132])[0]
    for at in range(132, 132 + 12 * count, 12):
        name, offset, _ = struct.unpack(">4sII", profile[at : at + 12])
        if name in (b"rTRC", b"gTRC", b"bTRC"):
            profile[offset : offset + 12] = b"curv\0\0\0\0\0\0\0\0"  # no entries: the identity
            profile[at + 8 : at + 12] = struct.pack(">I", 12)
    at = profile.find(b"sRGB")
    while at >= 0:  # its name would let it pass for sRGB
        profile[at : at + 4] = b"line"
        at = profile.find(b"sRGB", at)
    name16 = "sRGB".encode("utf-16-be")
    return bytes(profile).replace(name16, "line".encode("utf-16-be"))


class Drawn(unittest.TestCase):
    def test_a_picture_of_every_size_is_a_page_of_its_size(self) -> None:
        sheet = Image.new("RGB", (900, 1200), "white")
        ImageDraw.Draw(sheet).line((100, 100, 700, 130), fill="black", width=4)
        page = prepare(saved(sheet, "PNG"))
        self.assertEqual((page.image_width, page.image_height), (900, 1200))
        self.assertTrue(page.sheet.fills)
