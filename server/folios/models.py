from __future__ import annotations

from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import F

from assignments.models import Assignment
from courses.models import Section
from folio_core.clock import Window
from folio_core.terms import Terms
from live.announcing import announce

from .events import AnyEvent, event_detail, read_event


class Folio(models.Model):
    """One student's bundle for one assignment. ``version`` is the optimistic lock on ``arrangement``.

    ``kept_terms``: the time rules and what was granted, as they were when the work was begun, with every amendment.
    """

    assignment = models.ForeignKey(Assignment, models.PROTECT, related_name="folios")
    student = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="folios")
    section = models.ForeignKey(Section, models.SET_NULL, null=True, blank=True, related_name="folios")
    begun_at = models.DateTimeField()
    kept_terms = models.JSONField()
    arrangement = models.JSONField(default=dict)
    version = models.PositiveIntegerField(default=0)
    attempt = models.PositiveSmallIntegerField(default=1, help_text="Rehearsals can be repeated; all else has one.")
    closed_until = models.DateTimeField(null=True, help_text="What happens by itself has happened up to here.")
    is_closed = models.BooleanField(default=False, help_text="All of it has happened.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assignment", "student", "attempt"], name="one_folio_each")]

    def __str__(self) -> str:
        return f"{self.student} · {self.assignment}"

    @property
    def terms(self) -> Terms:
        return Terms.from_document(self.kept_terms)

    def window(self) -> Window:
        """Every instant of this work."""
        return self.terms.window(self.begun_at)

    @property
    def topic(self) -> str:
        """What is announced of this folio is announced to this topic."""
        return folio_topic(self.pk)


def folio_topic(folio_id: int) -> str:
    return f"folio:{folio_id}"


def assignment_topic(assignment_id: int) -> str:
    """To which it is announced that somebody has begun."""
    return f"assignment:{assignment_id}"


class Event(models.Model):
    """The folio's record. Append-only: database triggers refuse change and removal, and chain the events of a folio.

    ``chain``: SHA-256 over the chain of the event before and what this one says, so that none can be left out unseen.
    """

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="events")
    kind = models.CharField(max_length=16)
    at = models.DateTimeField()
    detail = models.JSONField(default=dict)
    chain = models.CharField(max_length=64, editable=False, default="", help_text="Filled by the database.")

    class Meta:
        ordering = (F("pk").asc(),)
        indexes = [models.Index(fields=["folio", "at"]), models.Index(fields=["folio", "-id"])]

    @property
    def event(self) -> AnyEvent:
        return read_event(self.kind, self.detail)


def new_event(folio: Folio, event: Any, at: datetime) -> Event:
    """The row of an event, not saved yet."""
    return Event(folio=folio, kind=event.kind, at=at, detail=event_detail(event))


def record(folio: Folio, event: Any, at: datetime) -> Event:
    """Write an event (one of `events.AnyEvent`) into the folio's record."""
    row = new_event(folio, event, at)
    row.save()
    return row


def record_and_announce(folio: Folio, event: Any, at: datetime) -> None:
    """Write an event, and tell whoever looks at the folio."""
    record(folio, event, at)
    announce(folio.topic, event=event.kind)
