"""A phone's right to add pages: short, to one folio, and to nothing else."""

from __future__ import annotations

import base64
import hashlib
import json
from datetime import timedelta
from typing import Any
from unittest import mock

import cv2
import numpy as np

from folios.beginning import create_folio
from folios.lengthening import lengthen
from folios.models import Event, Folio
from pages.models import CameraLink, Original
from people.models import User
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture
from testing.terms import set_rules

BATCH = "0b0e4f5e-8f0c-4f0e-9a53-2f6c1d2e3f40"


class CameraLinks(DeskTestCase):
    def invite(self, by: User | None = None, folio: Folio | None = None) -> Any:
        return self.as_(by or self.ilse).post(f"/api/folios/{(folio or self.folio).pk}/camera-links")

    def secret(self) -> str:
        return str(self.invite().json()["address"].split("#")[1])

    def shoot(self, secret: str, data: bytes, number: int = 0) -> Any:
        path = f"/api/camera/originals?name=page.jpg&batch={BATCH}&number={number}"
        return self.as_(None).put(path, data, "application/octet-stream", headers={"Folio-Camera": secret})

    def camera(self, secret: str) -> Any:
        return self.as_(None).get("/api/camera", headers={"Folio-Camera": secret})

    def test_a_phone_without_a_sign_in_is_told_whose_folio_it_is_and_adds_pages(self) -> None:
        secret = self.secret()
        told = self.camera(secret).json()
        folio = told["folio"]
        self.assertEqual((told["student"], folio["pages"], folio["phase"]), ("Ilse", 0, "writing"))
        answer = self.shoot(secret, picture())
        self.assertEqual(answer.status_code, 200, answer.content)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["order"], [answer.json()["page_id"]])
        self.assertEqual(Event.objects.get(kind="arrived").folio_id, self.folio.pk)
        [link] = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/camera-links").json()
        self.assertEqual((link["pages"], link["opened"] is not None), (1, True))

    def test_pictures_lie_in_the_order_they_were_taken_however_they_come(self) -> None:
        secret = self.secret()
        third, first, second = (
            self.shoot(secret, picture(shade), number).json()["page_id"] for shade, number in ((3, 2), (1, 0), (2, 1))
        )
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["order"], [first, second, third])

    def test_the_code_holds_the_address(self) -> None:
        """OpenCV reads what segno wrote (ISO/IEC 18004); of a known token, for OpenCV misses about one code in many."""
        with mock.patch("pages.camera_links.secrets.token_urlsafe", return_value="a-token-of-thirty-two-letters-01"):
            invitation = self.invite().json()
        modules = np.array([[255 * (one == "0") for one in row] for row in invitation["modules"]], np.uint8)
        image = cv2.resize(np.pad(modules, 4, constant_values=255), None, fx=8, fy=8, interpolation=cv2.INTER_NEAREST)
        self.assertEqual(cv2.QRCodeDetector().detectAndDecode(image)[0], invitation["address"])

    def test_the_secret_is_not_kept(self) -> None:
        secret = self.secret()
        self.assertNotIn(secret, str(CameraLink.objects.values()))

    def test_only_the_folios_own_student_makes_and_ends_links(self) -> None:
        for other in (self.tobin, self.corin, self.stranger):
            self.assertEqual(self.invite(other).status_code, 404)
        self.assertEqual(self.as_(None).post(f"/api/folios/{self.folio.pk}/camera-links").status_code, 401)
        link = self.invite().json()["link"]["id"]
        path = f"/api/folios/{self.folio.pk}/camera-links/{link}"
        self.assertEqual(self.as_(self.tobin).delete(path).status_code, 404)
        self.assertEqual(self.as_(self.ilse).delete(path).status_code, 204)

    def test_an_ended_an_old_and_an_unknown_link_do_nothing(self) -> None:
        secret = self.secret()
        link = CameraLink.objects.get()
        set_rules(self.folio, due=NOW + timedelta(days=9))
        self.at(days=1, minutes=1)
        self.assertEqual(self.shoot(secret, picture()).json()["code"], "link_ended")
        self.at(hours=23)
        self.assertEqual(self.camera(secret).status_code, 200)
        self.as_(self.ilse).delete(f"/api/folios/{self.folio.pk}/camera-links/{link.pk}")
        self.assertEqual(self.camera(secret).json()["code"], "link_ended")
        self.assertEqual(self.shoot("made-up", picture()).json()["code"], "link_ended")
        self.assertEqual(self.as_(None).get("/api/camera").status_code, 401)
        self.assertFalse(Original.objects.exists())

    def test_it_ends_with_the_sitting_and_takes_nothing_after_the_close(self) -> None:
        set_rules(self.folio, due=self.clock.return_value)
        self.assertEqual(self.invite().json()["code"], "closed")
        set_rules(self.folio, due=self.clock.return_value.replace(minute=20), pledge_minutes=10)
        secret = self.secret()
        self.assertEqual(self.camera(secret).json()["until"], "2026-11-24T15:30:00Z")
        self.at(minutes=25)
        self.assertEqual(self.shoot(secret, picture()).json()["code"], "closed")

    def test_in_a_sitting_it_lasts_as_long_as_that_with_time_that_was_given(self) -> None:
        folio = create_folio(self.sitting, self.ilse, NOW)
        secret = str(self.invite(folio=folio).json()["address"].split("#")[1])
        self.at(minutes=109)
        self.assertEqual(self.shoot(secret, picture()).status_code, 200)
        lengthen(self.sitting, 30, only=None, by_name="Corin", now=moment())
        self.at(minutes=139)
        self.assertEqual(self.shoot(secret, picture(3)).status_code, 200)
        self.at(minutes=151)
        self.assertEqual(self.camera(secret).json()["code"], "link_ended")

    def test_a_large_picture_comes_in_pieces_and_promised_as_from_the_board(self) -> None:
        folio = create_folio(self.sitting, self.ilse, NOW)
        secret = str(self.invite(folio=folio).json()["address"].split("#")[1])
        data = picture(7)
        sha256 = hashlib.sha256(data).hexdigest()
        page = {"sha256": sha256, "size": len(data), "file_name": "page.jpg"}
        phone = {"Folio-Camera": secret, "Tus-Resumable": "1.0.0"}
        answer = self.as_(None).post("/api/camera/pledge", {"pages": [page]}, "application/json", headers=phone)
        self.assertEqual([one["sha256"] for one in answer.json()["promised"]], [sha256])
        said = {"filename": "page.jpg", "sha256": sha256}
        metadata = ",".join(f"{name} {base64.b64encode(value.encode()).decode()}" for name, value in said.items())
        self.at(minutes=112)  # after the close: it was promised
        told = {"Upload-Length": str(len(data)), "Upload-Metadata": metadata}
        at = self.as_(None).post("/api/camera/uploads", headers={**phone, **told})["Location"]
        kind = "application/offset+octet-stream"
        half = len(data) // 2
        first = self.as_(None).patch(at, data[:half], kind, headers={**phone, "Upload-Offset": "0"})
        self.assertEqual((first.status_code, first["Upload-Offset"]), (204, str(half)))
        self.assertEqual(self.as_(None).head(at, headers=phone)["Upload-Offset"], str(half))
        last = self.as_(None).patch(at, data[half:], kind, headers={**phone, "Upload-Offset": str(half)})
        self.assertEqual(json.loads(last["Folio-Acknowledged"])["sha256"], sha256)
        original = Original.objects.get()
        self.assertEqual((original.verdict, original.camera_id), ("in_time", CameraLink.objects.get().pk))
        self.assertEqual(self.as_(None).head(at, headers={"Tus-Resumable": "1.0.0"}).status_code, 401)

    def test_what_came_from_this_phone_it_may_take_again_and_away(self) -> None:
        secret = self.secret()
        first = self.shoot(secret, picture(5)).json()["page_id"]
        self.send(picture(8))
        again = f"/api/camera/originals?name=a.jpg&batch={BATCH}&number=1&instead_of={first}"
        phone = {"Folio-Camera": secret}
        second = self.as_(None).put(again, picture(7), "application/octet-stream", headers=phone).json()["page_id"]
        [taken] = self.camera(secret).json()["folio"]["taken"]
        self.assertEqual((taken["page_id"], taken["number"]), (second, 1))
        self.assertEqual(self.remove(secret, second, True), 204)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["removed"], [first, second])
        self.assertIsNone(self.camera(secret).json()["folio"]["taken"][0]["number"])
        self.assertEqual(self.remove(secret, second, False), 204)
        self.assertEqual(self.camera(secret).json()["folio"]["taken"][0]["number"], 1)

    def remove(self, secret: str, page: int, removed: bool) -> int:
        answer = self.as_(None).put(
            f"/api/camera/pages/{page}", {"removed": removed}, "application/json", headers={"Folio-Camera": secret}
        )
        return int(answer.status_code)

    def test_it_opens_no_other_door(self) -> None:
        """Not the board, not the pictures, not another folio, not the place of a page that did not come from it."""
        secret = self.secret()
        page = self.send(picture(5)).json()["page_id"]
        self.assertEqual(self.remove(secret, page, True), 404)
        phone = {"Folio-Camera": secret}
        for path in (f"/api/folios/{self.folio.pk}", "/api/my-folios", f"/api/folios/{self.folio.pk}/draft"):
            self.assertEqual(self.as_(None).get(path, headers=phone).status_code, 401, path)
        own = f"/api/folios/{self.folio.pk}/originals?name=a.jpg"
        self.assertEqual(
            self.as_(None).put(own, picture(6), "application/octet-stream", headers=phone).status_code, 401
        )
        path = f"/api/camera/originals?name=a.jpg&batch={BATCH}&number=1&instead_of={page}"
        self.as_(None).put(path, picture(7), "application/octet-stream", headers=phone)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["removed"], [])

    def test_too_many_links_end_the_oldest(self) -> None:
        first = self.secret()
        for _ in range(4):
            self.invite()
        self.assertEqual(self.camera(first).status_code, 403)
        self.assertEqual(len(self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/camera-links").json()), 4)
