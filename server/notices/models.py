from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from .kinds import ByMail, Kind


class Mail(models.Model):
    """A message that is sent, or waits to be. ``secret``: its text is emptied once it has gone."""

    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    html = models.TextField(blank=True)
    leave_path = models.CharField(max_length=300, blank=True, help_text="Where one action ends mails of this kind.")
    attachment_name = models.CharField(max_length=200, blank=True)
    attachment = models.BinaryField(null=True)
    secret = models.BooleanField(default=False)
    made_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True)
    bounced_at = models.DateTimeField(null=True, help_text="Refused for good by the server of the address.")
    trouble = models.CharField(max_length=200, blank=True, help_text="Why the last try did not succeed.")

    class Meta:
        ordering = ("-pk",)
        indexes = (models.Index(fields=["to", "-id"]),)

    def __str__(self) -> str:
        return self.subject


class Notice(models.Model):
    """Something a person is told, once. ``once``: what makes it the same notice, if it happens to be told again."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="notices")
    kind = models.CharField(max_length=16, choices=Kind)
    once = models.CharField(max_length=80)
    subject = models.CharField(max_length=200)
    text = models.TextField()
    path = models.CharField(max_length=200)
    made_at = models.DateTimeField()
    read_at = models.DateTimeField(null=True)
    awaits_digest = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "once"], name="notice_told_once")]
        indexes = (
            models.Index(fields=["person", "-id"]),
            models.Index(fields=["person"], condition=Q(awaits_digest=True), name="notices_for_digests"),
            models.Index(fields=["person"], condition=Q(read_at=None), name="notices_unread"),
        )
        ordering = ("-pk",)

    def __str__(self) -> str:
        return self.subject


class NoticeChoice(models.Model):
    """How a person wants one kind of notice, where that is not the usual way."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="notice_choices")
    kind = models.CharField(max_length=16, choices=Kind)
    by_mail = models.CharField(max_length=8, choices=ByMail)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "kind"], name="notice_chosen_once")]

    def __str__(self) -> str:
        return f"{self.person}: {self.kind} {self.by_mail}"
