"""The receipt, by itself and inside the bound document."""

from __future__ import annotations

import base64
import hashlib
import io
import json
import subprocess
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import pikepdf.pdfa
import pypdf
import pypdfium2
from bound_samples import (
    ISSUER,
    MANIFEST,
    OTHER,
    bound,
    sha256,
    with_receipt,
)
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from folio_core.binding import (
    Paper,
    Receipt,
    ReceiptError,
    canonical_json,
    hash_of,
    read_keys,
    receipt_of,
    receipt_pdf,
    sign,
    verify,
)
from folio_core.binding.attaching import Place, appended, attached_receipt, shows_receipt


class TheReceipt(unittest.TestCase):
    def test_it_holds_for_its_file_and_no_other(self) -> None:
        receipt = sign(MANIFEST, sha256(b"the document"), ISSUER)
        self.assertTrue(verify(receipt, b"the document", [ISSUER.public_key]))
        with self.assertRaisesRegex(ReceiptError, "PDF is not the one"):
            verify(receipt, b"another document", [ISSUER.public_key])

    def test_without_a_trusted_key_it_is_not_known_who_signed(self) -> None:
        """Anybody can make a key and write the college's name beside it."""
        self.assertFalse(verify(sign(MANIFEST, sha256(b"the document"), OTHER), b"the document"))

    def test_a_changed_statement_is_noticed(self) -> None:
        for name, value in (("manifest", {"edition": 3}), ("issuer", "Another"), ("replaces", "00"), ("key_id", "00")):
            with self.subTest(name):
                changed = json.loads(json.dumps(sign(MANIFEST, sha256(b"the document"), ISSUER).as_json()))
                changed["statement"][name] = value
                with self.assertRaisesRegex(ReceiptError, "signature"):
                    verify(Receipt.from_json(json.dumps(changed)), b"the document")

    def test_another_key_than_the_colleges_is_refused_and_an_old_one_of_its_holds(self) -> None:
        receipt = sign(MANIFEST, sha256(b"the document"), OTHER)
        with self.assertRaisesRegex(ReceiptError, "another key"):
            verify(receipt, b"the document", [ISSUER.public_key])
        published = json.dumps({"keys": [{"public_key": one.public_key} for one in (ISSUER, OTHER)]})
        self.assertTrue(verify(receipt, b"the document", read_keys(published)))
        with self.assertRaisesRegex(ReceiptError, "not a file of receipt keys"):
            read_keys("[]")

    def test_one_that_names_another_key_than_its_own_is_refused(self) -> None:
        receipt = sign(MANIFEST, sha256(b"the document"), ISSUER)
        statement = {**receipt.statement, "key_id": OTHER.key_id}
        signature = base64.b64encode(ISSUER.key.sign(canonical_json(statement))).decode()
        with self.assertRaisesRegex(ReceiptError, "names another key"):
            verify(Receipt(statement, signature, ISSUER.public_key), b"the document")

    def test_what_is_no_receipt_is_said_to_be_none(self) -> None:
        """Found by fuzzing: fields of another kind."""
        for text in ('{"statement": {"": ""}, "signature": "", "public_key": {"": ""}}', "[]", "1", "[" * 100_000):
            with self.assertRaises(ReceiptError):
                Receipt.from_json(text)

    def test_receipts_of_one_edition_form_a_chain(self) -> None:
        first = sign(MANIFEST, sha256(b"with a notice"), ISSUER)
        second = sign(MANIFEST, sha256(b"with the page"), ISSUER, replaces=hash_of(first))
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
        self.assertTrue(verify(receipt, file, [ISSUER.public_key]))
        self.assertTrue(verify(receipt, file[: receipt.statement["bound_size"]], [ISSUER.public_key]))

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
                verify(Receipt.from_json(json.dumps(document)), file, [ISSUER.public_key])

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
        self.assertEqual(receipt_of(made[0]), receipt)
        self.assertEqual([shows_receipt(made[0]), shows_receipt(with_receipt(manifest)[0])], [True, False])
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
        statement = {**sign(MANIFEST, "ab" * 32, ISSUER).statement, "manifest": lesser}
        old = Receipt(statement, "", ISSUER.public_key)
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
