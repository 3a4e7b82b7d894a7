"""What the board, the receipt and My folios say of work that differs from what was handed in."""

from __future__ import annotations

from typing import Any

from editions.closing import close_all
from folio_core.placing import changed_since, read_arrangement
from folios.arrangements import current
from folios.beginning import create_folio
from folios.models import Folio
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture


class Changed(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.sitting.placing_minutes = 60
        self.sitting.save()
        self.folio = create_folio(self.sitting, self.ilse, NOW)
        self.first, self.second = (self.send(picture(number)).json()["page_id"] for number in (1, 2))
        self.assertIsNone(self.told()["changed"])
        self.hand_in()

    def told(self) -> Any:
        return self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()

    def everywhere(self) -> list[Any]:
        client = self.as_(self.ilse)
        [line] = [one for one in client.get("/api/my-folios").json()["folios"] if one["folio_id"] == self.folio.pk]
        receipt = client.get(f"/api/folios/{self.folio.pk}/editions/1").json()
        return [one["changed"] and one["changed"]["what"] for one in (self.told(), line, receipt)]

    def change(self, **fields: Any) -> Any:
        version = self.told()["version"]
        return self.arrange(version, order=[self.first, self.second], **fields).json()

    def test_it_is_said_on_each_screen_and_with_each_save_until_it_is_handed_in(self) -> None:
        self.assertEqual(self.everywhere(), [None] * 3)
        saved = self.change(placements={"2": [{"page": self.first}]}, removed=[self.second])
        self.assertEqual(saved["changed"]["what"], ["1 page removed", "2 placed otherwise"])
        self.assertEqual(saved["changed"]["left_out"], ["1 page removed"])
        self.assertEqual(self.everywhere(), [saved["changed"]["what"]] * 3)
        stale = self.arrange(1, order=[self.first, self.second])
        self.assertEqual((stale.status_code, stale.json()["changed"]["edition"]), (409, 1))
        self.hand_in(seen_edition=1)
        self.assertEqual(self.everywhere(), [None] * 3)

    def test_staff_read_the_receipt_without_it(self) -> None:
        self.send(picture(3))
        receipt = self.as_(self.corin).get(f"/api/folios/{self.folio.pk}/editions/1").json()
        self.assertIsNone(receipt["changed"])

    def test_it_is_said_no_longer_when_nothing_can_be_done(self) -> None:
        self.send(picture(3))
        self.assertEqual(self.told()["changed"]["by_itself"], ["1 page added"])
        self.at(minutes=171)
        self.assertIsNone(self.told()["changed"])

    def test_what_is_said_to_come_by_itself_is_what_the_close_does(self) -> None:
        self.send(picture(3))
        order = self.told()["arrangement"]["order"]
        moved = [order[2], order[1], order[0]]
        removed, placements = [order[1]], {"1a": [{"page": order[2], "top": 0.4}]}
        version = self.told()["version"]
        told = self.arrange(version, order=moved, removed=removed, placements=placements).json()["changed"]
        for minutes in (110, 171):
            self.at(minutes=minutes)
            close_all(moment())
        folio = Folio.objects.get(pk=self.folio.pk)
        newest = folio.editions.first()
        assert newest is not None
        left = changed_since(read_arrangement(newest.arrangement), current(folio), folio.assignment.question_map)
        assert left is not None
        self.assertEqual(list(left.what), told["left_out"])
        self.assertEqual(told["by_itself"], ["1 page added", "1a placed otherwise"])
