"""Each screen where things are not as usual: wrong password, closed, empty, by keyboard, from another account."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

from django.utils import timezone
from PIL import Image, ImageDraw
from playwright.sync_api import Locator, Page, Route, expect

from demo import sample_people, scenario
from demo.sample_people import Person
from editions.handing_in import hand_in
from editions.models import Edition
from folio_core.placing import read_arrangement
from folios.arrangements import store
from folios.beginning import create_folio
from folios.models import Folio
from pages.arrival import receive
from pages.models import Page as FolioPage
from pages.sent import Sent
from people.models import User
from testing.terms import set_rules

from .browsing import BrowserTestCase

WORK = "Problem set 5: great circles"


class Screens(BrowserTestCase):
    def ilse(self) -> User:
        return User.objects.get(email=sample_people.ILSE.email)

    def folio(self, key: str = "great-circles") -> Folio:
        return create_folio(self.assignments[key], self.ilse(), timezone.now() - timedelta(minutes=30))

    def picture(self, text: str, size: tuple[int, int] = (600, 848)) -> Path:
        image = Image.new("RGB", size, "white")
        ImageDraw.Draw(image).text((60, 80), text * 12, fill="black", font_size=30)
        path = self.folder() / f"{text}.png"
        image.save(path)
        return path

    def send(self, folio: Folio, text: str) -> int:
        return receive(folio, [self.picture(text).read_bytes()], Sent(f"{text}.png"), timezone.now).page_id

    def open(self, path: str, page: Page) -> None:
        page.goto(f"{self.address}{path}")

    def board(self, *texts: str) -> Page:
        """Ilse's board with a page of each text on it."""
        folio = self.folio()
        for text in texts:
            self.send(folio, text)
        page = self.sign_in(sample_people.ILSE)
        self.open(f"/folios/{folio.pk}", page)
        self.tiles(page, len(texts))
        return page

    def test_a_wrong_password_is_said_so_and_the_right_one_still_works(self) -> None:
        page = self.context().new_page()
        self.open("/", page)
        self.no_serious_findings(page, "sign-in")
        page.get_by_label("Mail address").fill(sample_people.ILSE.email)
        page.get_by_label("Password").fill("guess")
        page.keyboard.press("Enter")
        expect(page.get_by_text("do not belong together")).to_be_visible()
        page.get_by_label("Password").fill(scenario.PASSWORD)
        page.keyboard.press("Enter")
        expect(page.get_by_text("no. 30417")).to_be_visible()
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_label("Password")).to_be_visible()

    def test_who_goes_on_leaves_a_screen_at_once(self) -> None:
        """Within the same event: what is typed next must not go to a field of the screen that was left."""
        page = self.context().new_page()
        self.open("/", page)
        expect(page.get_by_label("Password")).to_be_visible()
        left = page.evaluate("""async () => {
            const field = document.querySelector('input[type=password]');
            [...document.links].find((link) => link.pathname === '/password').click();
            await null;
            return !field.isConnected;
        }""")
        self.assertTrue(left)
        expect(page.get_by_role("heading", name="A new password")).to_be_visible()

    def test_a_forgotten_password_is_set_by_a_link_and_the_account_says_what_it_is(self) -> None:
        page = self.context().new_page()
        self.open("/", page)
        page.get_by_role("link", name="Password forgotten?").click()
        expect(page.get_by_role("heading", name="A new password")).to_be_visible()
        page.get_by_label("Mail address").fill(sample_people.ILSE.email)
        page.get_by_role("button", name="Send me a link").click()
        expect(page.get_by_text("a link is on its way")).to_be_visible()
        self.open("/post-box", page)
        letter = page.locator("pre", has_text="/password/").first
        expect(letter).to_be_visible()
        link = re.search(r"(/password/\S+)", letter.inner_text())
        assert link
        self.open(link[1], page)
        self.no_serious_findings(page, "new password")
        page.get_by_label("The new one").fill("short")
        page.get_by_role("button", name="Set it").click()
        expect(page.get_by_text("At least 10 characters.", exact=True)).to_be_visible()
        page.get_by_label("The new one").fill("a horizon of brass")
        page.get_by_role("button", name="Set it").click()
        page.get_by_role("link", name="Sign in with it").click()
        expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
        page.get_by_label("Mail address").fill(sample_people.ILSE.email)
        page.get_by_label("Password").fill("a horizon of brass")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Help").click()
        expect(page.get_by_role("dialog").get_by_text("Whom to ask")).to_be_visible()
        expect(page.get_by_role("dialog").get_by_text(sample_people.INSTRUCTOR.email).first).to_be_visible()
        self.no_serious_findings(page, "help")
        page.keyboard.press("Escape")
        page.get_by_role("link", name="Account").click()
        expect(page.get_by_role("heading", name="Second factor")).to_be_visible()
        expect(page.get_by_text("It keeps no file of yours")).to_be_visible()
        self.no_serious_findings(page, "account")

    def test_a_passkey_is_added_and_signs_in(self) -> None:
        """At a name: browsers offer no passkeys to a bare address. The authenticator is Chromium's own virtual one."""
        named = self.address.replace("127.0.0.1", "localhost")
        page = self.sign_in(sample_people.ILSE, address=named, path="/account")
        keys = page.context.new_cdp_session(page)
        keys.send("WebAuthn.enable")
        kind = {"protocol": "ctap2", "transport": "internal", "hasUserVerification": True, "isUserVerified": True}
        added = keys.send("WebAuthn.addVirtualAuthenticator", {"options": kind})
        page.get_by_label("Name of the device").fill("Ilse's phone")
        page.get_by_role("button", name="Add a passkey").click()
        expect(page.get_by_text("Keep these codes on paper")).to_be_visible()
        expect(page.get_by_text("not used yet")).to_be_visible()
        self.no_serious_findings(page, "account with a passkey")
        self.sign_out(page)
        self.begin_to_sign_in(page, sample_people.ILSE)
        page.get_by_role("button", name="Use your passkey").click()
        expect(page.get_by_text("last used")).to_be_visible()
        self.sign_out(page)
        keys.send("WebAuthn.removeVirtualAuthenticator", added)
        keys.send("WebAuthn.addVirtualAuthenticator", {"options": kind | {"isUserVerified": False}})
        self.begin_to_sign_in(page, sample_people.ILSE)
        page.get_by_role("button", name="Use your passkey").click()
        expect(page.get_by_text("The passkey was not used")).to_be_visible()
        self.no_serious_findings(page, "second step of signing in")
        self.errors.clear()  # the 401s of passwords that wanted a second factor

    def begin_to_sign_in(self, page: Page, person: Person) -> None:
        page.get_by_label("Mail address").fill(person.email)
        page.get_by_label("Password").fill(scenario.PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_text("One more step")).to_be_visible()

    def test_an_empty_board_says_what_to_do_and_cannot_be_handed_in(self) -> None:
        folio = self.folio()
        page = self.sign_in(sample_people.ILSE)
        self.open(f"/folios/{folio.pk}", page)
        expect(page.get_by_role("heading", name="Lay your pages here")).to_be_visible()
        self.no_serious_findings(page, "empty board")
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_role("button", name="Hand in", exact=True)).to_be_disabled()
        expect(page.get_by_text("There is no page in this folio yet")).to_be_visible()

    def test_somebody_elses_folio_and_an_address_that_is_none(self) -> None:
        folio = self.folio()
        page = self.sign_in(sample_people.TOBIN)
        for path in (f"/folios/{folio.pk}", f"/folios/{folio.pk}/editions/1", f"/folios/{folio.pk}/check"):
            self.open(path, page)
            expect(page.get_by_text("There is nothing here for this account").first).to_be_visible()
        self.open("/no/such/screen", page)
        expect(page.get_by_role("heading", name="There is nothing at this address")).to_be_visible()

    def test_the_whole_board_by_keyboard(self) -> None:
        folio = self.folio()
        ids = [self.send(folio, text) for text in ("one", "two", "three")]
        page = self.sign_in(sample_people.ILSE)
        self.open(f"/folios/{folio.pk}", page)
        self.tiles(page, 3)
        line = page.get_by_label(re.compile("^On page"))
        line.focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_text("On page 2:")).to_be_visible()
        page.keyboard.press("Alt+ArrowLeft")
        expect(page.get_by_text("page 2 moved to 1")).to_be_attached()
        page.keyboard.type("1a, c")
        page.keyboard.press("Enter")
        expect(page.get_by_text("On page 2:")).to_be_visible()
        page.keyboard.press(".")
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Delete")
        expect(page.locator(".strip img")).to_have_count(2)
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        stored = self.by_label(Folio.objects.get())
        self.assertEqual(stored["order"], [ids[1], ids[0], ids[2]])
        self.assertEqual(set(stored["placements"]), {"1a", "1c"})
        self.assertEqual((stored["loose"], stored["removed"]), ([ids[0]], [ids[2]]))
        for _ in range(4):
            page.keyboard.press("Control+z")
        expect(page.locator(".strip img")).to_have_count(3)
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        stored = self.by_label(Folio.objects.get())
        self.assertEqual((stored["order"], stored["placements"], stored["removed"]), (ids, {}, []))

    def row(self, page: Page, label: str) -> Locator:
        """The head of a question's row: pressed, it is placed on the chosen page, or taken off."""
        return page.get_by_role("button", name=re.compile(f"^{label}, "))

    def test_the_last_changes_are_saved_though_the_board_is_left_at_once(self) -> None:
        page = self.board("one")
        held: list[Route] = []
        page.route("**/arrangement", lambda route: held.append(route) if not held else route.continue_())  # a slow line
        for label in ("1a", "1b", "2c"):
            self.row(page, label).click()
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("Your last change on the board is being saved")).to_be_visible()
        held[0].continue_()
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_role("heading", name="Handed in")).to_be_visible()
        edition = Edition.objects.get()
        self.assertEqual(set(self.by_label(edition.folio, edition.arrangement)["placements"]), {"1a", "1b", "2c"})

    def test_a_screen_that_did_not_come_is_asked_for_again_until_it_does(self) -> None:
        page = self.context().new_page()
        page.route("**/assets/Board.screen-*.js*", lambda route: route.abort())
        folio = self.folio()
        self.send(folio, "one")
        self.open(f"/folios/{folio.pk}", page)
        page.get_by_label("Mail address").fill(sample_people.ILSE.email)
        page.get_by_label("Password").fill(scenario.PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_text("Getting this screen")).to_be_visible()
        expect(page.get_by_text("the network may be weak or gone. It is tried again by itself")).to_be_visible()
        page.unroute("**/assets/Board.screen-*.js*")
        self.tiles(page, 1)

    def test_every_screen_is_there_when_the_network_goes_after_signing_in(self) -> None:
        folio = self.folio()
        self.send(folio, "one")
        page = self.sign_in(sample_people.ILSE)
        page.wait_for_load_state("networkidle")
        page.context.set_offline(True)
        row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name=WORK))
        row.get_by_role("link", name="Open the board").click()
        page.context.set_offline(False)
        self.tiles(page, 1)
        self.errors = [error for error in self.errors if "ERR_INTERNET_DISCONNECTED" not in error]

    def test_a_page_is_turned_and_its_original_is_not(self) -> None:
        page = self.board("sideways")
        picture = page.get_by_role("img", name="Page 1 as it will be read")
        expect(picture).to_have_attribute("width", "600")
        page.get_by_role("button", name="Turn right").click()
        expect(picture).to_have_attribute("width", "848")
        self.until(page, lambda: FolioPage.objects.get().turn == 90)
        for _ in range(2):  # quicker than the server answers
            page.get_by_role("button", name="Turn left").click()
        self.until(page, lambda: FolioPage.objects.get().turn == 270)
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("^Original")).click()
        self.assertEqual(download.value.suggested_filename, "sideways.png")
        self.assertEqual(Image.open(str(download.value.path())).size, (600, 848))

    def test_in_the_dark_every_screen_can_be_read_and_pages_stay_paper(self) -> None:
        page = self.board("one", "two")
        self.row(page, "2b").click()
        page.emulate_media(color_scheme="dark")
        ground = "getComputedStyle(document.body).backgroundColor"
        self.until(page, lambda: page.evaluate(ground) == "rgb(20, 23, 31)")
        self.no_serious_findings(page, "board in the dark")
        picture = page.get_by_role("img", name="Page 1 as it will be read")
        self.assertEqual(picture.evaluate("one => getComputedStyle(one).filter"), "brightness(1)")
        page.get_by_role("button", name="All keys").click()
        expect(page.get_by_role("dialog")).to_be_visible()
        self.no_serious_findings(page, "keys in the dark")
        page.keyboard.press("Escape")
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("8 questions without a page")).to_be_visible()
        self.no_serious_findings(page, "check in the dark")
        page.get_by_role("link", name="Account").click()
        page.get_by_text("Dimmed more").click()
        dim = "getComputedStyle(document.documentElement).getPropertyValue('--dim')"
        self.until(page, lambda: page.evaluate(dim) == "0.7")
        self.no_serious_findings(page, "account in the dark")
        page.get_by_text("Light", exact=True).click()
        self.until(page, lambda: page.evaluate(ground) == "rgb(245, 241, 232)")
        page.reload()  # the choice is kept, whatever the device wishes
        expect(page.get_by_role("heading", name="How it looks on this device")).to_be_visible()
        self.until(page, lambda: page.evaluate(ground) == "rgb(245, 241, 232)")

    def test_taking_a_question_off_a_page_and_placing_it_on_another(self) -> None:
        page = self.board("one", "two")
        self.row(page, "2b").click()
        expect(page.get_by_text("1 of 9")).to_be_visible()
        page.get_by_role("button", name="Take 2b off page 1").click()
        expect(page.get_by_text("0 of 9")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Page 2,")).click()
        self.row(page, "2b").click()
        expect(page.get_by_text("1 of 9")).to_be_visible()
        self.row(page, "2b").click()
        expect(page.get_by_text("0 of 9")).to_be_visible()

    def test_after_the_close_the_board_and_the_brief_say_so_and_take_nothing(self) -> None:
        folio = self.folio()
        self.send(folio, "in time")
        hand_in(folio, seen_edition=0, now=timezone.now())
        work = self.assignments["great-circles"]
        work.due, work.late_until, work.placing_minutes = timezone.now() - timedelta(minutes=5), None, 0
        work.save()
        set_rules(folio, due=work.due, late_until=None, placing_minutes=0)
        page = self.sign_in(sample_people.ILSE)
        self.open(f"/folios/{folio.pk}", page)
        expect(page.locator(".board-closed")).to_contain_text("Your work is handed in")
        expect(page.get_by_text("Closed", exact=True)).to_be_visible()
        expect(page.get_by_role("button", name="Add pages")).to_have_count(0)
        self.open(f"/folios/{folio.pk}/check", page)
        expect(page.get_by_role("button", name="Hand in", exact=True)).to_be_disabled()
        self.open(f"/folios/{folio.pk}/editions/1", page)
        expect(page.get_by_role("heading", name="Handed in")).to_be_visible()
        expect(page.get_by_text("Something wrong?")).to_have_count(0)
        other = self.sign_in(sample_people.TOBIN)
        self.open(f"/assignments/{work.pk}", other)
        expect(other.get_by_text("This is closed.")).to_be_visible()

    def test_a_begun_sitting_shows_its_own_close_everywhere(self) -> None:
        folio = self.folio("noon-sight")
        page = self.sign_in(sample_people.ILSE)
        closes = f"{timezone.localtime(folio.window().closes, ZoneInfo(scenario.TIME_ZONE)):%H:%M}"
        page.wait_for_url("**/folios/*")  # a running sitting is what one comes back to
        page.get_by_role("link", name="Inked Folio, my folios").click()
        row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name="Midterm: the noon sight"))
        expect(row.get_by_text(re.compile(f"closes .*{closes}"))).to_be_visible()
        self.open(f"/folios/{folio.pk}", page)
        expect(page.get_by_text(f"handover until {closes}")).to_be_visible()

    def test_the_students_word_reaches_the_reader_who_walks_from_folio_to_folio(self) -> None:
        folio = self.folio()
        self.send(folio, "mine")
        folio.refresh_from_db()
        store(folio, replace(read_arrangement(folio.arrangement), comment="2b goes on overleaf"))
        hand_in(folio, seen_edition=0, now=timezone.now())
        tobin = User.objects.get(email=sample_people.TOBIN.email)
        other = create_folio(folio.assignment, tobin, timezone.now())
        self.send(other, "his")
        hand_in(other, seen_edition=0, now=timezone.now())
        page = self.sign_in(sample_people.INSTRUCTOR)
        self.open(f"/reading/{folio.assignment_id}", page)
        expect(page.get_by_role("heading", name="2 of 12 students handed in")).to_be_visible()
        page.get_by_role("link", name="Tobin Ashgrove", exact=True).click()
        expect(page.get_by_role("heading", name="Tobin Ashgrove")).to_be_visible()
        page.get_by_role("link", name="Ilse Marrow →").click()
        expect(page.get_by_text("“2b goes on overleaf”")).to_be_visible()
        expect(page.get_by_role("img", name="Page 1")).to_be_visible()
        self.assertEqual(Edition.objects.count(), 2)
