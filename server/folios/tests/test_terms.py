"""Beginning stores the rules and the extra time; later edits hold for begun work only in the student's favour."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from assignments.models import PersonalTerms
from courses.models import Enrolment
from folio_core.clock import ExtraTime, Lengthening, Rules, window
from folio_core.terms import Terms
from folios.beginning import create_folio
from folios.models import Folio
from testing.desk import NOW, DeskTestCase

MINUTE = timedelta(minutes=1)
_MINUTES = st.integers(0, 300)


class BegunWork(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.folio = create_folio(self.sitting, self.ilse, NOW)

    def closes(self) -> datetime:
        return Folio.objects.get(pk=self.folio.pk).window().closes

    def test_shorter_rules_take_nothing_from_who_has_begun(self) -> None:
        """Seen on a trial: 60 + 15 minutes shortened to 1 + 0 closed a running sitting at once."""
        self.sitting.writing_minutes, self.sitting.handover_minutes = 1, 0
        self.sitting.save()
        self.assertEqual(self.closes(), NOW + 110 * MINUTE)
        self.assertFalse(self.folio.events.filter(kind="amended").exists())
        begins_now = create_folio(self.sitting, self.tobin, NOW)
        self.assertEqual(begins_now.window().closes, NOW + MINUTE)

    def test_longer_rules_hold_for_them_too_and_are_told_and_recorded(self) -> None:
        self.sitting.writing_minutes = 120
        self.sitting.save()
        self.assertEqual(self.closes(), NOW + 135 * MINUTE)
        event = self.folio.events.get(kind="amended").event
        self.assertEqual((event.closed_before, event.closes_now), (NOW + 110 * MINUTE, NOW + 135 * MINUTE))

    def test_extra_time_and_a_personal_due_moment_given_later_are_amendments(self) -> None:
        line = Enrolment.objects.get(person=self.ilse)
        line.extra_factor = 2
        line.save()
        self.assertEqual(self.closes(), NOW + 205 * MINUTE)
        line.extra_factor = 1
        line.save()
        self.assertEqual(self.closes(), NOW + 205 * MINUTE, "it is not taken back")
        PersonalTerms.objects.create(assignment=self.work, person=self.ilse, due=self.work.due + timedelta(days=2))
        self.assertEqual(Folio.objects.get(assignment=self.work).window().closes, self.work.due + timedelta(days=2))

    def test_who_is_taken_off_the_roster_keeps_what_was_begun(self) -> None:
        Enrolment.objects.filter(person=self.ilse).delete()
        self.sitting.writing_minutes = 120
        self.sitting.save()
        self.assertEqual(self.closes(), NOW + 110 * MINUTE)
        self.assertEqual(self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").status_code, 200)


class KeptTerms(SimpleTestCase):
    @given(
        st.none() | _MINUTES, _MINUTES, _MINUTES, _MINUTES, st.booleans(), st.sampled_from([1.0, 1.25, 2.0]), _MINUTES,
        st.booleans(), st.booleans(), st.none() | _MINUTES, st.lists(st.integers(1, 60), max_size=3),
    )  # fmt: skip
    def test_the_window_of_kept_terms_is_that_of_the_rules_themselves(
        self, writing: int | None, handover: int, placing: int, pledging: int, cuts: bool, factor: float, more: int,
        on_handover: bool, on_due: bool, personal: int | None, given_minutes: list[int],
    ) -> None:  # fmt: skip
        opens, begun = datetime(2026, 11, 24, 9, tzinfo=UTC), datetime(2026, 11, 24, 10, tzinfo=UTC)
        rules = Rules(
            opens=opens, due=opens + timedelta(hours=9), writing_minutes=writing, handover_minutes=handover,
            due_cuts_sitting=cuts, placing_minutes=placing, pledge_minutes=pledging, zone=ZoneInfo("UTC"),
        )  # fmt: skip
        extra = ExtraTime(factor, more, on_handover, on_due)
        due = None if personal is None else rules.due + personal * MINUTE
        given_time = tuple(Lengthening(begun + number * MINUTE, one) for number, one in enumerate(given_minutes))
        direct = window(rules, begun, extra, personal_due=due, lengthenings=given_time)
        kept = Terms.from_document(Terms(rules, extra, due, given_time).as_document())
        self.assertEqual(kept.window(begun), direct)
