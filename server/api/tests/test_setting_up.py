"""From nothing to a given-out assignment, and what is refused on the way."""

from __future__ import annotations

import io
from datetime import UTC, datetime, timedelta
from typing import Any

import pikepdf

from assignments.models import Assignment
from assignments.printed_paper import Heading, printed_paper
from courses.models import Course, Enrolment
from folios.beginning import create_folio
from folios.lengthening import lengthen
from testing.desk import NOW, DeskTestCase, picture

PAPER = printed_paper(
    Heading("In class", "The noon sight", "NAV 231", ["Answer all questions."]),
    {"1": "A star is seen.", "1a": "Find its altitude.", "1b": "Find its distance.", "2": "Compare."},
    {"1a": 4, "1b": 3, "2": 5}, "Corin Vale",
)  # fmt: skip


class SettingUpCase(DeskTestCase):
    def draft(self, title: str = "The noon sight") -> int:
        return int(self.ask("post", f"courses/{self.course.pk}/assignments", {"title": title}).json()["id"])

    def change(self, pk: int, **wanted: Any) -> Any:
        now = self.ask("get", f"assignments/{pk}/setting-up").json()
        fields = (
            "title", "instructions", "instructions_before", "opens", "due", "late_until", "writing_minutes",
            "handover_minutes", "due_cuts_sitting", "placing_minutes", "pledge_minutes", "offers_rehearsal",
            "paper_rules", "whole_work", "version",
        )  # fmt: skip
        return self.ask("put", f"assignments/{pk}/setting-up", {**{name: now[name] for name in fields}, **wanted})


class Drafts(SettingUpCase):
    def test_a_draft_opens_tomorrow_in_the_courses_zone_and_no_student_sees_it(self) -> None:
        pk = self.draft()
        told = self.ask("get", f"assignments/{pk}/setting-up").json()
        self.assertEqual((told["opens"], told["due"]), ("2026-11-25T09:00", "2026-12-02T09:00"))
        self.assertIsNone(told["given_out_at"])
        mine = self.ask("get", "my-folios", by=self.ilse).json()["folios"]
        self.assertNotIn(pk, [one["assignment"]["id"] for one in mine])
        self.assertEqual(self.ask("get", f"assignments/{pk}/brief", by=self.ilse).status_code, 404)
        self.assertIn(pk, [one["assignment"]["id"] for one in self.ask("get", "my-folios").json()["teaching"]])

    def test_the_paper_proposes_its_map_and_what_the_map_lacks_is_said(self) -> None:
        pk = self.draft()
        self.assertEqual(self.ask("get", f"assignments/{pk}/paper/proposal").status_code, 404)
        path = f"/api/assignments/{pk}/paper?name=noon.pdf"
        answer = self.as_(self.corin).put(path, PAPER, content_type="application/pdf")
        again = self.as_(self.corin).put(path, PAPER, content_type="application/pdf")
        self.assertEqual([one.json()["paper"]["name"] for one in (answer, again)], ["noon.pdf", "noon.pdf"])
        read = self.ask("get", f"assignments/{pk}/paper/proposal").json()
        self.assertEqual((read["map"], read["missing"]), ("1a-b, 2", ["1a", "1b", "2"]))
        entries = [{"label": one["label"], "title": one["title"], "points": one["points"]} for one in read["entries"]]
        saved = self.ask("put", f"assignments/{pk}/question-map", {"version": 0, "entries": entries})
        self.assertEqual(saved.status_code, 200)
        told = self.ask("get", f"assignments/{pk}/setting-up").json()
        self.assertEqual((told["map"], told["points"]), ("1a-b, 2", 12))
        fewer = [{**entries[0], "id": None}, {"label": "7"}]
        self.ask("put", f"assignments/{pk}/question-map", {"version": 1, "entries": fewer})
        again = self.ask("get", f"assignments/{pk}/paper/proposal").json()
        self.assertEqual((again["missing"], again["unknown"]), (["1b", "2"], ["7"]))

    def test_a_photographed_paper_has_no_text_and_what_is_no_paper_is_refused(self) -> None:
        pk = self.draft()
        put = self.as_(self.corin).put
        put(f"/api/assignments/{pk}/paper?name=photo.jpg", picture(), content_type="image/jpeg")
        self.assertFalse(self.ask("get", f"assignments/{pk}/paper/proposal").json()["has_text"])
        answer = put(f"/api/assignments/{pk}/paper?name=notes.txt", b"1. Find x.", content_type="text/plain")
        self.assertEqual(answer.status_code, 422)
        locked = io.BytesIO()
        with pikepdf.open(io.BytesIO(PAPER)) as document:
            document.save(locked, encryption=pikepdf.Encryption(user="x", owner="x"))
        answer = put(f"/api/assignments/{pk}/paper?name=locked.pdf", locked.getvalue(), content_type="application/pdf")
        self.assertIn("password", answer.json()["message"])
        self.assertTrue(self.ask("get", f"assignments/{pk}/setting-up").json()["paper"]["name"].startswith("photo"))

    def test_given_out_at_a_moment_seen_from_then_on_and_taken_back_until_somebody_begins(self) -> None:
        pk = self.draft()
        answer = self.ask("post", f"assignments/{pk}/give-out", {})
        self.assertEqual(answer.json()["code"], "empty_map")
        self.ask("put", f"assignments/{pk}/question-map", {"version": 0, "entries": [{"label": "1"}]})
        self.ask("post", f"assignments/{pk}/give-out", {"at": "2026-11-25T08:00"})
        path = f"assignments/{pk}/brief"
        self.assertEqual(self.ask("get", path, by=self.ilse).status_code, 404)
        self.at(hours=21)  # 8:00 in Halifax is 12:00 UTC
        self.assertEqual(self.ask("get", path, by=self.ilse).status_code, 200)
        self.assertEqual(self.ask("delete", f"assignments/{pk}").status_code, 409)
        self.assertIsNone(self.ask("post", f"assignments/{pk}/take-back").json()["given_out_at"])
        self.assertEqual(self.ask("get", path, by=self.ilse).status_code, 404)
        self.ask("post", f"assignments/{pk}/give-out", {})
        create_folio(Assignment.objects.get(pk=pk), self.ilse, NOW)
        answer = self.ask("post", f"assignments/{pk}/take-back")
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "begun"))
        self.assertEqual(self.ask("get", path, by=self.ilse).status_code, 200)

    def test_a_copy_moves_all_moments_together_over_a_change_of_the_clocks(self) -> None:
        self.change(self.sitting.pk, opens="2026-10-26T09:00", due="2026-10-26T12:00", writing_minutes=60)
        wanted = {"title": "Again", "copy_of": self.sitting.pk}
        made = self.ask("post", f"courses/{self.course.pk}/assignments", wanted).json()
        told = self.ask("get", f"assignments/{made['id']}/setting-up").json()
        self.assertEqual((told["opens"], told["due"]), ("2026-11-25T09:00", "2026-11-25T12:00"))
        self.assertEqual((told["map"], told["given_out_at"]), ("1a-b, 2", None))

    def test_a_copy_of_a_printed_sheet_is_one_with_its_spaces_on_its_own_questions(self) -> None:
        of = {label: self.id_of(label, self.sitting) for label in ("1a", "2")}
        boxes = {"1a": [[0, 50, 100, 500, 300]], "2": [[1, 50, 90, 500, 200], [2, 50, 90, 500, 200]]}
        spaces = {of[label]: boxes[label] for label in of} | {"999999": [[0, 1, 1, 9, 9]]}  # of one that was removed
        Assignment.objects.filter(pk=self.sitting.pk).update(on_paper=True, clean_print=True, answer_spaces=spaces)
        wanted = {"title": "Again", "copy_of": self.sitting.pk}
        made = self.ask("post", f"courses/{self.course.pk}/assignments", wanted).json()
        copied = Assignment.objects.get(pk=made["id"])
        self.assertEqual((copied.on_paper, copied.clean_print), (True, True))
        labels = {one.id: one.label for one in copied.question_map.questions}
        self.assertEqual({labels[key]: rows for key, rows in copied.answer_spaces.items()}, boxes)


class WhilePeopleSit(SettingUpCase):
    def setUp(self) -> None:
        super().setUp()
        self.folio = create_folio(self.sitting, self.ilse, NOW)
        create_folio(self.sitting, self.tobin, NOW)

    def test_a_change_of_times_says_who_gains_and_is_asked_once(self) -> None:
        answer = self.change(self.sitting.pk, writing_minutes=105)
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "touches_begun"))
        self.assertIn("2 students get more time", answer.json()["message"])
        self.assertEqual(Assignment.objects.get(pk=self.sitting.pk).writing_minutes, 95)
        self.assertEqual(self.change(self.sitting.pk, writing_minutes=105, sure=True).status_code, 200)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.window().closes, NOW + timedelta(minutes=120))

    def test_who_would_lose_keeps_what_was_promised_and_that_is_said(self) -> None:
        lengthen(self.sitting, 10, only=[self.folio.pk], by_name="Corin", now=NOW)
        words = self.change(self.sitting.pk, writing_minutes=60, handover_minutes=0).json()["message"]
        self.assertIn("2 students get less by it: they keep", words)
        self.assertEqual(self.change(self.sitting.pk, writing_minutes=60, sure=True).status_code, 200)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.window().closes, NOW + timedelta(minutes=120))

    def test_words_and_titles_are_saved_unasked_and_nonsense_is_refused_at_its_field(self) -> None:
        self.assertEqual(self.change(self.sitting.pk, instructions="Read 52 for 25.").status_code, 200)
        answer = self.change(self.sitting.pk, writing_minutes=0)
        self.assertEqual(answer.json()["code"], "field:writing_minutes")


class FilesBeside(SettingUpCase):
    def put(self, pk: int, name: str, data: bytes) -> Any:
        kind = "application/octet-stream"
        return self.as_(self.corin).put(f"/api/assignments/{pk}/files?name={name}", data, content_type=kind)

    def test_a_formula_sheet_is_given_out_with_the_paper_and_not_before(self) -> None:
        (file,) = self.put(self.sitting.pk, "formulas.pdf", PAPER).json()["files"]
        self.assertEqual((file["name"], file["size"]), ("formulas.pdf", len(PAPER)))
        path, brief = f"assignments/{self.sitting.pk}/files/{file['id']}", f"assignments/{self.sitting.pk}/brief"
        self.assertEqual(self.ask("get", brief, by=self.ilse).json()["files"], [])
        self.assertEqual(self.as_(self.ilse).get(f"/api/{path}").status_code, 403)
        create_folio(self.sitting, self.ilse, NOW)
        self.assertEqual(self.ask("get", brief, by=self.ilse).json()["files"], [file])
        answer = self.as_(self.ilse).get(f"/api/{path}")
        self.assertEqual(answer.getvalue(), PAPER)
        self.assertIn("attachment", answer["Content-Disposition"])
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")

    def test_what_is_no_pdf_or_picture_is_refused_and_of_one_name_there_is_one(self) -> None:
        pk = self.draft()
        self.assertEqual(self.put(pk, "notes.pdf", b"only words").status_code, 422)
        self.put(pk, "formulas.pdf", PAPER)
        self.assertEqual(self.put(pk, "FORMULAS.pdf", PAPER).json()["code"], "same_name")
        (file,) = self.ask("get", f"assignments/{pk}/setting-up").json()["files"]
        other = f"assignments/{self.work.pk}/files/{file['id']}"
        self.assertEqual(self.as_(self.corin).get(f"/api/{other}").status_code, 404)
        self.assertEqual(self.ask("delete", other).status_code, 200)
        copied = self.ask("post", f"courses/{self.course.pk}/assignments", {"title": "Again", "copy_of": pk}).json()[
            "id"
        ]
        self.assertEqual(self.ask("delete", f"assignments/{pk}/files/{file['id']}").json()["files"], [])
        (kept,) = self.ask("get", f"assignments/{copied}/setting-up").json()["files"]
        self.assertEqual(self.as_(self.corin).get(f"/api/assignments/{copied}/files/{kept['id']}").getvalue(), PAPER)


class Choices(SettingUpCase):
    """ "Any n of" and bonus questions, from the map to what an edition says is open."""

    ENTRIES = (("1", None, 4), ("2", 0, 6), ("3", 0, 5), ("4", 0, 9), ("5", 1, 3))

    def put(self, pk: int, entries: Any, groups: list[int], version: int = 0) -> Any:
        rows = [{"label": label, "group": group, "points": points} for label, group, points in entries]
        return self.ask(
            "put", f"assignments/{pk}/question-map", {"version": version, "groups": groups, "entries": rows}
        )

    def test_a_choice_is_kept_told_to_students_and_counted_in_the_points(self) -> None:
        pk = self.draft()
        saved = self.put(pk, self.ENTRIES, [2, 0]).json()
        self.assertEqual([one["group"] for one in saved["entries"]], [None, 0, 0, 0, 1])
        told = self.ask("get", f"assignments/{pk}/setting-up").json()
        self.assertEqual((told["map"], told["points"]), ("1, any 2 of (2-4), bonus (5)", 4 + 6 + 9))
        Assignment.objects.filter(pk=pk).update(opens=NOW, given_out_at=NOW)
        brief = self.ask("get", f"assignments/{pk}/brief", by=self.ilse).json()
        self.assertEqual([one["choose"] for one in brief["questions"]], [None, 2, 2, 2, 0])
        self.assertEqual(brief["points"], 19)
        copied = self.ask("post", f"courses/{self.course.pk}/assignments", {"title": "Again", "copy_of": pk}).json()[
            "id"
        ]
        again = self.ask("get", f"assignments/{copied}/setting-up").json()
        self.assertEqual((again["map"], again["points"]), (told["map"], 19))

    def test_a_choice_that_is_made_or_taken_away_is_told_to_who_has_begun(self) -> None:
        rows = [(one.pk, one.label) for one in self.work.questions.all()]
        for version, groups, told in (
            (0, [1], ["chosen any 1 of (1b, 2)"]), (1, [1], []),
            (2, [0], ["not_chosen any 1 of (1b, 2)", "chosen bonus (1b, 2)"]), (3, [], ["not_chosen bonus (1b, 2)"]),
        ):  # fmt: skip
            group = {"1a": None} | dict.fromkeys(("1b", "2"), 0 if groups else None)
            entries = [{"id": pk, "label": label, "group": group[label]} for pk, label in rows]
            before = self.folio.events.filter(kind="map_changed").count()
            path = f"assignments/{self.work.pk}/question-map"
            self.ask("put", path, {"version": version, "groups": groups, "entries": entries})
            events = list(self.folio.events.filter(kind="map_changed"))[before:]
            changes = [f"{one['change']} {one['label']}" for event in events for one in event.detail["changes"]]
            self.assertEqual(changes, told)

    def test_a_group_without_a_choice_is_refused_and_nothing_is_changed(self) -> None:
        pk = self.draft()
        self.put(pk, self.ENTRIES, [2, 0])
        for entries, groups in ((self.ENTRIES, [3, 0]), (self.ENTRIES, [2]), (self.ENTRIES[:3], [1, 0])):
            answer = self.put(pk, entries, groups, version=1)
            self.assertEqual((answer.status_code, answer.json()["code"]), (422, "bad_map"))
        self.assertEqual(len(self.ask("get", f"assignments/{pk}/question-map").json()["entries"]), 5)

    def test_what_is_handed_in_says_what_is_open_though_the_choice_changes_later(self) -> None:
        rows = (("1a", None, 4), ("1b", 0, 4), ("2", 0, 4))
        known = dict(self.work.questions.values_list("label", "pk"))
        entries = [
            {"id": known[label], "label": label, "group": group, "points": points} for label, group, points in rows
        ]
        path = f"assignments/{self.work.pk}/question-map"
        self.ask("put", path, {"version": 0, "groups": [1], "entries": entries})
        self.folio = create_folio(self.work, self.tobin, NOW)
        page = self.send(picture(), by=self.tobin).json()["page_id"]
        spot = [{"page": page, "top": None}]
        version = self.as_(self.tobin).get(f"/api/folios/{self.folio.pk}").json()["version"]
        self.arrange(version, by=self.tobin, order=[page], placements={"1a": spot, "2": spot})
        self.work_off_jobs()
        draft = self.ask("get", f"folios/{self.folio.pk}/draft", by=self.tobin).json()
        self.assertEqual([one["state"] for one in draft["questions"]], ["placed", "not_needed", "placed"])
        self.hand_in(by=self.tobin)
        self.ask("put", path, {"version": 1, "groups": [], "entries": [one | {"group": None} for one in entries]})
        self.assertEqual(self.folio.editions.get().open_labels, [])
        self.assertEqual(self.folio.editions.get().facts.question_map.groups[0].choose, 1)


class Refusals(SettingUpCase):
    def test_a_wrong_entry_is_refused_at_its_field_and_nothing_is_half_saved(self) -> None:
        pk = self.draft()
        for field, wanted in (
            ("title", {"title": "  "}), ("title", {"title": "great CIRCLES"}), ("due", {"due": "2026-11-24T09:00"}),
            ("due", {"due": "2062-12-02T09:00"}), ("due", {"due": "soon"}), ("writing_minutes", {"writing_minutes": 0}),
            ("writing_minutes", {"writing_minutes": 32000}), ("handover_minutes", {"handover_minutes": -1}),
            ("writing_minutes", {"due": "2026-11-25T10:00", "writing_minutes": 90}),
            ("late_until", {"late_until": "2026-12-01T09:00"}),
            ("opens", {"opens": "2027-03-14T02:30", "due": "2027-03-15T09:00"}),
            ("late_until", {"late_until": "2026-12-09T09:00", "writing_minutes": 60}),
        ):  # fmt: skip
            answer = self.change(pk, **wanted)
            self.assertEqual((answer.status_code, answer.json().get("code")), (422, f"field:{field}"), wanted)
        told = self.ask("get", f"assignments/{pk}/setting-up").json()
        self.assertEqual((told["title"], told["version"]), ("The noon sight", 0))

    def test_two_who_edit_see_each_others_change(self) -> None:
        pk = self.draft()
        self.assertEqual(self.change(pk, title="First").status_code, 200)
        answer = self.change(pk, title="Second", version=0)
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "stale"))

    def test_an_edit_takes_nothing_from_who_has_begun(self) -> None:
        self.change(self.sitting.pk, opens="2026-11-24T10:00", due="2026-11-24T18:00")
        folio = create_folio(Assignment.objects.get(pk=self.sitting.pk), self.ilse, NOW)
        before = folio.window().closes
        self.change(self.sitting.pk, writing_minutes=1, handover_minutes=0, sure=True)
        folio.refresh_from_db()
        self.assertEqual(folio.window().closes, before)
        self.change(self.sitting.pk, writing_minutes=120, handover_minutes=15, sure=True)
        folio.refresh_from_db()
        self.assertGreater(folio.window().closes, before)

    def test_what_is_odd_about_the_times_is_said_and_not_refused(self) -> None:
        pk = self.draft()
        Enrolment.objects.filter(person=self.tobin).update(extra_factor=2)
        told = self.change(pk, due="2026-11-28T09:30", writing_minutes=None).json()
        self.assertIn("Saturday", " ".join(one["words"] for one in told["odd"]))
        times = {"opens": "2026-11-25T22:00", "due": "2026-11-26T00:30"}
        told = self.change(pk, **times, writing_minutes=120, handover_minutes=15).json()
        words = " ".join(one["words"] for one in told["odd"])
        self.assertIn("midnight", words)
        self.assertIn("105 min off for Tobin", words)
        names = [one["name"] for one in told["examples"]]
        self.assertEqual(names, ["Begun as it opens", "Begun last, with full time", "With extra time ×2"])
        self.assertEqual(told["examples"][2]["cut_minutes"], 105)

    def test_another_sitting_of_the_same_students_at_the_same_time_is_said(self) -> None:
        other = Course.objects.create(code="OCN 118", title="Tides", time_zone="America/Halifax")
        Enrolment.objects.create(course=other, person=self.ilse)
        opens = datetime(2026, 11, 25, 12, 0, tzinfo=UTC)  # 8:00 in Halifax
        theirs = Assignment.objects.create(
            course=other, title="Waves", opens=opens, due=opens + timedelta(hours=3), writing_minutes=60
        )
        pk = self.draft()
        times = {"opens": "2026-11-25T10:30", "due": "2026-11-25T12:30", "writing_minutes": 60}
        words = [one["words"] for one in self.change(pk, **times).json()["odd"]]
        self.assertIn("1 of its students have OCN 118 · Waves at the same time.", words)
        Assignment.objects.filter(pk=theirs.pk).update(due=opens + timedelta(hours=2, minutes=30))
        self.assertEqual(self.ask("get", f"assignments/{pk}/setting-up").json()["odd"], [])

    def test_a_typed_map_is_read_or_refused_with_why(self) -> None:
        read = self.ask("post", "typed-maps", {"text": "1a-b, any 1 of (2, 3), bonus (4)"}).json()
        groups = [("1a", None), ("1b", None), ("2", 0), ("3", 0), ("4", 1)]
        self.assertEqual([(one["label"], one["group"]) for one in read["entries"]], groups)
        self.assertEqual(read["groups"], [1, 0])
        for text in ("", "any 2 of (1, 2)", "0", "01", "1, 1a", "1a, 1a", "²", "one"):
            self.assertEqual(self.ask("post", "typed-maps", {"text": text}).status_code, 422, text)
