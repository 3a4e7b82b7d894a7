from __future__ import annotations

from django.contrib import admin

from .models import Course, Department, Enrolment, Section


class EnrolmentInline(admin.TabularInline):
    model = Enrolment
    autocomplete_fields = ("person",)
    extra = 1


class SectionInline(admin.TabularInline):
    model = Section
    extra = 0


@admin.register(Department)
class DepartmentAdmin(admin.ModelAdmin):
    list_display = ("code", "title")
    autocomplete_fields = ("administrators",)


@admin.register(Course)
class CourseAdmin(admin.ModelAdmin):
    list_display = ("code", "title", "time_zone")
    search_fields = ("code", "title")
    inlines = (SectionInline, EnrolmentInline)
