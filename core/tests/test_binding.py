"""The bound document, read back by pypdf and PDFium, neither of which wrote it."""

from __future__ import annotations

import io
import re
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import pikepdf.pdfa
import pypdf
import pypdfium2
from bound_samples import (
    LANDINGS,
    MADE,
    PAGES,
    TITLE,
    WORDS,
    bound,
    ink,
    page,
)
from PIL import Image

from folio_core.binding import (
    BoundPage,
    Footer,
    Landing,
    Paper,
    bind,
    landings_of,
    notice_page,
    roman,
    within,
    words_of_page,
)
from folio_core.binding.footer import BAND_PT
from folio_core.placing import Arrangement, Placement
from folio_core.question_map import Question, QuestionMap


class TheBoundDocument(unittest.TestCase):
    def test_one_page_a_page_on_its_paper(self) -> None:
        """ISO 216 A4 is 595.28 × 841.89 points, Letter 612 × 792; a lying picture lies on its sheet."""
        for paper, short, long in ((Paper.A4, 595.28, 841.89), (Paper.LETTER, 612.0, 792.0)):
            sizes = [[float(s) for s in p.mediabox[2:]] for p in pypdf.PdfReader(io.BytesIO(bound(paper))).pages]
            for size, wanted in zip(sizes, ([short, long], [long, short], [short, long]), strict=True):
                self.assertAlmostEqual(size[0], wanted[0], places=1)
                self.assertAlmostEqual(size[1], wanted[1], places=1)

    def test_the_outline_lands_on_its_page_and_spot(self) -> None:
        reader = pypdf.PdfReader(io.BytesIO(bound()))
        entries = reader.outline
        self.assertEqual([entry.title for entry in entries], ["1a · the arc", "2", "3 (left blank)"])
        self.assertEqual([reader.get_destination_page_number(entry) for entry in entries[:2]], [0, 2])
        self.assertAlmostEqual(float(entries[0].top), BAND_PT + (841.89 - BAND_PT) * 0.75, delta=1.5)

    def test_labels_title_author_and_language(self) -> None:
        reader = pypdf.PdfReader(io.BytesIO(bound()))
        self.assertEqual(list(reader.page_labels), ["1", "2", "3"])
        self.assertEqual(reader.metadata.title, TITLE.title)
        self.assertEqual(reader.metadata.author, TITLE.author)
        self.assertEqual(reader.trailer["/Root"]["/Lang"], "en")
        self.assertEqual(reader.xmp_metadata.dc_creator, [TITLE.author])

    def test_the_pictures_are_inside_byte_for_byte(self) -> None:
        reader = pypdf.PdfReader(io.BytesIO(bound()))
        inside = reader.pages[0]["/Resources"]["/XObject"]
        (picture,) = [one.get_object() for one in inside.values() if one.get_object()["/Subtype"] == "/Image"]
        self.assertEqual(picture._data, PAGES[0].image())

    def test_the_footer_is_type_below_the_picture_and_never_over_it(self) -> None:
        """Read by poppler's rival pypdf; the picture's foot is the second number of its matrix's offset."""
        for sheet in pypdf.PdfReader(io.BytesIO(bound())).pages:
            self.assertIn("Ilse Marrow (30417)", sheet.extract_text())
            (foot,) = re.findall(rb"[\d.]+ 0 0 [\d.]+ [\d.]+ ([\d.]+) cm /Im", sheet.get_contents().get_data())
            self.assertGreaterEqual(float(foot), BAND_PT - 0.01)
        self.assertLess(8.5 + 6.5, BAND_PT)  # baseline and size of the type

    def test_a_name_in_any_script_is_written_and_what_no_font_has_is_a_question_mark(self) -> None:
        footer = Footer("Łucja Żółć Ελένη 汤清秋 \U00012000", "page 1")
        text = pypdf.PdfReader(io.BytesIO(bound(pages=[replace(PAGES[0], footer=footer)], landings=[]))).pages[0]
        self.assertIn("Łucja Żółć Ελένη 汤清秋 ?", text.extract_text())

    def test_a_long_footer_is_shortened_and_its_right_side_never(self) -> None:
        footer = Footer("a very long title " * 20, "page 1 of 3 · edition 2 · 4f2a91c0")
        text = pypdf.PdfReader(io.BytesIO(bound(pages=[replace(PAGES[0], footer=footer)], landings=[]))).pages[0]
        self.assertIn("…", text.extract_text())
        self.assertIn("edition 2 · 4f2a91c0", text.extract_text())

    def test_it_is_a_file_for_keeping(self) -> None:
        """ISO 19005-3 (PDF/A-3b) by the rules in `pikepdf.pdfa`; of pictures and of ink only, one sheet and many."""
        for pages in (PAGES, [PAGES[0], ink(300, 400)], [PAGES[2]] * 45):
            report = pikepdf.pdfa.validate_written(io.BytesIO(bound(pages=pages, landings=LANDINGS[:1])), "3b")
            self.assertEqual([str(one) for one in report.findings], [])

    def test_it_is_tagged_and_says_in_words_what_a_page_answers(self) -> None:
        """ISO 32000-2, 14.7: a figure a page, with an alternate text, found from the page by its marked content."""
        root = pypdf.PdfReader(io.BytesIO(bound())).trailer["/Root"]
        self.assertTrue(root["/MarkInfo"]["/Marked"])
        figures = root["/StructTreeRoot"]["/K"][0]["/K"]
        self.assertEqual([one.get_object()["/Alt"] for one in figures], [WORDS] * 3)
        self.assertEqual(words_of_page(2, 6, ["2b"]), "Page 2 of 6, answers 2b")
        self.assertEqual(words_of_page(2, 6, []), "Page 2 of 6, placed on no question")

    def test_ink_only_is_kept_in_group_4_pixel_for_pixel(self) -> None:
        page = ink(301, 402)
        (picture,) = pypdf.PdfReader(io.BytesIO(bound(pages=[page], landings=[]))).pages[0].images
        with Image.open(io.BytesIO(page.image())) as before:
            self.assertEqual(picture.image.convert("1").tobytes(), before.convert("1").tobytes())
        self.assertIn("/CCITTFaxDecode", picture.indirect_reference.get_object()["/Filter"])

    def test_many_pages_are_bound_in_parts_to_the_same_document(self) -> None:
        """The order, and each page's own footer, over the border between two parts."""
        many = [replace(PAGES[2], footer=Footer(f"sheet {number}", "")) for number in range(45)]
        texts = [sheet.extract_text() for sheet in pypdf.PdfReader(io.BytesIO(bound(pages=many, landings=[]))).pages]
        self.assertEqual([text.split("\n")[0].strip() for text in texts], [f"sheet {number}" for number in range(45)])

    def test_pdfium_draws_it(self) -> None:
        with pypdfium2.PdfDocument(bound()) as document:
            colour = document[0].render(scale=0.2).to_numpy()[80, 60][::-1]
        for drawn, wanted in zip(colour, (245, 245, 220), strict=True):  # CSS "beige"
            self.assertAlmostEqual(int(drawn), wanted, delta=2)  # JPEG rounds

    def test_the_same_input_gives_the_same_bytes(self) -> None:
        self.assertEqual(bound(), bound())

    def test_what_cannot_be_bound_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "no page"):
            bound(pages=[])
        with self.assertRaisesRegex(ValueError, "not in the document"):
            bound(landings=[Landing("9", 7)])

    def test_a_page_that_could_not_be_opened_is_there_as_a_notice(self) -> None:
        data = bound(pages=[notice_page(["Page 1: notes.jpg"])], landings=[])
        self.assertEqual(len(pypdf.PdfReader(io.BytesIO(data)).pages), 1)


class Landings(unittest.TestCase):
    def test_each_label_lands_on_its_first_spot_counted_without_removed_pages(self) -> None:
        question_map = QuestionMap(
            (Question("1a", "q1", "the arc"), Question("2", "q2"), Question("3", "q3"), Question("4", "q4"))
        )
        arrangement = Arrangement(
            order=(7, 8, 9),
            removed=frozenset({7}),
            placements={"q1": (Placement(9, 0.5), Placement(8)), "q2": (Placement(9, 0.25),)},
            left_blank=frozenset({"q3"}),
        )
        self.assertEqual(
            landings_of(arrangement, question_map),
            [Landing("1a · the arc", 0, 0.0), Landing("2", 1, 0.25), Landing("3 (left blank)", None)],
        )
        self.assertEqual([one.page for one in landings_of(arrangement, question_map, before=2)], [2, 3, None])

    def test_sheets_before_the_first_page_count_in_roman_numbers_as_readers_do(self) -> None:
        pages = [page(60, 80)] * 60
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "bound.pdf"
            bind(pages, [], TITLE, Paper.A4, MADE, out, before=50)
            labels = pypdf.PdfReader(out).page_labels
        self.assertEqual(
            labels, [*(roman(number) for number in range(1, 51)), *(str(number) for number in range(1, 11))]
        )
        self.assertEqual((roman(1994), roman(499)), ("mcmxciv", "cdxcix"))


class TheBudget(unittest.TestCase):
    def test_pages_that_fit_stay_as_they_are(self) -> None:
        pages = [page(827, 1169), ink(300, 400)]
        self.assertEqual(within(pages, 10_000_000, Path("nowhere")), pages)

    def test_what_is_too_heavy_is_made_lighter_only_as_far_as_it_must_and_stays_readable(self) -> None:
        out = io.BytesIO()
        Image.effect_noise((1654, 2339), 60).save(out, "JPEG", quality=95)
        heavy = [BoundPage(out.getvalue, 1654, 2339), ink(300, 400)]
        weights = []
        for share in (0.6, 0.3, 0.0):
            folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
            lighter = within(heavy, int(len(out.getvalue()) * share), folder)
            weights.append(len(lighter[0].image()))
            self.assertEqual(lighter[1].image(), heavy[1].image())
            with Image.open(io.BytesIO(lighter[0].image())) as picture:
                self.assertGreaterEqual(max(picture.size), 1754)
        self.assertEqual(weights, sorted(weights, reverse=True))
        self.assertLess(weights[1], len(out.getvalue()) * 0.3)
