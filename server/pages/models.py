from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from assignments.models import Assignment
from folio_core.page import Recipe, Tone
from folios.models import Folio


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
    """A right to add pages to one student's folio of one assignment, and nothing else, for a phone without a sign-in.
    Made before the work is begun it has no ``folio`` and gains it then. Its secrets are not kept.

    ``letters`` stand in an address that is typed by hand, which also wants the six ``figures``; whoever types both is
    given a secret of their own (``typed_sha256``)."""

    student = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    assignment = models.ForeignKey(Assignment, models.PROTECT, related_name="camera_links")
    folio = models.ForeignKey(Folio, models.PROTECT, null=True, related_name="camera_links")
    token_sha256 = models.CharField(max_length=64, unique=True)
    letters = models.CharField(max_length=8, unique=True)
    figures = models.CharField(max_length=64, help_text="A keyed hash of them.")
    wrong_figures = models.PositiveSmallIntegerField(default=0)
    typed_sha256 = models.CharField(max_length=64, unique=True, null=True)
    made_at = models.DateTimeField()
    until = models.DateTimeField(help_text="Of untimed work; in a sitting it lasts as long as that.")
    opened_at = models.DateTimeField(null=True, help_text="When a phone first opened it.")
    ended_at = models.DateTimeField(null=True, help_text="When the student took it back.")

    def __str__(self) -> str:
        return f"Camera of {self.student} for {self.assignment} until {self.until:%H:%M}"


class TestPicture(models.Model):
    """A picture that counts for nothing, by which a student sees, days before, that a device can send and how what it
    takes is judged. Its bytes are let go when it is judged, all of it after a day."""

    class State(models.TextChoices):
        WAITING = "waiting"
        JUDGED = "judged"
        FAILED = "failed"

    student = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    assignment = models.ForeignKey(Assignment, models.CASCADE, related_name="+")
    camera = models.ForeignKey(CameraLink, models.CASCADE, null=True, related_name="test_pictures")
    stored_as = models.CharField(max_length=255)
    made_at = models.DateTimeField()
    state = models.CharField(max_length=16, choices=State, default=State.WAITING)
    message = models.TextField(blank=True)
    advice = models.JSONField(default=list, help_text="Codes.")
    preview = models.BinaryField(default=bytes)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"Test picture of {self.student} for {self.assignment}"


class TakenIn(models.Model):
    """Staff took pages in for a student: on paper by post, from a broken phone. They count as of ``counts_at``."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="taken_in")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    reason = models.CharField(max_length=500)
    counts_at = models.DateTimeField()
    begun_at = models.DateTimeField()
    handed_in = models.PositiveIntegerField(null=True, help_text="The edition it was handed in with.")

    def __str__(self) -> str:
        return f"Taken in for {self.folio}: {self.reason}"


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
    taken_in = models.ForeignKey(TakenIn, models.PROTECT, null=True, related_name="originals")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["folio", "sha256"], name="same_bytes_once")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.file_name


class Upload(models.Model):
    """A file on its way in pieces (tus 1.0)."""

    key = models.UUIDField(primary_key=True, default=uuid.uuid4)
    folio = models.ForeignKey(Folio, models.PROTECT, related_name="uploads")
    size = models.PositiveBigIntegerField()
    about = models.JSONField(default=dict, help_text="What was said of the file when it set out.")
    set_out_at = models.DateTimeField()
    here = models.PositiveBigIntegerField(default=0, help_text="Bytes that have come.")
    last_byte_at = models.DateTimeField(null=True)
    head = models.BinaryField(default=bytes, help_text="The first bytes, which tell the kind.")
    original = models.ForeignKey(Original, models.PROTECT, null=True, related_name="+")
    page = models.PositiveBigIntegerField(null=True)
    already = models.BooleanField(default=False)

    def __str__(self) -> str:
        return f"{self.about.get('file_name')} on its way to {self.folio}"


class Piece(models.Model):
    """Bytes of a file on its way, in the storage that all machines share."""

    upload = models.ForeignKey(Upload, models.CASCADE, related_name="pieces")
    at = models.PositiveBigIntegerField()
    stored_as = models.CharField(max_length=255)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["upload", "at"], name="each_byte_once")]
        ordering = ("at",)

    def __str__(self) -> str:
        return self.stored_as


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
    half = models.PositiveSmallIntegerField(
        default=0, db_default=0, help_text="1: the right page of an open book; the left one is 0."
    )
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
        constraints = [models.UniqueConstraint(fields=["original", "index", "half"], name="each_page_once")]
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.original.file_name} page {self.index + 1}"


class LaidPage(models.Model):
    """Which page of a printed paper an image shows and how it lies on it, as it was looked for last. ``image``,
    ``is_sheet``, ``papers``: what was held against what; with others it is looked for anew."""

    page = models.OneToOneField(Page, models.CASCADE, related_name="laid")
    image = models.CharField(max_length=64)
    is_sheet = models.BooleanField(help_text="The image is the sheet and nothing else.")
    papers = models.JSONField(help_text="Their names in the storage.")
    kept_told = models.JSONField(null=True, help_text="None: it is no page of them.")

    def __str__(self) -> str:
        return f"Where {self.page} lies on its paper"
