"""The feed of due moments, read back by icalendar's parser (RFC 5545)."""

from __future__ import annotations

from datetime import timedelta

from icalendar import Calendar

from assignments.models import PersonalTerms
from testing.desk import NOW, DeskTestCase


class Feed(DeskTestCase):
    def calendar(self) -> Calendar:
        address = self.as_(self.ilse).get("/api/calendar").json()["address"]
        answer = self.as_(None).get(address.removeprefix("http://testserver"))
        self.assertEqual(answer["Content-Type"], "text/calendar; charset=utf-8")
        return Calendar.from_ical(answer.content)

    def test_due_moments_and_the_latest_beginning_are_events_in_utc(self) -> None:
        events = {str(event["summary"]): event for event in self.calendar().walk("VEVENT")}
        self.assertEqual(events["Due: NAV 231 Great circles"].start, self.work.due)
        begin = events["Begin by now for full time: NAV 231 Midterm"]
        self.assertEqual(begin.start, self.sitting.due - timedelta(minutes=110))

    def test_a_personal_due_moment_is_the_one_told(self) -> None:
        PersonalTerms.objects.create(assignment=self.work, person=self.ilse, due=NOW + timedelta(days=9))
        events = {str(event["summary"]): event for event in self.calendar().walk("VEVENT")}
        self.assertEqual(events["Due: NAV 231 Great circles"].start, NOW + timedelta(days=9))

    def test_each_event_has_what_rfc_5545_requires(self) -> None:
        """RFC 5545, sections 3.6 (PRODID, VERSION) and 3.6.1 (UID, DTSTAMP, DTSTART); lines end in CRLF, 75 octets."""
        calendar = self.calendar()
        self.assertEqual(str(calendar["version"]), "2.0")
        self.assertIn("prodid", calendar)
        uids = [str(event["uid"]) for event in calendar.walk("VEVENT")]
        self.assertEqual(len(uids), len(set(uids)))
        for event in calendar.walk("VEVENT"):
            self.assertTrue({"uid", "dtstamp", "dtstart"} <= {key.lower() for key in event})
        lines = calendar.to_ical().split(b"\r\n")
        self.assertLessEqual(max(map(len, lines)), 75)

    def test_a_made_up_address_gives_nothing(self) -> None:
        self.assertEqual(self.as_(None).get("/api/calendar/1:abc.ics").status_code, 404)

    def test_another_address_ends_the_one_before(self) -> None:
        client = self.as_(self.ilse)
        before = client.get("/api/calendar").json()["address"]
        after = client.post("/api/calendar").json()["address"]
        self.assertEqual(client.get("/api/calendar").json()["address"], after)
        self.assertEqual([self.as_(None).get(one).status_code for one in (before, after)], [404, 200])
