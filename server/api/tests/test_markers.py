"""Markers: what an instructor gives each to read, and that they read that and nothing else."""

from __future__ import annotations

import io
from typing import Any

from PIL import Image, ImageDraw

from assignments.models import MarkerScope
from courses.models import Enrolment
from folios.beginning import create_folio
from folios.models import Folio
from pages.models import Page
from people.models import User
from testing.desk import NOW, DeskTestCase, picture


def written(x: int) -> bytes:
    """A page that looks unlike another with another ``x``."""
    sheet, out = Image.new("L", (300, 400), 250), io.BytesIO()
    ImageDraw.Draw(sheet).line((x, 60, x - 60, 300), 20, 6)
    sheet.save(out, "JPEG")
    return out.getvalue()


class MarkersCase(DeskTestCase):
    """Ilse's folio of two sections' course is handed in: 1a on its first page, 1b on its second, the third placed
    nowhere. Tobin, of the other section, has handed in one page."""

    def setUp(self) -> None:
        super().setUp()
        self.maud = self.person("maud@kestrelpoint.example", "Maud", role=Enrolment.Role.MARKER)
        self.noon, self.night = (self.course.sections.create(name=name) for name in ("noon", "night"))
        self.line = Enrolment.objects.get(person=self.maud)
        Folio.objects.filter(pk=self.folio.pk).update(section=self.noon)
        for shade in (240, 200, 160):
            self.send(written(shade), f"{shade}.jpg")
        self.work_off_jobs()
        self.pages = list(Page.objects.order_by("pk"))
        first, second, third = (page.pk for page in self.pages)
        placed = {"1a": [{"page": first}], "1b": [{"page": second}]}
        answer = self.arrange(self.version(), order=[first, second, third], placements=placed)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.hand_in()
        self.other = create_folio(self.work, self.tobin, NOW)
        Folio.objects.filter(pk=self.other.pk).update(section=self.night)
        self.send(picture(120), by=self.tobin, folio=self.other)
        self.as_(self.tobin).post(f"/api/folios/{self.other.pk}/hand-in", "{}", content_type="application/json")
        self.work_off_jobs()

    def version(self) -> int:
        return int(self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()["version"])

    def share(self, by: User | None = None, **wanted: Any) -> Any:
        body = {"reads": True, **wanted}
        return self.ask("put", f"assignments/{self.work.pk}/markers/{self.line.pk}", body, by=by)

    def listed(self) -> Any:
        return self.ask("get", f"assignments/{self.work.pk}/folios", by=self.maud)

    def edition(self, folio: Folio, what: str = "/reading") -> Any:
        return self.ask("get", f"folios/{folio.pk}/editions/1{what}", by=self.maud)


class Sharing(MarkersCase):
    def test_what_a_marker_reads_is_kept_and_replaced_as_it_was_chosen(self) -> None:
        question, other = int(self.id_of("1a")), int(self.id_of("2"))
        told = self.ask("get", f"assignments/{self.work.pk}/markers").json()
        self.assertEqual([(one["name"], one["reads"]) for one in told["markers"]], [("Maud", False)])
        self.assertEqual([one["name"] for one in told["questions"]], ["1a", "1b", "2"])
        chosen = {"questions": [question, other], "sections": [self.noon.pk], "students": [self.tobin.pk]}
        told = self.share(**chosen).json()["markers"][0]
        self.assertEqual({name: told[name] for name in chosen}, {**chosen, "questions": sorted(chosen["questions"])})
        self.assertEqual(MarkerScope.objects.count(), 4)
        told = self.share(reads=False).json()["markers"][0]
        self.assertEqual((told["reads"], MarkerScope.objects.count()), (False, 0))

    def test_what_is_of_another_course_or_nobody_marks_is_refused_and_nothing_changes(self) -> None:
        self.share(sections=[self.noon.pk])
        for wrong in ({"questions": [int(self.id_of("1a", self.sitting))]}, {"students": [self.stranger.pk]}):
            self.assertEqual(self.share(**wrong).status_code, 422)
        student = Enrolment.objects.get(person=self.tobin)
        answer = self.ask("put", f"assignments/{self.work.pk}/markers/{student.pk}", {"reads": True})
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(MarkerScope.objects.get().section, self.noon)


class Reading(MarkersCase):
    def test_without_a_share_there_is_nothing_to_read(self) -> None:
        self.assertEqual(self.listed().status_code, 404)
        self.assertEqual(self.edition(self.folio).status_code, 404)
        self.assertEqual(self.ask("get", "my-folios", by=self.maud).json()["to_read"], [])

    def test_all_of_an_assignment_is_read_whole_and_its_list_holds_what_is_handed_in(self) -> None:
        self.share()
        told = self.listed().json()
        self.assertEqual([one["student"] for one in told["folios"]], ["Ilse", "Tobin"])
        self.assertEqual((told["instructs"], told["questions"]), (False, None))
        self.assertEqual(len(self.edition(self.folio).json()["pages"]), 3)
        self.assertEqual(self.edition(self.folio, "/bound.pdf").status_code, 200)
        mine = self.ask("get", "my-folios", by=self.maud).json()["to_read"]
        self.assertEqual([(one["assignment"]["id"], one["handed_in"]) for one in mine], [(self.work.pk, 2)])
        self.assertEqual(self.ask("get", f"folios/{self.folio.pk}/record", by=self.maud).status_code, 404)

    def test_a_section_or_a_student_is_read_and_no_other(self) -> None:
        for wanted in ({"sections": [self.night.pk]}, {"students": [self.tobin.pk]}):
            self.share(**wanted)
            self.assertEqual([one["student"] for one in self.listed().json()["folios"]], ["Tobin"])
            self.assertEqual((self.edition(self.other).status_code, self.edition(self.folio).status_code), (200, 404))

    def test_of_one_question_its_pages_are_read_and_those_that_are_placed_nowhere(self) -> None:
        self.share(questions=[int(self.id_of("1b"))])
        told = self.edition(self.folio).json()
        self.assertEqual([one["label"] for one in told["questions"]], ["1b"])
        self.assertEqual([(one["number"], one["labels"]) for one in told["pages"]], [(2, ["1b"]), (3, [])])
        self.assertEqual(self.listed().json()["questions"], ["1b"])
        for page, status in zip(self.pages, (404, 200, 200), strict=True):
            path = f"folios/{self.folio.pk}/images/{page.image}"
            self.assertEqual(self.ask("get", path, by=self.maud).status_code, status)
        for path in (f"folios/{self.folio.pk}/editions/1/bound.pdf", f"originals/{self.pages[1].original_id}/file"):
            self.assertEqual(self.ask("get", path, by=self.maud).status_code, 404)

    def test_who_is_no_marker_any_more_reads_nothing(self) -> None:
        self.share()
        Enrolment.objects.filter(pk=self.line.pk).update(role=Enrolment.Role.STUDENT)
        self.assertEqual(self.edition(self.folio).status_code, 404)
        self.assertEqual(self.ask("get", "my-folios", by=self.maud).json()["to_read"], [])
