"""Large files in pieces: the server's side of tus 1.0 (https://tus.io/protocols/resumable-upload), without HTTP.

How far a file has come is the length of what lies in the folder of arrivals: bytes are only ever added at the end, so
a broken-off piece is gone on with from wherever it stopped.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import uuid
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import BinaryIO

from django.conf import settings
from django.db import transaction

from folio_core.page import HEAD_BYTES, PageError, Trouble, kind_of, too_large_message
from folios.models import Folio
from plumbing.errors import Refused

from .arrival import ReceivedFile, arriving_folder, most_bytes, require_may_arrive, take_in
from .models import Upload
from .room import require_room
from .sent import Acknowledged, Sent

_CHUNK = 1024 * 1024


class WrongOffset(Exception):
    """A piece that does not begin where the file ends so far."""


def part_of(upload: Upload) -> Path:
    return arriving_folder() / upload.key.hex


def set_out(folio: Folio, size: int, sent: Sent, now: datetime) -> Upload:
    """Announce a file. Raises PageError (empty, too large), SittingClosed, and Refused with too many on their way."""
    require_may_arrive(folio, sent.sha256, now)
    if size == 0:
        kind_of(b"")
    if size > most_bytes():
        raise PageError(Trouble.TOO_LARGE, too_large_message(size, most_bytes()))
    if folio.uploads.filter(original=None).count() >= 2 * settings.FOLIO_MAX_PAGES:
        raise Refused(422, "too_many_pages", "Too many files of this folio are on their way. Wait until some are safe.")
    require_room(folio, size)
    upload = Upload.objects.create(folio=folio, size=size, set_out_at=now, about=_kept(sent))
    part_of(upload).touch()
    return upload


def _kept(sent: Sent) -> dict[str, object]:
    return {**asdict(sent), "batch": str(sent.batch) if sent.batch else None}


def _sent(upload: Upload) -> Sent:
    about = dict(upload.about)
    return Sent(**{**about, "batch": uuid.UUID(about["batch"]) if about["batch"] else None})


def offset(upload: Upload) -> int:
    """How many bytes are here."""
    if upload.original_id is not None:
        return upload.size
    try:
        return part_of(upload).stat().st_size
    except FileNotFoundError:
        return 0


def add(upload: Upload, at: int, chunks: Iterable[bytes]) -> int:
    """Add a piece that begins at ``at``, flushed. Returns the new offset.

    Raises WrongOffset, PageError as soon as the file's head tells it is of a wrong kind, and Refused (423) while
    another request adds to the same file.
    """
    with _alone(upload) as file:
        if file.seek(0, os.SEEK_END) != at:
            raise WrongOffset
        try:
            end = _append(file, at, upload.size, chunks)
        except BaseException:
            file.truncate(at)
            raise
        if at < HEAD_BYTES <= end or end == upload.size:
            file.seek(0)
            kind_of(file.read(HEAD_BYTES))
        return end


def _append(file: BinaryIO, at: int, most: int, chunks: Iterable[bytes]) -> int:
    end = at
    for chunk in chunks:
        end += len(chunk)
        if end > most:
            raise Refused(413, "too_long", "More bytes came than were announced. Send the file again.")
        file.write(chunk)
    file.flush()
    os.fsync(file.fileno())
    return end


@contextmanager
def _alone(upload: Upload) -> Iterator[BinaryIO]:
    part = part_of(upload)
    with part.open("a+b") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise Refused(423, "busy", "Another connection is sending this file just now.") from error
        if not _is_still_there(file, part):
            raise WrongOffset  # taken in, or given up, since it was opened: its bytes are an original's now
        yield file


def _is_still_there(file: BinaryIO, part: Path) -> bool:
    try:
        return os.path.samestat(os.fstat(file.fileno()), part.stat())
    except FileNotFoundError:
        return False


@transaction.atomic
def complete(key: uuid.UUID, now: datetime) -> Acknowledged:
    """All bytes are here: take them in, once; asked again, the same answer. Raises as `arrival.receive`, and
    WrongOffset or Refused (423) where they are not, or somebody still sends."""
    upload = Upload.objects.select_for_update(of=("self",)).select_related("original").get(pk=key)
    if upload.original is not None:
        return Acknowledged(upload.original, upload.page or 0, upload.already)
    part = part_of(upload)
    with _alone(upload) as file:  # nobody writes to it while it is read, nor once it is an original
        received = _whole(upload, part, file)
        # After a crash this may be long after the last byte, and that is what counts.
        last_byte = datetime.fromtimestamp(part.stat().st_mtime, UTC)
        taken = take_in(upload.folio_id, received, _sent(upload), arrived=min(now, last_byte))
    upload.original, upload.page, upload.already = taken.original, taken.page_id, taken.already
    upload.save(update_fields=["original", "page", "already"])
    part.unlink(missing_ok=True)
    return taken


def _whole(upload: Upload, part: Path, file: BinaryIO) -> ReceivedFile:
    """The file as it lies here, flushed. Raises WrongOffset where it is not as long as was announced."""
    os.fsync(file.fileno())
    file.seek(0)
    digest, head, size = hashlib.sha256(), b"", 0
    while chunk := file.read(_CHUNK):
        head = head or chunk[:HEAD_BYTES]
        digest.update(chunk)
        size += len(chunk)
    if size != upload.size:
        raise WrongOffset
    return ReceivedFile(part, digest.hexdigest(), size, kind_of(head))


def give_up(upload: Upload) -> None:
    """Forget a file that was not taken in."""
    part_of(upload).unlink(missing_ok=True)
    upload.delete()
