"""An instructor who has only a question paper and a list of names, from an empty database to a student's first page."""

from __future__ import annotations

import re
from pathlib import Path

from board_bench.prepared import lay_prepared
from playwright.sync_api import Locator, Page, Route, expect

from assignments.models import Assignment
from assignments.printed_paper import Heading, printed_paper
from courses.models import Course, Enrolment
from demo import sample_people, scenario
from folios.beginning import create_folio
from folios.events import Told
from folios.models import Folio, record
from notices.models import Mail
from people.models import User
from plumbing.requests import moment

from .browsing import BrowserTestCase

ROSTER = """Surname;First name;Student ID;E-mail;Extra time
Marrow;Ilse;30417;imarrow@kestrelpoint.example;×1.25
Ashgrove;Tobin;30402;tashgrove@kestrelpoint.example;
Brandreth;Kaito;30405;kaito at kestrelpoint;
"""
MOST_ACTIONS = 40
# How long a person takes, from looking to the next act, and for a letter (common practice of keystroke-level models).
SECONDS_AN_ACTION, SECONDS_A_LETTER, MOST_SECONDS = 5.0, 0.28, 300.0


class Hand:
    """Does what a person does with mouse and keyboard, and counts it."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions, self.letters = page, 0, 0

    def press(self, name: str | re.Pattern[str], role: str = "button") -> None:
        self.actions += 1
        self.page.get_by_role(role, name=name).click()  # type: ignore[arg-type]

    def write(self, field: str, text: str, *, enter: bool = False) -> None:
        self.actions += 1
        self.letters += len(text)
        place: Locator = self.page.get_by_label(field)
        place.fill(text)
        if enter:
            place.press("Enter")

    def drop(self, field: Locator, file: Path) -> None:
        self.actions += 1
        field.set_input_files(str(file))

    @property
    def seconds(self) -> float:
        return self.actions * SECONDS_AN_ACTION + self.letters * SECONDS_A_LETTER


class FromNothing(BrowserTestCase):
    def setUp(self) -> None:
        self.errors: list[str] = []
        User.objects.create_superuser("corin@kestrelpoint.example", scenario.PASSWORD, first_name="Corin")

    def files(self) -> tuple[Path, Path]:
        folder = self.folder()
        paper, roster = folder / "noon-sight.pdf", folder / "names.csv"
        paper.write_bytes(
            printed_paper(
                Heading("In class", "The noon sight", "NAV 231", ["Answer all questions."]),
                {"1": "A star is seen.", "1a": "Find its altitude.", "1b": "Find its distance.", "2": "Compare."},
                {"1a": 4, "1b": 3, "2": 5}, "Corin Vale",
            )
        )  # fmt: skip
        roster.write_bytes(ROSTER.encode("cp1252"))
        return paper, roster

    def test_from_an_empty_database_to_a_students_first_page(self) -> None:
        paper, roster = self.files()
        page = self.watched(self.context())
        page.goto(self.address)
        hand = Hand(page)
        hand.write("Mail address", "corin@kestrelpoint.example")
        hand.write("Password", scenario.PASSWORD)
        hand.press("Sign in")
        self.course(page, hand)
        self.roster(page, hand, roster)
        self.assignment(page, hand, paper)
        print(f"setting up: {hand.actions} actions, {hand.letters} letters, {hand.seconds:.0f} s at a person's pace")
        self.assertLessEqual(hand.actions, MOST_ACTIONS)
        self.assertLess(hand.seconds, MOST_SECONDS)
        self.student()

    def course(self, page: Page, hand: Hand) -> None:
        hand.press("Begin a course")
        hand.write("Code", "NAV 231")
        hand.write("Title", "Celestial Navigation")
        hand.press("Begin it")
        expect(page.get_by_role("tab", name=re.compile("^People"))).to_have_attribute("aria-selected", "true")
        self.no_serious_findings(page, "course")

    def roster(self, page: Page, hand: Hand, roster: Path) -> None:
        hand.press("Take in a roster")
        hand.drop(page.get_by_role("dialog").locator("input[type=file]"), roster)
        expect(page.get_by_text("2 people new")).to_be_visible()
        expect(page.get_by_text("Windows-1252 with semicolons")).to_be_visible()
        expect(page.get_by_text("Line 4")).to_be_visible()  # the bad row is named, the others go on
        self.no_serious_findings(page, "roster")
        self.assertEqual(Enrolment.objects.filter(role="student").count(), 0, "shown before anything is written")
        hand.press("Add 2")
        expect(page.get_by_text("2 added, 0 changed, 0 taken off.")).to_be_visible()
        hand.press("Done")
        expect(page.get_by_text("Marrow, Ilse")).to_be_visible()
        self.assertEqual(Enrolment.objects.get(person__number="30417").extra_factor, 1.25)

    def assignment(self, page: Page, hand: Hand, paper: Path) -> None:
        hand.press("Work", "tab")
        hand.write("A new assignment", "The noon sight")
        hand.press("Begin setting it up")
        expect(page.get_by_role("heading", name="Setting up")).to_be_visible()
        hand.drop(page.locator(".paper-box input[type=file]"), paper)
        expect(page.get_by_text("The paper says 1a-b, 2: 3 entries, 12 points.")).to_be_visible()
        hand.press("Make this the question map")
        expect(page.get_by_text("Every question of the paper is on the map")).to_be_visible()
        page.get_by_text("a timed sitting").click()
        hand.actions += 1
        expect(page.get_by_text("With extra time ×1.25")).to_be_visible()
        hand.write("Opens", "2026-11-20 09:00", enter=True)
        page.keyboard.press("Tab")
        expect(page.locator(".ant-picker-dropdown")).to_be_hidden()
        expect(page.get_by_text("All of it is saved.")).to_be_visible()
        self.no_serious_findings(page, "setting up")
        hand.press("Give it out")
        self.no_serious_findings(page, "giving out")
        hand.press("Give it out now")
        expect(page.get_by_text("Given out; nobody has begun.")).to_be_visible()

    def student(self) -> None:
        link = re.search(r"(/password/\S+)", Mail.objects.get(to="imarrow@kestrelpoint.example").text)
        assert link
        page = self.watched(self.context())
        page.goto(self.address + link[1])
        page.get_by_label("The new one").fill(scenario.PASSWORD)
        page.keyboard.press("Enter")
        expect(page.get_by_text("Sign in").first).to_be_visible()
        page.goto(self.address)
        page.get_by_label("Mail address").fill("imarrow@kestrelpoint.example")
        page.get_by_label("Password").fill(scenario.PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        self.begin(page, "The noon sight")
        self.add(page, self.phone_photographs()[:1])
        self.tiles(page, 1)


class Staff(BrowserTestCase):
    def test_a_wrong_entry_is_refused_at_its_field_and_a_change_by_somebody_else_is_seen(self) -> None:
        work = self.assignments["great-circles"]
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{work.pk}")
        title = page.get_by_label("Title", exact=True)
        title.fill(Assignment.objects.exclude(pk=work.pk).filter(course=work.course).earliest("pk").title)
        expect(page.get_by_text("Give it another title")).to_be_visible()
        expect(page.get_by_text("Not saved: look at the field in red.")).to_be_visible()
        title.fill("Problem set five")
        self.until(page, lambda: Assignment.objects.get(pk=work.pk).title == "Problem set five")
        expect(page.get_by_text("All of it is saved.")).to_be_visible()
        work.refresh_from_db()
        Assignment.objects.filter(pk=work.pk).update(title="Set by another", version=work.version + 1)
        title.fill("Problem set 5")
        expect(page.get_by_text("Somebody else changed this meanwhile")).to_be_visible()
        expect(title).to_have_value("Set by another")

    def test_the_rules_of_the_paper_are_picked_here_and_told_to_students(self) -> None:
        exam = self.assignments["noon-sight"]
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{exam.pk}")
        picked = page.get_by_role("checkbox", name="circle the final answer")
        expect(page.get_by_role("checkbox", name="dark ink")).to_be_checked()
        expect(picked).not_to_be_checked()
        held: list[Route] = []
        page.route("**/setting-up", lambda route: held.append(route), times=1)
        picked.check()
        page.get_by_label("Title", exact=True).focus()
        self.until(page, lambda: len(held) == 1)
        page.get_by_role("checkbox", name="flat and evenly lit").uncheck()  # while the first is on its way
        page.get_by_label("Title", exact=True).focus()
        held[0].continue_()
        rules = lambda: Assignment.objects.get(pk=exam.pk).paper_rules  # noqa: E731
        self.until(page, lambda: "circle_final_answer" in rules() and "flat" not in rules())
        expect(page.get_by_text("All of it is saved.")).to_be_visible()
        student = self.sign_in(sample_people.ILSE, path=f"/assignments/{exam.pk}")
        expect(student.get_by_text("Circle the final answer of each part.")).to_be_visible()
        expect(student.get_by_text("Lay the sheet flat", exact=False)).to_have_count(0)

    def test_the_map_in_one_line_keeps_titles_and_what_students_placed_is_asked_about(self) -> None:
        assignment = self.assignments["great-circles"]
        first = assignment.questions.earliest("position")
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{assignment.pk}")
        line = page.get_by_label("In one line")
        line.fill("1, 1a")
        line.press("Enter")
        expect(page.get_by_text("1 and its part 1a are both on the map")).to_be_visible()
        line.fill(f"{first.label}, 7a-c")
        line.press("Enter")
        expect(line).to_have_attribute("placeholder", f"{first.label}, 7a-c")
        self.assertEqual(assignment.questions.get(label=first.label, removed_at=None).pk, first.pk)

    def test_instructions_are_marked_up_with_formulas_and_without_anything_that_acts(self) -> None:
        work = self.assignments["great-circles"]
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{work.pk}")
        evil = "<img src=x onerror=alert(1)> ![x](https://elsewhere.example/x.png) [away](javascript:alert(1))"
        words = f"Use **degrees**:\n\n- $\\cos d = \\sin\\varphi$\n- to a tenth\n\n{evil} $\\frac{{1}}{{$"
        field = page.get_by_label("Instructions", exact=True)
        field.fill(words)
        seen = page.get_by_role("region", name="Instructions: as students read it")
        expect(seen.locator("strong")).to_have_text("degrees")
        expect(seen.locator(".katex").first).to_be_visible()
        field.blur()
        self.until(page, lambda: Assignment.objects.get(pk=work.pk).instructions == words)
        brief = self.sign_in(sample_people.ILSE, path=f"/assignments/{work.pk}")
        prose = brief.locator(".prose", has_text="to a tenth")
        expect(prose.locator("li")).to_have_count(2)
        expect(prose.locator("math")).to_have_count(1)
        expect(prose.locator("img")).to_have_count(0)
        self.assertNotIn("javascript", prose.inner_html())
        self.no_serious_findings(brief, "brief with formulas")

    def test_of_a_choice_the_board_asks_for_no_more_than_is_to_be_answered(self) -> None:
        work = self.assignments["great-circles"]
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{work.pk}")
        line = page.get_by_label("In one line")
        line.fill("1, any 1 of (2, 3), bonus (4)")
        line.press("Enter")
        expect(line).to_have_attribute("placeholder", "1, any 1 of (2, 3), bonus (4)")
        expect(page.locator(".map-editor")).to_contain_text("any 1 of 2")
        folio = create_folio(
            Assignment.objects.get(pk=work.pk), User.objects.get(email=sample_people.ILSE.email), moment()
        )
        lay_prepared(folio, 1, width=400)
        board = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        rows = board.get_by_role("list", name="Questions and the pages that answer them").get_by_role("listitem")
        expect(rows.filter(has_text="3").first).to_contain_text("any 1 of 2")
        board.get_by_label("On page 1:").fill("1, 2")
        board.keyboard.press("Enter")
        expect(rows.filter(has_text="3").first).to_contain_text("not needed")
        expect(rows.filter(has_text="4").first).to_contain_text("bonus")
        expect(board.locator(".board-foot")).to_contain_text("2 of 2 questions settled")
        board.get_by_role("link", name="Check and hand in").click()
        expect(board.get_by_role("heading", name="Everything is in its place")).to_be_visible()

    def test_the_sitting_changes_as_it_happens_and_a_word_and_time_reach_the_board(self) -> None:
        sitting = self.assignments["noon-sight"]
        ilse = User.objects.get(email=sample_people.ILSE.email)
        staff = self.sign_in(sample_people.INSTRUCTOR, path=f"/sittings/{sitting.pk}")
        expect(staff.get_by_role("listitem").filter(has_text="Ilse Marrow")).to_contain_text("not begun")
        folio = create_folio(sitting, ilse, moment())
        row = staff.get_by_role("listitem").filter(has_text="Ilse Marrow")
        expect(row).to_contain_text("writing")
        board = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        expect(board.get_by_text("left to write")).to_be_visible()
        self.add(board, self.phone_photographs()[:1])
        expect(row).to_contain_text("1 page safe")
        self.no_serious_findings(staff, "sitting")
        staff.get_by_label("Choose Ilse Marrow").check()
        staff.get_by_role("button", name="A word to them").click()
        staff.get_by_label("The word").fill("In 2b read 52 for 25.")
        staff.get_by_role("button", name="Say it").click()
        expect(staff.get_by_text("It goes to 1 board now")).to_be_visible()
        expect(board.get_by_text("In 2b read 52 for 25.")).to_be_visible()
        self.until(staff, lambda: folio.events.filter(kind="heard").exists())
        expect(row).not_to_contain_text("not seen yet")
        staff.keyboard.press("Escape")
        before = folio.window().closes
        staff.get_by_role("button", name="Give them time").click()
        staff.get_by_role("button", name="Give 10 minutes").click()
        expect(staff.get_by_text("10 minutes given to 1 sitting")).to_be_visible()
        expect(board.get_by_text("10 more minutes").first).to_be_visible()
        folio.refresh_from_db()
        self.assertEqual((folio.window().closes - before).total_seconds(), 600)
        staff.keyboard.press("Escape")
        staff.get_by_role("button", name="Own terms").click()
        due = staff.get_by_label("Due, in America/Halifax")
        due.fill("2030-01-04 18:00")
        due.press("Enter")
        staff.get_by_role("button", name="Give it", exact=True).click()
        expect(staff.get_by_text("1 student: begun as it opens")).to_be_visible()
        expect(row).to_contain_text("due Fri 4 Jan 18:00")
        staff.keyboard.press("Escape")
        staff.get_by_role("button", name="Own terms").click()
        extra = staff.get_by_label("Extra time, in the place")
        extra.fill("×50")
        staff.get_by_role("button", name="Give it", exact=True).click()
        expect(staff.get_by_text("Extra time of ×50 cannot be right")).to_be_visible()
        extra.fill("×2")
        staff.get_by_role("button", name="Give it", exact=True).click()
        expect(staff.get_by_text("1 student: begun as it opens")).to_be_visible()
        expect(row).to_contain_text("×2")
        expect(row).to_contain_text("due Fri 4 Jan 18:00")
        staff.keyboard.press("Escape")
        board.close()
        staff.get_by_role("button", name="A word to them").click()
        staff.get_by_label("The word").fill("Ten minutes left.")
        staff.get_by_role("button", name="Say it").click()
        expect(row).to_contain_text("1 word not seen yet")

    def test_times_of_those_who_sit_are_changed_only_when_asked(self) -> None:
        sitting = self.assignments["noon-sight"]
        folio = create_folio(sitting, User.objects.get(email=sample_people.ILSE.email), moment())
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{sitting.pk}")
        handover = page.get_by_label("then handover")
        handover.fill("25")
        handover.blur()
        dialog = page.get_by_role("dialog", name="Change the times for who has begun?")
        expect(dialog).to_contain_text("one student gets more time")
        dialog.get_by_role("button", name="Leave it as it was").click()
        expect(handover).to_have_value("15")
        handover.fill("20")
        handover.blur()
        before = folio.window().closes
        dialog.get_by_role("button", name="Change it").click()
        self.until(page, lambda: Folio.objects.get(pk=folio.pk).window().closes > before)
        expect(page.get_by_text("All of it is saved.")).to_be_visible()

    def test_a_word_said_before_the_board_was_opened_is_there_too(self) -> None:
        sitting = self.assignments["noon-sight"]
        folio = create_folio(sitting, User.objects.get(email=sample_people.ILSE.email), moment())
        record(folio, Told(text="Read 2b again.", by="Corin Vale"), moment())
        board = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        expect(board.get_by_text("Read 2b again.")).to_be_visible()

    def test_where_the_college_signs_in_its_button_leads_there_and_what_went_wrong_is_said(self) -> None:
        context = self.context()
        context.route("**/api/sign-in-ways", lambda route: route.fulfill(json={"college": "Kestrel Point"}))
        page = self.watched(context)
        page.goto(f"{self.address}/join/ABC?college=college_unknown")
        expect(page.get_by_role("alert")).to_contain_text("nobody has your mail address yet")
        door = page.get_by_role("link", name="Sign in by Kestrel Point")
        expect(door).to_have_attribute("href", "/sign-in/college?next=%2F")
        self.no_serious_findings(page, "signing in by the college")
        page.goto(f"{self.address}/join/ABC")
        expect(door).to_have_attribute("href", "/sign-in/college?next=%2Fjoin%2FABC")

    def test_a_department_is_administered_on_screens_of_its_own(self) -> None:
        page = self.sign_in(sample_people.ADMINISTRATOR)
        page.get_by_role("link", name="SEA department").click()
        expect(page.get_by_role("row", name="NAV 231")).to_contain_text("Corin Vale")
        page.get_by_role("button", name="Begin a course").click()
        page.get_by_label("Code").fill("SEA 100")
        page.get_by_label("Title").fill("Knots and Splices")
        page.get_by_role("button", name="Begin it").click()
        page.get_by_role("heading", name="Knots and Splices").wait_for()
        page.go_back()
        expect(page.get_by_role("row", name="SEA 100")).to_contain_text("nobody yet")
        self.no_serious_findings(page, "department")
        page.get_by_role("tab", name="People").click()
        page.get_by_label("Name, number or mail address").fill("marrow")
        expect(page.get_by_role("row", name="Ilse Marrow")).to_contain_text("NAV 231 student")
        page.get_by_role("tab", name="Administrators").click()
        page.get_by_role("button", name="Take away").click()
        page.get_by_role("dialog").get_by_role("button", name="Take away").click()
        expect(page.get_by_text("keeps one administrator at least")).to_be_visible()
        page.get_by_label("Another administrator").fill(sample_people.INSTRUCTOR.email)
        page.get_by_role("button", name="Name them").click()
        expect(page.get_by_role("row", name="Corin Vale")).to_be_visible()
        corin = self.sign_in(sample_people.INSTRUCTOR)
        expect(corin.get_by_role("link", name="SEA department")).to_be_visible()

    def test_joining_by_code_shows_whose_course_it_is_and_as_whom(self) -> None:
        staff = self.sign_in(
            sample_people.INSTRUCTOR, path=f"/courses/{Course.objects.get(code='NAV 231').pk}?tab=joining"
        )
        staff.get_by_role("button", name="Make a code").click()
        code = staff.locator(".course-code").inner_text()
        newcomer = User.objects.create_user(
            "wnew@kestrelpoint.example", scenario.PASSWORD, first_name="Wim", last_name="New"
        )
        page = self.sign_in(sample_people.Person("Wim", "New"), path=f"/join/{code}")
        expect(page.get_by_role("heading", name="NAV 231 Celestial Navigation")).to_be_visible()
        page.get_by_role("button", name="Join NAV 231 as Wim New").click()
        expect(page.get_by_text("You are in this course")).to_be_visible()
        staff.get_by_label("waits until you let them in").check()
        staff.get_by_role("button", name="Make a new code").click()
        expect(staff.locator(".course-code")).not_to_have_text(code)
        User.objects.create_user("alate@kestrelpoint.example", scenario.PASSWORD, first_name="Ada", last_name="Late")
        ada = self.sign_in(
            sample_people.Person("Ada", "Late"), path=f"/join/{staff.locator('.course-code').inner_text()}"
        )
        ada.get_by_role("button", name="Ask to join NAV 231 as Ada Late").click()
        expect(ada.get_by_text("You have asked to join")).to_be_visible()
        staff.reload()
        staff.get_by_role("button", name="Let in Ada Late").click()
        self.until(staff, lambda: Enrolment.objects.filter(person__last_name="Late").exists())
        ada.reload()
        expect(ada.get_by_text("You are in this course")).to_be_visible()
        self.assertTrue(Enrolment.objects.filter(person=newcomer, course__code="NAV 231").exists())
