from __future__ import annotations

from datetime import datetime

from django.conf import settings
from django.db import models
from django.db.models import Q, QuerySet

from folios.models import Folio
from pages.models import Page


class Asking(models.Model):
    """Staff asked a student for something again. ``page_number``: as it stood in the edition that was looked at.
    ``done_edition``: the hand-in that followed."""

    class Kind(models.TextChoices):
        PAGE = "page"  # one page is to be taken again
        ALL = "all"  # all of it
        PLACE = "place"  # nothing to photograph: say which pages answer what

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="askings")
    kind = models.CharField(max_length=16, choices=Kind)
    page = models.ForeignKey(Page, models.PROTECT, null=True, related_name="+")
    page_number = models.PositiveIntegerField(null=True)
    edition = models.PositiveIntegerField(null=True, help_text="That was looked at.")
    reason = models.CharField(max_length=500)
    until = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    asked_at = models.DateTimeField()
    done_edition = models.PositiveIntegerField(null=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.kind} of {self.folio} asked again until {self.until:%d %b %H:%M}"


UNSETTLED = Q(done_edition=None, withdrawn_at=None)


def waiting(now: datetime) -> QuerySet[Asking]:
    """Neither done, withdrawn nor over."""
    return Asking.objects.filter(UNSETTLED, until__gt=now)
