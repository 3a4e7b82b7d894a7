"""The limits within which files from outside are decoded, from the settings."""

from __future__ import annotations

from django.conf import settings

from folio_core.page import Limits


def limits() -> Limits:
    return Limits(
        file_bytes=settings.FOLIO_MAX_FILE_MB * 1_000_000,
        pixels=settings.FOLIO_MAX_MEGAPIXELS * 1_000_000,
        pages=settings.FOLIO_MAX_PAGES,
        seconds=settings.FOLIO_DECODE_SECONDS,
        memory_bytes=settings.FOLIO_DECODE_MEMORY_MB * 1024 * 1024,
    )
