"""A photograph of an open book becomes two pages, and neither is lost on the way."""

from __future__ import annotations

from functools import cache

import img2pdf

from editions import closing
from editions.models import Edition
from folio_camera import book_trials
from folios.models import Folio
from pages.models import Page
from testing.desk import DeskTestCase, picture


@cache
def book() -> bytes:
    return book_trials.make("book: ruled", 102).shot.jpeg


class OpenBook(DeskTestCase):
    def pages(self) -> list[tuple[int, str]]:
        """Each page of the order: its picture's number among those sent, and which half of it."""
        board = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        known = {page["id"]: page for page in board["pages"]}
        firsts = sorted({page["original_id"] for page in board["pages"]})
        shown = [known[pk] for pk in board["arrangement"]["order"]]
        return [(firsts.index(page["original_id"]), page["half"]) for page in shown]

    def test_it_is_two_pages_left_before_right_at_its_place(self) -> None:
        self.send(picture(1), "a.jpg")
        self.send(book(), "b.jpg")
        self.send(picture(2), "c.jpg")
        self.work_off_jobs()
        self.assertEqual(self.pages(), [(0, ""), (1, "left"), (1, "right"), (2, "")])
        halves = Page.objects.filter(original__file_name="b.jpg")
        self.assertEqual({page.state for page in halves}, {Page.State.READY})
        self.assertEqual(len({page.image for page in halves}), 2)

    def test_opened_twice_it_is_still_two(self) -> None:
        self.send(book())
        self.work_off_jobs()
        self.work_off_jobs()
        self.assertEqual(self.pages(), [(0, "left"), (0, "right")])

    def test_a_scanned_book_in_a_pdf_is_split_too_and_opening_it_again_changes_nothing(self) -> None:
        self.send(img2pdf.convert([book(), picture(3)]), "scan.pdf")
        self.work_off_jobs()
        self.assertEqual(self.pages(), [(0, "left"), (0, "right"), (0, "")])
        self.work_off_jobs()
        self.assertEqual(self.pages(), [(0, "left"), (0, "right"), (0, "")])

    def test_a_right_page_that_was_removed_stays_so_when_the_left_one_is_corrected(self) -> None:
        self.send(book())
        self.work_off_jobs()
        left, right = Page.objects.order_by("half")
        version = Folio.objects.get(pk=self.folio.pk).version
        recipe = {"corners": None, "turn": 180, "tone": "clean"}
        done = self.arrange(version, order=[left.pk, right.pk], removed=[right.pk], recipes={str(left.pk): recipe})
        self.assertEqual(done.status_code, 200)
        self.work_off_jobs()
        self.assertEqual(Page.objects.count(), 2)
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["removed"], [right.pk])

    def test_a_picture_that_was_removed_before_it_was_opened_brings_nothing_back(self) -> None:
        page = self.send(book()).json()["page_id"]
        version = Folio.objects.get(pk=self.folio.pk).version
        self.arrange(version, order=[page], removed=[page])
        self.work_off_jobs()
        stored = Folio.objects.get(pk=self.folio.pk).arrangement
        self.assertEqual((len(stored["order"]), set(stored["removed"])), (2, set(stored["order"])))

    def test_a_hand_in_that_was_faster_than_the_worker_shows_both_on_one_page(self) -> None:
        """The right page has no place in that edition: the whole picture is bound. The close hands in two pages."""
        self.send(book())
        self.assertEqual(self.hand_in().status_code, 200)
        self.work_off_jobs()
        first = Edition.objects.get().pages.get()
        self.assertGreater(first.width, first.height)
        self.at(days=1, minutes=1)
        closing.close_all(self.clock.return_value)
        self.work_off_jobs()
        second = Edition.objects.get(number=2)
        self.assertEqual([page.width < page.height for page in second.pages.all()], [True, True])

    def test_a_hand_in_afterwards_binds_each_half_by_itself(self) -> None:
        self.send(book())
        self.work_off_jobs()
        self.assertEqual(self.hand_in().status_code, 200)
        left, right = Page.objects.order_by("half")
        Page.objects.update(image="")  # so that binding makes them anew, as after a correction
        Edition.objects.get().pages.update(image="")
        self.work_off_jobs()
        bound = {page.page_id: page for page in Edition.objects.get().pages.all()}
        self.assertTrue(all(bound[pk].width < bound[pk].height for pk in (left.pk, right.pk)))
        self.assertNotEqual(bound[left.pk].image, bound[right.pk].image)
