from __future__ import annotations

from typing import Any

from django.contrib import admin
from django.db.models import QuerySet
from django.http import HttpRequest

from .models import Assignment, PersonalTerms, Question


class QuestionInline(admin.TabularInline):
    """Makes a map; one that students may have used is edited on its own screen, which tells what that does to them."""

    model = Question
    extra = 3
    fields = ("position", "label", "title", "points")

    def get_queryset(self, request: HttpRequest) -> QuerySet[Question]:
        return super().get_queryset(request).filter(removed_at=None)

    def has_change_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False

    def has_delete_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False


class PersonalTermsInline(admin.TabularInline):
    model = PersonalTerms
    autocomplete_fields = ("person",)
    extra = 0


@admin.register(Assignment)
class AssignmentAdmin(admin.ModelAdmin):
    list_display = ("title", "course", "opens", "due", "writing_minutes")
    list_filter = ("course",)
    list_select_related = ("course",)

    def get_queryset(self, request: HttpRequest) -> QuerySet[Assignment]:
        """Rehearsals are made and kept by the program."""
        return super().get_queryset(request).filter(rehearsal_of=None)

    fieldsets = (
        (
            None,
            {
                "fields": (
                    "course", "title", "instructions_before", "instructions", "question_paper", "paper_size",
                    "whole_work", "page_kinds", "proposes", "honour", "offers_rehearsal", "paper_rules",
                )
            },
        ),
        (
            "Time",
            {
                "description": "Moments are in the time zone named above.",
                "fields": (
                    "opens", "due", "late_until", "writing_minutes", "handover_minutes", "due_cuts_sitting",
                    "placing_minutes", "pledge_minutes",
                ),
            },
        ),
    )  # fmt: skip
    inlines = (QuestionInline, PersonalTermsInline)
