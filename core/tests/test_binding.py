"""The bound document, read back by pypdf and PDFium (neither of which wrote it), and the receipt."""

from __future__ import annotations

import base64
import hashlib
import io
import json
import re
import subprocess
import tempfile
import unittest
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pikepdf.pdfa
import pypdf
import pypdfium2
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from PIL import Image

from folio_core.binding import (
    BoundPage,
    Footer,
    Issuer,
    Landing,
    Manifest,
    PageRecord,
    Paper,
    Receipt,
    ReceiptError,
    Title,
    append_receipt,
    bind,
    canonical_json,
    hash_of,
    landings_of,
    notice_page,
    place_of_receipt,
    read_keys,
    receipt_of,
    receipt_pdf,
    sign,
    verify,
    within,
    words_of_page,
)
from folio_core.binding.attaching import Place, appended, attached_receipt
from folio_core.binding.footer import BAND_PT
from folio_core.placing import Arrangement, Placement
from folio_core.question_map import Question, QuestionMap

MADE = datetime(2026, 11, 24, 15, 59, 41, tzinfo=UTC)
TITLE = Title("NAV 231 Great circles", "Ilse Marrow (30417)", "Edition 1")
WORDS, FOOTER = "Page 1 of 3, answers 1a and 1b", Footer("Ilse Marrow (30417)", "page 1")


def page(width: int, height: int) -> BoundPage:
    out = io.BytesIO()
    Image.new("RGB", (width, height), "beige").save(out, "JPEG")
    return BoundPage(out.getvalue, width, height, WORDS, FOOTER)


def ink(width: int, height: int) -> BoundPage:
    out = io.BytesIO()
    Image.effect_noise((width, height), 90).convert("1").save(out, "PNG")
    return BoundPage(out.getvalue, width, height)


PAGES = [page(827, 1169), page(1169, 827), page(400, 400)]
LANDINGS = [Landing("1a · the arc", 0, 0.25), Landing("2", 2), Landing("3 (left blank)", None)]


def bound(
    paper: Paper = Paper.A4,
    pages: list[BoundPage] = PAGES,
    landings: list[Landing] = LANDINGS,
) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "bound.pdf"
        bind(pages, landings, TITLE, paper, MADE, out)
        return out.read_bytes()


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


MANIFEST = Manifest(
    course="NAV 231",
    assignment="Great circles",
    student="Ilse Marrow",
    student_number="30417",
    edition=2,
    handed_in=MADE,
    verdict="in_time",
    pages=(PageRecord(1, "IMG_1.jpg", "00" * 32, 0, MADE, ("1a",)),),
    left_blank=("3",),
    open=(),
)


def sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


class TheReceipt(unittest.TestCase):
    issuer = Issuer("Kestrel Point", Ed25519PrivateKey.from_private_bytes(bytes(range(32))))
    other = Issuer("Kestrel Point", Ed25519PrivateKey.from_private_bytes(bytes(32)))

    def test_it_holds_for_its_file_and_no_other(self) -> None:
        receipt = sign(MANIFEST, sha256(b"the document"), self.issuer)
        self.assertTrue(verify(receipt, b"the document", [self.issuer.public_key]))
        with self.assertRaisesRegex(ReceiptError, "PDF is not the one"):
            verify(receipt, b"another document", [self.issuer.public_key])

    def test_without_a_trusted_key_it_is_not_known_who_signed(self) -> None:
        """Anybody can make a key and write the college's name beside it."""
        self.assertFalse(verify(sign(MANIFEST, sha256(b"the document"), self.other), b"the document"))

    def test_a_changed_statement_is_noticed(self) -> None:
        for name, value in (("manifest", {"edition": 3}), ("issuer", "Another"), ("replaces", "00"), ("key_id", "00")):
            with self.subTest(name):
                changed = json.loads(json.dumps(sign(MANIFEST, sha256(b"the document"), self.issuer).as_json()))
                changed["statement"][name] = value
                with self.assertRaisesRegex(ReceiptError, "signature"):
                    verify(Receipt.from_json(json.dumps(changed)), b"the document")

    def test_another_key_than_the_colleges_is_refused_and_an_old_one_of_its_holds(self) -> None:
        receipt = sign(MANIFEST, sha256(b"the document"), self.other)
        with self.assertRaisesRegex(ReceiptError, "another key"):
            verify(receipt, b"the document", [self.issuer.public_key])
        published = json.dumps({"keys": [{"public_key": one.public_key} for one in (self.issuer, self.other)]})
        self.assertTrue(verify(receipt, b"the document", read_keys(published)))
        with self.assertRaisesRegex(ReceiptError, "not a file of receipt keys"):
            read_keys("[]")

    def test_one_that_names_another_key_than_its_own_is_refused(self) -> None:
        receipt = sign(MANIFEST, sha256(b"the document"), self.issuer)
        statement = {**receipt.statement, "key_id": self.other.key_id}
        signature = base64.b64encode(self.issuer.key.sign(canonical_json(statement))).decode()
        with self.assertRaisesRegex(ReceiptError, "names another key"):
            verify(Receipt(statement, signature, self.issuer.public_key), b"the document")

    def test_what_is_no_receipt_is_said_to_be_none(self) -> None:
        """Found by fuzzing: fields of another kind."""
        for text in ('{"statement": {"": ""}, "signature": "", "public_key": {"": ""}}', "[]", "1", "[" * 100_000):
            with self.assertRaises(ReceiptError):
                Receipt.from_json(text)

    def test_receipts_of_one_edition_form_a_chain(self) -> None:
        first = sign(MANIFEST, sha256(b"with a notice"), self.issuer)
        second = sign(MANIFEST, sha256(b"with the page"), self.issuer, replaces=hash_of(first))
        self.assertEqual(second.statement["replaces"], hash_of(first))
        self.assertNotEqual(hash_of(second), hash_of(first))

    def test_the_signature_is_rfc_8032s(self) -> None:
        """RFC 8032, 7.1, TEST 1: the secret key, its public key and the signature of the empty message."""
        secret = bytes.fromhex("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60")
        key = Ed25519PrivateKey.from_private_bytes(secret)
        public = "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a"
        self.assertEqual(key.public_key().public_bytes_raw().hex(), public)
        self.assertTrue(key.sign(b"").hex().startswith("e5564300c360ac729086e2cc806e828a"))

    def test_one_spelling_for_one_document(self) -> None:
        """RFC 8785, 3.2.2: keys sorted, no white space, UTF-8."""
        self.assertEqual(canonical_json({"b": [1, "é"], "a": {}}), '{"a":{},"b":[1,"é"]}'.encode())

    def test_moments_are_rfc_3339(self) -> None:
        self.assertEqual(MANIFEST.as_json()["handed_in"], "2026-11-24T15:59:41Z")
        self.assertEqual(replace(MANIFEST, edition=3).as_json()["edition"], 3)


def with_receipt(manifest: Manifest = MANIFEST) -> tuple[bytes, Receipt]:
    """A bound document with its receipt inside."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "bound.pdf"
        bind(PAGES, LANDINGS, TITLE, Paper.A4, MADE, out, receipt_follows=True)
        place = place_of_receipt(out)
        receipt = sign(manifest, sha256(out.read_bytes()), TheReceipt.issuer, place=place)
        append_receipt(out, place, receipt.as_bytes())
        return out.read_bytes(), receipt


class TheReceiptInside(unittest.TestCase):
    def test_three_readers_find_it_and_the_pages(self) -> None:
        file, receipt = with_receipt()
        self.assertEqual(pypdf.PdfReader(io.BytesIO(file)).attachments["receipt.json"], [receipt.as_bytes()])
        with pypdfium2.PdfDocument(file) as document:
            self.assertEqual((len(document), document.count_attachments()), (3, 1))
            self.assertEqual(bytes(document.get_attachment(0).get_data()), receipt.as_bytes())
        with pikepdf.open(io.BytesIO(file)) as document:
            self.assertEqual(document.attachments["receipt.json"].get_file().read_bytes(), receipt.as_bytes())
            self.assertEqual(document.check_pdf_syntax(), [])
        self.assertEqual(receipt_of(file), receipt)

    def test_qpdf_and_poppler_take_it_without_a_word(self) -> None:
        file, receipt = with_receipt()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "bound.pdf"
            path.write_bytes(file)
            checked = subprocess.run(["qpdf", "--check", path], capture_output=True, text=True)
            self.assertEqual(checked.returncode, 0, checked.stderr)  # 3: with warnings
            told = subprocess.run(["pdfinfo", path], capture_output=True, text=True, check=True)
            self.assertRegex(told.stdout, r"Tagged: +yes")
            self.assertEqual(told.stderr, "")
            out = Path(folder) / "receipt.json"
            subprocess.run(["pdfdetach", "-save", "1", "-o", out, path], check=True, capture_output=True)
            self.assertEqual(out.read_bytes(), receipt.as_bytes())

    def test_it_is_still_a_file_for_keeping(self) -> None:
        report = pikepdf.pdfa.validate_written(io.BytesIO(with_receipt()[0]), "3b")
        self.assertEqual([str(one) for one in report.findings], [])

    def test_the_signed_document_is_the_file_s_beginning_untouched(self) -> None:
        file, receipt = with_receipt()
        self.assertEqual(sha256(file[: receipt.statement["bound_size"]]), receipt.statement["bound_sha256"])
        self.assertTrue(verify(receipt, file, [TheReceipt.issuer.public_key]))
        self.assertTrue(verify(receipt, file[: receipt.statement["bound_size"]], [TheReceipt.issuer.public_key]))

    def test_a_byte_changed_anywhere_in_the_file_is_noticed(self) -> None:
        file, receipt = with_receipt()
        size = receipt.statement["bound_size"]
        for at in [*range(0, size, 997), size - 1, *range(size, len(file), 7), len(file) - 1]:
            changed = file[:at] + bytes([file[at] ^ 1]) + file[at + 1 :]
            with self.subTest(at), self.assertRaises(ReceiptError):
                verify(receipt, changed)
        for changed in (file + b"\n", file[:-1], file[:-9]):
            with self.assertRaises(ReceiptError):
                verify(receipt, changed)

    def test_a_field_changed_anywhere_in_the_receipt_is_noticed(self) -> None:
        file, receipt = with_receipt()

        def changed(value: object) -> object:
            return not value if isinstance(value, bool) else value + 1 if isinstance(value, int) else f"{value}x"

        def every(node: object, path: tuple[object, ...] = ()) -> list[tuple[object, ...]]:
            below = node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else ()
            return [one for key, value in below for one in every(value, (*path, key))] or [path]

        for path in every(receipt.as_json()):
            document = json.loads(receipt.as_bytes())
            at = document
            for key in path[:-1]:
                at = at[key]
            at[path[-1]] = changed(at[path[-1]])
            with self.subTest(path), self.assertRaises(ReceiptError):
                verify(Receipt.from_json(json.dumps(document)), file, [TheReceipt.issuer.public_key])

    def test_the_receipt_as_a_document_says_all_of_it_and_holds_the_signed_one(self) -> None:
        manifest = replace(
            MANIFEST, section="Section B", comment="p < 2 & more", verdict="late", late_seconds=3725, previous="ab" * 32
        )
        _, receipt = with_receipt(manifest)
        made = [receipt_pdf(receipt, Paper.A4, "America/Halifax", "https://folio.example/check-receipt") for _ in "12"]
        self.assertEqual(made[0], made[1])
        report = pikepdf.pdfa.validate_written(io.BytesIO(made[0]), "3b")
        self.assertEqual([str(one) for one in report.findings], [])
        reader = pypdf.PdfReader(io.BytesIO(made[0]))
        self.assertEqual(reader.attachments["receipt.json"], [receipt.as_bytes()])
        text = reader.pages[0].extract_text().replace("\n", " ")
        for words in ("Ilse Marrow", "30417", "Section B", "p < 2 & more", "late by 1 h 2 min 5 s", "11:59:41",
                      "IMG_1.jpg", "0" * 32, receipt.statement["bound_sha256"][:32], "check-receipt"):  # fmt: skip
            self.assertIn(words, text)

    def test_a_word_to_the_reader_longer_than_a_page_and_many_open_questions_have_room(self) -> None:
        manifest = replace(MANIFEST, comment="word " * 2000, open=tuple(f"{number}a" for number in range(900)))
        made = receipt_pdf(with_receipt(manifest)[1], Paper.A4, "America/Halifax", "https://folio.example")
        text = " ".join(sheet.extract_text() for sheet in pypdf.PdfReader(io.BytesIO(made)).pages)
        self.assertEqual((text.count("word"), "899a" in text), (2000, True))

    def test_receipts_of_before_have_their_document_too(self) -> None:
        """Signed when less was written down; they hold for good."""
        lesser = {
            name: value
            for name, value in MANIFEST.as_json().items()
            if name not in ("honour", "not_delivered", "comment", "section", "previous")
        }
        statement = {**sign(MANIFEST, "ab" * 32, TheReceipt.issuer).statement, "manifest": lesser}
        old = Receipt(statement, "", TheReceipt.issuer.public_key)
        made = receipt_pdf(old, Paper.LETTER, "America/Halifax", "https://folio.example/check-receipt")
        self.assertIn("Ilse Marrow", pypdf.PdfReader(io.BytesIO(made)).pages[0].extract_text())

    def test_it_is_appended_in_the_one_form_that_browsers_make_again(self) -> None:
        """The front end is held to the same example. It has letters beyond ASCII, in the receipt and in the trailer."""
        example = json.loads((Path(__file__).parent / "appended.json").read_text())
        document, receipt = example["document"].encode("latin-1"), example["receipt"].encode()
        made = appended(document, Place(len(document), example["receipt_object"]), receipt)
        self.assertEqual(made, example["appended"].encode("latin-1"))
        self.assertEqual(attached_receipt(document + made), receipt)

    def test_a_pdf_without_one_says_so(self) -> None:
        with self.assertRaisesRegex(ReceiptError, "no receipt in this PDF"):
            receipt_of(bound())

    def test_each_edition_names_the_one_before(self) -> None:
        second = replace(MANIFEST, edition=3, previous=MANIFEST.sha256)
        self.assertNotEqual(second.sha256, replace(second, previous="").sha256)
        self.assertEqual(MANIFEST.sha256[:8], MANIFEST.short_hash)


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


class CanonicalForm(unittest.TestCase):
    def test_the_examples_of_rfc_8785(self) -> None:
        """RFC 8785, 3.2.2 and 3.2.3: the sample document and the sorting of keys by UTF-16 code units."""
        sample = json.loads(
            r"""{"numbers": [333333333.33333329, 1E30, 4.50, 2e-3, 0.000000000000000000000000001],
            "string": "\u20ac$\u000F\u000aA'\u0042\u0022\u005c\\\"\/", "literals": [null, true, false]}"""
        )
        wanted = (
            r"""{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"""
            r""""string":"€$\u000f\nA'B\"\\\\\"/"}"""
        )
        self.assertEqual(canonical_json(sample), wanted.encode())
        keys = {"\u20ac": 1, "\r": 2, "\ufb33": 3, "1": 4, "\U0001f600": 5, "\u0080": 6, "\u00f6": 7}
        self.assertEqual(list(json.loads(canonical_json(keys)).values()), [2, 4, 6, 7, 1, 5, 3])

    def test_what_has_no_canonical_form_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            canonical_json({"a": 2**60})


class Sha256(unittest.TestCase):
    def test_nists_vectors(self) -> None:
        """NIST CSRC examples for FIPS 180-4: the one-block and two-block messages."""
        self.assertEqual(
            hashlib.sha256(b"abc").hexdigest(), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
        )
        self.assertEqual(
            hashlib.sha256(b"abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq").hexdigest(),
            "248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1",
        )
