"""Marking as markers do it: by keys, mouse, pen and finger, two at once, over a lost network; and what students get."""

from __future__ import annotations

from typing import Any

from board_bench.prepared import lay_prepared
from django.utils import timezone
from playwright.sync_api import Locator, Page, expect

from assignments.markers import Share, give_share
from courses.models import Enrolment
from demo.sample_people import INSTRUCTOR, MARKER, PETRA, TOBIN, WREN, Person
from editions.handing_in import hand_in
from folio_core.placing import Placement, read_arrangement, write_arrangement
from folios.beginning import create_folio
from folios.models import Folio
from marking.models import Ink, Mark
from people.models import User

from .boards import PHONE
from .browsing import BrowserTestCase

STUDENTS = (TOBIN, WREN, PETRA)


class MarkingTestCase(BrowserTestCase):
    """Three have handed in; 1a and 1b stand on their first page."""

    def setUp(self) -> None:
        super().setUp()
        self.work = self.assignments["great-circles"]
        marker = Enrolment.objects.get(course=self.work.course, person__email=MARKER.email)
        give_share(self.work, marker, Share(reads=True))
        self.ids = {one.label: str(one.pk) for one in self.work.questions.all()}
        self.folios = {one.last: self.handed_in(one) for one in STUDENTS}

    def handed_in(self, person: Person) -> Folio:
        folio = create_folio(self.work, User.objects.get(email=person.email), timezone.now())
        lay_prepared(folio, 2, width=800)
        arrangement = read_arrangement(folio.arrangement)
        first = arrangement.order[0]
        spots = {"1a": Placement(first, 0.1), "1b": Placement(first, 0.4)}
        placed = type(arrangement)(
            order=arrangement.order, placements={self.ids[label]: (spot,) for label, spot in spots.items()}
        )
        folio.arrangement = write_arrangement(placed)
        folio.save()
        hand_in(folio, seen_edition=0, confirmed=self.work.honour, now=timezone.now())
        return folio

    def marking(self, person: Person, label: str = "1a", **options: Any) -> Page:
        page = self.sign_in(person, self.context(**options), path=f"/marking/{self.work.pk}#{label}")
        expect(self.points(page, TOBIN, label)).to_be_focused()
        return page

    def points(self, page: Page, person: Person, label: str = "1a") -> Locator:
        return page.get_by_label(f"Points for {person.first} {person.last}, question {label}")

    def line(self, page: Page, person: Person) -> Locator:
        """As somebody calls it who looks at it: the line with this name."""
        return page.locator(".answer-line").filter(has_text=f"{person.first} {person.last}")

    def given(self, label: str = "1a") -> dict[str, str]:
        """Points by the student's last name."""
        marks = Mark.objects.filter(question=self.ids[label]).exclude(points=None)
        return {one.edition.folio.student.last_name: f"{one.points.normalize():f}" for one in marks}  # type: ignore[union-attr]


class Marking(MarkingTestCase):
    def test_by_keys_alone_down_the_roll(self) -> None:
        page = self.marking(INSTRUCTOR)
        page.keyboard.type("4")
        page.keyboard.press("Enter")
        expect(self.points(page, WREN)).to_be_focused()
        page.keyboard.type("2,5")
        page.keyboard.press("n")
        page.get_by_label("Note at this answer").fill("units? $\\sqrt{2}$")
        page.keyboard.press("Enter")
        expect(self.line(page, WREN).locator(".katex").first).to_be_visible()
        expect(self.points(page, WREN)).to_be_visible()
        page.keyboard.press("ArrowDown")
        expect(self.points(page, PETRA)).to_be_focused()
        page.keyboard.press("b")
        self.until(page, lambda: self.given() == {"Ashgrove": "4", "Halloran": "2.5", "Lindholm": "0"})
        page.keyboard.press("Control+z")
        self.until(page, lambda: self.given() == {"Ashgrove": "4", "Halloran": "2.5"})
        expect(page.get_by_text("2 of 3 answers to 1a marked, mean 3¼")).to_be_visible()
        page.keyboard.press("n")
        page.get_by_label("Note at this answer").fill("unit")
        expect(page.get_by_role("option").first).to_be_attached()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Keys").click()
        expect(page.get_by_role("dialog").get_by_text("Keys while marking")).to_be_visible()
        page.keyboard.press("Escape")
        self.no_serious_findings(page, "marking")

    def test_points_in_other_steps_are_refused_at_the_field_and_nothing_is_lost(self) -> None:
        page = self.marking(INSTRUCTOR)
        page.keyboard.type("2.3")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Points go in steps of 0.5.")).to_be_visible()
        expect(self.points(page, TOBIN)).to_have_value("2.3")
        page.get_by_role("button", name="How it is marked …").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Points go in steps of").click()
        page.get_by_title("0.1", exact=True).click()
        self.no_serious_findings(page, "how it is marked")
        dialog.get_by_role("button", name="Keep it so").click()
        expect(dialog).to_be_hidden()
        self.points(page, TOBIN).fill("2.3")
        page.keyboard.press("Enter")
        self.until(page, lambda: self.given() == {"Ashgrove": "2.3"})

    def test_mouse_and_signs_are_drawn_and_rubbed_out(self) -> None:
        page = self.marking(INSTRUCTOR)
        self.stroke(page, TOBIN)
        self.until(page, lambda: Ink.objects.filter(tool="pen", erased_at=None).count() == 1)
        page.keyboard.press("t")
        self.drawing(page, TOBIN).click(position={"x": 300, "y": 40})
        self.until(page, lambda: Ink.objects.filter(tool="tick", erased_at=None).count() == 1)
        page.keyboard.press("a")
        self.drawing(page, TOBIN).click(position={"x": 200, "y": 60})
        page.get_by_label("Words at this spot").fill("why?")
        page.keyboard.press("Enter")
        self.until(page, lambda: Ink.objects.filter(text="why?").count() == 1)
        page.keyboard.press("e")
        self.drawing(page, TOBIN).click(position={"x": 300, "y": 40})
        self.until(page, lambda: not Ink.objects.filter(tool="tick", erased_at=None).exists())
        page.keyboard.press("Control+z")
        self.until(page, lambda: Ink.objects.filter(tool="tick", erased_at=None).exists())
        page.reload()
        expect(self.line(page, TOBIN).locator(".cut-ink path").first).to_be_attached()
        expect(self.line(page, TOBIN).get_by_alt_text("pen stroke", exact=False)).to_be_visible()
        folio = self.folios["Ashgrove"]
        page.goto(f"{self.address}/reading/{self.work.pk}/{folio.pk}/{folio.editions.get().number}")
        expect(page.get_by_role("img", name="On page 1: pen stroke, tick, “why?”")).to_be_visible()

    def test_a_pen_draws_with_its_pressure_and_the_hand_beside_it_does_not(self) -> None:
        page = self.marking(INSTRUCTOR, has_touch=True)
        page.get_by_role("button", name="The finger scrolls").click()
        client = page.context.new_cdp_session(page)
        box = self.drawing(page, TOBIN).bounding_box()
        assert box
        x, y = box["x"] + 120, box["y"] + 50

        def pen(kind: str, dx: float, force: float) -> None:
            client.send("Input.dispatchMouseEvent", {
                "type": kind, "x": x + dx, "y": y, "button": "left", "buttons": 1, "clickCount": 1,
                "pointerType": "pen", "force": force,
            })  # fmt: skip

        pen("mousePressed", 0, 0.2)
        for step in range(1, 9):
            pen("mouseMoved", 10 * step, 0.1 * step)
        self.finger(client, x, y + 20)
        pen("mouseReleased", 80, 0)
        self.until(page, lambda: Ink.objects.count() == 1)
        pressures = {one[2] for one in Ink.objects.get().points}
        self.assertGreater(max(pressures) - min(pressures), 0.3)

    def test_a_finger_scrolls_until_it_is_told_to_draw(self) -> None:
        page = self.marking(INSTRUCTOR, **PHONE)
        client = page.context.new_cdp_session(page)
        box = self.drawing(page, TOBIN).bounding_box()
        assert box
        self.finger(client, box["x"] + 60, box["y"] + 30)
        page.get_by_role("button", name="The finger scrolls").click()
        expect(page.get_by_role("button", name="The finger draws")).to_be_visible()
        self.finger(client, box["x"] + 60, box["y"] + 30)
        self.until(page, lambda: Ink.objects.count() == 1)
        self.no_serious_findings(page, "marking on a phone")

    def test_two_at_once_never_write_over_each_other(self) -> None:
        one, other = self.marking(INSTRUCTOR), self.marking(MARKER)
        other.keyboard.type("1")
        one.keyboard.type("4")
        one.keyboard.press("Enter")
        self.until(one, lambda: self.given() == {"Ashgrove": "4"})
        expect(self.line(other, TOBIN).get_by_text(f"by {INSTRUCTOR.first} {INSTRUCTOR.last}")).to_be_visible()
        expect(self.points(other, TOBIN)).to_have_value("1")
        other.keyboard.press("Enter")
        clash = other.get_by_role("alert").filter(has_text="gave 4 meanwhile")
        expect(clash).to_be_visible()
        self.assertEqual(self.given(), {"Ashgrove": "4"})
        clash.get_by_role("button", name="Keep theirs").click()
        expect(clash).to_be_hidden()
        expect(self.line(other, TOBIN).get_by_text("4", exact=True)).to_be_visible()
        expect(other.get_by_text(f"{INSTRUCTOR.first} {INSTRUCTOR.last} is here")).to_be_visible()

    def test_over_a_lost_network_nothing_is_lost(self) -> None:
        page = self.marking(INSTRUCTOR)
        page.context.set_offline(True)
        page.keyboard.type("3")
        page.keyboard.press("Enter")
        self.stroke(page, TOBIN)
        expect(page.get_by_text("No network: kept on this device", exact=False)).to_be_visible()
        self.assertEqual((self.given(), Ink.objects.count()), ({}, 0))
        page.context.set_offline(False)
        self.until(page, lambda: self.given() == {"Ashgrove": "3"} and Ink.objects.count() == 1)
        expect(page.get_by_text("Saved", exact=True)).to_be_visible()
        self.errors = [one for one in self.errors if "ERR_INTERNET_DISCONNECTED" not in one]

    def drawing(self, page: Page, person: Person) -> Locator:
        return self.line(page, person).locator(".drawing-layer").first

    def stroke(self, page: Page, person: Person) -> None:
        self.drawing(page, person).scroll_into_view_if_needed()
        box = self.drawing(page, person).bounding_box()
        assert box
        page.mouse.move(box["x"] + 60, box["y"] + 40)
        page.mouse.down()
        page.mouse.move(box["x"] + 200, box["y"] + 60, steps=8)
        page.mouse.up()

    def finger(self, client: Any, x: float, y: float) -> None:
        def touch(kind: str, points: list[dict[str, float]]) -> None:
            client.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

        touch("touchStart", [{"x": x, "y": y}])
        for step in range(1, 6):
            touch("touchMove", [{"x": x + 12 * step, "y": y}])
        touch("touchEnd", [])


class GivenBack(MarkingTestCase):
    def test_a_student_sees_marks_when_they_are_given_back_and_asks_about_one(self) -> None:
        marker = self.marking(MARKER)
        marker.keyboard.type("2.5")
        marker.keyboard.press("Enter")
        self.until(marker, lambda: self.given() == {"Ashgrove": "2.5"})
        page = self.sign_in(INSTRUCTOR, path=f"/giving-back/{self.work.pk}")
        expect(page.get_by_text("1b, 1c, 2a, 2b and 4 more have no points")).to_be_visible()
        page.get_by_label("Choose Tobin Ashgrove").check()
        page.get_by_label("Questions about marks until").click()
        page.keyboard.type("2030-12-31 12:00")
        page.keyboard.press("Enter")
        expect(page.get_by_text("not taken here")).to_be_hidden()
        self.no_serious_findings(page, "giving back")
        page.get_by_role("button", name="Give 1 folio back …").click()
        expect(page.get_by_role("dialog").get_by_text("Look again:")).to_be_visible()
        page.get_by_role("dialog").get_by_role("button", name="Give back now").click()
        expect(page.get_by_text("1 of 3 folios given back")).to_be_visible()
        student = self.sign_in(TOBIN)
        student.get_by_role("link", name="Your marks: 2½ of 45").click()
        expect(student.get_by_role("heading", name="2½ of 45 points")).to_be_visible()
        student.get_by_role("button", name="Ask about this mark of 1a").click()
        student.get_by_label("Your question about 1a").fill("Is the sign not right?")
        student.get_by_role("button", name="Send").click()
        self.said(student, "Is the sign not right?")
        self.no_serious_findings(student, "marked work")
        marker.goto(f"{self.address}/marking/{self.work.pk}/{self.folios['Ashgrove'].pk}")
        self.said(marker, "Is the sign not right?")
        marker.get_by_role("button", name="Answer the question about the mark of 1a").click()
        marker.get_by_label("Your answer").fill("Half a point more.")
        marker.get_by_role("button", name="Send").click()
        self.said(marker, "Half a point more.")
        page.get_by_role("button", name="Take back … the marks of Tobin Ashgrove").click()
        page.get_by_label("Why; the student reads it").fill("The sign was right.")
        page.get_by_role("dialog").get_by_role("button", name="Take back", exact=True).click()
        expect(page.get_by_text("0 of 3 folios given back")).to_be_visible()
        student.reload()
        expect(student.get_by_text("This work has not been given back.", exact=False)).to_be_visible()

    def test_other_students_see_nothing(self) -> None:
        student = self.sign_in(WREN, path=f"/folios/{self.folios['Halloran'].pk}/returned")
        expect(student.get_by_text("This work has not been given back.", exact=False)).to_be_visible()
