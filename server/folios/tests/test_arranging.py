from __future__ import annotations

from django.db import DatabaseError, transaction

from folios.models import Event, Folio

from .desk import DeskTestCase, picture


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
        self.assertEqual(board["arrangement"]["placements"], {"1a": [{"page": self.one, "top": 0.5}]})

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
            ({"order": order, "left_blank": ["9"]}, "“9” is not on the question map"),
            ({"order": order, "placements": {"1a": [{"page": 9999}]}}, "not in the order"),
            ({"order": order, "placements": {"2": [{"page": self.one}]}, "left_blank": ["2"]}, "both placed"),
        ):
            answer = self.arrange(2, **fields)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])

    def test_a_question_that_left_the_map_takes_its_placements_along_and_stops_nobody(self) -> None:
        order = [self.one, self.two]
        self.arrange(2, order=order, placements={"1a": [{"page": self.one}]}, left_blank=["2"])
        self.work.questions.filter(question="2").delete()
        shown = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()["arrangement"]
        self.assertEqual((list(shown["placements"]), shown["left_blank"]), (["1a"], []))
        self.assertEqual(self.arrange(3, **{**shown, "loose": [self.two]}).status_code, 200)

    def test_after_the_close_placing_goes_on_while_allowed_and_pages_stay(self) -> None:
        self.work.placing_minutes = 60
        self.work.save()
        self.at(days=1, minutes=30)
        self.assertEqual(self.arrange(2, order=[self.one, self.two], left_blank=["2"]).status_code, 200)
        self.assertEqual(self.arrange(3, order=[self.one, self.two], removed=[self.one]).status_code, 403)
        self.at(days=1, minutes=61)
        self.assertEqual(self.arrange(3, order=[self.one, self.two]).status_code, 403)

    def test_turning_a_page_changes_its_image_and_not_its_original(self) -> None:
        self.work_off_jobs()
        before = self.folio.pages.get(pk=self.one)
        path = f"/api/folios/{self.folio.pk}/pages/{self.one}/turn"
        answer = self.as_(self.ilse).post(path, '{"turn": 90}', content_type="application/json")
        self.assertEqual(answer.status_code, 204)
        from folios import preparing

        preparing.prepare_page(self.one, now=self.clock())
        after = self.folio.pages.get(pk=self.one)
        self.assertEqual((after.width, after.height), (before.height, before.width))
        self.assertEqual(after.original.sha256, before.original.sha256)
        self.at(days=1)
        self.assertEqual(
            self.as_(self.ilse).post(path, '{"turn": 0}', content_type="application/json").status_code, 403
        )


class TheRecord(DeskTestCase):
    def test_the_database_itself_refuses_to_change_or_remove_an_event(self) -> None:
        self.send(picture())
        event = Event.objects.first()
        assert event is not None
        for change in (lambda: Event.objects.update(kind="begun"), lambda: event.delete()):
            with self.assertRaisesMessage(DatabaseError, "append-only"), transaction.atomic():
                change()
        self.assertEqual(Event.objects.get(pk=event.pk).kind, Event.Kind.ARRIVED)
