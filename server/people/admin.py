from __future__ import annotations

from django.contrib import admin
from django.contrib.auth.admin import UserAdmin

from .models import User


@admin.register(User)
class PersonAdmin(UserAdmin):
    ordering = ("last_name", "first_name")
    list_display = ("email", "first_name", "last_name", "number", "is_staff")
    search_fields = ("email", "first_name", "last_name", "number")
    fieldsets = (
        (None, {"fields": ("email", "password")}),
        ("Person", {"fields": ("first_name", "last_name", "number")}),
        ("Rights", {"fields": ("is_active", "is_staff", "is_superuser", "groups", "user_permissions")}),
    )
    add_fieldsets = (
        (None, {"fields": ("email", "first_name", "last_name", "number", "usable_password", "password1", "password2")}),
    )
