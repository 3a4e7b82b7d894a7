from __future__ import annotations

from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models
from django.utils.functional import cached_property

from courses.models import Course
from folio_core.binding import Paper
from folio_core.clock import Rules
from folio_core.outline import Item, Outline


class Assignment(models.Model):
    class PaperSize(models.TextChoices):
        A4 = "A4", "A4"
        LETTER = "LETTER", "Letter"

    course = models.ForeignKey(Course, models.CASCADE, related_name="assignments")
    title = models.CharField(max_length=200)
    instructions = models.TextField(blank=True)
    question_sheet = models.FileField(upload_to="question-sheets/", blank=True)
    paper = models.CharField(max_length=8, choices=PaperSize, default=PaperSize.A4)

    opens = models.DateTimeField()
    due = models.DateTimeField()
    late_until = models.DateTimeField(null=True, blank=True, help_text="Untimed work only. Empty: no late work.")
    writing_minutes = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Empty: untimed work.")
    handover_minutes = models.PositiveSmallIntegerField(default=15)
    due_cuts_sitting = models.BooleanField(default=True, help_text="The due moment ends a sitting that still runs.")
    placing_minutes = models.PositiveIntegerField(default=0, help_text="How long placing may go on after the close.")
    pledge_minutes = models.PositiveSmallIntegerField(
        default=10, help_text="How long after the limit the bytes of pages promised before it are taken. 0: no pledges."
    )
    offers_rehearsal = models.BooleanField(
        default=True, help_text="Students may practise: same rules, counts for nothing."
    )
    rehearsal_of = models.OneToOneField("self", models.CASCADE, null=True, blank=True, related_name="rehearsal")

    class Meta:
        ordering = ("due", "pk")

    def __str__(self) -> str:
        return f"{self.course.code} · {self.title}"

    def clean(self) -> None:
        if self.writing_minutes is not None and self.late_until is not None:
            raise ValidationError({"late_until": "A timed sitting has its own end. Late work is for untimed work."})
        if self.opens and self.due and self.course_id:
            try:
                self.rules  # noqa: B018 (made to see whether it can be)
            except ValueError as error:
                raise ValidationError(str(error)) from error

    @property
    def rules(self) -> Rules:
        return Rules(
            opens=self.opens,
            due=self.due,
            late_until=self.late_until if self.writing_minutes is None else None,
            writing_minutes=self.writing_minutes,
            handover_minutes=self.handover_minutes,
            due_cuts_sitting=self.due_cuts_sitting,
            placing_minutes=self.placing_minutes,
            pledge_minutes=self.pledge_minutes,
            zone=ZoneInfo(self.course.time_zone),
        )

    @cached_property
    def outline(self) -> Outline:
        return Outline(tuple(question.item for question in self.questions.all()))

    @property
    def paper_size(self) -> Paper:
        return Paper[self.paper]


class PersonalDue(models.Model):
    """One student's own due moment, in the place of the assignment's."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="personal_dues")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    due = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assignment", "person"], name="one_personal_due_each")]

    def __str__(self) -> str:
        return f"{self.person}: {self.due:%Y-%m-%d %H:%M} UTC"

    def clean(self) -> None:
        if self.assignment_id and self.due and self.due <= self.assignment.opens:
            raise ValidationError("A personal due moment must come after the opening.")


class Question(models.Model):
    """One label of the question map: a question without parts, or one part of a question."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="questions")
    position = models.PositiveSmallIntegerField(default=0, help_text="Order on the sheet.")
    question = models.CharField(max_length=3, help_text="The question's number: 2")
    part = models.CharField(max_length=1, blank=True, help_text="The part's letter: b. Empty where there are none.")
    title = models.CharField(max_length=200, blank=True)
    points = models.DecimalField(max_digits=5, decimal_places=1, default=0)

    class Meta:
        ordering = ("position", "pk")
        constraints = [models.UniqueConstraint(fields=["assignment", "question", "part"], name="label_once_on_a_map")]

    def __str__(self) -> str:
        return f"{self.question}{self.part}"

    def clean(self) -> None:
        self.part = self.part.lower()
        if not self.question.isdigit() or (self.part and not self.part.isalpha()):
            raise ValidationError("A label is a number and, for a part, one letter: 2b.")

    @property
    def item(self) -> Item:
        return Item(self.question, self.part, self.title, float(self.points))
