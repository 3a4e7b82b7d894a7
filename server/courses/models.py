from __future__ import annotations

import zoneinfo

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models.functions import Lower

from folio_core.binding import Paper
from folio_core.clock import ExtraTime


def real_time_zone(name: str) -> None:
    if name not in zoneinfo.available_timezones():
        raise ValidationError(f"“{name}” is no time zone of the IANA database. Write for example America/Halifax.")


class PaperSize(models.TextChoices):
    A4 = Paper.A4.name, "A4"
    LETTER = Paper.LETTER.name, "Letter"


class Department(models.Model):
    """Owns courses; its administrators see to people, courses and roles."""

    code = models.CharField(max_length=32, unique=True)
    title = models.CharField(max_length=200)
    administrators = models.ManyToManyField(
        settings.AUTH_USER_MODEL, blank=True, related_name="administered_departments"
    )

    def __str__(self) -> str:
        return f"{self.code} {self.title}"


class Course(models.Model):
    """``contact_…``: whom a student of the course asks for help."""

    department = models.ForeignKey(Department, models.PROTECT, null=True, blank=True, related_name="courses")
    code = models.CharField(max_length=32, unique=True)
    title = models.CharField(max_length=200)
    term = models.CharField(max_length=40, blank=True)
    time_zone = models.CharField(max_length=64, default="UTC", validators=[real_time_zone])
    place = models.CharField(max_length=80, blank=True, help_text="How the time zone is called in words.")
    paper_size = models.CharField(max_length=8, choices=PaperSize, default=PaperSize.A4)
    proposes = models.BooleanField(default=True, help_text="Labels on pages are read, if the assignment says so.")
    contact_name = models.CharField(max_length=120, blank=True)
    contact_email = models.EmailField(blank=True)
    contact_note = models.CharField(max_length=200, blank=True, help_text="When and where help is found.")
    version = models.PositiveIntegerField(default=0, editable=False, help_text="The optimistic lock on its facts.")
    join_code = models.CharField(max_length=12, blank=True, editable=False, help_text="Empty: nobody can join by it.")
    join_until = models.DateTimeField(null=True, editable=False)
    join_asks = models.BooleanField(default=False, editable=False, help_text="An instructor lets in who joins.")

    class Meta:
        constraints = [
            models.UniqueConstraint(Lower("code"), name="course_code_once"),
            models.UniqueConstraint(
                fields=["join_code"], condition=~models.Q(join_code=""), name="join_code_of_one_course"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code} {self.title}"


class Section(models.Model):
    """A group of a course that meets by itself."""

    course = models.ForeignKey(Course, models.CASCADE, related_name="sections")
    name = models.CharField(max_length=40)

    class Meta:
        ordering = ("name",)
        constraints = [models.UniqueConstraint(fields=["course", "name"], name="section_named_once")]

    def __str__(self) -> str:
        return f"{self.course.code} {self.name}"


class JoinRequest(models.Model):
    """Somebody who has the code of a course and waits to be let in."""

    course = models.ForeignKey(Course, models.CASCADE, related_name="join_requests")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    asked_at = models.DateTimeField()

    class Meta:
        ordering = ("asked_at", "pk")
        constraints = [models.UniqueConstraint(fields=["course", "person"], name="one_join_request_each")]

    def __str__(self) -> str:
        return f"{self.person} to {self.course.code}"


EXTRA_FACTORS = (MinValueValidator(1.0), MaxValueValidator(4.0))
EXTRA_MINUTES = (MaxValueValidator(600),)


class Enrolment(models.Model):
    """A person in a course in one role; a student's with the section and the extra time."""

    class Role(models.TextChoices):
        STUDENT = "student"
        MARKER = "marker"  # reads and marks what is in its scopes
        INSTRUCTOR = "instructor"

    course = models.ForeignKey(Course, models.CASCADE, related_name="roster")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="enrolments")
    role = models.CharField(max_length=16, choices=Role, default=Role.STUDENT)
    section = models.ForeignKey(Section, models.SET_NULL, null=True, blank=True, related_name="enrolments")
    extra_factor = models.FloatField(default=1.0, validators=EXTRA_FACTORS)
    extra_minutes = models.PositiveSmallIntegerField(default=0, validators=EXTRA_MINUTES)
    extra_on_handover = models.BooleanField(default=False, help_text="The factor lengthens the handover too.")
    extra_on_due = models.BooleanField(default=False, help_text="The due moment moves by as much as the sitting grew.")

    extra_reason = models.CharField(max_length=200, blank=True, help_text="Only staff see it.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["course", "person", "role"], name="once_a_role_on_a_roster")]

    def __str__(self) -> str:
        return f"{self.person} in {self.course.code}"

    @property
    def extra_time(self) -> ExtraTime:
        return ExtraTime(self.extra_factor, self.extra_minutes, self.extra_on_handover, self.extra_on_due)
