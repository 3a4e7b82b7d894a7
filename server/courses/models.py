from __future__ import annotations

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.validators import MinValueValidator
from django.db import models

from folio_core.clock import ExtraTime


def real_time_zone(name: str) -> None:
    import zoneinfo

    if name not in zoneinfo.available_timezones():
        raise ValidationError(f"“{name}” is no time zone of the IANA database. Write for example America/Halifax.")


class Course(models.Model):
    code = models.CharField(max_length=32, unique=True)
    title = models.CharField(max_length=200)
    time_zone = models.CharField(max_length=64, default="UTC", validators=[real_time_zone])
    place = models.CharField(max_length=80, blank=True, help_text="How the time zone is called in words.")

    def __str__(self) -> str:
        return f"{self.code} {self.title}"


class Enrolment(models.Model):
    """A line of the roster, with the student's extra time."""

    class Role(models.TextChoices):
        STUDENT = "student"
        INSTRUCTOR = "instructor"

    course = models.ForeignKey(Course, models.CASCADE, related_name="roster")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="enrolments")
    role = models.CharField(max_length=16, choices=Role, default=Role.STUDENT)
    extra_factor = models.FloatField(default=1.0, validators=[MinValueValidator(1.0)])
    extra_minutes = models.PositiveSmallIntegerField(default=0)
    extra_on_handover = models.BooleanField(default=False, help_text="The factor lengthens the handover too.")
    extra_on_due = models.BooleanField(default=False, help_text="The due moment moves by as much as the sitting grew.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["course", "person"], name="once_on_a_roster")]

    def __str__(self) -> str:
        return f"{self.person} in {self.course.code}"

    @property
    def extra_time(self) -> ExtraTime:
        return ExtraTime(self.extra_factor, self.extra_minutes, self.extra_on_handover, self.extra_on_due)
