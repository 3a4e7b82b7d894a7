"""The bound document, read back by pypdf and PDFium (neither of which wrote it), and the receipt."""

from __future__ import annotations

import base64
import hashlib
import io
import json
import unittest
from dataclasses import replace
from datetime import UTC, datetime

import pypdf
import pypdfium2
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from PIL import Image

from folio_core.binding import (
    BoundPage,
    Issuer,
    Landing,
    Manifest,
    PageRecord,
    Paper,
    Receipt,
    ReceiptError,
    Title,
    bind,
    canonical_json,
    hash_of,
    landings_of,
    notice_page,
    read_keys,
    sign,
    verify,
)
from folio_core.placing import Arrangement, Placement
from folio_core.question_map import Question, QuestionMap

MADE = datetime(2026, 11, 24, 15, 59, 41, tzinfo=UTC)
TITLE = Title("NAV 231 Great circles", "Ilse Marrow (30417)", "Edition 1")


def page(width: int, height: int) -> BoundPage:
    out = io.BytesIO()
    Image.new("RGB", (width, height), "beige").save(out, "JPEG")
    return BoundPage(out.getvalue(), width, height)


PAGES = [page(827, 1169), page(1169, 827), page(400, 400)]
LANDINGS = [Landing("1a · the arc", 0, 0.25), Landing("2", 2), Landing("3 (left blank)", None)]


def bound(paper: Paper = Paper.A4) -> bytes:
    return bind(PAGES, LANDINGS, TITLE, paper, MADE)


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
        self.assertAlmostEqual(float(entries[0].top), 841.89 * 0.75, places=1)

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
        (picture,) = [entry.get_object() for entry in inside.values()]
        self.assertEqual(picture._data, PAGES[0].image)

    def test_pdfium_draws_it(self) -> None:
        with pypdfium2.PdfDocument(bound()) as document:
            colour = document[0].render(scale=0.2).to_numpy()[80, 60][::-1]
        for drawn, wanted in zip(colour, (245, 245, 220), strict=True):  # CSS "beige"
            self.assertAlmostEqual(int(drawn), wanted, delta=2)  # JPEG rounds

    def test_the_same_input_gives_the_same_bytes(self) -> None:
        self.assertEqual(bound(), bound())

    def test_what_cannot_be_bound_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "no page"):
            bind([], [], TITLE, Paper.A4, MADE)
        with self.assertRaisesRegex(ValueError, "not in the document"):
            bind(PAGES, [Landing("9", 7)], TITLE, Paper.A4, MADE)

    def test_a_page_that_could_not_be_opened_is_there_as_a_notice(self) -> None:
        data = bind([notice_page(["Page 1: notes.jpg"])], [], TITLE, Paper.A4, MADE)
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


class TheReceipt(unittest.TestCase):
    issuer = Issuer("Kestrel Point", Ed25519PrivateKey.from_private_bytes(bytes(range(32))))
    other = Issuer("Kestrel Point", Ed25519PrivateKey.from_private_bytes(bytes(32)))

    def test_it_holds_for_its_file_and_no_other(self) -> None:
        receipt = sign(MANIFEST, b"the document", self.issuer)
        self.assertTrue(verify(receipt, b"the document", [self.issuer.public_key]))
        with self.assertRaisesRegex(ReceiptError, "PDF is not the one"):
            verify(receipt, b"another document", [self.issuer.public_key])

    def test_without_a_trusted_key_it_is_not_known_who_signed(self) -> None:
        """Anybody can make a key and write the college's name beside it."""
        self.assertFalse(verify(sign(MANIFEST, b"the document", self.other), b"the document"))

    def test_a_changed_statement_is_noticed(self) -> None:
        for name, value in (("manifest", {"edition": 3}), ("issuer", "Another"), ("replaces", "00"), ("key_id", "00")):
            with self.subTest(name):
                changed = json.loads(json.dumps(sign(MANIFEST, b"the document", self.issuer).as_json()))
                changed["statement"][name] = value
                with self.assertRaisesRegex(ReceiptError, "signature"):
                    verify(Receipt.from_json(json.dumps(changed)), b"the document")

    def test_another_key_than_the_colleges_is_refused_and_an_old_one_of_its_holds(self) -> None:
        receipt = sign(MANIFEST, b"the document", self.other)
        with self.assertRaisesRegex(ReceiptError, "another key"):
            verify(receipt, b"the document", [self.issuer.public_key])
        published = json.dumps({"keys": [{"public_key": one.public_key} for one in (self.issuer, self.other)]})
        self.assertTrue(verify(receipt, b"the document", read_keys(published)))
        with self.assertRaisesRegex(ReceiptError, "not a file of receipt keys"):
            read_keys("[]")

    def test_one_that_names_another_key_than_its_own_is_refused(self) -> None:
        receipt = sign(MANIFEST, b"the document", self.issuer)
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
        first = sign(MANIFEST, b"with a notice", self.issuer)
        second = sign(MANIFEST, b"with the page", self.issuer, replaces=hash_of(first))
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
