"""Settings. Everything a machine decides comes from FOLIO_… variables; `./folio` sets them for a checkout.

docs/configure.md lists them.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from csp.constants import NONCE, NONE, SELF, UNSAFE_INLINE

# What is written is people's work: for this account alone, unless a proxy of another one serves the files.
os.umask(int(os.environ.get("FOLIO_UMASK", "077"), 8))
FILE_UPLOAD_PERMISSIONS = None  # Django's own would be open to all; the umask decides

ROOT = Path(__file__).resolve().parents[2]
STATE = Path(os.environ.get("FOLIO_STATE", ROOT / ".folio"))
DEBUG = os.environ.get("FOLIO_DEBUG") == "1"
SECRET_KEY = os.environ.get("FOLIO_SECRET_KEY", "")
RECEIPT_KEY_FILE = os.environ.get("FOLIO_RECEIPT_KEY_FILE", "")  # holds the Ed25519 key that signs receipts
FOLIO_BOUND_BYTES_PER_PAGE = int(os.environ.get("FOLIO_BOUND_MB_PER_20_PAGES", "15")) * 1_000_000 // 20
FOLIO_ISSUER = os.environ.get("FOLIO_ISSUER", "Inked Folio")  # who signs them: the college's name
ALLOWED_HOSTS = os.environ.get("FOLIO_HOSTS", "127.0.0.1,localhost").split(",")
HTTPS = os.environ.get("FOLIO_HTTPS") == "1"

INSTALLED_APPS = [
    "inkedfolio.administration.Administration",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "procrastinate.contrib.django",
    "csp",
    "inkedfolio",
    "live",
    "people",
    "courses",
    "assignments",
    "folios",
    "pages",
    "asking",
    "editions",
    "notices",
    "answers",
    "marking",
    "proposals",
    "api",
    "upkeep",
    "demo",
]
MIDDLEWARE = [
    "plumbing.connections.GiveBackConnection",
    "inkedfolio.health.Asked",
    "inkedfolio.health.Measured",
    "django.middleware.security.SecurityMiddleware",
    "inkedfolio.static_files.StaticFiles",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
TEST_RUNNER = "testing.runner.Runner"
ROOT_URLCONF = "inkedfolio.urls"
ASGI_APPLICATION = "inkedfolio.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "server" / "inkedfolio" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]
DATABASES: dict[str, Any] = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("FOLIO_DB_NAME", "inkedfolio"),
        "USER": os.environ.get("FOLIO_DB_USER", "folio"),
        "PASSWORD": os.environ.get("FOLIO_DB_PASSWORD", ""),
        "HOST": os.environ.get("FOLIO_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("FOLIO_DB_PORT", "5432"),
        "OPTIONS": {"pool": {"min_size": 1, "max_size": int(os.environ.get("FOLIO_DB_POOL", "16"))}},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Who is who
AUTH_USER_MODEL = "people.User"
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.Argon2PasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
SESSION_COOKIE_NAME = os.environ.get("FOLIO_SESSION_COOKIE", "folio_session")
SESSION_COOKIE_AGE = 14 * 24 * 3600
FOLIO_STAFF_SESSION_HOURS = int(os.environ.get("FOLIO_STAFF_SESSION_HOURS", "12"))  # of administrators
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
SESSION_COOKIE_HTTPONLY = True
PASSWORD_RESET_TIMEOUT = 3 * 24 * 3600
CSRF_FAILURE_VIEW = "inkedfolio.views.csrf_failure"
LOGIN_URL = "/"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

# What a browser may do with our pages. Ant Design puts its styles in by script and is given the nonce.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "frame-src": [SELF],  # the maths field
        "manifest-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
# The page of the maths field, which stands in a frame of ours: its library writes style attributes.
MATHS_FIELD_POLICY = {
    "default-src": [NONE],
    "script-src": [SELF],
    "style-src": [SELF, UNSAFE_INLINE],
    "font-src": [SELF],
    "base-uri": [NONE],
    "form-action": [NONE],
    "frame-ancestors": [SELF],
}
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
if HTTPS:
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")

# Files
MEDIA_ROOT = STATE / "media"
STATIC_ROOT = STATE / "static"
STATIC_URL = "/static/"
WEB_DIST = ROOT / "web" / "dist"
STATICFILES_DIRS: list[Any] = [ROOT / "server" / "inkedfolio" / "static"]
STATICFILES_DIRS += [("app", WEB_DIST)] if WEB_DIST.exists() else []
_files: dict[str, Any] = {"BACKEND": "django.core.files.storage.FileSystemStorage"}
if os.environ.get("FOLIO_S3_BUCKET"):
    _files = {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": os.environ["FOLIO_S3_BUCKET"],
            "endpoint_url": os.environ.get("FOLIO_S3_ENDPOINT"),
            "file_overwrite": True,
        },
    }
STORAGES = {
    "default": _files,
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/app/assets/.+-[\w-]{8}\.\w+$"

# Where a proxy (nginx: an internal location) serves the media folder from, so that downloads do not pass through here
FOLIO_ACCEL = os.environ.get("FOLIO_ACCEL", "")

# How a phone reaches this server, where that is not the address the computer uses: https://folio.example
FOLIO_ADDRESS = os.environ.get("FOLIO_ADDRESS", "").rstrip("/")
# What links in mails begin with, where no request says it
FOLIO_ADDRESS_IN_MAILS = os.environ.get(
    "FOLIO_ADDRESS_IN_MAILS", FOLIO_ADDRESS or f"https://{ALLOWED_HOSTS[0]}"
).rstrip("/")

# Limits of arrival; FOLIO_… overrides each
FOLIO_MAX_FILE_MB = int(os.environ.get("FOLIO_MAX_FILE_MB", "60"))
FOLIO_MAX_PAGES = int(os.environ.get("FOLIO_MAX_PAGES", "100"))
FOLIO_MOST_MB_A_FOLIO = int(os.environ.get("FOLIO_MOST_MB_A_FOLIO", "1500"))  # all its originals together
FOLIO_MOST_FILES_A_FOLIO = int(os.environ.get("FOLIO_MOST_FILES_A_FOLIO", "400"))
FOLIO_DISK_RESERVE_MB = int(os.environ.get("FOLIO_DISK_RESERVE_MB", "2000"))  # kept for those who have sent little
FOLIO_LIVE_SECONDS = float(os.environ.get("FOLIO_LIVE_SECONDS", "4"))  # older than that a viewfinder is not told of
FOLIO_READING = os.environ.get("FOLIO_READING", "network")  # none: no page is read, nothing is proposed
FOLIO_MAX_MEGAPIXELS = int(os.environ.get("FOLIO_MAX_MEGAPIXELS", "120"))
FOLIO_DECODE_SECONDS = int(os.environ.get("FOLIO_DECODE_SECONDS", "30"))
FOLIO_DECODE_MEMORY_MB = int(os.environ.get("FOLIO_DECODE_MEMORY_MB", "3072"))
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024  # JSON bodies; pages are read as streams and have their own limit

# Mail: by a server of the college's, or kept in the post box of this installation, which its screen shows
EMAIL_HOST = os.environ.get("FOLIO_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("FOLIO_MAIL_PORT", "587"))
EMAIL_HOST_USER = os.environ.get("FOLIO_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("FOLIO_MAIL_PASSWORD", "")
EMAIL_USE_TLS = os.environ.get("FOLIO_MAIL_TLS", "1") == "1"
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = os.environ.get("FOLIO_MAIL_FROM", "Inked Folio <folio@localhost>")
# The college's own sign-in (OpenID Connect); without an issuer there is none.
FOLIO_COLLEGE_ISSUER = os.environ.get("FOLIO_COLLEGE_ISSUER", "")
FOLIO_COLLEGE_CLIENT = os.environ.get("FOLIO_COLLEGE_CLIENT", "")
FOLIO_COLLEGE_SECRET = os.environ.get("FOLIO_COLLEGE_SECRET", "")
FOLIO_COLLEGE_NAME = os.environ.get("FOLIO_COLLEGE_NAME", "your college")
FOLIO_POST_BOX = os.environ.get("FOLIO_POST_BOX") == "1"  # show all mail to everybody: for trying things out only

PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "jobs"  # every app that has jobs keeps them in a module of this name
FOLIO_SANDBOX = os.environ.get("FOLIO_SANDBOX", "best")  # full: refuse to decode with less than all of it
# Jobs: a worker that has not been heard of for so long is taken for dead and its jobs are given back
FOLIO_WORKER_SILENCE_SECONDS = float(os.environ.get("FOLIO_WORKER_SILENCE_SECONDS", "30"))

USE_TZ = True
TIME_ZONE = "UTC"
USE_I18N = False
LOG_LEVEL = os.environ.get("FOLIO_LOG_LEVEL", "WARNING")
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "line": {"format": "%(asctime)s %(levelname)s %(name)s %(message)s"},
        "json": {"()": "inkedfolio.logs.JsonLines"},
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": os.environ.get("FOLIO_LOG_FORM", "json")}},
    "root": {"handlers": ["console"], "level": LOG_LEVEL},
    # Refusals (4xx) are answers of ours, not warnings to anybody.
    "loggers": {"django": {"level": LOG_LEVEL}, "django.request": {"level": "ERROR"}},
}
