"""The ASGI application: Django, with a fast lane for arriving files, behind a limit on the size of a body."""

from __future__ import annotations

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "inkedfolio.settings")

django_application = get_asgi_application()

from django.conf import settings  # noqa: E402 (needs Django set up)

from pages.fast_lane import FastLane  # noqa: E402
from plumbing.body_limit import BodyLimit  # noqa: E402

application = BodyLimit(FastLane(django_application), settings.FOLIO_MAX_FILE_MB * 1_000_000)
