from __future__ import annotations

import secrets
from typing import Any, ClassVar

from django.contrib.auth.base_user import BaseUserManager
from django.contrib.auth.models import AbstractUser
from django.db import models


def new_token() -> str:
    """192 random bits, for an address that is as good as a key."""
    return secrets.token_urlsafe(24)


class UserManager(BaseUserManager["User"]):
    def create_user(self, email: str, password: str | None = None, **fields: Any) -> User:
        user = self.model(email=self.normalize_email(email).lower(), **fields)
        user.set_password(password)
        user.save()
        return user

    def create_superuser(self, email: str, password: str | None = None, **fields: Any) -> User:
        return self.create_user(email, password, is_staff=True, is_superuser=True, **fields)


class User(AbstractUser):
    """A person, known by mail address. ``number`` is the student number the folios carry."""

    username = None  # type: ignore[assignment]
    email = models.EmailField("mail address", unique=True)
    number = models.CharField("student number", max_length=32, blank=True)
    calendar_token = models.CharField(max_length=64, unique=True, default=new_token, editable=False)

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []

    objects: ClassVar[UserManager] = UserManager()  # type: ignore[assignment]

    @property
    def name(self) -> str:
        return self.get_full_name() or self.email
