"""Getting ready before the clock runs: a phone linked days ahead, test pictures, figures typed by hand."""

from __future__ import annotations

import hashlib
import re
from typing import Any

from django.core.files.storage import default_storage

from folios.beginning import create_folio
from pages.get_ready import MOST_AN_HOUR
from pages.models import CameraLink, Page, TestPicture
from people.models import User
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture
from upkeep.sweeping import sweep

BYTES = "application/octet-stream"


class GettingReady(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.base = f"/api/assignments/{self.sitting.pk}"

    def invite(self, by: User | None = None) -> Any:
        return self.as_(by or self.ilse).post(f"{self.base}/camera-links")

    def phone(self, secret: str) -> dict[str, str]:
        return {"Folio-Camera": secret}

    def secret(self) -> str:
        return str(self.invite().json()["address"].split("#")[1])

    def camera(self, secret: str) -> Any:
        return self.as_(None).get("/api/camera", headers=self.phone(secret))

    def ready(self) -> Any:
        return self.as_(self.ilse).get(f"{self.base}/get-ready").json()


class BeforeTheSitting(GettingReady):
    def test_a_phone_that_was_linked_before_stays_linked_when_the_sitting_begins(self) -> None:
        secret = self.secret()
        told = self.camera(secret).json()
        self.assertEqual((told["student"], told["folio"]), ("Ilse", None))
        originals = "/api/camera/originals?name=page.jpg"
        early = self.as_(None).put(originals, picture(), BYTES, headers=self.phone(secret))
        self.assertEqual((early.status_code, early.json()["code"]), (409, "not_begun"))
        self.at(hours=3)
        folio = create_folio(self.sitting, self.ilse, moment())
        taken = self.as_(None).put(originals, picture(), BYTES, headers=self.phone(secret))
        self.assertEqual(taken.status_code, 200, taken.content)
        self.assertEqual(Page.objects.get(pk=taken.json()["page_id"]).folio_id, folio.pk)
        [link] = self.as_(self.ilse).get(f"/api/folios/{folio.pk}/camera-links").json()
        self.assertEqual((link["begun"], link["pages"]), (True, 1))

    def test_somebody_elses_beginning_gives_the_phone_no_folio(self) -> None:
        secret = self.secret()
        create_folio(self.sitting, self.tobin, NOW)
        self.assertIsNone(self.camera(secret).json()["folio"])

    def test_it_lasts_a_fortnight_and_can_be_ended(self) -> None:
        secret, other = self.secret(), self.secret()
        ended = CameraLink.objects.order_by("-pk").first()
        assert ended is not None
        self.assertEqual(self.as_(self.tobin).delete(f"{self.base}/camera-links/{ended.pk}").status_code, 404)
        self.assertEqual(self.as_(self.ilse).delete(f"{self.base}/camera-links/{ended.pk}").status_code, 204)
        self.assertEqual(self.camera(other).status_code, 403)
        self.at(days=13)
        self.assertEqual(self.camera(secret).status_code, 200)
        self.at(days=15)
        self.assertEqual(self.camera(secret).json()["code"], "link_ended")

    def test_a_test_picture_is_judged_and_counts_for_nothing(self) -> None:
        secret = self.secret()
        sent = self.as_(None).put("/api/camera/test-picture", picture(), BYTES, headers=self.phone(secret))
        self.assertEqual((sent.status_code, sent.json()["state"]), (200, "waiting"))
        own = self.as_(self.ilse).put(f"{self.base}/test-picture", picture(90), BYTES)
        self.assertEqual(own.status_code, 200, own.content)
        self.work_off_jobs()
        newest, first = self.ready()["test_pictures"]
        self.assertEqual((newest["by_phone"], first["by_phone"]), (False, True))
        self.assertEqual((first["state"], [one["code"] for one in first["advice"]]), ("judged", ["low_resolution"]))
        shown = self.as_(self.ilse).get(first["preview"])
        self.assertEqual((shown.status_code, shown.content[:2]), (200, b"\xff\xd8"))
        self.assertEqual(self.as_(self.tobin).get(first["preview"]).status_code, 404)
        [on_phone] = self.camera(secret).json()["test_pictures"]
        self.assertEqual(on_phone["id"], first["id"])
        self.assertFalse(Page.objects.exists())
        for one in TestPicture.objects.all():
            self.assertFalse(default_storage.exists(one.stored_as))
        self.at(days=1, minutes=1)
        sweep(moment())
        self.assertEqual(self.ready()["test_pictures"], [])

    def test_a_test_picture_that_cannot_be_opened_says_why(self) -> None:
        self.as_(self.ilse).put(f"{self.base}/test-picture", picture()[:400], BYTES)
        self.work_off_jobs()
        [one] = self.ready()["test_pictures"]
        self.assertEqual((one["state"], one["preview"]), ("failed", ""))
        self.assertIn("cannot be read", one["message"])
        wrong = self.as_(self.ilse).put(f"{self.base}/test-picture", b"no picture", BYTES)
        self.assertEqual(wrong.status_code, 422)

    def test_of_too_many_test_pictures_no_more_are_taken(self) -> None:
        made = [
            TestPicture(student=self.ilse, assignment=self.sitting, made_at=NOW, state="judged")
            for _ in range(MOST_AN_HOUR)
        ]
        TestPicture.objects.bulk_create(made)
        self.assertEqual(self.as_(self.ilse).put(f"{self.base}/test-picture", picture(), BYTES).status_code, 429)
        self.at(hours=1, minutes=1)
        self.assertEqual(self.as_(self.ilse).put(f"{self.base}/test-picture", picture(), BYTES).status_code, 200)

    def test_a_sample_that_was_sent_is_told_by_its_hash_and_not_kept(self) -> None:
        sample = bytes(range(256)) * 400
        told = self.as_(self.ilse).put(f"{self.base}/sending-sample", sample, BYTES).json()
        self.assertEqual(told, {"size": len(sample), "sha256": hashlib.sha256(sample).hexdigest()})

    def test_who_does_not_study_the_course_gets_nothing_ready(self) -> None:
        self.assertEqual(self.invite(self.corin).status_code, 403)
        self.assertEqual(self.invite(self.stranger).status_code, 404)


class TypedByHand(GettingReady):
    def typed(self, letters: str, figures: str) -> Any:
        return self.as_(None).post("/api/camera/typed", {"letters": letters, "figures": figures}, "application/json")

    def shown(self) -> tuple[str, str]:
        invitation = self.invite().json()
        return invitation["typed_address"].rsplit("/", 1)[1], invitation["figures"]

    def test_letters_and_figures_open_the_link_however_they_are_written(self) -> None:
        letters, figures = self.shown()
        self.assertTrue(re.fullmatch(r"[A-Z0-9]{5}", letters))
        self.assertTrue(re.fullmatch(r"\d{6}", figures))
        answer = self.typed(f" {letters.lower()} ", f"{figures[:3]} {figures[3:]}")
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(self.camera(answer.json()["secret"]).json()["student"], "Ilse")

    def test_neither_is_kept_as_it_is_shown(self) -> None:
        _, figures = self.shown()
        self.assertNotIn(figures, str(CameraLink.objects.values("figures", "token_sha256")))

    def test_after_some_wrong_figures_the_right_ones_do_nothing(self) -> None:
        letters, figures = self.shown()
        wrong = f"{(int(figures) + 1) % 10**6:06}"
        for _ in range(5):
            self.assertEqual(self.typed(letters, wrong).json()["code"], "no_such_figures")
        self.assertEqual(self.typed(letters, figures).status_code, 403)
        secret = self.secret()  # another link is not touched by it
        self.assertEqual(self.camera(secret).status_code, 200)

    def test_guessing_over_many_links_is_slowed_down(self) -> None:
        for _ in range(30):
            self.typed("AAAAA", "123456")
        letters, figures = self.shown()
        self.assertEqual(self.typed(letters, figures).status_code, 429)

    def test_an_ended_link_cannot_be_typed(self) -> None:
        letters, figures = self.shown()
        CameraLink.objects.update(ended_at=NOW)
        self.assertEqual(self.typed(letters, figures).status_code, 403)
