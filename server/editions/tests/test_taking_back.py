"""Taken back: nothing is handed in until it is handed in again, and at the close what is on the board."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from editions import closing
from editions.models import Edition
from testing.desk import NOW, DeskTestCase, picture


class TakingBack(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.pages = [self.send(picture(shade)).json()["page_id"] for shade in (1, 2)]
        self.arrange(2, order=self.pages, placements={"1a": [{"page": self.pages[0]}]})
        self.hand_in()
        self.hand_in(seen_edition=1)
        self.work_off_jobs()
        self.path = f"/api/folios/{self.folio.pk}"

    def take_back(self, edition: int = 2) -> Any:
        body = json.dumps({"edition": edition})
        return self.as_(self.ilse).post(f"{self.path}/take-back", body, content_type="application/json")

    def line(self) -> Any:
        lines = self.as_(self.corin).get(f"/api/assignments/{self.work.pk}/folios").json()["folios"]
        return next(one for one in lines if one["folio_id"] == self.folio.pk)

    def mine(self) -> Any:
        rows = self.as_(self.ilse).get("/api/my-folios").json()["folios"]
        return next(one for one in rows if one["folio_id"] == self.folio.pk)

    def test_nothing_is_handed_in_then_for_anybody_and_all_is_kept(self) -> None:
        self.assertEqual(self.take_back().status_code, 204)
        self.assertEqual((self.line()["edition"], self.mine()["edition"]), (None, None))
        reading = f"{self.path}/editions/2/reading"
        self.assertEqual(self.as_(self.corin).get(reading).json()["code"], "taken_back")
        self.assertEqual(self.as_(self.ilse).get(reading).status_code, 200)
        zip_path = f"/api/assignments/{self.work.pk}/folios.zip?what=bound"
        self.assertEqual(self.as_(self.corin).get(zip_path).status_code, 409)
        told = self.as_(self.ilse).get(f"{self.path}/editions/2").json()
        self.assertEqual(told["taken_back_at"], "2026-11-24T15:00:00Z")
        receipt = Edition.objects.get(number=2).receipt
        checked = self.client.post("/api/receipt-checks", json.dumps(receipt), content_type="application/json").json()
        self.assertEqual((checked["signed"], checked["kept"]), ("here", "taken_back"))
        record = self.as_(self.corin).get(f"{self.path}/record").json()["events"]
        self.assertEqual(record[-1]["event"], {"kind": "taken_back", "edition": 2})

    def test_handing_in_again_undoes_it(self) -> None:
        self.take_back()
        answer = self.hand_in(seen_edition=2)
        self.assertEqual((answer.json()["number"], self.line()["edition"]), (3, 3))

    def test_handing_in_from_a_tab_that_saw_nothing_of_it_counts(self) -> None:
        """Another tab still knows the first edition only."""
        self.take_back()
        answer = self.hand_in(seen_edition=1)
        self.assertEqual((answer.json()["number"], self.line()["edition"]), (3, 3))

    def test_the_close_hands_in_what_is_on_the_board_then(self) -> None:
        self.take_back()
        self.arrange(3, order=self.pages, removed=[self.pages[1]], placements={"1b": [{"page": self.pages[0]}]})
        closing.close(self.folio.pk, NOW + timedelta(days=2))
        newest = Edition.objects.first()
        assert newest is not None
        self.assertEqual((newest.number, newest.automatic, newest.page_count), (3, True, 1))
        self.assertEqual(newest.open_labels, ["1a", "2"])

    def test_it_is_once_and_only_what_the_student_knew_of(self) -> None:
        self.assertEqual(self.take_back(1).json()["code"], "another_edition")
        self.take_back()
        self.at(minutes=5)
        self.assertEqual(self.take_back().status_code, 204)
        self.assertEqual(Edition.objects.get(number=2).taken_back_at, NOW)
        self.assertEqual(self.folio.events.filter(kind="taken_back").count(), 1)

    def test_after_the_close_nothing_is_taken_back(self) -> None:
        self.at(days=1)
        self.assertEqual(self.take_back().status_code, 403)
        self.assertEqual(self.line()["edition"], 2)

    def test_two_editions_are_compared_for_who_may_read_both(self) -> None:
        page = self.send(picture(3)).json()["page_id"]
        self.arrange(4, order=[self.pages[1], self.pages[0], page], placements={"2": [{"page": page}]})
        self.hand_in(seen_edition=2)
        told = self.as_(self.corin).get(f"{self.path}/editions/3/compared/2").json()
        self.assertEqual((told["before"]["edition"], told["after"]["edition"]), (2, 3))
        self.assertEqual([one["differs"] for one in told["after"]["pages"]], [["moved"], [], ["added"]])
        self.assertEqual([one["other"] for one in told["after"]["pages"]], [2, 1, None])
        placed = {one["label"]: (one["before"], one["after"]) for one in told["placed"]}
        self.assertEqual(placed, {"1a": ([1], []), "2": ([], [3])})
        self.take_back(3)
        self.assertEqual(self.as_(self.corin).get(f"{self.path}/editions/3/compared/2").status_code, 404)
        self.assertEqual(self.as_(self.ilse).get(f"{self.path}/editions/3/compared/2").status_code, 200)
