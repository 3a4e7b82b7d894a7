from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from assignments.models import Assignment
from editions.models import Edition
from folio_core.marking import LateRule, Stroke, Tool
from folios.models import Folio
from pages.models import Page

_PERCENT = [MinValueValidator(0), MaxValueValidator(100)]


class MarkingScheme(models.Model):
    """How an assignment is marked. ``step``: points are given in steps of it. ``hides_names``: markers see neither
    names nor numbers until the work is given back. ``marks_twice``: a second marker marks independently of the first.
    ``sample_percent``: of the marked answers that a moderator looks at again."""

    assignment = models.OneToOneField(Assignment, models.CASCADE, related_name="kept_marking_scheme")
    step = models.DecimalField(max_digits=4, decimal_places=2, default=0.5)
    hides_names = models.BooleanField(default=False)
    marks_twice = models.BooleanField(default=False)
    sample_percent = models.PositiveSmallIntegerField(default=0, validators=_PERCENT)
    drop_lowest = models.PositiveSmallIntegerField(default=0)
    late_percent = models.DecimalField(max_digits=5, decimal_places=2, default=0, validators=_PERCENT)
    late_every_minutes = models.PositiveIntegerField(default=24 * 60, validators=[MinValueValidator(1)])
    late_grace_minutes = models.PositiveIntegerField(default=0)
    late_most_percent = models.DecimalField(max_digits=5, decimal_places=2, default=100, validators=_PERCENT)
    version = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"Marking of {self.assignment}"

    @property
    def late_rule(self) -> LateRule:
        return LateRule(
            self.late_percent, timedelta(minutes=self.late_every_minutes), timedelta(minutes=self.late_grace_minutes),
            self.late_most_percent,
        )  # fmt: skip


class Round(models.TextChoices):
    """Which of the markings of an answer it is. Settled: two differed, and it was decided."""

    FIRST = "first"
    SECOND = "second"
    SETTLED = "settled"


class Mark(models.Model):
    """What a marker gave one answer of an edition. ``points``: None while there is only a note. ``version``: the
    optimistic lock."""

    edition = models.ForeignKey(Edition, models.PROTECT, related_name="marks")
    question = models.CharField(max_length=64, help_text="Its id on the frozen question map.")
    round = models.CharField(max_length=8, choices=Round, default=Round.FIRST)
    points = models.DecimalField(max_digits=7, decimal_places=2, null=True)
    not_attempted = models.BooleanField(default=False)
    note = models.TextField(blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()
    version = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["edition", "question", "round"], name="marked_once_a_round")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.points} for {self.question} of {self.edition}"


class MarkChange(models.Model):
    """Who gave what and when, one after another; nothing of it is ever changed."""

    mark = models.ForeignKey(Mark, models.CASCADE, related_name="changes")
    points = models.DecimalField(max_digits=7, decimal_places=2, null=True)
    not_attempted = models.BooleanField(default=False)
    note = models.TextField(blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.points} by {self.by} at {self.at}"


class Ink(models.Model):
    """A stroke or a sign on a page, in pixels of its original after EXIF. ``key``: the browser's own name of it: sent
    twice it is there once. ``question``: at whose answer it was drawn."""

    key = models.UUIDField(unique=True)
    page = models.ForeignKey(Page, models.PROTECT, related_name="ink")
    question = models.CharField(max_length=64)
    round = models.CharField(max_length=8, choices=Round, default=Round.FIRST)
    tool = models.CharField(max_length=16)
    points = models.JSONField()
    width = models.FloatField()
    text = models.CharField(max_length=500, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()
    erased_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.tool} on page {self.page_id}"

    @property
    def stroke(self) -> Stroke:
        points = tuple((x, y, pressure) for x, y, pressure in self.points)
        return Stroke(Tool(self.tool), points, self.width, self.text)


class AtWork(models.Model):
    """Which answer a marker looks at just now, so that two do not mark the same."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="+")
    marker = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    folio = models.ForeignKey(Folio, models.CASCADE, related_name="+")
    question = models.CharField(max_length=64)
    seen_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assignment", "marker"], name="at_work_at_one_answer")]

    def __str__(self) -> str:
        return f"{self.marker} at {self.question}"


class GivenBack(models.Model):
    """The marks of one edition as its student gets them, frozen when it was given back: what is marked otherwise later
    is seen when it is given back anew. ``opens_at``: the moment from which the student sees it."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="given_back")
    edition = models.ForeignKey(Edition, models.PROTECT, related_name="given_back")
    statement = models.JSONField()
    opens_at = models.DateTimeField()
    asks_until = models.DateTimeField(null=True, help_text="Until then its student may ask about a mark.")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()
    told_at = models.DateTimeField(null=True, help_text="When its student was told.")
    ended_at = models.DateTimeField(null=True, help_text="Given back anew, or taken back.")
    ended_why = models.CharField(max_length=500, blank=True, help_text="Why it was taken back; the student reads it.")

    class Meta:
        ordering = ("-pk",)
        constraints = [
            models.UniqueConstraint(fields=["folio"], condition=Q(ended_at=None), name="given_back_once_at_a_time")
        ]

    def __str__(self) -> str:
        return f"{self.edition}, given back for {self.opens_at:%d %b %H:%M}"


class MarkWord(models.Model):
    """A question of a student about a mark, or an answer to it. It stays at the answer. ``question``: the id of that
    which was marked."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="mark_words")
    question = models.CharField(max_length=64)
    text = models.TextField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"Word about {self.question} of {self.folio}"
