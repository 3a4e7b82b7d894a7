"""What happens by itself at the close, and after it."""

from __future__ import annotations

from datetime import timedelta

from assignments.models import PersonalTerms
from editions.closing import close_all
from editions.models import Edition
from folios.beginning import create_folio
from folios.models import Folio
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture

MINUTE = timedelta(minutes=1)


class AtTheClose(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.sitting.placing_minutes = 60
        self.sitting.save()
        self.folio = create_folio(self.sitting, self.ilse, NOW)
        self.closes = NOW + 110 * MINUTE

    def close(self, **later: float) -> None:
        """What the worker does at that moment."""
        self.at(**later)
        close_all(moment())

    def edition(self) -> Edition:
        newest = self.folio.editions.first()
        assert newest is not None
        return newest

    def test_what_had_arrived_is_handed_in_by_itself_as_of_the_close(self) -> None:
        self.send(picture())
        self.close(minutes=109)
        self.assertFalse(self.folio.editions.exists())
        self.close(minutes=110, seconds=4)
        edition = self.edition()
        self.assertEqual((edition.handed_in_at, edition.verdict, edition.automatic), (self.closes, "in_time", True))
        self.work_off_jobs()
        edition.refresh_from_db()
        manifest = edition.receipt["statement"]["manifest"]  # type: ignore[index]
        self.assertTrue(manifest["by_itself"])
        self.assertEqual(self.folio.events.get(kind="handed_in").detail["by_itself"], True)

    def test_closing_twice_is_closing_once(self) -> None:
        self.send(picture())
        self.close(minutes=111)
        self.close(minutes=112)
        self.assertEqual(self.folio.editions.count(), 1)

    def test_what_was_handed_in_already_is_left_as_it_is(self) -> None:
        self.send(picture())
        self.hand_in()
        self.close(minutes=111)
        self.assertEqual([edition.automatic for edition in self.folio.editions.all()], [False])

    def test_pages_that_came_after_a_hand_in_are_handed_in_too(self) -> None:
        self.send(picture(1))
        self.hand_in()
        self.send(picture(2), "b.jpg")
        self.close(minutes=111)
        self.assertEqual((self.edition().number, self.edition().page_count), (2, 2))

    def test_the_close_takes_nothing_away_that_was_handed_in(self) -> None:
        """Seen on a trial: of two pages handed in one was removed, not handed in, and at the close one page counted."""
        one, two = (self.send(picture(shade), f"{shade}.jpg").json()["page_id"] for shade in (1, 2))
        self.arrange(2, order=[one, two], placements={"1a": [{"page": two}]})
        self.hand_in()
        self.arrange(3, order=[one, two], removed=[two])
        self.close(minutes=111)
        self.assertEqual([edition.number for edition in self.folio.editions.all()], [1])
        self.close(minutes=171)
        self.assertEqual([edition.page_count for edition in self.folio.editions.all()], [2])

    def test_a_page_taken_again_after_the_hand_in_stands_behind_the_one_it_was_to_replace(self) -> None:
        one, two = (self.send(picture(shade), f"{shade}.jpg").json()["page_id"] for shade in (1, 2))
        self.hand_in()
        path = f"/api/folios/{self.folio.pk}/originals?name=again.jpg&instead_of={one}"
        again = self.as_(self.ilse).put(path, picture(3), content_type="application/octet-stream").json()["page_id"]
        self.close(minutes=111)
        pages = list(self.edition().pages.values_list("page", flat=True))
        self.assertEqual((self.edition().number, pages), (2, [one, again, two]))

    def test_corners_changed_after_the_hand_in_and_not_handed_in_cut_nothing_away_at_the_close(self) -> None:
        page = self.send(picture(1)).json()["page_id"]
        self.hand_in()
        corners = [[0, 0], [30, 0], [30, 42], [0, 42]]
        self.arrange(1, order=[page], recipes={str(page): {"corners": corners, "turn": None, "tone": "clean"}})
        self.send(picture(2), "b.jpg")
        self.close(minutes=111)
        self.assertEqual([frozen.corners for frozen in self.edition().pages.all()], [None, None])

    def test_a_folio_without_a_page_makes_no_edition(self) -> None:
        self.close(minutes=111)
        self.assertFalse(self.folio.editions.exists())

    def test_what_is_placed_after_the_close_is_handed_in_when_placing_ends(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.close(minutes=111)
        answer = self.arrange(1, order=[page], placements={"1a": [{"page": page}]})
        self.assertEqual(answer.status_code, 200)
        self.close(minutes=169)
        self.assertEqual(self.folio.editions.count(), 1)
        self.close(minutes=171)
        self.assertEqual(self.edition().open_labels, ["1b", "2"])
        self.folio.refresh_from_db()
        self.assertTrue(self.folio.is_closed)

    def test_what_was_placed_after_the_close_can_be_handed_in_at_once_and_counts_as_in_time(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.close(minutes=111)
        self.arrange(1, order=[page], placements={"1a": [{"page": page}]})
        answer = self.hand_in(seen_edition=1).json()
        self.assertEqual((answer["number"], answer["verdict"]), (2, "in_time"))
        self.at(minutes=171)
        self.assertIn("closed", self.hand_in(seen_edition=2).json()["message"])

    def test_after_the_close_pages_can_neither_come_nor_go(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.at(minutes=110)
        answer = self.send(picture(3), "b.jpg")
        self.assertEqual((answer.status_code, answer.json()["code"]), (403, "closed"))
        self.assertEqual(self.arrange(1, order=[page], removed=[page]).status_code, 403)
        self.assertEqual(self.arrange(1, order=[page], loose=[page]).status_code, 200)

    def test_the_same_bytes_after_the_close_are_acknowledged_again_and_bring_nothing_back(self) -> None:
        """The acknowledgement was lost in the network; the page was not."""
        page = self.send(picture()).json()["page_id"]
        self.arrange(1, order=[page], removed=[page])
        folio = Folio.objects.get(pk=self.folio.pk)
        self.assertEqual(folio.arrangement["removed"], [page])

    def test_untimed_work_is_handed_in_when_late_work_ends_and_is_late_only_if_a_page_was(self) -> None:
        self.work.late_until = self.work.due + timedelta(hours=5)
        self.work.save()
        for student, days in ((self.ilse, 0.5), (self.tobin, 1.1)):
            folio = create_folio(self.work, student, NOW, attempt=2)
            self.at(days=days)
            self.send(picture(), by=student, folio=folio)
        self.close(days=2)
        told = Edition.objects.order_by("verdict").values_list("verdict", "late_seconds")
        self.assertEqual(list(told), [("in_time", 0), ("late", 8640)])

    def test_a_due_moment_moved_on_after_the_close_is_heeded(self) -> None:
        folio = create_folio(self.work, self.tobin, NOW)
        self.close(days=1, minutes=1)
        PersonalTerms.objects.create(assignment=self.work, person=self.tobin, due=NOW + timedelta(days=3))
        self.assertEqual(self.send(picture(), by=self.tobin, folio=folio).status_code, 200)
        self.close(days=3, minutes=1)
        self.assertEqual(folio.editions.count(), 1)

    def test_a_page_in_time_that_is_taken_in_after_the_folio_was_closed_is_handed_in_too(self) -> None:
        """Its last byte came before the close; the server was slow."""
        self.send(picture(1))
        self.close(minutes=110, seconds=1)
        self.at(minutes=109, seconds=59)
        self.assertEqual(self.send(picture(2), "b.jpg").status_code, 200)
        self.assertEqual((self.edition().number, self.edition().page_count, self.edition().verdict), (2, 2, "in_time"))

    def test_one_folio_in_trouble_does_not_keep_the_others(self) -> None:
        broken = create_folio(self.sitting, self.tobin, NOW)
        self.send(picture(), by=self.tobin, folio=broken)
        Folio.objects.filter(pk=broken.pk).update(arrangement={"order": 5})
        self.send(picture())
        with self.assertLogs("editions.closing", "ERROR"):
            self.close(minutes=111)
        self.assertTrue(self.folio.editions.exists())
