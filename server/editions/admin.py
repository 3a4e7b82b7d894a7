from __future__ import annotations

from django.contrib import admin

from folios.admin import ReadOnly

from .models import Edition


@admin.register(Edition)
class EditionAdmin(ReadOnly):
    list_display = ("folio", "number", "handed_in_at", "verdict", "state")
    list_select_related = ("folio__student", "folio__assignment__course")
