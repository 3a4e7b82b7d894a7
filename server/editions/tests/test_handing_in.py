from __future__ import annotations

import base64
import hashlib
import io
import json
import os
import shutil
import tempfile
from pathlib import Path
from unittest import mock

import img2pdf
import pypdf
from django.conf import settings
from django.test import override_settings
from procrastinate.contrib.django.models import ProcrastinateJob
from reportlab.pdfgen.canvas import Canvas

from editions import binding
from editions.checks import receipts_can_be_signed
from editions.closing import close_all
from editions.models import Edition, EditionPage
from editions.queueing import BIND_EDITION
from folio_core.binding import Receipt, ReceiptError, hash_of, read_keys, verify
from folio_core.page import PageError, Trouble
from folios.models import Folio
from pages import preparing
from pages.models import Page
from plumbing.requests import moment
from plumbing.storage import registered_folders
from testing.desk import NOW, DeskTestCase, picture


class HandingIn(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.send(picture(1), "IMG_1.jpg").json()["page_id"]
        self.two = self.send(picture(2), "IMG_2.jpg").json()["page_id"]
        placements = {"1a": [{"page": self.two, "top": 0.5}]}
        self.arrange(2, order=[self.two, self.one], placements=placements, left_blank=["2"])

    def receipt(self, number: int = 1) -> dict[str, object]:
        return self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/{number}").json()

    def file(self, name: str, number: int = 1) -> bytes:
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/{number}/{name}")
        return b"".join(answer.streaming_content) if answer.streaming else answer.content

    def test_open_questions_never_stop_it(self) -> None:
        self.assertEqual(self.hand_in().status_code, 200)
        self.assertEqual(Edition.objects.get().open_labels, ["1b"])

    def test_an_empty_folio_and_the_close_do(self) -> None:
        self.arrange(3, order=[self.two, self.one], removed=[self.one, self.two])
        self.assertEqual(self.hand_in().json()["code"], "empty_folio")
        self.at(days=2)
        self.assertEqual(self.hand_in().json()["code"], "closed")
        self.assertFalse(Edition.objects.exists())

    def test_the_receipt_names_the_bound_file_and_every_original(self) -> None:
        self.arrange(
            3, order=[self.two, self.one], placements={"1a": [{"page": self.two, "top": 0.5}]}, left_blank=["2"],
            comment="Page 2 is upside down in my book", notes={str(self.one): "goes on"},
        )  # fmt: skip
        self.hand_in()
        self.work_off_jobs()
        receipt = self.receipt()
        self.assertEqual((receipt["number"], receipt["verdict"], receipt["page_count"]), (1, "in_time", 2))
        signed = self.file("bound.pdf")[: Edition.objects.get().receipt["statement"]["bound_size"]]
        self.assertEqual(receipt["bound_sha256"], hashlib.sha256(signed).hexdigest())
        self.assertEqual([page["file_name"] for page in receipt["pages"]], ["IMG_2.jpg", "IMG_1.jpg"])
        self.assertEqual(receipt["comment"], "Page 2 is upside down in my book")
        manifest = Edition.objects.get().receipt["statement"]["manifest"]
        self.assertEqual([page["note"] for page in manifest["pages"]], ["", "goes on"])
        self.assertEqual(receipt["pages"][0]["sha256"], hashlib.sha256(picture(2)).hexdigest())
        self.assertEqual(receipt["pages"][0]["labels"], ["1a"])

    def test_the_bound_document_is_in_order_with_an_entry_a_question(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        reader = pypdf.PdfReader(io.BytesIO(self.file("bound.pdf")))
        self.assertEqual(len(reader.pages), 2)
        self.assertEqual([entry.title for entry in reader.outline], ["1a", "2 (left blank)"])
        self.assertIn("Ilse", reader.metadata.author)

    def test_the_signed_receipt_holds_against_the_file_and_the_servers_key(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        receipt, document = Receipt.from_json(self.file("receipt.json")), self.file("bound.pdf")
        published = self.as_(None).get("/api/receipt-keys").content
        self.assertTrue(verify(receipt, document, read_keys(published)))
        with self.assertRaises(ReceiptError):
            verify(receipt, document + b" ", read_keys(published))
        self.assertEqual(receipt.statement["issuer"], settings.FOLIO_ISSUER)

    def test_a_key_that_signs_no_more_stays_published(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        old = Receipt.from_json(self.file("receipt.json")), self.file("bound.pdf")
        another = Path(tempfile.mkdtemp()) / "receipt.key"
        another.write_text(base64.b64encode(bytes(32)).decode())
        self.addCleanup(shutil.rmtree, another.parent)
        with override_settings(RECEIPT_KEY_FILE=str(another)):
            self.arrange(3, order=[self.one, self.two])
            self.hand_in(seen_edition=1)
            self.work_off_jobs()
        keys = read_keys(self.as_(None).get("/api/receipt-keys").content)
        self.assertEqual(len(keys), 2)
        self.assertTrue(verify(*old, keys))

    def test_the_key_is_read_by_what_binds_alone_and_others_may_not_read_its_file(self) -> None:
        with override_settings(RECEIPT_KEY_FILE="/nowhere"):
            self.hand_in()
            self.assertEqual(self.receipt()["state"], "binding")  # nothing but binding missed it
            self.assertEqual([one.id for one in receipts_can_be_signed()], ["editions.E001"])
        self.assertFalse(any("RECEIPT_KEY" in name and name != "FOLIO_RECEIPT_KEY_FILE" for name in os.environ))
        with tempfile.NamedTemporaryFile() as open_to_all, override_settings(RECEIPT_KEY_FILE=open_to_all.name):
            Path(open_to_all.name).chmod(0o644)
            self.assertIn("chmod 600", receipts_can_be_signed()[0].msg)

    def test_a_page_that_could_not_be_opened_is_bound_anew_when_it_can_and_the_first_stays(self) -> None:
        busy = PageError(Trouble.MACHINE_BUSY, "The server is busy.")
        self.hand_in()
        edition = Edition.objects.get()
        with mock.patch("pages.preparing.run_limited", side_effect=busy):
            binding.bind_edition(edition.pk, now=NOW, last_try=True)
        first = Receipt.from_json(self.file("receipt.json")), self.file("bound.pdf")
        self.assertEqual(edition.pages.filter(is_notice=True).count(), 2)
        ProcrastinateJob.objects.all().delete()
        for page in (self.one, self.two):
            preparing.open_original(Page.objects.get(pk=page).original_id, now=NOW)
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=BIND_EDITION).count(), 2)
        binding.bind_edition(edition.pk, now=NOW)
        binding.bind_edition(edition.pk, now=NOW)  # the second job finds it done
        second = Receipt.from_json(self.file("receipt.json")), self.file("bound.pdf")
        self.assertNotEqual(second[1], first[1])
        self.assertEqual(second[0].statement["replaces"], hash_of(first[0]))
        self.assertEqual(edition.bindings.count(), 2)
        self.assertFalse(edition.pages.filter(is_notice=True).exists())
        keys = read_keys(self.as_(None).get("/api/receipt-keys").content)
        for receipt, document in (first, second):
            self.assertTrue(verify(receipt, document, keys))
        name = f"bound/{self.folio.pk}/{hashlib.sha256(first[1]).hexdigest()}.pdf"
        self.assertIn(name, {one for folder in registered_folders() for one in folder.named_files()})

    def test_handing_in_again_makes_the_next_edition_and_keeps_the_first(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        first = self.file("bound.pdf")
        self.arrange(3, order=[self.one, self.two])
        self.assertEqual(self.hand_in(seen_edition=1).json()["number"], 2)
        self.work_off_jobs()
        self.assertEqual(self.receipt(1)["newest"], 2)
        self.assertEqual(self.file("bound.pdf", 1), first)
        self.assertEqual([page["file_name"] for page in self.receipt(1)["pages"]], ["IMG_2.jpg", "IMG_1.jpg"])

    def test_a_hand_in_sent_twice_on_a_bad_line_is_one_edition(self) -> None:
        self.assertEqual(self.hand_in(seen_edition=0).json()["number"], 1)
        self.assertEqual(self.hand_in(seen_edition=0).json()["number"], 1)
        self.assertEqual(Edition.objects.count(), 1)

    def test_an_edition_handed_in_before_its_pages_were_prepared_is_bound_all_the_same(self) -> None:
        from editions import binding

        self.hand_in()
        binding.bind_edition(Edition.objects.get().pk, now=self.clock())
        self.assertEqual(self.receipt()["state"], "bound")
        self.assertTrue(all(page.image for page in EditionPage.objects.all()))

    def test_a_page_turned_just_before_is_bound_as_it_was_turned(self) -> None:
        self.work_off_jobs()
        self.turn(self.one, 90)
        self.hand_in()  # before the worker made the turned image
        self.work_off_jobs()
        frozen = {page.page_id: (page.width, page.height) for page in EditionPage.objects.all()}
        self.assertEqual((frozen[self.one], frozen[self.two]), ((84, 60), (60, 84)))
        self.turn(self.two, 90)
        preparing.prepare_page(self.two, now=self.clock())
        self.assertEqual(self.as_(self.corin).get(self.reading()).json()["pages"][0]["width"], 60)

    def turn(self, page: int, turn: int) -> None:
        folio = Folio.objects.get(pk=self.folio.pk)
        recipes = {str(page): {"corners": None, "turn": turn, "tone": "clean"}}
        answer = self.arrange(folio.version, **{**folio.arrangement, "recipes": recipes})
        self.assertEqual(answer.status_code, 200)

    def reading(self) -> str:
        return f"/api/folios/{self.folio.pk}/editions/1/reading"

    def test_a_page_that_cannot_be_opened_is_in_the_document_as_a_notice(self) -> None:
        from editions import binding

        out = io.BytesIO()
        from PIL import Image

        Image.effect_noise((400, 400), 80).save(out, "JPEG")
        self.send(out.getvalue()[:4000], "half.jpg")
        self.hand_in()
        binding.bind_edition(Edition.objects.get().pk, now=self.clock())
        self.assertEqual(len(pypdf.PdfReader(io.BytesIO(self.file("bound.pdf"))).pages), 3)

    def test_binding_twice_is_binding_once(self) -> None:
        from editions import binding

        self.hand_in()
        edition = Edition.objects.get()
        binding.bind_edition(edition.pk, now=self.clock())
        before = self.receipt()
        binding.bind_edition(edition.pk, now=self.clock())
        self.assertEqual(json.dumps(self.receipt()), json.dumps(before))

    def test_a_born_digital_page_stays_as_it_was_drawn_unless_it_is_corrected_by_hand(self) -> None:
        out = io.BytesIO()
        canvas = Canvas(out)
        canvas.drawString(100, 600, "typed at home: 42 nautical miles")
        canvas.save()
        typed = self.send(out.getvalue(), "typed.pdf").json()["page_id"]
        self.work_off_jobs()
        self.hand_in()
        self.work_off_jobs()
        self.assertIn("42 nautical miles", pypdf.PdfReader(io.BytesIO(self.file("bound.pdf"))).pages[2].extract_text())
        recipe = {str(typed): {"corners": None, "turn": None, "tone": "ink"}}
        version = Folio.objects.get(pk=self.folio.pk).version
        self.arrange(version, order=[self.one, self.two, typed], recipes=recipe)
        self.work_off_jobs()
        self.hand_in(seen_edition=1)
        self.work_off_jobs()
        toned = pypdf.PdfReader(io.BytesIO(self.file("bound.pdf", 2))).pages[2]
        self.assertNotIn("42 nautical miles", toned.extract_text())


class FilesOfSeveralPages(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.first = self.send(img2pdf.convert([picture(1), picture(2), picture(3)]), "scan.pdf").json()["page_id"]
        self.arrange(1, order=[self.first], placements={"1a": [{"page": self.first}]})

    def test_handed_in_before_it_was_opened_its_other_pages_follow_by_themselves(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        later, earlier = Edition.objects.all()
        self.assertEqual((earlier.page_count, later.page_count), (1, 3))
        self.assertEqual((later.verdict, later.automatic), (earlier.verdict, False))
        self.assertEqual(later.open_labels, earlier.open_labels)
        self.work_off_jobs()
        self.assertEqual(Edition.objects.count(), 2)

    def test_a_replacement_that_was_begun_meanwhile_is_not_handed_in_with_them(self) -> None:
        self.hand_in()
        other = self.send(picture(9)).json()["page_id"]
        self.work_off_jobs()
        newest = Edition.objects.first()
        assert newest is not None
        self.assertEqual(newest.page_count, 3)
        self.assertFalse(newest.pages.filter(page=other).exists())

    def test_opened_after_the_close_they_count_as_the_edition_that_the_close_made(self) -> None:
        self.at(days=2)
        close_all(moment())
        self.work_off_jobs()
        newest = Edition.objects.first()
        assert newest is not None
        self.assertEqual((newest.number, newest.page_count, newest.automatic), (2, 3, True))
        self.assertEqual(newest.verdict, "in_time")

    def test_nothing_is_handed_in_where_nothing_was_or_the_page_was_left_out(self) -> None:
        other = self.send(picture(9)).json()["page_id"]
        self.arrange(3, order=[self.first, other], removed=[self.first])
        self.hand_in()
        self.work_off_jobs()
        self.assertEqual(Edition.objects.get().page_count, 1)
