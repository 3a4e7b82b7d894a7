from __future__ import annotations

from django.contrib import admin

from .models import Assignment, Question


class QuestionInline(admin.TabularInline):
    model = Question
    extra = 3


@admin.register(Assignment)
class AssignmentAdmin(admin.ModelAdmin):
    list_display = ("title", "course", "opens", "due", "writing_minutes")
    list_filter = ("course",)
    list_select_related = ("course",)
    fieldsets = (
        (None, {"fields": ("course", "title", "instructions", "question_sheet", "paper")}),
        (
            "Time",
            {
                "description": "Moments are entered here in UTC; students see them in the time zone of the course.",
                "fields": (
                    "opens", "due", "late_until", "writing_minutes", "handover_minutes", "due_cuts_sitting",
                    "placing_minutes",
                ),
            },
        ),
    )  # fmt: skip
    inlines = (QuestionInline,)
