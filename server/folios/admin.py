from __future__ import annotations

from typing import Any

from django.contrib import admin
from django.http import HttpRequest

from .models import Folio


class ReadOnly(admin.ModelAdmin):
    """Folios are the students'. Staff look; nothing here changes or removes."""

    def has_add_permission(self, request: HttpRequest) -> bool:
        return False

    def has_change_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False

    def has_delete_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False


@admin.register(Folio)
class FolioAdmin(ReadOnly):
    list_display = ("student", "assignment", "begun_at", "version")
    list_select_related = ("student", "assignment__course")
    list_filter = ("assignment",)
