from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import connection, models
from django.db.models import F, Q

from assignments.models import Assignment
from courses.models import Enrolment
from folio_core.clock import ExtraTime, Window, window
from folio_core.clock import Lengthening as GivenTime
from folio_core.page import Recipe, Tone

_GRANTED = """
SELECT line.extra_factor, line.extra_minutes, line.extra_on_handover, line.extra_on_due, own.due,
       given.at, given.minutes
FROM (SELECT array_agg(at ORDER BY at) AS at, array_agg(minutes ORDER BY at) AS minutes
      FROM folios_lengthening WHERE folio_id = %s) AS given
LEFT JOIN courses_enrolment AS line ON line.course_id = %s AND line.person_id = %s
LEFT JOIN assignments_personaldue AS own ON own.assignment_id = %s AND own.person_id = %s
"""


class Folio(models.Model):
    """One student's bundle for one assignment. ``version`` is the optimistic lock on ``arrangement``."""

    assignment = models.ForeignKey(Assignment, models.PROTECT, related_name="folios")
    student = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="folios")
    begun_at = models.DateTimeField()
    arrangement = models.JSONField(default=dict)
    version = models.PositiveIntegerField(default=0)
    attempt = models.PositiveSmallIntegerField(default=1, help_text="Rehearsals can be repeated; all else has one.")
    settled_until = models.DateTimeField(null=True, help_text="What happens by itself has happened up to here.")
    settled = models.BooleanField(default=False, help_text="All of it has happened.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assignment", "student", "attempt"], name="one_folio_each")]

    def __str__(self) -> str:
        return f"{self.student} · {self.assignment}"

    def window(self) -> Window:
        """Every instant of this sitting, as things stand now: in one round trip, for every page that arrives asks."""
        course = self.assignment.course_id
        with connection.cursor() as cursor:
            cursor.execute(_GRANTED, [self.pk, course, self.student_id, self.assignment_id, self.student_id])
            factor, minutes, on_handover, on_due, personal_due, at, more = cursor.fetchone()
        return window(
            self.assignment.rules,
            self.begun_at,
            ExtraTime() if factor is None else ExtraTime(factor, minutes, on_handover, on_due),
            personal_due=personal_due,
            lengthenings=[GivenTime(*given) for given in zip(at or (), more or (), strict=True)],
        )


def sitting_window(
    assignment: Assignment, student_id: int, folio: Folio | None, line: Enrolment | None = None
) -> Window:
    """The same for a list, from what was fetched for all of it, and for a sitting that is not begun or not saved.

    ``line``: of the roster, where it is known.
    """
    line = line or Enrolment.objects.filter(course=assignment.course_id, person=student_id).first()
    return window(
        assignment.rules,
        folio.begun_at if folio else None,
        line.extra_time if line else ExtraTime(),
        personal_due=next((own.due for own in assignment.personal_dues.all() if own.person_id == student_id), None),
        lengthenings=[given.as_given for given in folio.lengthenings.all()] if folio and folio.pk else (),
    )


class Lengthening(models.Model):
    """Minutes an instructor gave to one running sitting."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="lengthenings")
    at = models.DateTimeField()
    minutes = models.PositiveSmallIntegerField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ("at",)

    def __str__(self) -> str:
        return f"{self.minutes} min for {self.folio}"

    @property
    def as_given(self) -> GivenTime:
        return GivenTime(self.at, self.minutes)


class Pledge(models.Model):
    """A page promised: its fingerprint, sent ahead of its bytes. ``delivered`` when they came."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="pledges")
    sha256 = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    file_name = models.CharField(max_length=255)
    promised_at = models.DateTimeField()
    delivered = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["folio", "sha256"], name="promised_once")]

    def __str__(self) -> str:
        return f"{self.file_name} promised {self.promised_at:%H:%M:%S}"


class CameraLink(models.Model):
    """A right to add pages to one folio, and nothing else, for a phone without a sign-in. Its secret is not kept."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="camera_links")
    token_sha256 = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()
    until = models.DateTimeField()
    opened_at = models.DateTimeField(null=True, help_text="When a phone first opened it.")
    ended_at = models.DateTimeField(null=True, help_text="When the student took it back.")

    def __str__(self) -> str:
        return f"Camera of {self.folio} until {self.until:%H:%M}"


class Original(models.Model):
    """A file as it came. Its bytes are never changed; ``stored_as`` is a name in the default storage."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="originals")
    file_name = models.CharField(max_length=255)
    kind = models.CharField(max_length=32)
    sha256 = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    stored_as = models.CharField(max_length=255)
    arrived_at = models.DateTimeField()
    verdict = models.CharField(max_length=16)
    late_seconds = models.PositiveIntegerField(default=0)
    promised_at = models.DateTimeField(null=True, help_text="When its pledge was made, where there was one.")
    batch = models.UUIDField(null=True, help_text="Files chosen together, in the order of batch_number.")
    batch_number = models.PositiveSmallIntegerField(default=0)
    seconds = models.FloatField(null=True, help_text="From being chosen on the device to being safe here.")
    camera = models.ForeignKey(CameraLink, models.PROTECT, null=True, related_name="originals")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["folio", "sha256"], name="same_bytes_once")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.file_name


class Upload(models.Model):
    """A file on its way in pieces (tus 1.0). Its bytes so far lie in the folder of arrivals under ``key``."""

    key = models.UUIDField(primary_key=True, default=uuid.uuid4)
    folio = models.ForeignKey(Folio, models.PROTECT, related_name="uploads")
    size = models.PositiveBigIntegerField()
    about = models.JSONField(default=dict, help_text="What was said of the file when it set out.")
    set_out_at = models.DateTimeField()
    original = models.ForeignKey(Original, models.PROTECT, null=True, related_name="+")
    page = models.PositiveBigIntegerField(null=True)
    already = models.BooleanField(default=False)

    def __str__(self) -> str:
        return f"{self.about.get('file_name')} on its way to {self.folio}"


class Corrected(models.Model):
    """What a person set right about a page; None is left to the finder, and to the writing."""

    corners = models.JSONField(null=True, blank=True)
    turn = models.PositiveSmallIntegerField(null=True, blank=True)
    tone = models.CharField(max_length=16, default=Tone.CLEAN.value)

    class Meta:
        abstract = True

    @property
    def recipe(self) -> Recipe:
        corners: Any = None if self.corners is None else tuple((x, y) for x, y in self.corners)
        return Recipe(corners=corners, turn=self.turn, tone=Tone(self.tone))

    @recipe.setter
    def recipe(self, recipe: Recipe) -> None:
        self.corners, self.turn, self.tone = recipe.corners, recipe.turn, recipe.tone.value


class Page(Corrected):
    """One page of an original, and how it is made from it. ``image``, ``preview`` and
    ``source`` (the whole picture, small) are SHA-256 names."""

    class State(models.TextChoices):
        WAITING = "waiting"  # safe, not yet prepared by its present recipe; an older image may be there to show
        READY = "ready"
        FAILED = "failed"  # cannot be opened; out of the arrangement, the original is kept

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="pages")
    original = models.ForeignKey(Original, models.PROTECT, related_name="pages")
    index = models.PositiveIntegerField(default=0)
    state = models.CharField(max_length=16, choices=State, default=State.WAITING)
    trouble = models.CharField(max_length=32, blank=True)
    trouble_message = models.TextField(blank=True)
    image = models.CharField(max_length=64, blank=True)
    preview = models.CharField(max_length=64, blank=True)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    source = models.CharField(max_length=64, blank=True)
    findings = models.JSONField(default=dict, help_text="Corners, turn, confidence, measures, as the core gave them.")
    advice = models.JSONField(default=list, help_text="Code, where on the page, and of which other page.")
    likeness = models.BinaryField(default=bytes)
    taken = models.CharField(max_length=32, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["original", "index"], name="each_page_once")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.original.file_name} page {self.index + 1}"


class Edition(models.Model):
    """A frozen hand-in. Kept for ever; the newest counts."""

    class State(models.TextChoices):
        BINDING = "binding"
        BOUND = "bound"

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="editions")
    number = models.PositiveIntegerField()
    handed_in_at = models.DateTimeField()
    verdict = models.CharField(max_length=16)
    late_seconds = models.PositiveIntegerField(default=0)
    automatic = models.BooleanField(default=False, help_text="Handed in by itself: nobody pressed the button.")
    comment = models.TextField(blank=True)
    arrangement = models.JSONField()
    open_labels = models.JSONField(default=list)
    open_pages = models.PositiveIntegerField(default=0)
    page_count = models.PositiveIntegerField()
    state = models.CharField(max_length=16, choices=State, default=State.BINDING)
    bound_sha256 = models.CharField(max_length=64, blank=True)
    bound_size = models.PositiveBigIntegerField(default=0)
    stored_as = models.CharField(max_length=255, blank=True)
    receipt = models.JSONField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["folio", "number"], name="edition_numbered_once")]
        ordering = ("-number",)

    def __str__(self) -> str:
        return f"Edition {self.number} of {self.folio}"


class EditionPage(Corrected):
    """One page of an edition with the recipe it had. ``image`` is filled at binding where it was not yet prepared."""

    edition = models.ForeignKey(Edition, models.PROTECT, related_name="pages")
    number = models.PositiveIntegerField()
    page = models.ForeignKey(Page, models.PROTECT, related_name="+")
    image = models.CharField(max_length=64, blank=True)
    preview = models.CharField(max_length=64, blank=True)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["edition", "number"], name="edition_page_numbered_once"),
            models.CheckConstraint(condition=Q(number__gt=0), name="edition_pages_count_from_one"),
        ]
        ordering = ("number",)


class Event(models.Model):
    """The folio's record. Append-only: a database trigger refuses change and removal."""

    class Kind(models.TextChoices):
        BEGUN = "begun"
        ARRIVED = "arrived"
        FAILED = "failed"
        ARRANGED = "arranged"
        RETAKEN = "retaken"
        HANDED_IN = "handed_in"
        BOUND = "bound"
        PLEDGED = "pledged"
        LENGTHENED = "lengthened"

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="events")
    kind = models.CharField(max_length=16, choices=Kind)
    at = models.DateTimeField()
    detail = models.JSONField(default=dict)

    class Meta:
        ordering = (F("pk").asc(),)
        indexes = [models.Index(fields=["folio", "at"])]


def record(folio: Folio, kind: Event.Kind, at: Any, **detail: Any) -> Event:
    return Event.objects.create(folio=folio, kind=kind, at=at, detail=detail)
