"""The ASGI application: Django, with a fast lane for arriving files, behind the gate that judges bodies."""

from __future__ import annotations

import gc
import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "inkedfolio.settings")

django_application = get_asgi_application()

from django.conf import settings  # noqa: E402 (needs Django set up)
from django.urls import get_resolver  # noqa: E402

from pages.doors import DOORS  # noqa: E402
from pages.fast_lane import FastLane  # noqa: E402
from plumbing.body_gate import BodyGate  # noqa: E402
from plumbing.turns import Turns  # noqa: E402

get_resolver().url_patterns  # noqa: B018 (all the API is read now: half a second that the first request would wait)

# Half of the pool's connections are left to the doors of files, which never wait behind other requests.
_AT_ONCE = max(2, settings.DATABASES["default"]["OPTIONS"]["pool"]["max_size"] // 2)

application = BodyGate(
    FastLane(
        Turns(
            django_application,
            at_once=_AT_ONCE,
            each=_AT_ONCE - 3,
            cookie=settings.SESSION_COOKIE_NAME,
            free=settings.STATIC_URL,
        )
    ),
    small=settings.DATA_UPLOAD_MAX_MEMORY_SIZE,
    most=settings.FOLIO_MAX_FILE_MB * 1_000_000,
    doors=DOORS,
)

# What is loaded stays for good. Looking through all of it for rubbish took an eighth of a second, in the middle of
# whatever request was under way.
gc.collect()
gc.freeze()
gc.set_threshold(20_000, 20, 20)
