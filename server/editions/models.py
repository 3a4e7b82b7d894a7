from __future__ import annotations

from datetime import timedelta
from typing import TYPE_CHECKING

from django.conf import settings
from django.db import models
from django.db.models import Q

from folio_core.answers import AnswerContent
from folio_core.clock import Judgement, Verdict
from folio_core.page import Geometry
from folios.models import Folio
from pages.models import Corrected, Page

from .frozen import FrozenFacts

if TYPE_CHECKING:
    from folio_core.forms.onto_print import OnPrint


class Edition(models.Model):
    """A frozen hand-in. Kept for ever; the newest counts. ``kept_facts``: all it is read with, as it was then."""

    class State(models.TextChoices):
        BINDING = "binding"
        BOUND = "bound"

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="editions")
    number = models.PositiveIntegerField()
    handed_in_at = models.DateTimeField()
    counts_at = models.DateTimeField(null=True, help_text="Where it counts as of another moment than it was handed in.")
    verdict = models.CharField(max_length=16)
    late_seconds = models.PositiveIntegerField(default=0)
    automatic = models.BooleanField(default=False, help_text="Handed in by itself: nobody pressed the button.")
    comment = models.TextField(blank=True)
    arrangement = models.JSONField()
    kept_facts = models.JSONField()
    record_head = models.CharField(max_length=64, blank=True, help_text="The chain of the hand-in event.")
    open_labels = models.JSONField(default=list)
    open_pages = models.PositiveIntegerField(default=0)
    page_count = models.PositiveIntegerField()
    state = models.CharField(max_length=16, choices=State, default=State.BINDING)
    bound_sha256 = models.CharField(max_length=64, blank=True, help_text="As signed: before the receipt is appended.")
    file_sha256 = models.CharField(max_length=64, blank=True, help_text="Of the file with the receipt in it.")
    bound_size = models.PositiveBigIntegerField(default=0)
    sheets_before = models.PositiveSmallIntegerField(default=0, help_text="In the bound document, before page 1.")
    receipt = models.JSONField(null=True, blank=True)
    taken_back_at = models.DateTimeField(null=True, help_text="By its student; it does not count any more.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["folio", "number"], name="edition_numbered_once")]
        ordering = ("-number",)

    def __str__(self) -> str:
        return f"Edition {self.number} of {self.folio}"

    @property
    def honour_confirmed(self) -> str:
        """The words of honour, where the student confirmed them by the button."""
        return "" if self.automatic else self.facts.honour

    @property
    def judgement(self) -> Judgement:
        return Judgement(Verdict(self.verdict), timedelta(seconds=self.late_seconds))

    @property
    def facts(self) -> FrozenFacts:
        return FrozenFacts.from_document(self.kept_facts)


def counting(folio: Folio) -> Edition | None:
    """The edition that counts: the newest, unless it was taken back, which takes back all before it too."""
    newest = folio.editions.first()
    return newest if newest is not None and newest.taken_back_at is None else None


class EditionBinding(models.Model):
    """One bound document of an edition with its receipt; all are kept. There are more where a page could not be opened
    at first: each receipt names the one before."""

    edition = models.ForeignKey(Edition, models.PROTECT, related_name="bindings")
    number = models.PositiveIntegerField()
    sha256 = models.CharField(max_length=64, help_text="Of the file, with the receipt in it.")
    bound_sha256 = models.CharField(max_length=64, db_index=True, help_text="As signed, without the receipt.")
    size = models.PositiveBigIntegerField()
    receipt = models.JSONField()
    bound_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["edition", "number"], name="binding_numbered_once")]
        ordering = ("number",)

    def __str__(self) -> str:
        return f"Binding {self.number} of {self.edition}"


class SigningKey(models.Model):
    """A public key that receipts were signed with. Published for good."""

    key_id = models.CharField(max_length=32, unique=True)
    public_key = models.CharField(max_length=64)
    issuer = models.CharField(max_length=200)
    first_used_at = models.DateTimeField()

    class Meta:
        ordering = ("-first_used_at",)

    def __str__(self) -> str:
        return self.key_id


class ReaderPlacement(models.Model):
    """Who reads an edition placed what its student left unplaced. The edition stays as it is; this lies over it."""

    edition = models.ForeignKey(Edition, models.PROTECT, related_name="reader_placements")
    question = models.CharField(max_length=64, help_text="Its id on the frozen question map.")
    page = models.ForeignKey(Page, models.PROTECT, related_name="+")
    top = models.FloatField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["edition", "question", "page"], name="reader_placed_once")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"Question {self.question} of {self.edition} on page {self.page_id}, by its reader"


class EditionAnswer(models.Model):
    """What was answered on the screen to one question, as it was handed in. ``question``: its id on the frozen question
    map. ``judged``: what a chosen or short answer is worth by itself; empty where a marker decides."""

    edition = models.ForeignKey(Edition, models.PROTECT, related_name="answers")
    question = models.CharField(max_length=64)
    kept_content = models.JSONField()
    sha256 = models.CharField(max_length=64)
    saved_at = models.DateTimeField()
    judged = models.JSONField(default=dict)
    bound_pages = models.JSONField(default=list, help_text="On which pages of the bound document it stands, from 1.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["edition", "question"], name="edition_answers_once")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"Answer to {self.question} in {self.edition}"

    @property
    def content(self) -> AnswerContent:
        return AnswerContent.from_document(self.kept_content)


class EditionPage(Corrected):
    """One page of an edition with the recipe it had. ``image`` is filled at binding where it was not yet prepared.
    ``is_notice``: bound as a sheet that says that it could not be opened; bound anew when it can."""

    edition = models.ForeignKey(Edition, models.PROTECT, related_name="pages")
    number = models.PositiveIntegerField()
    page = models.ForeignKey(Page, models.PROTECT, related_name="+")
    image = models.CharField(max_length=64, blank=True)
    preview = models.CharField(max_length=64, blank=True)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    is_notice = models.BooleanField(default=False)
    ink_rows = models.CharField(
        max_length=128, blank=True, help_text="A 1 for each hundredth with writing, from the top."
    )
    kept_geometry = models.JSONField(null=True, help_text="Where what the image shows lies on the original.")
    kept_on_print = models.JSONField(
        default=dict, help_text="Where the image lies on the paper it is bound on, and that sheet; {} is not asked yet."
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["edition", "number"], name="edition_page_numbered_once"),
            models.CheckConstraint(condition=Q(number__gt=0), name="edition_pages_count_from_one"),
        ]
        ordering = ("number",)

    @property
    def on_print(self) -> OnPrint | None:
        """Where it lies on the printed paper, where it is bound on that."""
        from folio_core.forms.onto_print import OnPrint  # its libraries are large, and few pages need them

        return OnPrint.from_document(self.kept_on_print) if self.kept_on_print.get("sheet") else None

    @property
    def size_when_bound(self) -> tuple[int, int]:
        """Width and height of what is bound, in units of its own."""
        on_print = self.on_print
        return (max(self.width, 1), max(self.height, 1)) if on_print is None else on_print.size_pt

    def top_when_bound(self, top: float) -> float:
        """How far down the bound page a spot of the image lies, near its left edge; both as shares."""
        on_print = self.on_print
        return top if on_print is None else float(min(max(on_print.at([[0.1, top]])[0, 1], 0.0), 1.0))

    @property
    def geometry(self) -> Geometry:
        """Where what the image shows lies on the original; an image that shows none of it (it could not be opened) is
        its own."""
        if self.kept_geometry is None:
            return Geometry.as_it_is(max(self.width, 1), max(self.height, 1))
        return Geometry.from_document(self.kept_geometry)
