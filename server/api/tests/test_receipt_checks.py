"""Anybody checks a receipt: without an account, and without the PDF leaving them."""

from __future__ import annotations

import base64
import hashlib
import io
import json
from typing import Any
from unittest import mock

import pypdf
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.test import Client

from editions.manifest import manifest_of
from editions.models import Edition, SigningKey
from folio_core.binding import Issuer, Receipt, canonical_json, receipt_of, verify
from testing.desk import DeskTestCase, picture


class ReceiptChecks(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.send(picture(1)).json()["page_id"]
        self.arrange(1, order=[self.page], placements={"1a": [{"page": self.page}]})
        self.hand_in()
        self.work_off_jobs()
        self.edition = Edition.objects.get()

    def file(self, name: str, number: int = 1) -> bytes:
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/{number}/{name}")
        self.assertEqual(answer.status_code, 200)
        return b"".join(answer) if answer.streaming else answer.content

    def check(self, receipt: bytes | dict[str, Any]) -> Any:
        body = receipt if isinstance(receipt, bytes) else json.dumps(receipt)
        return Client().post("/api/receipt-checks", body, content_type="application/json")

    def test_a_genuine_one_holds_and_says_what_it_says(self) -> None:
        told = self.check(self.file("receipt.json")).json()
        self.assertEqual((told["signed"], told["kept"], told["newest"]), ("here", "newest", 1))
        self.assertEqual((told["facts"]["student_number"], told["facts"]["pages"]), ("30417", 1))
        self.assertEqual(told["facts"]["short_hash"], manifest_of(self.edition).short_hash)
        file = self.file("bound.pdf")
        size = told["file"]["size"]
        self.assertEqual(hashlib.sha256(file[:size]).hexdigest(), told["file"]["sha256"])
        self.assertIn(told["file"]["receipt"].encode(), file[size:])
        self.assertIn(told["facts"]["short_hash"], pypdf.PdfReader(io.BytesIO(file)).pages[0].extract_text())

    def test_the_files_hold_each_other(self) -> None:
        keys = [one.public_key for one in SigningKey.objects.all()]
        file = self.file("bound.pdf")
        self.assertTrue(verify(receipt_of(file), file, keys))
        inside = pypdf.PdfReader(io.BytesIO(self.file("receipt.pdf"))).attachments["receipt.json"][0]
        self.assertEqual(Receipt.from_json(inside), receipt_of(file))

    def test_a_changed_one_does_not_hold_and_what_it_says_is_not_repeated(self) -> None:
        receipt = json.loads(self.file("receipt.json"))
        receipt["statement"]["manifest"]["late_seconds"] = 0
        receipt["statement"]["manifest"]["edition"] = 9
        told = self.check(receipt).json()
        self.assertEqual((told["signed"], told["facts"]), ("no", None))
        self.assertIn("changed", told["message"])

    def test_one_of_another_installation_is_not_taken_for_ours(self) -> None:
        receipt = json.loads(self.file("receipt.json"))
        with mock.patch("api.receipt_checks.SigningKey.objects.values_list", return_value=[]):
            told = self.check(receipt).json()
        self.assertEqual((told["signed"], told["kept"]), ("elsewhere", "unknown"))

    def test_after_a_later_edition_the_earlier_one_says_so_and_the_later_names_it(self) -> None:
        first = self.file("receipt.json")
        self.arrange(2, order=[self.page], placements={"1b": [{"page": self.page}]})
        self.hand_in(seen_edition=1)
        self.work_off_jobs()
        told = self.check(first).json()
        self.assertEqual((told["signed"], told["kept"], told["newest"]), ("here", "later_edition", 2))
        later = json.loads(self.file("receipt.json", 2))["statement"]["manifest"]
        self.assertEqual(later["previous"], json.loads(first)["statement"]["manifest_sha256"])

    def test_what_is_no_receipt_is_refused_in_plain_words(self) -> None:
        for body in (b"", b"[]", b'{"statement": 3}', b"%PDF-1.7", b"{" * 5000, b" " * 1_200_000):
            answer = self.check(body)
            self.assertEqual(answer.status_code, 422, body[:20])
            self.assertIn("not a receipt", answer.json()["message"])

    def test_a_well_signed_statement_that_is_no_receipt_of_ours_breaks_nothing(self) -> None:
        issuer = Issuer("Somebody", Ed25519PrivateKey.generate())
        statement = {"key_id": issuer.key_id, "manifest": [1]}
        signature = base64.b64encode(issuer.key.sign(canonical_json(statement))).decode()
        told = self.check(Receipt(statement, signature, issuer.public_key).as_json()).json()
        self.assertEqual(told["signed"], "no")

    def test_file_names_are_safe_everywhere_and_keep_their_letters(self) -> None:
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/1/bound.pdf")
        self.assertEqual(
            answer["Content-Disposition"], 'attachment; filename="NAV_231_Great_circles_30417_Ilse_edition_1.pdf"'
        )
