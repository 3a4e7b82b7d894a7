"""A test that is answered on the screen and on paper: from computer and phone, without a network in the middle, by two
tabs at once; set up by its instructor, and read."""

from __future__ import annotations

import re

from django.db.models import Q
from playwright.sync_api import Page, expect

from answers.models import Answer, SetAside
from demo import sample_people
from editions.models import Edition
from folio_core.answers import AnswerKind
from folios.beginning import create_folio
from folios.models import Folio
from people.models import User
from plumbing.requests import moment

from .browsing import BrowserTestCase, kill, running, steady_port
from .line import Line


class Answers(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.work = self.assignments["waves-test"]

    def tearDown(self) -> None:
        """What the browser says of a network that was cut, whenever it says it."""
        noise = ("ERR_INTERNET", "ERR_NETWORK", "Failed to load resource")
        self.errors = [error for error in self.errors if not any(one in error for one in noise)]
        super().tearDown()

    def begin_folio(self) -> Folio:
        return create_folio(self.work, User.objects.get(email=sample_people.ILSE.email), moment())

    def open_answer(self, page: Page, label: str) -> None:
        page.get_by_role("button", name=re.compile(f"^{label}, ")).first.click()
        expect(page.get_by_role("complementary", name=f"Answer to {label}")).to_be_visible()

    def saved(self, page: Page, label: str, **content: object) -> None:
        """Waits until the server has it."""

        def is_there() -> bool:
            answer = Answer.objects.filter(question__label=label, question__assignment=self.work).first()
            return answer is not None and all(getattr(answer.content, name) == value for name, value in content.items())

        self.until(page, is_there)

    def test_a_mixed_test_is_answered_from_computer_and_phone_and_handed_in(self) -> None:
        folio = self.begin_folio()
        context = self.context()
        page = self.sign_in(sample_people.ILSE, context, path=f"/folios/{folio.pk}")
        self.open_answer(page, "1")
        choice = page.get_by_role("radio", name=re.compile("shallow-water waves"))
        choice.check()
        self.saved(page, "1", chosen=("a",))
        self.no_serious_findings(page, "a chosen answer beside the pages")
        self.open_answer(page, "2")
        page.get_by_role("checkbox", name=re.compile("at new moon")).check()
        page.get_by_role("checkbox", name=re.compile("at full moon")).check()
        self.saved(page, "2", chosen=("a", "c"))
        page.get_by_role("button", name="Next on the screen").click()
        page.get_by_role("textbox", name="Answer", exact=True).fill("1981 cm/s")
        self.saved(page, "3a", short="1981 cm/s")
        page.keyboard.press("End")
        page.keyboard.type("!")
        page.keyboard.press("Control+z")  # the field's own, not the board's
        expect(page.get_by_role("textbox", name="Answer", exact=True)).to_have_value("1981 cm/s")
        page.locator(".ribbon-row[data-labels='4']").hover()
        page.get_by_role("button", name="leave blank 4").click()
        expect(page.get_by_role("button", name="4, left blank")).to_be_visible()
        context.set_offline(True)
        self.open_answer(page, "4")
        field = page.get_by_role("textbox", name="Your answer")
        field.press_sequentially("Since w")
        page.get_by_role("button", name="Power").click()
        field.press_sequentially("2")
        expect(page.get_by_text("No network: kept on this device, saved when it is back")).to_be_visible()
        context.set_offline(False)
        self.saved(page, "4", written="Since w^{2}")
        expect(page.get_by_role("button", name="4, answered on the screen: Since w^{2}", exact=True)).to_be_visible()
        expect(page.get_by_role("complementary").get_by_text("Safe since")).to_be_visible()
        self.no_serious_findings(page, "a written answer beside the pages")
        self.on_the_phone(folio)
        expect(page.get_by_role("button", name="5, on page 1, answered on the screen: At half tide.")).to_be_visible()
        page.get_by_role("button", name="Back to the pages").click()
        self.add(page, self.phone_photographs()[1:2])
        self.tiles(page, 2)
        page.locator(".strip").get_by_role("button", name=re.compile("^Page 2")).click()
        line = page.get_by_label(re.compile("^On page 2"))
        line.fill("3b")
        expect(page.get_by_text("Enter: opens 3b, which is answered on the screen")).to_be_visible()
        line.fill("6a-b")
        line.press("Enter")
        expect(page.get_by_text("7 of 8 questions settled")).to_be_visible()
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("1 question not answered on the screen")).to_be_visible()
        expect(page.get_by_role("region", name="Answer on the screen to 4")).to_be_visible()
        self.no_serious_findings(page, "check with answers on the screen")
        page.get_by_role("link", name="3b", exact=True).click()
        page.get_by_role("button", name="Write it as maths").click()
        maths = page.frame_locator("iframe").locator("math-field")
        expect(maths).to_be_focused()
        self.no_serious_findings(page, "the maths field")
        page.keyboard.type("gT^2")
        page.keyboard.press("ArrowRight")
        page.keyboard.type("/2pi")
        expect(page.get_by_text("(g T^2)/(2pi)", exact=True)).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_role("textbox", name="Answer", exact=True)).to_have_value("(g T^2)/(2pi)")
        expect(page.get_by_text("8 of 8 questions settled")).to_be_visible()
        page.keyboard.press("Control+Enter")
        page.get_by_role("button", name="Hand in", exact=True).click()
        page.wait_for_url("**/editions/1")
        expect(page.get_by_text("Answers on the screen")).to_be_visible()
        edition = Edition.objects.get()
        self.assertEqual((edition.open_labels, edition.open_pages, edition.answers.count()), ([], 0, 6))
        self.until(page, lambda: edition.answers.exclude(Q(judged={})).count() == 6)
        self.is_read(edition)

    def on_the_phone(self, folio: Folio) -> None:
        phone = self.context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
        page = self.sign_in(sample_people.ILSE, phone, path=f"/folios/{folio.pk}")
        page.get_by_role("navigation", name="Answered on the screen").get_by_role("button", name="5 not answered").tap()
        page.get_by_role("textbox", name="Your answer").fill("At half tide.")
        page.get_by_label("Pictures of the working of 5").set_input_files(self.phone_photographs()[0])
        expect(page.get_by_text("Pictures of your working: on page 1.")).to_be_visible()
        page.get_by_label("How wide page 1 is in the bound PDF").click()
        page.get_by_title("half as wide").click()
        self.until(page, lambda: set(Folio.objects.get(pk=folio.pk).arrangement["scales"].values()) == {0.5})
        self.no_serious_findings(page, "an answer on a phone")
        self.saved(page, "5", written="At half tide.")
        page.get_by_role("button", name="Back to the pages").tap()
        thumb = page.get_by_role("group", name="On page 1")
        expect(thumb.get_by_role("button")).to_have_count(3)  # 5, 6a, 6b: the others take no pages
        phone.close()

    def is_read(self, edition: Edition) -> None:
        reader = self.sign_in(sample_people.INSTRUCTOR, path=f"/reading/{self.work.pk}/{edition.folio_id}/1#3a")
        answer = reader.get_by_role("region", name="Answer on the screen to 3a")
        expect(answer.get_by_text("Right by itself")).to_be_visible()
        expect(
            reader.get_by_role("region", name="Answer on the screen to 1").get_by_text("right", exact=False).first
        ).to_be_visible()
        self.no_serious_findings(reader, "reading answers on the screen")

    def test_two_tabs_type_at_the_same_answer_and_both_stay(self) -> None:
        folio = self.begin_folio()
        one, other = (self.context() for _ in range(2))
        first = self.sign_in(sample_people.ILSE, one, path=f"/folios/{folio.pk}?question=4")
        second = self.sign_in(sample_people.ILSE, other, path=f"/folios/{folio.pk}?question=4")
        field, second_field = (page.get_by_role("textbox", name="Your answer") for page in (first, second))
        expect(field).to_be_visible()
        expect(second_field).to_be_visible()
        other.set_offline(True)
        second_field.fill("from the second")
        expect(second.get_by_text("No network: kept on this device, saved when it is back")).to_be_visible()
        field.fill("from the first")
        self.saved(first, "4", written="from the first")
        other.set_offline(False)
        beside = second.get_by_role("region", name="Kept beside")
        expect(beside.get_by_text("from the second")).to_be_visible()
        expect(second_field).to_have_value("from the first")
        expect(first.get_by_role("region", name="Kept beside")).to_be_visible()
        beside.get_by_role("button", name="Use this one instead").click()
        self.saved(second, "4", written="from the second")
        expect(field).to_have_value("from the second")
        beside.get_by_role("button", name="Not needed").click()
        expect(second.get_by_role("region", name="Kept beside")).to_have_count(0)

    def test_no_keystroke_is_lost_when_the_server_is_killed_again_and_again(self) -> None:
        port, folio = steady_port(), self.begin_folio()
        server = running().another_server(port)
        page = self.sign_in(
            sample_people.ILSE, address=f"http://127.0.0.1:{port}", path=f"/folios/{folio.pk}?question=4"
        )
        field = page.get_by_role("textbox", name="Your answer")
        field.click()
        typed = ""
        for turn in range(3):
            with page.expect_request(lambda sent: "/answers/" in sent.url and sent.method == "PUT"):
                page.keyboard.type(f"{turn}: before it dies, ")
            kill(server)  # what is under way may be written and not acknowledged
            page.keyboard.type("while it is dead, ")
            expect(page.get_by_text("kept on this device", exact=False).first).to_be_visible()
            server = running().another_server(port)
            page.keyboard.type("after it; ")
            typed += f"{turn}: before it dies, while it is dead, after it; "
            self.saved(page, "4", written=typed)
        expect(field).to_have_value(typed)
        self.assertFalse(SetAside.objects.exists(), "it quarrelled with itself")
        self.errors = [error for error in self.errors if "ERR_" not in error]

    def test_maths_is_written_without_a_network_too(self) -> None:
        line = Line(int(self.address.rpartition(":")[2]))
        self.addCleanup(line.close)
        folio = self.begin_folio()
        context = self.context(service_workers="allow")
        page = self.sign_in(sample_people.ILSE, context, line.address, f"/folios/{folio.pk}?question=3b")
        self.until_kept(page, "/maths-field", f"/api/folios/{folio.pk}")
        line.cut()
        page.reload()
        expect(page.get_by_text("No network.")).to_be_visible()
        self.open_answer(page, "3b")
        page.get_by_role("button", name="Write it as maths").click()
        expect(page.frame_locator("iframe").locator("math-field")).to_be_focused()
        page.keyboard.type("gT^2")
        page.keyboard.press("Enter")
        expect(page.get_by_role("textbox", name="Answer", exact=True)).to_have_value("g T^2")
        line.mend()
        self.saved(page, "3b", short="g T^2")
        self.errors = [error for error in self.errors if "ERR_" not in error]

    def test_an_instructor_says_how_a_question_is_answered_and_who_has_begun_is_told(self) -> None:
        folio = self.begin_folio()
        student = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        expect(student.get_by_role("button", name="6a, no page yet")).to_be_visible()
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/question-maps/{self.work.pk}")
        page.get_by_role("button", name="How 6a is answered").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("checkbox", name=re.compile("^On pages")).uncheck()
        dialog.get_by_role("checkbox", name=re.compile("^Chosen")).check()
        dialog.get_by_label("What is asked").fill("Which is faster, $c$ or $c_g$?")
        expect(dialog.get_by_text("Give at least two choices.")).to_be_visible()
        for at, text in enumerate(("the wave", "its group")):
            dialog.get_by_role("button", name="Add a choice").click()
            dialog.get_by_label(f"Choice {'AB'[at]}", exact=True).fill(text)
        dialog.get_by_role("checkbox", name="right").first.check()
        self.no_serious_findings(page, "how a question is answered")
        dialog.get_by_role("button", name="Done").click()
        page.get_by_role("button", name="Save the map").click()
        expect(page.get_by_text("6a is answered in another way")).to_be_visible()
        page.get_by_role("button", name="Save it").click()
        self.until(page, lambda: self.work.questions.get(label="6a").answering.kinds == (AnswerKind.CHOSEN,))
        expect(student.get_by_role("button", name="6a, not answered")).to_be_visible()
        student.get_by_role("button", name="Close").click()  # of the notice, which lies over the lower rows
        self.open_answer(student, "6a")
        student.get_by_role("radio", name="A the wave").check()
        self.saved(student, "6a", chosen=(self.work.questions.get(label="6a").answering.choices[0].id,))
