"""What a viewfinder over a printed sheet is told: the page, what is here, what is to come; and silence under load."""

from __future__ import annotations

import io
import uuid
from datetime import timedelta
from typing import Any
from unittest import mock

from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob

from assignments import setting_up
from folio_camera.form_trials import photographed
from folio_camera.printed_forms import make_form
from folios.models import Folio
from pages import camera_links
from pages.models import Page
from proposals import live_frames
from proposals.models import LiveFrame, ReadPage
from proposals.queueing import LOOK_AT_FRAME
from testing.desk import NOW, DeskTestCase, picture

VIEWER = uuid.UUID(int=1)
FORM = make_form("boxes", 11, pages=2)


class LiveFrames(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        setting_up.set_paper(self.work, "test.pdf", FORM.pdf)
        self.questions = [self.id_of(label) for label in ("1a", "1b")]
        self.work.on_paper = True
        self.work.answer_spaces = {
            question: [[page, 50, 100, 500, 300]] for page, question in enumerate(self.questions)
        }
        self.work.save()
        self.folio = Folio.objects.get(pk=self.folio.pk)

    def frame(self, page: int) -> bytes:
        small = Image.open(io.BytesIO(photographed(FORM, page, list(FORM.spaces), 3, (1134, 1512))))
        small.thumbnail((1000, 1000))
        made = io.BytesIO()
        small.save(made, "JPEG", quality=60)
        return made.getvalue()

    def look(self, jpeg: bytes, after: float = 0, viewer: uuid.UUID = VIEWER) -> live_frames.Sight:
        return live_frames.take(self.folio, viewer, jpeg, NOW + timedelta(seconds=after))

    def work_off(self, after: float = 0) -> None:
        for frame in LiveFrame.objects.all():
            live_frames.look(frame.pk, NOW + timedelta(seconds=after))

    def read(self, page: int) -> None:
        """A page comes, and is told to be that one of the paper."""
        self.send(picture(page + 1), f"IMG_{page}.jpg")
        self.work_off_jobs()
        newest = Page.objects.latest("pk")
        kept: dict[str, Any] = {"page": page, "confidence": 0.99, "copy": 0, "tops": {}, "empty": []}
        ReadPage.objects.update_or_create(
            page=newest, defaults={"image": newest.image, "kept_reading": {}, "read_at": NOW, "kept_sheet": kept}
        )

    def test_each_picture_is_answered_with_what_was_seen_before(self) -> None:
        jpeg = self.frame(1)
        first = self.look(jpeg)
        self.assertEqual((first.page, first.pages, first.to_come), (None, 2, (1, 2)))
        self.work_off(0.4)
        second = self.look(jpeg, 0.5)
        self.assertEqual((second.page, second.is_here, second.to_come), (2, False, (1, 2)))
        self.read(1)
        self.folio.refresh_from_db()
        third = self.look(jpeg, 1)
        self.assertEqual((third.page, third.is_here, third.to_come), (2, True, (1,)))
        self.assertEqual(third.next_ms, 500)

    def test_while_pages_are_still_to_be_read_nothing_is_said_of_what_is_to_come(self) -> None:
        self.read(0)
        self.send(picture(5), "IMG_5.jpg")
        self.folio.refresh_from_db()
        self.assertIsNone(self.look(b"").to_come)

    def test_what_was_seen_too_long_ago_is_not_told_and_not_looked_at(self) -> None:
        self.look(self.frame(0))
        self.work_off(0.4)
        self.assertIsNone(self.look(self.frame(0), 4.1).page)
        with mock.patch("proposals.live_frames.page_seen") as looked:
            self.work_off(9)
        looked.assert_not_called()

    def test_no_page_of_the_paper_and_what_is_no_picture_are_met_with_silence(self) -> None:
        for jpeg in (picture(200), b"no picture at all"):
            self.look(jpeg)
            self.work_off()
            self.assertIsNone(self.look(b"").page)

    def test_where_many_wait_nothing_more_is_taken_and_less_is_asked(self) -> None:
        for other in range(2, 5):
            self.assertEqual(self.look(b"x", viewer=uuid.UUID(int=other)).next_ms, 500)
        self.assertEqual(self.look(b"y").next_ms, 8000)
        self.assertFalse(LiveFrame.objects.filter(viewer=VIEWER).exists())
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=LOOK_AT_FRAME).count(), 3)
        self.work_off()
        self.assertEqual(self.look(b"y").next_ms, 500)

    def test_nothing_is_kept_of_a_picture_and_a_newer_one_waits_its_turn(self) -> None:
        self.look(self.frame(0))
        with mock.patch("proposals.live_frames.page_seen", side_effect=lambda *_: self.look(b"newer", 0.2) and 0):
            self.work_off(0.1)
        kept = LiveFrame.objects.get()
        self.assertEqual((bytes(kept.jpeg or b""), kept.seen_page), (b"newer", 0))
        self.work_off(0.3)
        self.assertIsNone(LiveFrame.objects.get().jpeg)
        live_frames.forget_old(NOW + timedelta(hours=2))
        self.assertFalse(LiveFrame.objects.exists())

    def test_by_the_board_and_by_a_phone_and_only_where_sheets_are_told(self) -> None:
        address = f"folios/{self.folio.pk}/frame?viewer={VIEWER}"
        said = self.put(address, b"x")
        self.assertEqual((said.status_code, said.json()["pages"]), (200, 2))
        self.assertEqual(self.put(address, bytes(300_001)).status_code, 413)
        _, secrets = camera_links.invite(self.ilse, self.work, self.folio, NOW)
        phone = {"headers": {"Folio-Camera": secrets.token}}
        told = self.client_class().get("/api/camera", **phone).json()["folio"]
        self.assertTrue(told["tells_sheets"])
        self.assertEqual(self.put(f"camera/frame?viewer={VIEWER}", b"x", **phone).status_code, 200)
        self.assertEqual(
            self.put(f"camera/frame?viewer={VIEWER}", b"x", headers={"Folio-Camera": "?"}).status_code, 403
        )
        self.at(days=30)
        self.assertEqual(self.put(address, b"x").json()["code"], "closed")
        self.at()
        type(self.work).objects.update(on_paper=False)
        self.assertEqual(self.put(address, b"x").json()["code"], "no_sheets")

    def put(self, address: str, body: bytes, **how: Any) -> Any:
        client = self.client_class() if how else self.as_(self.ilse)
        return client.put(f"/api/{address}", body, content_type="application/octet-stream", **how)
