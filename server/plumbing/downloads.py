"""Stored files as downloads: always attachments, never shown in a page of ours."""

from __future__ import annotations

from django.core.files.storage import default_storage
from django.http import FileResponse

from .errors import Refused


def attachment(stored_as: str, file_name: str, content_type: str) -> FileResponse:
    """Raises Refused (404) where the storage does not have it."""
    if not default_storage.exists(stored_as):
        raise Refused(404, "no_file", "This file is not on the server's disk. Tell your instructor.")
    response = FileResponse(
        default_storage.open(stored_as), as_attachment=True, filename=file_name, content_type=content_type
    )
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, no-store"
    return response
