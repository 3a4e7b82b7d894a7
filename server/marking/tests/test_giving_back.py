"""Giving back: nothing before its moment by any way, frozen as it was, taken back only with a word why."""

from __future__ import annotations

import csv
import io
import zipfile
from datetime import timedelta
from typing import Any

import pypdf
from hypothesis import given, settings
from hypothesis import strategies as st

from marking.giving_back import tell_of_given_back
from marking.models import GivenBack
from notices.models import Notice
from testing.desk import NOW, picture

from .cases import MarkingTestCase
from .test_ink import KEY

LATER = "2026-11-24T18:00"  # in Halifax: 22:00 UTC, seven hours after NOW


class GivingBack(MarkingTestCase):
    def setUp(self) -> None:
        super().setUp()
        for label, points in (("1a", "3"), ("1b", "2.5"), ("2", "4")):
            self.mark(label, points, self.thea, note=f"note on {label}")
        self.draw(KEY, self.thea)

    def test_its_student_sees_points_notes_and_ink(self) -> None:
        self.give_back()
        back = self.returned().json()
        self.assertEqual(back["total"]["points"], "9.50")
        self.assertEqual([one["note"] for one in back["questions"]], ["note on 1a", "note on 1b", "note on 2"])
        self.assertEqual(len(back["pages"][0]["ink"]), 1)

    def test_nothing_is_seen_before_its_moment_by_any_way(self) -> None:
        file = self.marks_file()
        self.give_back(opens_at=LATER)
        self.nothing_is_seen(file)
        self.at(hours=6, minutes=59)
        tell_of_given_back(NOW + timedelta(hours=6, minutes=59))
        self.nothing_is_seen(file)
        self.at(hours=7)
        tell_of_given_back(NOW + timedelta(hours=7))
        self.assertEqual(self.returned().status_code, 200)
        self.assertEqual(self.ask("get", f"assignments/{self.work.pk}/files/{file}", by=self.ilse).status_code, 200)
        self.assertEqual(Notice.objects.filter(person=self.ilse, kind="given_back").count(), 1)

    def nothing_is_seen(self, file: int) -> None:
        folio = f"folios/{self.edition.folio_id}"
        for way in (f"{folio}/returned", f"{folio}/returned.pdf", f"assignments/{self.work.pk}/files/{file}"):
            self.assertEqual(self.ask("get", way, by=self.ilse).status_code, 404, way)
        said = self.ask("post", f"{folio}/mark-words", {"question": self.id_of("1a"), "text": "why?"}, by=self.ilse)
        self.assertEqual(said.status_code, 404)
        for way in ("my-folios", folio, f"{folio}/editions/1", f"{folio}/editions/1/reading", "notices",
                    f"assignments/{self.work.pk}/brief"):  # fmt: skip
            told = self.ask("get", way, by=self.ilse).content.decode()
            self.assertFalse("note on" in told or "9.50" in told or "model.png" in told, way)

    def test_at_every_moment_each_student_sees_what_was_given_to_them_by_then_and_nothing_else(self) -> None:
        """Over any order of giving back, at any moments, to any of the students, and taking back."""
        folios = {self.ilse: self.edition.folio_id, self.tobin: self.of_tobin().folio_id}
        file = self.marks_file()
        calls = st.tuples(
            st.sampled_from(["give", "give", "take"]), st.sets(st.sampled_from(sorted(folios.values())), min_size=1),
            st.sampled_from([None, 1, 3, 6]), st.booleans(),
        )  # fmt: skip

        @settings(max_examples=8, deadline=None, derandomize=True)
        @given(st.lists(st.tuples(calls, st.integers(0, 2)), max_size=4))
        def check(story: list[Any]) -> None:
            GivenBack.objects.all().delete()
            self.at(hours=0)
            sees: dict[int, tuple[int, bool] | None] = dict.fromkeys(folios.values())  # from which hour, with the file
            hour = 0
            for (call, chosen, opens, with_file), hours in story:
                for folio in chosen:
                    was = sees[folio]
                    if call == "give":
                        path, at = f"assignments/{self.work.pk}/giving-back", max(opens or 0, hour)
                        opens_at = None if opens is None else f"2026-11-24T{11 + opens:02}:00"  # NOW is 11:00 there
                        body = {"folios": [folio], "opens_at": opens_at, "without_files": [] if with_file else [file]}
                        self.assertEqual(self.ask("post", path, body).status_code, 200)
                        sees[folio] = (hour if was and was[0] <= hour else at, with_file)
                    elif was is not None:
                        self.ask("post", f"folios/{folio}/giving-back/take-back", {"why": "an error"})
                        sees[folio] = None
                self.compare(folios, sees, hour, file)
                hour += hours
                self.at(hours=hour)
                self.compare(folios, sees, hour, file)

        check()

    def compare(self, folios: Any, sees: dict[int, tuple[int, bool] | None], hour: int, file: int) -> None:
        for student, folio in folios.items():
            was = sees[folio]
            seen, with_file = was is not None and was[0] <= hour, was is not None and was[1]
            status = self.ask("get", f"folios/{folio}/returned", by=student).status_code
            self.assertEqual(status, 200 if seen else 404)
            fetched = self.ask("get", f"assignments/{self.work.pk}/files/{file}", by=student)
            list(fetched)  # to its end, else it is one of several downloads under way
            self.assertEqual(fetched.status_code, 200 if seen and with_file else 404)
            mine = self.ask("get", "my-folios", by=student).json()["folios"]
            self.assertEqual(any(one["returned"] for one in mine), seen)

    def marks_file(self) -> int:
        path = f"/api/assignments/{self.work.pk}/marks-files?name=model.png"
        kept = self.as_(self.corin).put(path, picture(kind="PNG"), content_type="application/octet-stream").json()
        number: int = kept["files"][0]["id"]
        return number

    def test_nobody_else_sees_what_is_given_back(self) -> None:
        self.give_back()
        for other in (self.tobin, self.corin, self.thea, self.stranger):
            self.assertEqual(self.returned(by=other).status_code, 404)

    def test_a_marker_gives_nothing_back(self) -> None:
        self.assertEqual(self.give_back(by=self.thea).status_code, 404)

    def test_what_is_marked_otherwise_later_is_seen_when_it_is_given_back_anew(self) -> None:
        self.give_back()
        self.mark("1a", "1", self.thea, version=1)
        self.assertEqual(self.returned().json()["total"]["points"], "9.50")
        (line,) = self.ask("get", f"assignments/{self.work.pk}/giving-back").json()["folios"]
        self.assertTrue(line["given"]["changed"])
        self.give_back()
        self.assertEqual(self.returned().json()["total"]["points"], "7.50")

    def test_what_is_seen_stays_in_sight_when_it_is_given_back_anew_for_later(self) -> None:
        self.give_back()
        self.give_back(opens_at=LATER)
        self.assertEqual(self.returned().status_code, 200)

    def test_only_what_was_chosen_goes_out(self) -> None:
        self.give_back(points=False, ink=False)
        back = self.returned().json()
        self.assertIsNone(back["total"])
        self.assertEqual({one["points"] for one in back["questions"]}, {None})
        self.assertEqual(back["pages"][0]["ink"], [])
        self.assertEqual(back["questions"][0]["note"], "note on 1a")

    def test_figures_of_a_small_class_are_kept_back(self) -> None:
        self.give_back(figures=True)
        self.assertEqual({one["figures"] for one in self.returned().json()["questions"]}, {None})

    def test_it_is_taken_back_only_with_a_word_why(self) -> None:
        self.give_back()
        path = f"folios/{self.edition.folio_id}/giving-back/take-back"
        self.assertEqual(self.ask("post", path, {"why": "  "}).status_code, 422)
        self.assertEqual(self.ask("post", path, {"why": "2 was marked by the old key"}).status_code, 200)
        self.assertEqual(self.returned().status_code, 404)
        told = Notice.objects.filter(person=self.ilse, kind="given_back").order_by("-pk").first()
        assert told is not None
        self.assertIn("the old key", told.text)
        self.assertEqual(GivenBack.objects.get().ended_why, "2 was marked by the old key")

    def test_what_was_forgotten_is_told_before(self) -> None:
        self.mark("1a", None, self.thea, version=1)
        self.mark("2", "9", self.thea, version=1)
        found = self.ask("get", f"assignments/{self.work.pk}/giving-back").json()["folios"][0]["findings"]
        self.assertEqual({one["code"]: one["labels"] for one in found}, {"unmarked": ["1a"], "above": ["2"]})


class AboutAMark(MarkingTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.mark("1a", "1", self.thea)
        self.give_back(asks_until=LATER)

    def say(self, text: str, by: Any) -> Any:
        body = {"question": self.id_of("1a"), "text": text}
        return self.ask("post", f"folios/{self.edition.folio_id}/mark-words", body, by=by)

    def test_a_question_goes_to_who_gave_the_mark_and_stays_at_the_answer(self) -> None:
        self.assertEqual(self.say("Is the sign not right?", self.ilse).status_code, 200)
        self.assertEqual([one.person for one in Notice.objects.filter(kind="mark_question")], [self.thea])
        self.say("It is. Two more.", self.thea)
        self.assertEqual([one["staff"] for one in self.row("1a")["words"]], [False, True])
        self.assertEqual(len(self.returned().json()["questions"][0]["words"]), 2)

    def test_questions_end_at_their_moment_and_answers_do_not(self) -> None:
        self.at(hours=7)
        self.assertEqual(self.say("And now?", self.ilse).status_code, 403)
        self.assertEqual(self.say("Come and see me.", self.thea).status_code, 200)

    def test_others_say_nothing_about_it(self) -> None:
        for other in (self.tobin, self.stranger):
            self.assertEqual(self.say("Mine was the same!", other).status_code, 404)


class OutOfTheHouse(MarkingTestCase):
    binds = True

    def setUp(self) -> None:
        super().setUp()
        self.mark("1a", "3", note="√2, not 1.4")
        self.draw(KEY)

    def test_marks_as_a_table(self) -> None:
        text = self.ask("get", f"assignments/{self.work.pk}/marks.csv").content.decode("utf-8-sig")
        (row,) = csv.DictReader(io.StringIO(text))
        self.assertEqual((row["number"], row["1a"], row["1b"], row["total"], row["most"], row["unmarked"]),
                         ("30417", "3", "", "3", "12", "2"))  # fmt: skip

    def test_marks_as_oneroster_name_who_the_roster_names(self) -> None:
        """Columns of results.csv and lineItems.csv: OneRoster 1.2 CSV binding (1EdTech), from memory."""
        answer = self.ask("get", f"assignments/{self.work.pk}/marks-oneroster.zip").content
        roster = self.ask("get", f"courses/{self.course.pk}/roster.zip").content
        tables = {
            name: list(csv.DictReader(io.StringIO(zipfile.ZipFile(io.BytesIO(data)).read(name).decode())))
            for data, name in ((answer, "results.csv"), (answer, "lineItems.csv"), (roster, "users.csv"))
        }
        (result,), (item,) = tables["results.csv"], tables["lineItems.csv"]
        ilse = next(one for one in tables["users.csv"] if one["email"] == self.ilse.email)
        self.assertEqual((result["studentSourcedId"], result["score"]), (ilse["sourcedId"], "3"))
        self.assertEqual((result["lineItemSourcedId"], result["scoreStatus"]), (item["sourcedId"], "partially graded"))

    def test_a_marked_pdf_holds_ink_and_points_as_annotations(self) -> None:
        self.give_back()
        data = self.ask("get", f"folios/{self.edition.folio_id}/returned.pdf", by=self.ilse).content
        annotations = [one.get_object() for one in pypdf.PdfReader(io.BytesIO(data)).pages[0]["/Annots"]]
        kinds = [one["/Subtype"] for one in annotations]
        self.assertEqual((kinds.count("/Ink"), "/FreeText" in kinds), (1, True))
        self.assertIn("√2, not 1.4", [one.get("/Contents") for one in annotations])

    def test_all_marked_documents_come_as_one_archive(self) -> None:
        response = self.ask("get", f"assignments/{self.work.pk}/marked.zip")
        archive = zipfile.ZipFile(io.BytesIO(b"".join(response)))
        (name,) = archive.namelist()
        self.assertTrue(name.endswith("_marked.pdf"))
        self.assertEqual(len(pypdf.PdfReader(io.BytesIO(archive.read(name))).pages), 2)
