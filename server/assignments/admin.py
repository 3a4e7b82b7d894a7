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
    inlines = (QuestionInline,)
