from __future__ import annotations

from django.db import models

from folio_core.reading import PageReading
from folios.models import Folio
from pages.models import Page


class ReadPage(models.Model):
    """What was read of a page as its image was then; another image is read anew."""

    page = models.OneToOneField(Page, models.CASCADE, related_name="read")
    image = models.CharField(max_length=64, help_text="SHA-256 of what was read.")
    kept_reading = models.JSONField()
    read_at = models.DateTimeField()
    kept_sheet = models.JSONField(default=dict, help_text="Which page of a printed sheet it is; {} was not asked.")
    is_placed = models.BooleanField(default=False, help_text="Placed by its sheet, once.")

    def __str__(self) -> str:
        return f"Reading of {self.page}"

    @property
    def reading(self) -> PageReading:
        return PageReading.from_document(self.kept_reading)


class KeptProposal(models.Model):
    """The newest proposal of a folio, with its pages in any order and as they lie (``in_order``). ``basis``: a hash of
    all it was made of; made of something else it is old. ``pages``: the ids that the documents number from 0."""

    folio = models.OneToOneField(Folio, models.CASCADE, related_name="kept_proposal")
    basis = models.CharField(max_length=64)
    pages = models.JSONField()
    document = models.JSONField()
    in_order = models.JSONField()
    said = models.JSONField(default=list, help_text="What the student was told: question, page, confidence.")

    def __str__(self) -> str:
        return f"Proposal for {self.folio}"


class LiveFrame(models.Model):
    """The newest small picture of what one viewfinder sees (``viewer``, of its own making), until it has been looked at
    (``jpeg`` is None then), and which page of the printed paper that was."""

    folio = models.ForeignKey(Folio, models.CASCADE, related_name="live_frames")
    viewer = models.UUIDField()
    jpeg = models.BinaryField(null=True)
    came_at = models.DateTimeField()
    seen_page = models.IntegerField(null=True, help_text="From 0; None was none, or not sure.")
    seen_at = models.DateTimeField(null=True, help_text="When that came of which it was seen.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["folio", "viewer"], name="one_frame_a_viewer")]

    def __str__(self) -> str:
        return f"What a camera sees for {self.folio}"
