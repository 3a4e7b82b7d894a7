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

    session_number = models.PositiveIntegerField(default=0, editable=False, help_text="All sessions of another end.")
    let_in_until = models.DateTimeField(null=True, editable=False, help_text="By staff, whatever strangers guess.")

    link_sent_at = models.DateTimeField(null=True, editable=False, help_text="The last link to set a password.")
    totp_secret = models.CharField(max_length=64, blank=True, editable=False)
    totp_since = models.DateTimeField(null=True, editable=False, help_text="From then on signing in asks for a code.")
    totp_last_step = models.BigIntegerField(default=0, editable=False, help_text="A code is good for one sign-in.")
    spare_codes = models.JSONField(default=list, blank=True, editable=False, help_text="Hashes; each is good once.")

    wants_proposals = models.BooleanField(default=True, help_text="Labels on their pages are read.")

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []

    objects: ClassVar[UserManager] = UserManager()  # type: ignore[assignment]

    def _get_session_auth_hash(self, secret: str | None = None) -> str:
        """Of another password, or after signing out everywhere, all sessions of before have another one."""
        of_password: str = super()._get_session_auth_hash(secret)  # type: ignore[misc]
        return f"{of_password}.{self.session_number}"

    @property
    def name(self) -> str:
        return self.get_full_name() or self.email


class Passkey(models.Model):
    """A key pair that a phone, computer or security key keeps for one person; the public half of it."""

    person = models.ForeignKey(User, models.CASCADE, related_name="passkeys")
    name = models.CharField(max_length=80)
    credential_id = models.CharField(max_length=1400, unique=True, help_text="base64url; at most 1023 bytes.")
    public_key = models.BinaryField(help_text="COSE (RFC 9052).")
    sign_count = models.BigIntegerField(help_text="Goes up with each use, where the authenticator counts.")
    made_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.name} of {self.person.email}"


class CollegeAccount(models.Model):
    """Whom the college's own sign-in means: ``issuer`` and ``subject`` never change, a mail address may."""

    person = models.ForeignKey(User, models.CASCADE, related_name="college_accounts")
    issuer = models.CharField(max_length=255)
    subject = models.CharField(max_length=255)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["issuer", "subject"], name="college_subject_of_one_person"),
            models.UniqueConstraint(fields=["issuer", "person"], name="one_college_subject_each"),
        ]

    def __str__(self) -> str:
        return f"{self.subject} of {self.person.email}"


class SignInFailure(models.Model):
    """A wrong password. ``source``: the device where this account has signed in before, else the address."""

    account = models.CharField("mail address", max_length=254)
    source = models.CharField(max_length=128)
    at = models.DateTimeField()

    class Meta:
        indexes = (models.Index(fields=["account", "at"]), models.Index(fields=["source", "at"]))

    def __str__(self) -> str:
        return f"{self.account} from {self.source}"
