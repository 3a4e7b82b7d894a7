"""How much of the disk one student's work may take, and the reserve that is kept for the others.

Everything counts that lies on the disk: originals with those that cannot be opened, files on their way in pieces, and
rehearsals. It is added up from the rows, so that it is true at every moment.
"""

from __future__ import annotations

import shutil
import threading
from collections import Counter
from dataclasses import dataclass
from functools import cache

from django.conf import settings
from django.db import connection
from django.db.models import Sum

from folios.models import Folio
from plumbing.errors import Refused

from .files import arriving_folder
from .models import Original, Upload

_MB = 1_000_000
_NEAR = 0.8  # of what one may take: from then on the board says so


@dataclass(frozen=True, slots=True)
class Taken:
    """Bytes and files of one folio, and the bytes of all rehearsals of its student."""

    bytes: int
    files: int
    rehearsals: int


@dataclass(frozen=True, slots=True)
class Room:
    """Of one folio: bytes and files taken, and how many it may have."""

    bytes: int
    most_bytes: int
    files: int
    most_files: int

    @property
    def is_near_its_end(self) -> bool:
        return self.bytes > _NEAR * self.most_bytes or self.files > _NEAR * self.most_files


def room_of(folio: Folio) -> Room:
    taken = _taken(folio)
    return Room(taken.bytes, settings.FOLIO_MOST_MB_A_FOLIO * _MB, taken.files, settings.FOLIO_MOST_FILES_A_FOLIO)


def require_room(folio: Folio, size: int) -> None:
    """Raises Refused where ``size`` more bytes are more than the student, or the disk, has room for."""
    taken, most = _taken(folio), settings.FOLIO_MOST_MB_A_FOLIO * _MB
    if taken.files >= settings.FOLIO_MOST_FILES_A_FOLIO:
        raise Refused(
            422, "no_more_room", f"This folio has had {taken.files} files, which is all it may have. "
            "Ask your instructor; what is here is safe.",
        )  # fmt: skip
    if taken.bytes + size > most:
        raise Refused(
            422, "no_more_room", f"The files of this folio have {taken.bytes / _MB:.0f} MB of at most {most // _MB} MB "
            "together. Send this one smaller, or ask your instructor.",
        )  # fmt: skip
    if _rehearses(folio) and taken.rehearsals + size > most:
        raise Refused(422, "no_more_room", "Your rehearsals have filled their room. Real work has its own.")
    free = shutil.disk_usage(arriving_folder()).free - size
    if free < settings.FOLIO_DISK_RESERVE_MB * _MB and (_rehearses(folio) or _is_large(taken, most)):
        raise Refused(507, "no_room", "The server keeps its last room for work that has less. This is tried again.")


def _rehearses(folio: Folio) -> bool:
    return folio.assignment.rehearsal_of_id is not None


def _is_large(taken: Taken, most: int) -> bool:
    return taken.bytes > most / 10


def _taken(folio: Folio) -> Taken:
    """In one statement: every file asks."""
    with connection.cursor() as cursor:
        cursor.execute(_adding_up(), {"folio": folio.pk})
        taken_bytes, files, coming_bytes, coming = cursor.fetchone()
    rehearsals = 0
    if _rehearses(folio):
        of_student = {"folio__student": folio.student_id, "folio__assignment__rehearsal_of__isnull": False}
        rehearsals = Original.objects.filter(**of_student).aggregate(bytes=Sum("size", default=0))["bytes"]
    return Taken(int(taken_bytes + coming_bytes), files + coming, rehearsals)


@cache
def _adding_up() -> str:
    originals, uploads = (model._meta.db_table for model in (Original, Upload))
    return (
        f"SELECT * FROM (SELECT coalesce(sum(size), 0), count(*) FROM {originals} WHERE folio_id = %(folio)s) here,"
        f" (SELECT coalesce(sum(size), 0), count(*) FROM {uploads}"
        " WHERE folio_id = %(folio)s AND original_id IS NULL) coming"
    )


_passing: Counter[int] = Counter()
_lock = threading.Lock()


def enter(folio: Folio, size: int) -> None:
    """A body begins to come. Raises as `require_room`; what else comes into the folio just now counts too."""
    require_room(folio, size + _passing[folio.pk])
    with _lock:
        _passing[folio.pk] += size


def leave(folio_id: int, size: int) -> None:
    """It has ended, taken in or not."""
    with _lock:
        _passing[folio_id] -= size
        if _passing[folio_id] <= 0:
            del _passing[folio_id]
