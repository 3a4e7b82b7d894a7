from __future__ import annotations

from django.db import models


class Mail(models.Model):
    """A message that is sent, or waits to be. ``secret``: its text is emptied once it has gone."""

    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    secret = models.BooleanField(default=False)
    made_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True)
    trouble = models.CharField(max_length=200, blank=True, help_text="Why the last try did not succeed.")

    class Meta:
        ordering = ("-pk",)
        indexes = (models.Index(fields=["to", "-id"]),)

    def __str__(self) -> str:
        return self.subject
