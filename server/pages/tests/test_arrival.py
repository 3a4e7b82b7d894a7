from __future__ import annotations

import hashlib
import io
from collections.abc import Callable
from pathlib import Path
from unittest import mock

import pikepdf
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import DatabaseError
from django.test import override_settings
from procrastinate.contrib.django.models import ProcrastinateJob

from editions import binding
from editions.models import Edition
from folio_core.page import FirstView, PageError, Trouble
from folios.beginning import create_folio
from folios.models import Event, Folio
from pages import preparing
from pages.models import Original, Page
from testing.desk import NOW, DeskTestCase, picture


def pdf_of(pages: int) -> bytes:
    out = io.BytesIO()
    with pikepdf.new() as pdf:
        for _ in range(pages):
            pdf.add_blank_page()
        pdf.save(out)
    return out.getvalue()


class Arrival(DeskTestCase):
    def test_an_acknowledged_file_is_on_disk_under_its_hash_with_row_event_and_job(self) -> None:
        data = picture()
        answer = self.send(data, "IMG_1.jpg").json()
        self.assertEqual(answer["sha256"], hashlib.sha256(data).hexdigest())
        original = Original.objects.get(pk=answer["original_id"])
        with default_storage.open(original.stored_as) as stored:
            self.assertEqual(stored.read(), data)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["order"], [answer["page_id"]])
        self.assertEqual(Event.objects.get(kind="arrived").at, NOW)
        self.assertEqual(ProcrastinateJob.objects.filter(task_name="pages.open_original").count(), 1)

    def test_the_file_is_flushed_before_it_is_renamed_and_the_folder_after(self) -> None:
        steps: list[str] = []
        with (
            mock.patch("os.fsync", side_effect=lambda _: steps.append("flush")),
            mock.patch("os.replace", wraps=__import__("os").replace, side_effect=None) as replace,
        ):
            replace.side_effect = lambda a, b: (steps.append("rename"), Path(a).rename(b))
            self.assertEqual(self.send(picture()).status_code, 200)
        self.assertEqual(steps, ["flush", "rename", "flush"])

    def test_the_same_bytes_twice_make_one_page(self) -> None:
        first, second = self.send(picture(), "a.jpg").json(), self.send(picture(), "b.jpg").json()
        self.assertEqual((first["already"], second["already"]), (False, True))
        self.assertEqual(second["page_id"], first["page_id"])
        self.assertEqual(Page.objects.count(), 1)

    def test_the_same_bytes_bring_a_removed_page_back(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.arrange(1, order=[page], removed=[page])
        self.assertTrue(self.send(picture()).json()["already"])
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["removed"], [])

    def test_the_same_bytes_of_another_student_are_that_students_page(self) -> None:
        other = create_folio(self.work, self.tobin, NOW)
        self.send(picture())
        self.assertFalse(self.send(picture(), by=self.tobin, folio=other).json()["already"])

    def test_a_file_refused_at_the_door_leaves_nothing(self) -> None:
        for data, code in ((b"", "empty"), (b"hello", "wrong_kind"), (b"PK\x03\x04rest", "wrong_kind")):
            answer = self.send(data)
            self.assertEqual((answer.status_code, answer.json()["code"]), (422, code))
        self.assertFalse(Original.objects.exists())
        self.assertEqual(list((Path(settings.MEDIA_ROOT) / "arriving").iterdir()), [])

    @override_settings(FOLIO_MAX_FILE_MB=0)
    def test_too_large_a_file_is_refused_with_its_size(self) -> None:
        answer = self.send(picture()).json()
        self.assertEqual(answer["code"], "too_large")

    @override_settings(FOLIO_MAX_PAGES=1)
    def test_a_full_folio_says_how_many_pages_it_holds(self) -> None:
        self.send(picture(1))
        answer = self.send(picture(2))
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "too_many_pages"))

    def test_a_row_that_cannot_be_committed_is_not_acknowledged_and_leaves_no_page(self) -> None:
        with (
            mock.patch("pages.arrival.enqueue_opening", side_effect=DatabaseError),
            self.assertRaises(DatabaseError),
        ):
            self.send(picture())
        self.assertFalse(Page.objects.exists())
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.version, 0)

    def test_the_last_byte_must_come_before_the_close(self) -> None:
        self.at(days=2)
        answer = self.send(picture())
        self.assertEqual((answer.status_code, answer.json()["code"]), (403, "closed"))
        self.assertIn("closed Wed 25 Nov 11:00 AST", answer.json()["message"])  # the course's clock, UTC−4
        self.assertFalse(Original.objects.exists())


class BadFilesFoundLater(DeskTestCase):
    """What only decoding can show: the page leaves the arrangement and says why, the original stays."""

    def check_failed(self, data: bytes, code: str) -> None:
        good, bad = self.send(picture(), "good.jpg").json(), self.send(data, "bad.file").json()
        self.work_off_jobs()
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["order"], [good["page_id"]])
        page = Page.objects.get(pk=bad["page_id"])
        self.assertEqual((page.state, page.trouble), (Page.State.FAILED, code))
        shown = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()["pages"]
        self.assertEqual([one["message"] != "" for one in shown], [False, True])
        self.assertEqual(self.as_(self.ilse).get(f"/api/originals/{bad['original_id']}/file").status_code, 200)
        again = self.send(data, "bad.file")
        self.assertEqual((again.status_code, again.json()["code"]), (422, code))

    def test_a_truncated_picture(self) -> None:
        out = io.BytesIO()
        from PIL import Image

        Image.effect_noise((400, 400), 80).save(out, "JPEG")
        self.check_failed(out.getvalue()[:4000], "truncated")

    def test_a_locked_pdf(self) -> None:
        out = io.BytesIO()
        with pikepdf.new() as pdf:
            pdf.add_blank_page()
            pdf.save(out, encryption=pikepdf.Encryption(owner="o", user="u"))
        self.check_failed(out.getvalue(), "encrypted")

    def test_a_decompression_bomb(self) -> None:
        from PIL import Image

        out = io.BytesIO()
        Image.new("1", (20_000, 20_000)).save(out, "PNG")
        self.check_failed(out.getvalue(), "too_many_pixels")


class TheMachinesTroubles(DeskTestCase):
    """A decoder that was killed, or had no time, may say nothing about the file: it is tried again first."""

    def setUp(self) -> None:
        super().setUp()
        self.page = Page.objects.get(pk=self.send(picture()).json()["page_id"])
        died = PageError(Trouble.DECODER_DIED, "Opening this page failed badly.")
        self.enterContext(mock.patch("pages.preparing.run_limited", side_effect=died))

    def state(self) -> tuple[str, list[int]]:
        self.page.refresh_from_db()
        return self.page.state, Folio.objects.get(pk=self.folio.pk).arrangement["order"]

    def test_neither_opening_nor_preparing_gives_a_page_up_before_the_last_try(self) -> None:
        for work in (
            lambda: preparing.open_original(self.page.original_id, now=NOW, last_try=False),
            lambda: preparing.prepare_page(self.page.pk, now=NOW, last_try=False),
        ):
            with self.assertRaises(preparing.TryAgain):
                work()
            self.assertEqual(self.state(), (Page.State.WAITING, [self.page.pk]))
        preparing.prepare_page(self.page.pk, now=NOW, last_try=True)
        self.assertEqual(self.state(), (Page.State.FAILED, []))

    def test_a_busy_machine_gives_no_page_up_even_at_the_last_try(self) -> None:
        busy = PageError(Trouble.MACHINE_BUSY, "The server is busy.")
        with mock.patch("pages.preparing.run_limited", side_effect=busy), self.assertRaises(preparing.TryAgain):
            preparing.prepare_page(self.page.pk, now=NOW, last_try=True)
        self.assertEqual(self.state(), (Page.State.WAITING, [self.page.pk]))

    def test_the_same_bytes_sent_again_try_again(self) -> None:
        preparing.prepare_page(self.page.pk, now=NOW, last_try=True)
        self.assertEqual(self.state(), (Page.State.FAILED, []))
        again = self.send(picture()).json()
        self.assertEqual((again["already"], again["page_id"]), (True, self.page.pk))
        self.assertEqual(self.state(), (Page.State.WAITING, [self.page.pk]))

    def test_no_document_is_bound_with_a_notice_for_it_before_the_last_try(self) -> None:
        self.hand_in()
        edition = Edition.objects.get()
        with self.assertRaises(preparing.TryAgain):
            binding.bind_edition(edition.pk, now=NOW, last_try=False)
        edition.refresh_from_db()
        self.assertEqual(edition.state, Edition.State.BINDING)


class SeenEarly(DeskTestCase):
    def test_a_page_can_be_seen_small_before_it_is_ready(self) -> None:
        page = Page.objects.get(pk=self.send(picture()).json()["page_id"])
        seen: list[tuple[str, str, bool]] = []

        def rung(folio_id: int, page: int) -> None:
            now = Page.objects.get(pk=page)
            seen.append((now.state, now.preview, now.image != ""))

        with mock.patch("pages.preparing.announce", side_effect=rung):
            preparing.prepare_page(page.pk, now=NOW)
        page.refresh_from_db()
        expected = [(Page.State.WAITING, page.preview, False), (Page.State.READY, page.preview, True)]
        self.assertEqual(seen, expected)

    def test_a_page_made_anew_keeps_its_picture_until_the_new_one_is_whole(self) -> None:
        page = Page.objects.get(pk=self.send(picture()).json()["page_id"])
        preparing.prepare_page(page.pk, now=NOW)
        page.refresh_from_db()
        before = page.image, page.preview
        Page.objects.filter(pk=page.pk).update(state=Page.State.WAITING, turn=90)
        seen: list[tuple[str, str]] = []

        def rung(folio_id: int, page: int) -> None:
            seen.append(Page.objects.values_list("image", "preview").get(pk=page))

        with mock.patch("pages.preparing.announce", side_effect=rung):
            preparing.prepare_page(page.pk, now=NOW)
        page.refresh_from_db()
        self.assertEqual(seen, [(page.image, page.preview)])
        self.assertNotEqual(before, seen[0])

    def test_what_was_seen_early_of_a_file_that_then_fails_is_no_page(self) -> None:
        page = Page.objects.get(pk=self.send(picture()).json()["page_id"])

        def seen_then_died(*arguments: object, early: Callable[[FirstView], None], **limits: object) -> None:
            early(FirstView(b"a small picture", 20, 30))
            self.assertEqual(Page.objects.get(pk=page.pk).width, 20)
            raise PageError(Trouble.DECODER_DIED, "Opening this page failed badly.")

        with mock.patch("pages.preparing.run_limited", side_effect=seen_then_died):
            preparing.prepare_page(page.pk, now=NOW, last_try=True)
        page.refresh_from_db()
        self.assertEqual((page.state, page.image), (Page.State.FAILED, ""))
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["order"], [])


class SeveralPages(DeskTestCase):
    @override_settings(FOLIO_MAX_PAGES=3)
    def test_a_file_of_more_pages_than_the_folio_has_room_for_says_so(self) -> None:
        first = self.send(picture(), "IMG_1.jpg").json()["page_id"]
        thick = self.send(pdf_of(3), "notes.pdf").json()["page_id"]
        self.work_off_jobs()
        page = Page.objects.get(pk=thick)
        self.assertEqual((page.state, page.trouble), (Page.State.FAILED, "too_many_pages"))
        self.assertIn("at most 3 with the 1 that are here", page.trouble_message)
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["order"], [first])

    def test_each_page_of_a_pdf_becomes_a_page_after_the_first(self) -> None:
        first = self.send(pdf_of(3), "notes.pdf").json()["page_id"]
        last = self.send(picture(), "IMG_2.jpg").json()["page_id"]
        self.work_off_jobs()
        self.work_off_jobs()  # a job may run twice
        self.folio.refresh_from_db()
        order = self.folio.arrangement["order"]
        self.assertEqual((len(order), order[0], order[-1]), (4, first, last))
        self.assertEqual([Page.objects.get(pk=pk).index for pk in order], [0, 1, 2, 0])
        self.assertEqual(set(Page.objects.values_list("state", flat=True)), {Page.State.READY})
