"""Points and notes: against the version that was seen, by two markers, over editions."""

from __future__ import annotations

from typing import Any

from editions.models import EditionPage
from marking.models import Mark, MarkChange

from .cases import MarkingTestCase


class Points(MarkingTestCase):
    def test_the_first_answers_come_with_the_overview_as_they_stand_on_the_roll(self) -> None:
        self.of_tobin()
        self.mark("1a", "3", self.thea)
        path = f"assignments/{self.work.pk}/marking"
        for by in (self.corin, self.thea):
            roll = self.ask("get", f"{path}/answers?label=1b", by=by).json()["rows"]
            told = self.ask("get", f"{path}?label=1b", by=by).json()
            self.assertEqual((len(roll), told["first_rows"]), (2, roll))
        self.assertEqual(self.ask("get", f"{path}?label=none").json()["first_rows"][0]["label"], "1a")
        self.assertEqual(self.ask("get", path).json()["first_rows"], [])
        self.scheme(hides_names=True)
        names = [one["student"] for one in self.ask("get", f"{path}?label=1b", by=self.thea).json()["first_rows"]]
        self.assertFalse({"Ilse Marrow", "Tobin Ashgrove"} & set(names), names)

    def test_answers_of_pages_are_alike_by_their_room_and_by_how_much_is_written(self) -> None:
        other = self.of_tobin()
        rows = EditionPage.objects.filter(edition__in=[self.edition, other])
        rows.update(ink_rows="1" * 100)
        self.assertEqual(self.row("1a")["alike"], self.row("1a", folio=other.folio_id)["alike"])
        rows.filter(edition=other).update(ink_rows="10000" * 20)
        self.assertNotEqual(self.row("1a")["alike"], self.row("1a", folio=other.folio_id)["alike"])

    def test_points_and_note_are_saved_with_who_gave_them(self) -> None:
        row = self.mark("1a", "2.5", self.thea, note="units?").json()
        self.assertEqual((row["worth"], row["marks"][0]["note"], row["marks"][0]["by"]), ("2.5", "units?", "Thea"))
        self.assertEqual([(one.by, one.points) for one in MarkChange.objects.all()], [(self.thea, row_points("2.5"))])

    def test_what_somebody_else_gave_meanwhile_is_not_written_over(self) -> None:
        self.mark("1a", "3", self.thea)
        stale = self.mark("1a", "1", self.osric)
        self.assertEqual((stale.status_code, stale.json()["mark"]["points"]), (409, "3"))
        self.assertEqual(str(Mark.objects.get().points), "3.00")
        seen = self.mark("1a", "1", self.osric, version=stale.json()["mark"]["version"])
        self.assertEqual(seen.json()["worth"], "1")

    def test_the_same_sent_twice_on_a_bad_line_is_given_once(self) -> None:
        self.mark("1a", "3", self.thea)
        again = self.mark("1a", "3", self.thea)
        self.assertEqual((again.status_code, MarkChange.objects.count()), (200, 1))

    def test_points_go_in_the_steps_of_the_assignment(self) -> None:
        refused = self.mark("1a", "2.25")
        self.assertEqual((refused.status_code, refused.json()["code"]), (422, "points"))
        self.scheme(step="0.25")
        self.assertEqual(self.mark("1a", "2.25").json()["worth"], "2.25")

    def test_points_can_be_negative_above_the_most_and_taken_off_again(self) -> None:
        self.assertEqual(self.mark("1a", "-1").json()["worth"], "-1")
        self.assertEqual(self.mark("1a", "6", version=1).json()["worth"], "6")
        self.assertIsNone(self.mark("1a", None, version=2).json()["worth"])

    def test_an_edition_that_was_replaced_meanwhile_cannot_be_marked(self) -> None:
        old, self.edition = self.edition, self.handed_in(self.folio)
        refused = self.mark("1a", "3", edition=old)
        self.assertEqual((refused.status_code, refused.json()["code"]), (409, "another_edition"))

    def test_what_is_left_blank_counts_nothing_by_itself_and_can_be_overruled(self) -> None:
        self.edition = self.arranged(self.folio, placements={}, left_blank=["1a"])
        row = self.row("1a")
        self.assertEqual((row["worth"], row["by_itself"], row["not_attempted"]), ("0", True, True))
        self.assertEqual(self.mark("1a", "1").json()["worth"], "1")

    def test_notes_that_were_given_before_are_offered(self) -> None:
        tobin = self.of_tobin()
        self.mark("1a", "2", note="units?")
        self.mark("1a", "3", note="units?", edition=tobin)
        said = self.ask("get", f"assignments/{self.work.pk}/marking/answers?label=1a").json()["said"]
        self.assertEqual(said, [{"text": "units?", "times": 2}])


def row_points(text: str) -> Any:
    from decimal import Decimal

    return Decimal(text)


class Editions(MarkingTestCase):
    def test_marks_of_an_answer_that_stayed_the_same_are_kept_in_a_newer_edition(self) -> None:
        self.mark("1a", "3", self.thea)
        self.mark("1b", "2", self.thea)
        page = self.edition.pages.get(number=1).page_id
        moved = {"1a": [{"page": page, "top": 0.1}], "1b": [{"page": page, "top": 0.7}], "2": []}
        self.edition = self.arranged(self.folio, placements=moved)
        self.assertEqual((self.row("1a")["worth"], self.row("1a")["look_again"]), ("3", False))
        other = self.row("1b")
        self.assertEqual((other["worth"], other["look_again"], other["before"]), (None, True, "2"))
        noted = self.mark("1b", None, self.thea, note="another answer now").json()
        self.assertEqual((noted["look_again"], noted["marks"][0]["note"]), (True, "another answer now"))
        self.assertFalse(self.mark("1b", "1", self.thea, version=1).json()["look_again"])

    def test_a_kept_mark_is_changed_in_the_newer_edition_and_the_older_stays(self) -> None:
        self.mark("1a", "3", self.thea)
        old = self.edition
        self.edition = self.arranged(self.folio, left_blank=[])
        kept = self.row("1a", self.thea)["marks"][0]
        self.assertEqual(self.mark("1a", "2", self.thea, version=kept["version"]).json()["worth"], "2")
        self.assertEqual(str(Mark.objects.get(edition=old).points), "3.00")


class TwoMarkers(MarkingTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.scheme(marks_twice=True)

    def test_the_second_marker_does_not_see_what_the_first_gave(self) -> None:
        self.mark("1a", "3", self.thea, note="good")
        row = self.row("1a", self.osric)
        self.assertEqual((row["marks"], row["worth"], row["round"]), ([], None, "second"))
        said = self.ask("get", f"assignments/{self.work.pk}/marking/answers?label=1a", by=self.osric).json()["said"]
        self.assertEqual(said, [])
        self.assertTrue(self.row("1a", self.thea)["waits_for_other"])

    def test_ink_of_the_other_is_not_seen_before_both_have_marked(self) -> None:
        self.draw("6b3a2d0c-3f3c-4a51-9a51-0c8d8f6a1b01", self.thea)
        self.mark("1a", "3", self.thea)
        self.assertEqual(self.row("1a", self.osric)["cuts"][0]["ink"], [])
        self.mark("1a", "3", self.osric)
        self.assertEqual(len(self.row("1a", self.osric)["cuts"][0]["ink"]), 1)

    def test_the_same_points_of_both_count(self) -> None:
        self.mark("1a", "3", self.thea)
        self.assertEqual(self.mark("1a", "3", self.osric).json()["worth"], "3")

    def test_a_difference_is_told_and_settled(self) -> None:
        self.mark("1a", "3", self.thea)
        row = self.mark("1a", "1", self.osric).json()
        self.assertEqual((row["worth"], row["differs"], row["round"]), (None, True, "settled"))
        overview = self.ask("get", f"assignments/{self.work.pk}/marking").json()
        self.assertEqual(next(one["differs"] for one in overview["questions"] if one["label"] == "1a"), 1)
        settled = self.mark("1a", "2", self.corin, settles=True).json()
        self.assertEqual((settled["worth"], settled["differs"]), ("2", False))

    def test_nothing_is_settled_that_two_have_not_marked(self) -> None:
        self.mark("1a", "3", self.thea)
        self.assertEqual(self.mark("1a", "2", self.corin, settles=True).status_code, 409)

    def test_of_a_sample_the_same_answers_are_marked_twice_whoever_looks(self) -> None:
        self.scheme(marks_twice=False, sample_percent=50)
        found = {label: self.row(label, self.thea)["wants_second"] for label in ("1a", "1b", "2")}
        self.assertEqual(found, {label: self.row(label, self.osric)["wants_second"] for label in found})
        self.scheme(sample_percent=0)
        self.assertFalse(any(self.row(label)["wants_second"] for label in found))


class Access(MarkingTestCase):
    def test_a_marker_of_one_question_marks_that_and_no_other(self) -> None:
        one = self.marker("ines@kestrelpoint.example", "Ines", questions=(int(self.id_of("1a")),))
        self.assertEqual(self.mark("1a", "3", one).status_code, 200)
        self.assertEqual(self.mark("2", "3", one).status_code, 404)
        overview = self.ask("get", f"assignments/{self.work.pk}/marking", by=one).json()
        self.assertEqual([asked["label"] for asked in overview["questions"]], ["1a"])
        self.assertEqual(
            self.draw("6b3a2d0c-3f3c-4a51-9a51-0c8d8f6a1b02", one, question=self.id_of("2")).status_code, 404
        )

    def test_students_mark_nothing_of_their_own(self) -> None:
        self.assertEqual(self.mark("1a", "4", self.ilse).status_code, 404)

    def test_names_that_are_hidden_are_told_by_no_way_until_it_is_given_back(self) -> None:
        self.scheme(hides_names=True)
        edition = f"folios/{self.edition.folio_id}/editions/1"
        ways = [
            f"assignments/{self.work.pk}/marking", f"assignments/{self.work.pk}/folios", f"{edition}/reading",
            f"assignments/{self.work.pk}/marking/answers?label=1a",
            f"assignments/{self.work.pk}/marking/folios/{self.edition.folio_id}",
        ]  # fmt: skip
        files = [edition, f"{edition}/bound.pdf", f"{edition}/receipt.pdf", f"{edition}/receipt.json",
                 f"originals/{self.folio.originals.first().pk}/file"]  # fmt: skip
        for way in ways:
            told = self.ask("get", way, by=self.thea).content.decode()
            self.assertFalse("Ilse" in told or "30417" in told, way)
        for file in files:
            self.assertEqual(self.ask("get", file, by=self.thea).status_code, 403, file)
        self.assertIn("Ilse", self.ask("get", ways[0]).content.decode())
        self.give_back()
        self.assertIn("Ilse", self.ask("get", ways[0], by=self.thea).content.decode())

    def test_who_marks_what_just_now_is_told_to_the_others(self) -> None:
        path = f"assignments/{self.work.pk}/marking/at-work"
        here = {"folio_id": self.edition.folio_id, "question": self.id_of("1a")}
        self.ask("put", path, here, by=self.thea)
        others = self.ask("put", path, here, by=self.osric).json()["others"]
        self.assertEqual([(one["name"], one["question"]) for one in others], [("Thea", self.id_of("1a"))])
        self.at(minutes=5)
        self.assertEqual(self.ask("put", path, here, by=self.osric).json()["others"], [])

    def test_what_was_marked_since_the_first_answers_were_fetched_is_told(self) -> None:
        path = f"assignments/{self.work.pk}/marking"
        here = {"folio_id": self.edition.folio_id, "question": self.id_of("1a")}
        shown = self.ask("get", path, by=self.osric).json()["changed"]
        self.assertEqual(self.ask("put", f"{path}/at-work", here, by=self.osric).json()["changed"], shown)
        self.mark("1a", "3", self.thea)
        told = self.ask("put", f"{path}/at-work", here, by=self.osric).json()["changed"]
        self.assertNotEqual(told, shown)
        self.assertEqual(self.ask("get", path, by=self.osric).json()["changed"], told)


class Roll(MarkingTestCase):
    def test_an_answer_is_cut_from_its_flag_to_the_next(self) -> None:
        (cut,) = self.row("1a")["cuts"]
        self.assertTrue(0.07 < cut["top"] < 0.1 and 0.5 < cut["bottom"] < 0.53, cut)

    def test_what_is_open_comes_last_with_the_pages_it_may_stand_on(self) -> None:
        page = self.edition.pages.get(number=1).page_id
        self.edition = self.arranged(self.folio, placements={"1a": [{"page": page, "top": 0.1}]})
        tobin = self.of_tobin()
        path = f"assignments/{self.work.pk}/marking/answers?label=2"
        rows = self.ask("get", path).json()["rows"]
        self.assertEqual([one["folio_id"] for one in rows], [tobin.folio_id, self.edition.folio_id])
        self.assertEqual((rows[1]["state"], [cut["number"] for cut in rows[1]["may_be_on"]]), ("open", [2]))

    def test_the_roll_asks_no_more_of_the_database_for_more_students(self) -> None:
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        path = f"assignments/{self.work.pk}/marking/answers?label=1a"
        self.ask("get", path)
        with CaptureQueriesContext(connection) as one:
            self.ask("get", path)
        self.of_tobin()
        with CaptureQueriesContext(connection) as two:
            self.ask("get", path)
        self.assertEqual(len(one), len(two))
