"""Edits below that begun work must hear of: rules, personal terms, extra time."""

from __future__ import annotations

from django.db.models.signals import post_delete, post_save
from django.dispatch import receiver

from assignments.models import Assignment, PersonalTerms
from courses.models import Enrolment
from plumbing.requests import moment

from .amending import amend_begun
from .models import Folio


@receiver(post_save, sender=Assignment)
def rules_saved(instance: Assignment, created: bool, raw: bool = False, **_: object) -> None:
    if not created and not raw:
        amend_begun(Folio.objects.filter(assignment=instance), moment())


@receiver([post_save, post_delete], sender=PersonalTerms)
def personal_terms_changed(instance: PersonalTerms, raw: bool = False, **_: object) -> None:
    if not raw:
        amend_begun(Folio.objects.filter(assignment=instance.assignment_id, student=instance.person_id), moment())


@receiver(post_save, sender=Enrolment)
def extra_time_saved(instance: Enrolment, created: bool, raw: bool = False, **_: object) -> None:
    if not created and not raw:
        amend_begun(Folio.objects.filter(assignment__course=instance.course_id, student=instance.person_id), moment())
