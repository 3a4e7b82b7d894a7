from __future__ import annotations

from typing import Any
from unittest import mock

from django.db import DatabaseError, transaction
from procrastinate.contrib.django.models import ProcrastinateJob

from folio_core.page import PageError, Trouble
from folios.models import Event, Folio
from pages import preparing
from pages.models import Page
from pages.queueing import PREPARE_PAGE
from testing.desk import NOW, DeskTestCase, picture


class Arranging(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.send(picture(1)).json()["page_id"]
        self.two = self.send(picture(2)).json()["page_id"]

    def test_each_change_is_one_write_with_the_next_version(self) -> None:
        answer = self.arrange(2, order=[self.two, self.one], placements={"1a": [{"page": self.one, "top": 0.5}]})
        self.assertEqual((answer.status_code, answer.json()["version"]), (200, 3))
        board = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        self.assertEqual(board["arrangement"]["order"], [self.two, self.one])
        self.assertEqual(board["arrangement"]["placements"], {self.id_of("1a"): [{"page": self.one, "top": 0.5}]})

    def test_a_stale_write_is_refused_with_the_newer_state_and_changes_nothing(self) -> None:
        self.arrange(2, order=[self.two, self.one])
        answer = self.arrange(2, order=[self.one, self.two], left_blank=["2"])
        self.assertEqual(answer.status_code, 409)
        self.assertEqual((answer.json()["version"], answer.json()["arrangement"]["order"]), (3, [self.two, self.one]))
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["left_blank"], [])

    def test_what_does_not_fit_is_refused_in_words(self) -> None:
        order = [self.one, self.two]
        for fields, words in (
            ({"order": [self.one]}, "every page"),
            ({"order": order, "left_blank": ["9"]}, "not on the question map"),
            ({"order": order, "placements": {"1a": [{"page": 9999}]}}, "not in the order"),
            ({"order": order, "placements": {"2": [{"page": self.one}]}, "left_blank": ["2"]}, "both placed"),
        ):
            answer = self.arrange(2, **fields)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])

    def test_a_question_that_left_the_map_takes_its_placements_along_and_stops_nobody(self) -> None:
        order = [self.one, self.two]
        self.arrange(2, order=order, placements={"1a": [{"page": self.one}]}, left_blank=["2"])
        one_a, two = self.id_of("1a"), self.id_of("2")
        self.work.questions.filter(label="2").update(removed_at=NOW)
        shown = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()["arrangement"]
        self.assertEqual((list(shown["placements"]), shown["left_blank"]), ([one_a], []))
        self.assertEqual(self.arrange(3, **{**shown, "loose": [self.two]}).status_code, 200)
        self.work.questions.filter(label="2").update(removed_at=None)
        shown = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()["arrangement"]
        self.assertEqual((shown["left_blank"], shown["loose"]), ([two], [self.two]))

    def test_after_the_close_placing_goes_on_while_allowed_and_pages_stay(self) -> None:
        self.work.placing_minutes = 60
        self.work.save()
        self.at(days=1, minutes=30)
        self.assertEqual(self.arrange(2, order=[self.one, self.two], left_blank=["2"]).status_code, 200)
        self.assertEqual(self.arrange(3, order=[self.one, self.two], removed=[self.one]).status_code, 403)
        self.at(days=1, minutes=61)
        self.assertEqual(self.arrange(3, order=[self.one, self.two]).status_code, 403)


class Correcting(DeskTestCase):
    """Corners, turn and tone are recipes: one versioned document with order and places, the original untouched."""

    def setUp(self) -> None:
        super().setUp()
        self.page = self.send(picture()).json()["page_id"]
        self.work_off_jobs()

    def correct(self, seen: int, **recipe: Any) -> Any:
        whole = {"corners": None, "turn": None, "tone": "clean", **recipe}
        return self.arrange(seen, order=[self.page], recipes={str(self.page): whole})

    def waiting_preparations(self) -> int:
        return ProcrastinateJob.objects.filter(task_name=PREPARE_PAGE, args__page_id=self.page, status="todo").count()

    def prepared_anew(self) -> Page:
        self.assertEqual(Page.objects.get(pk=self.page).state, Page.State.WAITING)
        preparing.prepare_page(self.page, now=self.clock())
        return Page.objects.get(pk=self.page)

    def test_turning_a_page_changes_its_image_and_not_its_original(self) -> None:
        before = Page.objects.get(pk=self.page)
        self.assertEqual(self.correct(1, turn=90).status_code, 200)
        after = self.prepared_anew()
        self.assertEqual((after.width, after.height), (before.height, before.width))
        self.assertEqual(after.original.sha256, before.original.sha256)

    def test_undoing_it_gives_the_same_image_again(self) -> None:
        before = Page.objects.get(pk=self.page).image
        self.correct(1, turn=180, tone="ink")
        self.assertNotEqual(self.prepared_anew().image, before)
        self.assertEqual(self.arrange(2, order=[self.page]).status_code, 200)
        self.assertEqual(self.prepared_anew().image, before)

    def test_corners_by_hand_are_what_is_cut(self) -> None:
        self.correct(1, corners=[[5, 5], [45, 5], [45, 65], [5, 65]])
        page = self.prepared_anew()
        self.assertEqual(page.findings["corners"], [[5, 5], [45, 5], [45, 65], [5, 65]])
        self.assertEqual((page.width, page.height), (40, 60))

    def test_corners_that_are_no_outline_are_refused_and_nothing_changes(self) -> None:
        for corners in ([[0, 0], [0, 9], [9, 9], [9, 0]], [[0, 0], [9, 0], [9, 9]], [[0, 0], [9, 0], [1, 1], [0, 9]]):
            self.assertEqual(self.correct(1, corners=corners).status_code, 422)
        self.assertEqual(Page.objects.get(pk=self.page).state, Page.State.READY)

    def test_of_many_changes_one_preparation_waits(self) -> None:
        for version, turn in enumerate((90, 180, 270), start=1):
            self.correct(version, turn=turn)
        self.assertEqual(self.waiting_preparations(), 1)
        self.assertEqual(self.prepared_anew().findings["turn"], 270)

    def test_changed_and_changed_back_the_image_is_right_already(self) -> None:
        self.correct(1, turn=90)
        self.arrange(2, order=[self.page])
        self.assertEqual(Page.objects.get(pk=self.page).state, Page.State.READY)

    def test_after_the_close_turn_and_tone_may_change_and_corners_not(self) -> None:
        self.work.placing_minutes = 60
        self.work.save()
        self.at(days=1, minutes=30)
        outline = [[5, 5], [45, 5], [45, 65], [5, 65]]
        self.assertEqual(self.correct(1, corners=outline).status_code, 403)
        self.assertEqual(self.correct(1, turn=90, tone="ink").status_code, 200)

    def test_a_change_of_order_alone_prepares_nothing_anew(self) -> None:
        self.arrange(1, order=[self.page], loose=[self.page])
        self.assertEqual(Page.objects.get(pk=self.page).state, Page.State.READY)

    def test_ink_only_is_served_as_png_and_bound(self) -> None:
        self.correct(1, tone="ink")
        image = self.prepared_anew().image
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/images/{image}")
        self.assertEqual(answer["Content-Type"], "image/png")
        self.assertEqual(self.hand_in().status_code, 200)
        self.work_off_jobs()
        self.assertEqual(self.folio.editions.get().state, "bound")

    def test_a_correction_that_cannot_be_made_leaves_the_page_as_it_was_with_a_word(self) -> None:
        before = Page.objects.get(pk=self.page).image
        self.correct(1, turn=90)
        trouble = PageError(Trouble.TOO_MUCH_MEMORY, "This page needs too much memory.")
        with mock.patch("pages.preparing.made", side_effect=trouble):
            preparing.prepare_page(self.page, now=self.clock())
        page = Page.objects.get(pk=self.page)
        self.assertEqual((page.state, page.image, page.turn), (Page.State.READY, before, None))
        self.assertIn("as it was before", page.trouble_message)
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["order"], [self.page])

    def test_a_correction_that_fails_does_not_undo_a_newer_one(self) -> None:
        self.correct(1, turn=90)

        def failing(page: Page, recipe: Any, **more: Any) -> Any:
            Page.objects.filter(pk=page.pk).update(turn=180)
            raise PageError(Trouble.TOO_MUCH_MEMORY, "This page needs too much memory.")

        with mock.patch("pages.preparing.made", failing):
            preparing.prepare_page(self.page, now=self.clock())
        page = Page.objects.get(pk=self.page)
        self.assertEqual((page.turn, page.state, page.trouble_message), (180, Page.State.WAITING, ""))

    def test_advice_is_waved_away_in_the_same_document(self) -> None:
        self.assertEqual(
            self.arrange(1, order=[self.page], dismissed={str(self.page): ["glare"]}).json()["arrangement"][
                "dismissed"
            ],
            {str(self.page): ["glare"]},
        )

    def test_an_edition_keeps_the_recipe_it_was_handed_in_with(self) -> None:
        self.correct(1, turn=90)
        self.hand_in()
        self.correct(2, turn=180)
        self.assertEqual(self.folio.editions.get().pages.get().turn, 90)


class TakingAgain(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.one, self.two = (self.send(picture(shade)).json()["page_id"] for shade in (1, 2))
        self.arrange(2, order=[self.one, self.two], placements={"1a": [{"page": self.one, "top": 0.5}]})

    def again(self, page: int, data: bytes) -> dict[str, Any]:
        path = f"/api/folios/{self.folio.pk}/originals?name=again.png&instead_of={page}"
        return self.as_(self.ilse).put(path, data, content_type="application/octet-stream").json()

    def test_the_new_picture_gets_the_place_and_the_questions_and_the_old_one_is_kept(self) -> None:
        new = self.again(self.one, picture(3))["page_id"]
        kept = Folio.objects.get(pk=self.folio.pk).arrangement
        self.assertEqual(kept["order"], [self.one, new, self.two])
        self.assertEqual(kept["removed"], [self.one])
        self.assertEqual(
            kept["placements"][self.id_of("1a")], [{"page": self.one, "top": 0.5}, {"page": new, "top": 0.5}]
        )

    def test_a_page_that_was_removed_meanwhile_is_not_replaced_and_the_picture_is_kept(self) -> None:
        self.arrange(3, order=[self.one, self.two], removed=[self.one])
        new = self.again(self.one, picture(3))["page_id"]
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["order"], [self.one, self.two, new])

    def test_the_same_bytes_change_nothing(self) -> None:
        self.assertTrue(self.again(self.one, picture(2))["already"])
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["removed"], [])


class TheRecord(DeskTestCase):
    def test_the_database_itself_refuses_to_change_or_remove_an_event(self) -> None:
        self.send(picture())
        event = Event.objects.first()
        assert event is not None
        for change in (lambda: Event.objects.update(kind="bound"), lambda: event.delete()):
            with self.assertRaisesMessage(DatabaseError, "append-only"), transaction.atomic():
                change()
        self.assertEqual(Event.objects.get(pk=event.pk).kind, "begun")
