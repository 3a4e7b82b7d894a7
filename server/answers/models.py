from __future__ import annotations

from django.db import models

from assignments.models import Question
from folio_core.answers import AnswerContent
from folios.models import Folio


class Answer(models.Model):
    """What a student answered on the screen to one question, as it is now. ``version``: the optimistic lock on it."""

    folio = models.ForeignKey(Folio, models.PROTECT, related_name="answers")
    question = models.ForeignKey(Question, models.PROTECT, related_name="answers")
    kept_content = models.JSONField()
    version = models.PositiveIntegerField(default=0)
    saved_at = models.DateTimeField()

    class Meta:
        ordering = ("question__position", "question_id")
        constraints = [models.UniqueConstraint(fields=["folio", "question"], name="one_answer_a_question")]

    def __str__(self) -> str:
        return f"Answer to {self.question} in {self.folio}"

    @property
    def content(self) -> AnswerContent:
        return AnswerContent.from_document(self.kept_content)


class SetAside(models.Model):
    """What a device wanted to save over an answer that another had changed since: kept beside it, and shown, until its
    student has looked at it."""

    answer = models.ForeignKey(Answer, models.CASCADE, related_name="set_aside")
    kept_content = models.JSONField()
    at = models.DateTimeField()
    dismissed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"Set aside beside {self.answer}"

    @property
    def content(self) -> AnswerContent:
        return AnswerContent.from_document(self.kept_content)
