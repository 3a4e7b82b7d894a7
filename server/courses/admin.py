from __future__ import annotations

from django.contrib import admin

from .models import Course, Enrolment


class EnrolmentInline(admin.TabularInline):
    model = Enrolment
    autocomplete_fields = ("person",)
    extra = 1


@admin.register(Course)
class CourseAdmin(admin.ModelAdmin):
    list_display = ("code", "title", "time_zone")
    search_fields = ("code", "title")
    inlines = (EnrolmentInline,)
