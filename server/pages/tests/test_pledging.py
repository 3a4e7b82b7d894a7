from __future__ import annotations

import hashlib
import json
from datetime import timedelta
from typing import Any

from editions.closing import close_all
from folios.beginning import create_folio
from folios.models import Event
from pages.models import Original
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture
from testing.terms import set_rules


class Pledges(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.folio = create_folio(self.sitting, self.ilse, NOW)
        self.late = picture(7)

    def pledge(self, *pages: bytes, **more: Any) -> Any:
        body = [
            {"sha256": hashlib.sha256(page).hexdigest(), "size": len(page), "file_name": "IMG.jpg"} | more
            for page in pages
        ]
        path = f"/api/folios/{self.folio.pk}/pledge"
        return self.as_(self.ilse).post(path, json.dumps({"pages": body}), content_type="application/json")

    def send_promised(self, data: bytes) -> Any:
        path = f"/api/folios/{self.folio.pk}/originals?name=IMG.jpg&sha256={hashlib.sha256(data).hexdigest()}"
        return self.as_(self.ilse).put(path, data, content_type="application/octet-stream")

    def test_a_promised_page_delivered_after_the_close_is_in_time_and_its_receipt_says_both_moments(self) -> None:
        self.at(minutes=109, seconds=41)
        promised = self.pledge(self.late).json()["promised"]
        self.assertEqual([one["promised"] for one in promised], ["2026-11-24T16:49:41Z"])
        self.at(minutes=113, seconds=10)
        answer = self.send_promised(self.late)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(Original.objects.get().verdict, "in_time")
        self.work_off_jobs()
        edition = self.folio.editions.get()
        (page,) = edition.receipt["statement"]["manifest"]["pages"]  # type: ignore[index]
        self.assertEqual((page["promised"], page["arrived"]), ("2026-11-24T16:49:41Z", "2026-11-24T16:53:10Z"))
        (line,) = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/1").json()["pages"]
        self.assertEqual(line["promised"], "2026-11-24T16:49:41Z")

    def test_other_bytes_than_the_promised_are_refused(self) -> None:
        self.pledge(self.late)
        self.at(minutes=111)
        self.assertEqual(self.send_promised(picture(8)).status_code, 403)
        path = f"/api/folios/{self.folio.pk}/originals?name=x&sha256={hashlib.sha256(self.late).hexdigest()}"
        answer = self.as_(self.ilse).put(path, picture(8), content_type="application/octet-stream")
        self.assertEqual(answer.json()["code"], "closed")
        self.assertFalse(Original.objects.exists())

    def test_the_size_must_match_too(self) -> None:
        self.pledge(self.late, size=len(self.late) + 1)
        self.at(minutes=111)
        self.assertEqual(self.send_promised(self.late).status_code, 403)

    def test_the_allowance_has_an_end(self) -> None:
        self.pledge(self.late)
        self.at(minutes=120)
        self.assertIn("promised pages were taken only until", self.send_promised(self.late).json()["message"])

    def test_nothing_can_be_promised_after_the_close_or_where_no_pledges_are_taken(self) -> None:
        set_rules(self.folio, pledge_minutes=0)
        self.assertEqual(self.pledge(self.late).json()["code"], "no_pledges")
        self.at(minutes=110)
        self.assertEqual(self.pledge(self.late).json()["code"], "closed")

    def test_the_first_promise_stands_and_is_in_the_record(self) -> None:
        self.pledge(self.late)
        self.at(minutes=5)
        (again,) = self.pledge(self.late).json()["promised"]
        self.assertEqual(again["promised"], "2026-11-24T15:00:00Z")
        event = Event.objects.get(kind="pledged")
        self.assertEqual(event.detail["pages"][0]["sha256"], hashlib.sha256(self.late).hexdigest())

    def test_promised_pages_that_come_after_the_close_are_handed_in_when_none_is_missing(self) -> None:
        self.send(picture(1))
        self.pledge(picture(2), picture(3))
        self.at(minutes=111)
        close_all(moment())
        self.assertEqual(self.folio.editions.count(), 1)
        self.send_promised(picture(2))
        self.assertEqual(self.folio.editions.count(), 1)
        self.send_promised(picture(3))
        newest = self.folio.editions.first()
        assert newest is not None
        self.assertEqual((newest.number, newest.page_count, newest.automatic), (2, 3, True))

    def test_when_a_promise_is_not_kept_the_others_are_handed_in_at_the_end_of_the_allowance(self) -> None:
        self.pledge(picture(2), picture(3))
        self.at(minutes=111)
        self.send_promised(picture(2))
        self.assertFalse(self.folio.editions.exists())
        self.at(minutes=121)
        close_all(moment())
        newest = self.folio.editions.get()
        self.assertEqual((newest.page_count, newest.handed_in_at), (1, NOW + timedelta(minutes=120)))

    def test_the_board_tells_what_is_promised_and_not_here(self) -> None:
        self.pledge(self.late)
        board = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        self.assertEqual([one["size"] for one in board["pledges"]], [len(self.late)])
        self.send(self.late)
        board = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        self.assertEqual(board["pledges"], [])

    def test_as_many_as_sides_were_written_and_three_more_can_be_promised(self) -> None:
        pages = [picture(shade) for shade in range(100, 110)]
        answer = self.pledge(*pages).json()
        self.assertEqual((len(answer["promised"]), len(answer["over"])), (3, 7))  # nothing was said of sides
        self.arrange(0, sides=4)
        promised = self.pledge(*pages).json()["promised"]
        self.assertEqual([one["sha256"] for one in promised], [hashlib.sha256(one).hexdigest() for one in pages[:7]])
        for page in pages[:4]:
            self.send_promised(page)
        self.assertEqual(
            len(self.pledge(*pages).json()["promised"]), 3
        )  # delivered ones count: no choice is left open by it

    def test_what_was_promised_and_not_delivered_stands_in_the_receipt_for_good(self) -> None:
        self.send(picture(1))
        self.pledge(picture(2), picture(3))
        self.at(minutes=111)
        close_all(moment())
        self.send_promised(picture(2))
        self.at(minutes=121)
        close_all(moment())
        self.work_off_jobs()
        missing = [hashlib.sha256(picture(shade)).hexdigest() for shade in (2, 3)]
        told = {
            one.number: [page["sha256"] for page in one.receipt["statement"]["manifest"]["not_delivered"]]  # type: ignore[index]
            for one in self.folio.editions.all()
        }
        self.assertEqual(told, {1: missing, 2: missing[1:]})
        receipt = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/2").json()
        self.assertEqual([one["sha256"] for one in receipt["not_delivered"]], missing[1:])
