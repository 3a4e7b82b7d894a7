"""The typed API: one router an app. The OpenAPI document of it makes the front end's types."""

from __future__ import annotations

from ninja import NinjaAPI
from ninja.security import SessionAuth

from assignments.api import router as assignments
from folios.api import router as folios
from folios.calendar_api import router as calendar
from folios.camera_api import router as camera
from folios.reading_api import router as reading
from folios.staff_api import router as staff
from live.api import router as live
from people.api import router as people

from . import errors


class SignedIn(SessionAuth):
    """Django's session. Its cookie may be called otherwise (FOLIO_SESSION_COOKIE); the document names the usual one."""

    param_name = "folio_session"


api = NinjaAPI(title="Inked Folio", version="1", auth=SignedIn(), docs_url=None, urls_namespace="api")
errors.install(api)
api.add_router("", people)
api.add_router("", assignments)
api.add_router("", folios)
api.add_router("", reading)
api.add_router("", staff)
api.add_router("", calendar)
api.add_router("", camera)
api.add_router("", live)
