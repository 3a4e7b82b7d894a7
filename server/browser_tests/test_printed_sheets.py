"""A printed test that is filled in: set up by its instructor, photographed in any order, handed in without placing."""

from __future__ import annotations

import re
from datetime import timedelta
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from assignments.models import Assignment, Question
from demo import sample_people
from editions.models import Edition
from folio_camera.film import film, flags
from folio_camera.form_trials import photographed
from folio_camera.printed_forms import make_form
from folio_core.placing import read_arrangement
from folios.models import Folio
from plumbing.requests import moment

from .boards import PHONE
from .browsing import CHROMIUM, FLAGS, BrowserTestCase

FORM = make_form("boxes", 11, pages=4)


class PrintedSheets(BrowserTestCase):
    reads_pages = True

    def setUp(self) -> None:
        super().setUp()
        now = moment()
        self.work = Assignment.objects.create(
            course=self.assignments["great-circles"].course, title="Class test", opens=now - timedelta(days=1),
            due=now + timedelta(days=1),
        )  # fmt: skip
        for position, label in enumerate(FORM.spaces):
            Question.objects.create(assignment=self.work, position=position, label=label, points=4)

    def set_up(self) -> None:
        """The instructor drops the paper, looks the spaces over, and keeps them."""
        paper = self.folder() / "class-test.pdf"
        paper.write_bytes(FORM.pdf)
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{self.work.pk}")
        page.locator(".paper-box input[type=file]").set_input_files(str(paper))
        page.get_by_role("switch", name=re.compile("write their answers on this paper")).click()
        expect(page.get_by_text("Read from the paper", exact=False)).to_be_visible()
        page.get_by_role("checkbox", name=re.compile("^Bind the answers on the paper as it was printed")).check()
        self.no_serious_findings(page, "printed sheets")
        page.get_by_role("button", name="Keep these spaces").click()
        expect(page.get_by_role("link", name="Print it with codes")).to_be_visible()
        self.work.refresh_from_db()
        self.assertEqual((len(self.work.answer_spaces), self.work.clean_print), (len(FORM.spaces), True))
        with page.expect_download() as downloaded:
            page.get_by_role("link", name="Print it with codes").click()
        self.assertTrue(Path(downloaded.value.path()).read_bytes().startswith(b"%PDF"))

    def photographs(self, pages: list[int], without: str = "") -> list[Path]:
        made, folder = [], self.folder()
        for number, at in enumerate(pages):
            here = [label for label, boxes in FORM.spaces.items() if boxes[0][0] == at and label != without]
            path = folder / f"IMG_{number}.jpg"
            path.write_bytes(photographed(FORM, at, here, 5 + at, (1512, 2016)))
            made.append(path)
        return made

    def board(self) -> Page:
        page = self.sign_in(sample_people.ILSE, path=f"/assignments/{self.work.pk}")
        page.get_by_role("button", name="Begin and open the board").click()
        page.wait_for_url("**/folios/*")
        return page

    def test_a_space_is_moved_on_the_paper_by_pointer_and_by_keys(self) -> None:
        self.set_up()
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{self.work.pk}")
        question = next(iter(FORM.spaces))
        key = self.work.question_map.questions[0].id
        sheet, *before = self.work.answer_spaces[key][0]
        self.assertEqual(sheet, 0)
        space = page.get_by_role("button", name=re.compile(f"^Space of {re.escape(question)}:"))
        expect(page.get_by_role("img", name="Page 1 of the paper")).to_be_visible()
        space.scroll_into_view_if_needed()
        box, paper = space.bounding_box(), page.locator(".paper-spaces-sheet").bounding_box()
        assert box
        assert paper
        page.mouse.move(box["x"] + 30, box["y"] + 10)
        page.mouse.down()
        page.mouse.move(box["x"] + 30, box["y"] + 60, steps=4)
        page.mouse.up()
        down = 50 / paper["height"] * FORM.size_pt[1]
        # What the server says meanwhile, asked when the window is looked at again, takes nothing away.
        asked: list[str] = []
        page.on("response", lambda answer: asked.append(answer.url) if answer.url.endswith("/printed-sheets") else None)
        looked_at = "() => { window.dispatchEvent(new Event('visibilitychange')); }"
        self.until(page, lambda: page.evaluate(looked_at) is None and bool(asked))
        space.press("ArrowDown")
        space.press("Shift+ArrowLeft")
        page.get_by_role("button", name="Keep these spaces").click()
        expect(page.get_by_role("button", name="Keep these spaces")).to_have_count(0)
        self.work.refresh_from_db()
        _, *after = self.work.answer_spaces[key][0]
        a_millimetre = 72 / 25.4
        moved = [then - now for now, then in zip(before, after, strict=True)]
        wanted = [0, down + a_millimetre, -a_millimetre, down + a_millimetre]
        for got, want in zip(moved, wanted, strict=True):
            self.assertAlmostEqual(got, want, delta=1.5)
        # Another paper of the same name: its spaces are read anew, and those of the paper before are kept with that.
        kept = self.work.answer_spaces
        paper_file = self.folder() / "class-test.pdf"
        paper_file.write_bytes(make_form("lines", 5, pages=2).pdf)
        page.locator(".paper-box input[type=file]").first.set_input_files(str(paper_file))
        expect(page.get_by_text("Read from the paper", exact=False)).to_be_visible()
        expect(page.get_by_role("group", name="Page of the paper").get_by_role("button")).to_have_count(2)
        self.work.refresh_from_db()
        self.assertEqual((self.work.answer_spaces, self.work.former_papers[0]["spaces"]), ({}, kept))

    def test_by_touch_a_space_is_tapped_before_it_is_moved_so_that_the_page_can_be_scrolled(self) -> None:
        self.set_up()
        phone = self.context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
        page = self.sign_in(sample_people.INSTRUCTOR, phone, path=f"/setting-up/{self.work.pk}")
        one, two = (page.get_by_role("button", name=re.compile(f"^Space of {label}:")) for label in "12")
        expect(page.get_by_role("img", name="Page 1 of the paper")).to_be_visible()
        before = one.get_attribute("aria-label") or ""
        one.tap()
        self.drag(page, one, 0, 40)
        expect(one).not_to_have_attribute("aria-label", before)
        before = two.get_attribute("aria-label") or ""
        two.evaluate("space => space.scrollIntoView({ block: 'center' })")
        scrolled = page.evaluate("scrollY")
        self.drag(page, two, 0, -120)
        self.until(page, lambda: page.evaluate("scrollY") != scrolled)
        expect(two).to_have_attribute("aria-label", before)

    def drag(self, page: Page, space: Locator, x: float, y: float) -> None:
        space.evaluate("space => space.scrollIntoView({ block: 'center' })")
        box = space.bounding_box()
        assert box
        at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        touch = page.context.new_cdp_session(page)
        for kind, share in (
            ("touchStart", 0.0),
            *(("touchMove", step / 6) for step in range(1, 7)),
            ("touchEnd", None),
        ):
            points = [] if share is None else [{"x": at[0] + share * x, "y": at[1] + share * y}]
            touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    def test_four_filled_pages_in_any_order_are_handed_in_without_placing(self) -> None:
        self.set_up()
        page = self.board()
        self.add(page, self.photographs([2, 0, 3, 1]))
        self.tiles(page, 4)
        expect(page.get_by_text("of the printed paper with answers are here", exact=False)).to_be_visible()
        # From the last photograph to the receipt: two actions, and none of them places anything.
        page.keyboard.press("Control+Enter")
        expect(page.get_by_text("In the bound PDF your answers lie on the paper as it was printed")).to_be_visible()
        page.get_by_role("button", name=re.compile("hand in$", re.I)).click()
        expect(page.get_by_text("the one that counts")).to_be_visible()
        edition = Edition.objects.get(folio__assignment=self.work)
        self.assertEqual(edition.open_labels, [])
        arrangement = read_arrangement(edition.arrangement)
        numbers = {page: at for at, page in enumerate(arrangement.pages)}
        labels = {one.id: one.label for one in self.work.question_map.questions}
        placed = {labels[key]: numbers[row[0].page] for key, row in arrangement.placements.items()}
        self.assertEqual(placed, {label: boxes[0][0] for label, boxes in FORM.spaces.items()})
        self.until(page, lambda: Edition.objects.get(pk=edition.pk).state == Edition.State.BOUND)
        self.assertTrue(all(page.kept_on_print["sheet"] for page in edition.pages.all()))

    def test_a_missing_page_an_empty_answer_and_a_sheet_of_another_form_are_pointed_out(self) -> None:
        self.set_up()
        page = self.board()
        empty = next(label for label, boxes in FORM.spaces.items() if boxes[0][0] == 0)
        files = self.photographs([0, 3], without=empty)
        other = make_form("lines", 77, pages=2)
        strange = files[0].with_name("strange.jpg")
        strange.write_bytes(photographed(other, 1, list(other.spaces)[-1:], 3, (1512, 2016)))
        self.add(page, [*files, strange])
        self.tiles(page, 3)
        told = page.get_by_label("Printed sheets")
        expect(told).to_contain_text("2 and 3 of the printed paper are not here")
        expect(told).to_contain_text("not of this printed paper")
        expect(told).to_contain_text("seems empty")
        page.set_viewport_size({"width": 360, "height": 640})  # there the page itself needs the room
        expect(told.get_by_text("2 more about the printed sheets")).to_be_visible()
        expect(told.get_by_text("2 and 3 of the printed paper are not here")).to_be_visible()
        expect(told.get_by_role("button", name="Left blank on purpose")).to_be_hidden()
        page.set_viewport_size({"width": 1280, "height": 800})
        told.get_by_role("button", name="Left blank on purpose").click()
        expect(told.get_by_role("button", name="Left blank on purpose")).to_have_count(0)
        folio = Folio.objects.get(assignment=self.work)
        self.until(page, lambda: empty in {self.label(one) for one in read_arrangement(self.now(folio)).left_blank})

    def test_of_a_sheet_that_is_there_twice_the_better_picture_is_proposed_and_kept_by_one_press(self) -> None:
        self.set_up()
        page = self.board()
        answered = [label for label, boxes in FORM.spaces.items() if boxes[0][0] == 0]
        begun, done = self.folder() / "begun.jpg", self.folder() / "done.jpg"
        begun.write_bytes(photographed(FORM, 0, answered[:1], 5, (1512, 2016)))
        done.write_bytes(photographed(FORM, 0, answered, 5, (1512, 2016)))
        self.add(page, [done, begun])
        self.tiles(page, 2)
        told = page.get_by_label("Printed sheets")
        expect(told).to_contain_text("Pages 1 and 2 are the same page of the paper")
        expect(told).to_contain_text(re.compile(r"is the better picture \(page \d: less is written on it\)"))
        self.no_serious_findings(page, "the same sheet twice")
        page.keyboard.press("Control+Enter")
        findings = page.get_by_label("What is missing")
        expect(findings).to_contain_text("less is written on it")
        page.go_back()
        folio = Folio.objects.get(assignment=self.work)
        fuller = folio.pages.get(original__file_name="done.jpg").pk
        told.get_by_role("button", name=re.compile("^Keep page . only")).click()
        self.tiles(page, 1)
        expect(told).not_to_contain_text("the same page of the paper")
        self.until(page, lambda: read_arrangement(self.now(folio)).pages == (fuller,))
        # Taken back both are there again; and both may be meant.
        page.keyboard.press("Control+z")
        self.tiles(page, 2)
        told.get_by_role("button", name="Keep both").click()
        expect(told).not_to_contain_text("the same page of the paper")
        self.until(page, lambda: bool(read_arrangement(self.now(folio)).dismissed))
        page.reload()
        expect(told).to_contain_text("of the printed paper are not here")
        expect(told).not_to_contain_text("the same page of the paper")

    def test_a_phone_says_which_page_it_sees_and_which_are_still_to_come(self) -> None:
        self.set_up()
        board = self.board()
        with board.expect_response(
            lambda one: one.url.endswith("/camera-links") and one.request.method == "POST"
        ) as made:
            board.get_by_role("button", name="Photograph by phone").click()
        reel = self.folder() / "sheet.y4m"
        sheet = photographed(FORM, 2, list(FORM.spaces), 7, (1512, 2016))
        reel.write_bytes(b"".join(film([sheet], seconds_each=2, size=(1080, 1440))))
        camera = self.playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, *flags(str(reel))])
        self.addCleanup(camera.close)
        phone = camera.new_context(**PHONE, permissions=["camera"]).new_page()
        phone.goto(str(made.value.json()["address"]))
        expect(phone.get_by_text("Page 3 of the paper's 4 · still to come: 1, 2, 4")).to_be_visible()
        phone.get_by_role("button", name="Photograph page 1").tap()
        phone.get_by_role("button", name="Keep this page").tap()
        expect(
            phone.get_by_text("Page 3 of the paper's 4, which is on the board already · still to come: 1, 2, 4")
        ).to_be_visible()

    def now(self, folio: Folio) -> object:
        folio.refresh_from_db()
        return folio.arrangement

    def label(self, question: str) -> str:
        return self.work.question_map[question].label
