"""Stored files as downloads: always attachments, never shown in a page of ours.

A slow reader holds nothing but an open file: no thread, no connection to the database, and with a proxy that serves
files (FOLIO_ACCEL) not even this process.
"""

from __future__ import annotations

import asyncio
import re
import threading
import unicodedata
from collections import Counter
from collections.abc import AsyncIterator, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import PurePosixPath
from typing import cast
from urllib.parse import quote

from django.conf import settings
from django.core.files.storage import FileSystemStorage, default_storage
from django.http import FileResponse, HttpResponse, StreamingHttpResponse
from django.utils.http import content_disposition_header
from django.utils.text import get_valid_filename
from zipstream import ZipStream

from .errors import Refused

_READERS = ThreadPoolExecutor(4, thread_name_prefix="download")
_CHUNK = 256 * 1024


_MOST_A_PERSON = 6  # at a time, a web process
_under_way: Counter[int] = Counter()
_lock = threading.Lock()


class _Counted:
    """A download that counts among those a person has under way, until it is closed."""

    person: int | None = None

    def close(self) -> None:
        super().close()  # type: ignore[misc]
        if self.person is not None:
            with _lock:
                _under_way[self.person] -= 1
                if _under_way[self.person] <= 0:
                    del _under_way[self.person]
            self.person = None


class StoredFile(_Counted, FileResponse):
    """Read piece by piece as the other side takes it; Django would read all of it into memory first."""

    async def __aiter__(self) -> AsyncIterator[bytes]:
        loop = asyncio.get_running_loop()
        file = self.file_to_stream
        while file is not None and (chunk := await loop.run_in_executor(_READERS, file.read, _CHUNK)):
            yield chunk


class Archive(_Counted, StreamingHttpResponse):
    """A ZIP file that is written as the other side takes it."""

    async def __aiter__(self) -> AsyncIterator[bytes]:
        loop = asyncio.get_running_loop()
        pieces = iter(cast(Iterator[bytes], self.streaming_content))
        while (piece := await loop.run_in_executor(_READERS, next, pieces, None)) is not None:
            yield piece


def attachment(person: int, stored_as: str, file_name: str, content_type: str) -> FileResponse:
    """A file for a person, by id. Raises Refused: 404 where the storage does not have it, 429 for too many at once."""
    if not default_storage.exists(stored_as):
        raise Refused(404, "no_file", "This file is not on the server's disk. Tell your instructor.")
    _count(person)
    by_proxy = bool(settings.FOLIO_ACCEL) and isinstance(default_storage, FileSystemStorage)
    body = () if by_proxy else default_storage.open(stored_as)
    response = StoredFile(body, as_attachment=True, filename=file_name, content_type=content_type)
    response.person = person
    if by_proxy:
        response["Content-Disposition"] = str(content_disposition_header(True, file_name))
        response["X-Accel-Redirect"] = quote(str(PurePosixPath(settings.FOLIO_ACCEL) / stored_as))
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, no-store"
    return response


def archive_download(person: int, archive: ZipStream, file_name: str) -> Archive:
    """``archive`` for a person, by id. With its length where that is known, so that the browser shows how far it is.
    Raises Refused (429)."""
    _count(person)
    response = Archive(archive, content_type="application/zip")
    response.person = person
    response["Content-Disposition"] = str(content_disposition_header(True, file_name))
    if archive.sized:
        response["Content-Length"] = str(len(archive))
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, no-store"
    return response


def made_file(data: str | bytes, file_name: str, content_type: str) -> HttpResponse:
    """A file that was made for this request, as a download."""
    response = HttpResponse(data, content_type=content_type)
    response["Content-Disposition"] = str(content_disposition_header(True, file_name))
    response["X-Content-Type-Options"] = "nosniff"
    return response


def _count(person: int) -> None:
    with _lock:
        if _under_way[person] >= _MOST_A_PERSON:
            raise Refused(429, "too_many_downloads", "Several downloads of yours are under way. Wait for one of them.")
        _under_way[person] += 1


def safe_file_name(*parts: str) -> str:
    """One name, without its ending, that every system takes: letters of any script, digits, hyphens and underscores.

    No dot, since some systems keep names like "con.pdf" for themselves; at most 120 bytes in UTF-8.
    """
    words = "_".join(part for part in parts if part.strip()).replace(".", "_")
    name = re.sub("_+", "_", get_valid_filename(unicodedata.normalize("NFC", words) or "folio")).strip("_-")
    return name.encode()[:120].decode(errors="ignore")


def plain_cell(cell: object) -> str:
    """A cell that no spreadsheet program takes for a formula (OWASP, CSV Injection)."""
    text = str(cell)
    return f"'{text}" if text[:1] in "=+-@\t\r" and text else text


def lasting_picture(data: bytes, content_type: str) -> HttpResponse:
    """One of our own pictures, named by its hash: what the name stands for never changes."""
    response = HttpResponse(data, content_type=content_type)
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
