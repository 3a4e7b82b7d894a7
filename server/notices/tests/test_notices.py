"""Who is told of what: once, in the application and by mail as they chose."""

from __future__ import annotations

import io
import re
from datetime import timedelta
from typing import Any
from unittest import mock

import pypdf
from django.test import Client, override_settings

from assignments.models import PersonalTerms
from editions import closing
from editions.models import Edition
from editions.taking_back import take_back
from folios.beginning import create_folio
from folios.events import Bound
from folios.lengthening import lengthen
from folios.models import record
from folios.telling import tell
from notices import notifying, reminders
from notices.kinds import ABOUT, Kind
from notices.models import Mail, Notice
from testing.desk import NOW, DeskTestCase, picture


@override_settings(FOLIO_ADDRESS_IN_MAILS="https://folio.example")
class Notices(DeskTestCase):
    def mails(self, to: str = "ilse@kestrelpoint.example") -> list[Mail]:
        return list(Mail.objects.filter(to=to).order_by("pk"))

    def told(self, person: Any) -> list[str]:
        return [one.subject for one in Notice.objects.filter(person=person).order_by("pk")]

    def handed_in(self) -> Edition:
        self.send(picture(1))
        self.hand_in()
        self.work_off_jobs()
        return Edition.objects.get()

    def test_the_receipt_is_mailed_with_the_document_once(self) -> None:
        edition = self.handed_in()
        (mail,) = self.mails()
        self.assertIn("handed in, edition 1", mail.subject)
        self.assertIn("in time: 1 page", mail.text)
        self.assertIn(f"https://folio.example/folios/{self.folio.pk}/editions/1", mail.text)
        self.assertEqual(mail.attachment_name, "NAV_231_Great_circles_30417_Ilse_edition_1_receipt.pdf")
        assert mail.attachment is not None
        assert edition.receipt is not None
        inside = pypdf.PdfReader(io.BytesIO(bytes(mail.attachment))).attachments["receipt.json"][0]
        self.assertIn(edition.receipt["signature"].encode(), inside)
        record(self.folio, Bound(edition=1, sha256=edition.bound_sha256), NOW)
        self.assertEqual((len(self.mails()), len(self.told(self.ilse))), (1, 1))

    def test_a_receipt_that_cannot_be_drawn_keeps_no_edition_from_being_bound(self) -> None:
        with (
            mock.patch("notices.listening.receipt_as_pdf", side_effect=ValueError),
            self.assertLogs("notices.listening", "ERROR"),
        ):
            edition = self.handed_in()
        self.assertEqual(edition.state, Edition.State.BOUND)
        self.assertIsNone(self.mails()[0].attachment)

    def test_what_the_close_hands_in_is_told_as_that(self) -> None:
        self.send(picture(1))
        closing.close(self.folio.pk, NOW + timedelta(days=2))
        self.work_off_jobs()
        (mail,) = self.mails()
        self.assertIn("handed in by itself", mail.subject)
        self.assertIn("Nobody pressed the button", mail.text)

    def test_a_name_cannot_bring_markup_or_a_line_of_the_head_into_a_mail(self) -> None:
        self.ilse.first_name = "Ilse <b>\r\nBcc: x@y.z"
        self.ilse.save()
        self.folio.refresh_from_db()
        self.handed_in()
        (mail,) = self.mails()
        self.assertNotIn("<b>", mail.html)
        self.assertNotIn("\n", mail.subject)

    def test_instructors_hear_of_hand_ins_once_a_day_in_one_mail(self) -> None:
        self.handed_in()
        self.hand_in(seen_edition=1)
        self.assertEqual(self.mails(self.corin.email), [])
        self.assertEqual(len(self.told(self.corin)), 2)
        self.assertEqual(notifying.mail_digests(NOW), 1)
        self.assertEqual(notifying.mail_digests(NOW), 0)
        (mail,) = self.mails(self.corin.email)
        self.assertIn("2 things", mail.subject)
        self.assertIn("edition 2, in time", mail.text)

    def test_instructors_hear_of_what_is_taken_back(self) -> None:
        self.handed_in()
        take_back(self.folio, number=1, now=NOW)
        self.assertIn("took the work back", self.told(self.corin)[-1])

    def test_time_and_a_word_reach_the_student(self) -> None:
        folio = create_folio(self.sitting, self.tobin, NOW)
        lengthen(self.sitting, 10, only=None, by_name="Corin Vale", now=NOW)
        tell(self.sitting, "Question 2: g is 9.81", only=[folio.pk], by_name="Corin Vale", now=NOW)
        subjects = [mail.subject for mail in self.mails(self.tobin.email)]
        self.assertEqual(subjects, ["NAV 231 Midterm: 10 minutes more", "NAV 231 Midterm: a word from Corin Vale"])
        self.assertIn("until Tuesday 24 November, 13:00", self.mails(self.tobin.email)[0].text)

    def test_a_rehearsal_tells_nobody(self) -> None:
        rehearsal = self.assignment("Rehearsal", rehearsal_of=self.work)
        record(create_folio(rehearsal, self.tobin, NOW), Bound(edition=1, sha256=""), NOW)
        self.assertEqual(self.told(self.tobin), [])

    def test_a_choice_ends_mails_and_not_notices(self) -> None:
        body = '{"kind": "receipt", "by_mail": "never"}'
        self.as_(self.ilse).put("/api/notice-choices", body, content_type="application/json")
        self.handed_in()
        self.assertEqual((self.mails(), len(self.told(self.ilse))), ([], 1))

    def test_each_role_is_offered_its_own_choices(self) -> None:
        mine, theirs = (
            {one["kind"] for one in self.as_(user).get("/api/notice-choices").json()}
            for user in (self.ilse, self.corin)
        )
        self.assertEqual(theirs, {kind for kind, about in ABOUT.items() if about.staff})
        self.assertEqual(mine | theirs, set(Kind))

    def test_one_post_without_signing_in_ends_mails_of_the_kind_and_looking_does_not(self) -> None:
        """RFC 8058, 3.1 and 3.2: the POST has List-Unsubscribe=One-Click in it, and no cookies."""
        self.handed_in()
        path = f"/api{self.mails()[0].leave_path}"
        self.assertEqual(Client().get(path).json()["words"], [ABOUT[Kind.RECEIPT].words])
        self.assertEqual(notifying.choices_of([self.ilse.pk], Kind.RECEIPT)[self.ilse.pk], "at_once")
        post = Client(enforce_csrf_checks=True).post(path, {"List-Unsubscribe": "One-Click"})
        self.assertEqual((post.status_code, post.json()["email"]), (200, self.ilse.email))
        self.assertEqual(notifying.choices_of([self.ilse.pk], Kind.RECEIPT)[self.ilse.pk], "never")
        self.assertEqual(notifying.choices_of([self.ilse.pk], Kind.WORD)[self.ilse.pk], "at_once")
        forged = re.sub(r".$", lambda last: "A" if last[0] != "A" else "B", path)
        self.assertEqual(Client().post(forged).status_code, 404)

    def test_what_was_in_sight_is_read_and_what_came_later_is_not(self) -> None:
        self.handed_in()
        first = self.as_(self.ilse).get("/api/notices").json()
        tell(self.work, "One more thing", only=None, by_name="Corin", now=NOW)
        body = f'{{"newest": {first["notices"][0]["id"]}}}'
        self.as_(self.ilse).post("/api/notices/read", body, content_type="application/json")
        now = self.as_(self.ilse).get("/api/notices").json()
        self.assertEqual((first["unread"], now["unread"]), (1, 1))
        self.assertEqual(now["time_zone"], self.course.time_zone)  # as everywhere else, not the device's
        self.assertEqual([one["read"] for one in now["notices"]], [False, True])
        self.assertEqual(self.as_(self.tobin).get("/api/notices").json()["notices"], [])


class Reminders(DeskTestCase):
    def told(self, person: Any) -> list[str]:
        return [one.kind for one in Notice.objects.filter(person=person).order_by("pk")]

    def setUp(self) -> None:
        super().setUp()
        for one in (self.work, self.sitting):
            type(one).objects.filter(pk=one.pk).update(given_out_at=NOW - timedelta(days=3))

    def test_what_is_due_within_a_day_is_told_once_and_not_where_it_is_handed_in(self) -> None:
        reminders.remind(NOW - timedelta(minutes=1))
        self.assertEqual((self.told(self.ilse), self.told(self.tobin)), ([], []))
        reminders.remind(NOW)
        reminders.remind(NOW + timedelta(hours=1))
        self.assertEqual(self.told(self.ilse), ["closing", "closing"])  # both assignments are due at the same moment
        self.send(picture(1))
        self.hand_in()
        Notice.objects.all().delete()
        reminders.remind(NOW + timedelta(hours=2))
        self.assertEqual((self.told(self.ilse), self.told(self.tobin)), (["closing"], ["closing", "closing"]))

    def test_a_due_moment_of_ones_own_is_the_one_that_is_told(self) -> None:
        PersonalTerms.objects.create(assignment=self.work, person=self.tobin, due=NOW + timedelta(days=4))
        self.sitting.delete()
        reminders.remind(NOW)
        self.assertEqual((self.told(self.ilse), self.told(self.tobin)), (["closing"], []))
        reminders.remind(NOW + timedelta(days=3))
        self.assertEqual(self.told(self.tobin), ["closing"])

    def test_giving_out_and_opening_are_told_to_students_alone(self) -> None:
        type(self.sitting).objects.filter(pk=self.sitting.pk).update(
            given_out_at=NOW, opens=NOW + timedelta(hours=20), due=NOW + timedelta(days=9)
        )
        type(self.work).objects.filter(pk=self.work.pk).update(due=NOW + timedelta(days=30))
        reminders.remind(NOW)
        self.assertEqual(self.told(self.tobin), ["given_out", "opening"])
        self.assertEqual(self.told(self.corin), [])

    def test_a_draft_is_not_told_of(self) -> None:
        type(self.work).objects.update(given_out_at=None)
        reminders.remind(NOW)
        self.assertEqual(self.told(self.tobin), [])
