from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import Q
from django.utils import timezone
from django.utils.functional import cached_property

from courses.models import EXTRA_FACTORS, EXTRA_MINUTES, Course, Enrolment, PaperSize, Section
from folio_core import labels
from folio_core.answers import Answering
from folio_core.binding import Paper
from folio_core.clock import ExtraTime, Rules
from folio_core.page import Kind, PageError, Trouble
from folio_core.question_map import Group, QuestionMap
from folio_core.question_map import Question as MapQuestion


def at_once() -> datetime:
    """Whatever is made otherwise than on the screen of setting up is given out as it is made."""
    return timezone.now()


class PaperRule(models.TextChoices):
    """How the work is to be written and photographed; an instructor picks which of them a student is told."""

    DARK_INK = "dark_ink"
    WRITE_LARGE = "write_large"
    LABEL_IN_MARGIN = "label_in_margin"
    ONE_QUESTION_A_PAGE = "one_question_a_page"
    CIRCLE_FINAL_ANSWER = "circle_final_answer"
    NAME_ON_EACH = "name_on_each"
    PORTRAIT = "portrait"
    FLAT = "flat"
    HOLD_STILL = "hold_still"


class PageKinds(models.TextChoices):
    """Which files may become pages."""

    ANY = "any"
    PICTURES = "pictures"  # photographs and scans: JPEG, PNG, HEIC, TIFF and the like
    PDF = "pdf"

    def takes(self, kind: Kind) -> bool:
        return self is PageKinds.ANY or (kind is Kind.PDF) == (self is PageKinds.PDF)


_TAKES_ONLY = {
    PageKinds.PICTURES: "This assignment takes photographs and other pictures, no PDF. Photograph or scan the page.",
    PageKinds.PDF: "This assignment takes PDF files, no pictures. Save or print the page as PDF and add that.",
}


def require_taken(kinds: str, kind: Kind) -> None:
    """Raises PageError (KIND_NOT_TAKEN) for a file that an assignment with these page kinds does not take."""
    if not PageKinds(kinds).takes(kind):
        raise PageError(Trouble.KIND_NOT_TAKEN, _TAKES_ONLY[PageKinds(kinds)])


def usual_paper_rules() -> list[str]:
    """Common practice, no source."""
    return [
        PaperRule.DARK_INK, PaperRule.LABEL_IN_MARGIN, PaperRule.NAME_ON_EACH, PaperRule.PORTRAIT, PaperRule.FLAT,
        PaperRule.HOLD_STILL,
    ]  # fmt: skip


_LONGEST = timedelta(days=400)
_MOST_MINUTES = {
    "writing_minutes": 24 * 60,
    "handover_minutes": 24 * 60,
    "placing_minutes": 14 * 24 * 60,
    "pledge_minutes": 120,
}


class Assignment(models.Model):
    """``map_version``: the optimistic lock on its question map. ``whole_work``: it has no questions, on purpose."""

    course = models.ForeignKey(Course, models.CASCADE, related_name="assignments")
    title = models.CharField(max_length=200)
    instructions = models.TextField(blank=True)
    instructions_before = models.TextField(
        blank=True, help_text="Shown also before a timed sitting is begun, and before the opening: what to bring."
    )
    question_paper = models.FileField(upload_to="question-papers/", blank=True)
    on_paper = models.BooleanField(default=False, help_text="Students write on the question paper itself.")
    clean_print = models.BooleanField(default=False, help_text="The bound document has answers on the print itself.")
    answer_spaces = models.JSONField(
        default=dict,
        blank=True,
        help_text="By question id: page from 0, left, top, right, bottom in points.",
    )
    former_papers = models.JSONField(
        default=list, blank=True, editable=False,
        help_text="Printed before this one: stored file and answer spaces of each, the newest first.",
    )  # fmt: skip
    paper_size = models.CharField(max_length=8, choices=PaperSize, default=PaperSize.A4)
    whole_work = models.BooleanField(default=False, help_text="No questions: nothing is placed.")
    map_version = models.PositiveIntegerField(default=0, editable=False)

    version = models.PositiveIntegerField(
        default=0, editable=False, help_text="The optimistic lock on all but the map."
    )
    given_out_at = models.DateTimeField(
        null=True, blank=True, default=at_once, help_text="From then on students see it. Empty: a draft."
    )

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
    paper_rules = models.JSONField(default=usual_paper_rules, blank=True, help_text="Codes of `PaperRule`.")
    page_kinds = models.CharField(max_length=8, choices=PageKinds, default=PageKinds.ANY)
    proposes = models.BooleanField(
        default=True, help_text="Labels on the pages are read, and places proposed to the students."
    )
    honour = models.TextField(
        blank=True, max_length=2000, help_text="Words of honour: who hands in confirms them by it. Empty: none."
    )
    offers_rehearsal = models.BooleanField(
        default=True, help_text="Students may practise: same rules, counts for nothing."
    )
    asks_rehearsal = models.BooleanField(default=False, help_text="Everybody is asked to rehearse once.")
    rehearsal_of = models.OneToOneField("self", models.CASCADE, null=True, blank=True, related_name="rehearsal")

    class Meta:
        ordering = ("due", "pk")

    def __str__(self) -> str:
        return f"{self.course.code} · {self.title}"

    def clean(self) -> None:
        """What no assignment can be, wherever it is written. Raises ValidationError, at the field where it is one's."""
        if self.writing_minutes is not None and self.late_until is not None:
            raise ValidationError({"late_until": "A timed sitting has its own end. Late work is for untimed work."})
        for name, most in _MOST_MINUTES.items():
            minutes = getattr(self, name)
            if minutes is not None and not 0 <= minutes <= most:
                raise ValidationError({name: f"Write minutes from 0 to {most}."})
        if self.writing_minutes is not None and self.writing_minutes < 1:
            raise ValidationError({"writing_minutes": "Writing takes at least a minute."})
        before = Assignment.objects.filter(pk=self.pk).first() if self.pk else None
        if before is not None and before.course_id != self.course_id and before.folios.exists():
            raise ValidationError(
                {"course": f"Students of {before.course.code} have begun it; it stays in that course."}
            )
        narrower = before is not None and self.page_kinds not in (PageKinds.ANY, before.page_kinds)
        if before is not None and narrower and before.folios.exists():
            raise ValidationError({"page_kinds": "Students have begun with what it took. It can take any, or stay so."})
        if self.asks_rehearsal and not self.offers_rehearsal:
            raise ValidationError({"asks_rehearsal": "A rehearsal that is asked of all is also offered."})
        self._require_its_own_title()
        self._require_times()
        if self.opens and self.due and self.course_id:
            try:
                self.rules  # noqa: B018 (made to see whether it can be)
            except ValueError as error:
                raise ValidationError(str(error)) from error

    def _require_its_own_title(self) -> None:
        others = Assignment.objects.filter(course=self.course_id, rehearsal_of=None).exclude(pk=self.pk)
        if self.course_id and self.rehearsal_of_id is None and others.filter(title__iexact=self.title).exists():
            words = f"{self.course.code} has “{self.title}” already. Give it another title."
            raise ValidationError({"title": words})

    def _require_times(self) -> None:
        if not self.opens or not self.due:
            return  # said at the field itself
        if self.due <= self.opens:
            raise ValidationError({"due": "It must come after the opening."})
        if self.due - self.opens > _LONGEST:
            raise ValidationError({"due": "That is more than a year after it opens. Look at the year."})
        if self.late_until is not None and self.late_until <= self.due:
            raise ValidationError({"late_until": "Late work ends after the due moment, or leave it empty."})
        minutes = (self.due - self.opens) / timedelta(minutes=1)
        if self.writing_minutes is not None and self.writing_minutes > minutes:
            raise ValidationError({"writing_minutes": f"From opening to due there are only {minutes:g} minutes."})

    def is_given_out(self, now: datetime) -> bool:
        return self.given_out_at is not None and self.given_out_at <= now

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
    def question_map(self) -> QuestionMap:
        """The map as it is now. Raises QuestionMapError where it contradicts itself."""
        groups = tuple(Group(str(group.pk), group.choose) for group in self.question_groups.all())
        return QuestionMap(
            tuple(question.on_map for question in self.questions.all() if not question.removed_at), groups
        )

    @property
    def paper(self) -> Paper:
        return Paper[self.paper_size]


class PaperPage(models.Model):
    """One page of the question paper as a picture. ``drawn_of``: the name of the file it was drawn from; pages of
    another one than the assignment has now are old."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="paper_pages")
    drawn_of = models.CharField(max_length=255)
    number = models.PositiveIntegerField()
    image = models.CharField(max_length=64, help_text="SHA-256, and its name in the storage.")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assignment", "number"], name="each_paper_page_once")]
        ordering = ("number",)

    def __str__(self) -> str:
        return f"{self.assignment}, page {self.number} of the paper"


class FileBeside(models.Model):
    """A file that goes with the question paper, a formula sheet say; or ``with_marks``, the model answer, which comes
    with marked work that is given back. ``stored``: copies of an assignment may name the same one; what none names is
    swept."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="files_beside")
    name = models.CharField(max_length=100)
    size = models.PositiveBigIntegerField()
    stored = models.FileField(upload_to="files-beside/")
    with_marks = models.BooleanField(default=False, db_default=False)

    class Meta:
        ordering = ("name", "pk")

    def __str__(self) -> str:
        return self.name


class PersonalTerms(models.Model):
    """One student's own terms of one assignment: a due moment in the place of the assignment's, or extra time in the
    place of the course's, or both. ``extra_factor``: None where the course's extra time holds."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="personal_terms")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    due = models.DateTimeField(null=True, blank=True)
    extra_factor = models.FloatField(null=True, blank=True, validators=EXTRA_FACTORS)
    extra_minutes = models.PositiveSmallIntegerField(default=0, validators=EXTRA_MINUTES)
    extra_on_handover = models.BooleanField(default=False)
    extra_on_due = models.BooleanField(default=False)
    reason = models.CharField(max_length=200, blank=True, help_text="Only staff see it.")

    class Meta:
        verbose_name_plural = "personal terms"
        constraints = [models.UniqueConstraint(fields=["assignment", "person"], name="personal_terms_once_each")]

    def __str__(self) -> str:
        return f"{self.person}: {self.assignment}"

    def clean(self) -> None:
        if self.assignment_id and self.due and self.due <= self.assignment.opens:
            raise ValidationError("A personal due moment must come after the opening.")

    @property
    def extra_time(self) -> ExtraTime | None:
        if self.extra_factor is None:
            return None
        return ExtraTime(self.extra_factor, self.extra_minutes, self.extra_on_handover, self.extra_on_due)


class QuestionGroup(models.Model):
    """Of the questions of the group, any ``choose`` are to be answered; 0: all of them are a bonus."""

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="question_groups")
    choose = models.PositiveSmallIntegerField()

    def __str__(self) -> str:
        return f"any {self.choose} of them"


class Question(models.Model):
    """One entry of the question map: a question without parts, or one part of a question.

    Its id never changes; what is kept of it is kept under its id. A question that is removed stays as a row, so that
    what was placed on it comes back with it.
    """

    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="questions")
    position = models.PositiveSmallIntegerField(default=0, help_text="Order on the question paper.")
    label = models.CharField(max_length=24, help_text="A number, then letters or roman numerals: 2, 2b, 2b(ii), 1.1a.")
    title = models.CharField(max_length=200, blank=True)
    points = models.DecimalField(max_digits=5, decimal_places=1, default=0)
    group = models.ForeignKey(QuestionGroup, models.SET_NULL, null=True, blank=True, related_name="questions")
    removed_at = models.DateTimeField(null=True, editable=False)
    kept_answering = models.JSONField(
        default=dict, blank=True, editable=False, help_text="How it is answered; empty: on pages."
    )

    class Meta:
        ordering = ("position", "pk")
        constraints = [
            models.UniqueConstraint(
                fields=["assignment", "label"], condition=Q(removed_at=None), name="label_once_on_a_map"
            )
        ]

    def __str__(self) -> str:
        return self.label

    def clean(self) -> None:
        try:
            self.label = labels.join_levels(labels.split_label(self.label))
        except labels.BadLabel as error:
            raise ValidationError({"label": str(error)}) from error

    @property
    def on_map(self) -> MapQuestion:
        group = str(self.group_id) if self.group_id else ""
        return MapQuestion(self.label, str(self.pk), self.title, float(self.points), group, self.answering)

    @property
    def answering(self) -> Answering:
        return Answering.from_document(self.kept_answering)


class MarkerScope(models.Model):
    """What one marker reads and marks of an assignment; what is left empty is not narrowed."""

    marker = models.ForeignKey(Enrolment, models.CASCADE, related_name="scopes")
    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="marker_scopes")
    question = models.ForeignKey(Question, models.CASCADE, null=True, blank=True, related_name="+")
    section = models.ForeignKey(Section, models.CASCADE, null=True, blank=True, related_name="+")
    student = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, null=True, blank=True, related_name="+")

    def __str__(self) -> str:
        return f"{self.marker.person}: {self.assignment}"
