"""Large files in pieces: the server's side of tus 1.0 (https://tus.io/protocols/resumable-upload), without HTTP.

Each piece becomes a file of its own in the storage that all machines share, and a row; how far a file has come is told
by its row. So any machine goes on where another stopped, and bytes are told of only when they are safe.
"""

from __future__ import annotations

import hashlib
import os
import uuid
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import BinaryIO

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import transaction

from assignments.models import require_taken
from folio_core.page import HEAD_BYTES, PageError, Trouble, kind_of, too_large_message
from folios.models import Folio
from plumbing import storage
from plumbing.errors import Refused

from . import files
from .arrival import ReceivedFile, most_bytes, require_may_arrive, take_in
from .models import Piece, Upload
from .room import require_room
from .sent import Acknowledged, Sent

_CHUNK = 1024 * 1024


class WrongOffset(Exception):
    """A piece that does not begin where the file ends so far."""


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
    return Upload.objects.create(folio=folio, size=size, set_out_at=now, about=_kept(sent))


def _kept(sent: Sent) -> dict[str, object]:
    return {**asdict(sent), "batch": str(sent.batch) if sent.batch else None}


def _sent(upload: Upload) -> Sent:
    about = dict(upload.about)
    return Sent(**{**about, "batch": uuid.UUID(about["batch"]) if about["batch"] else None})


def add(upload: Upload, at: int, chunks: Iterable[bytes], now: Callable[[], datetime]) -> int:
    """Add a piece that begins at ``at``. Returns the new offset; the bytes before it are safe.

    Raises WrongOffset, also where another connection was faster; PageError as soon as the file's head tells it is of a
    wrong kind.
    """
    if upload.here != at:
        raise WrongOffset
    with _local_file() as file:
        end, head = _append(file, upload, chunks)
        if end == at:
            return at
        arrived = now()
        if at < HEAD_BYTES <= end or end == upload.size:
            require_taken(upload.folio.assignment.page_kinds, kind_of(head))
        name = files.piece_name(upload.key, at)
        storage.send_ahead(Path(file.name), name)
        storage.move_into_place(Path(file.name), name)
    try:
        _write_down(upload, Piece(upload=upload, at=at, stored_as=name), end, head, arrived)
    except WrongOffset:
        storage.remove(name)
        raise
    return end


def _append(file: BinaryIO, upload: Upload, chunks: Iterable[bytes]) -> tuple[int, bytes]:
    """Where the piece ends, and the first bytes of the whole file. What is written is flushed."""
    end, head = upload.here, bytes(upload.head)
    for chunk in chunks:
        end += len(chunk)
        if end > upload.size:
            raise Refused(413, "too_long", "More bytes came than were announced. Send the file again.")
        file.write(chunk)
        if len(head) < HEAD_BYTES:
            head = (head + chunk)[:HEAD_BYTES]
    file.flush()
    os.fsync(file.fileno())
    return end, head


@transaction.atomic
def _write_down(upload: Upload, piece: Piece, end: int, head: bytes, arrived: datetime) -> None:
    """The piece counts from now on. Raises WrongOffset where another came first, or the file was given up."""
    alone = Upload.objects.select_for_update().filter(pk=upload.pk).first()
    if alone is None or alone.here != piece.at:
        raise WrongOffset
    piece.save()
    upload.here, upload.head, upload.last_byte_at = end, head, arrived
    upload.save(update_fields=["here", "head", "last_byte_at"])


def complete(key: uuid.UUID, now: datetime) -> Acknowledged:
    """All bytes are here: take them in, once; asked again, the same answer. Raises as `arrival.receive`, and
    WrongOffset where they are not."""
    upload = Upload.objects.select_related("original").get(pk=key)
    if upload.original is not None:
        return Acknowledged(upload.original, upload.page or 0, upload.already)
    if upload.here != upload.size:
        raise WrongOffset
    pieces = list(upload.pieces.values_list("stored_as", flat=True))
    try:
        with _joined(pieces, upload) as received:
            storage.send_ahead(received.part, files.original_name(upload.folio_id, received.sha256))
            taken = _take_in(upload, received, now)
    except FileNotFoundError:
        upload.refresh_from_db()
        if upload.original is None:
            raise
        return complete(key, now)  # another connection was faster, and its pieces are gone
    _remove(pieces)
    return taken


@transaction.atomic
def _take_in(upload: Upload, received: ReceivedFile, now: datetime) -> Acknowledged:
    alone = Upload.objects.select_for_update(of=("self",)).select_related("original").get(pk=upload.pk)
    if alone.original is not None:
        return Acknowledged(alone.original, alone.page or 0, alone.already)
    # After a crash this may be long after the last byte, and that is what counts.
    arrived = min(now, alone.last_byte_at or now)
    taken = take_in(alone.folio_id, received, _sent(alone), arrived=arrived)
    alone.original, alone.page, alone.already = taken.original, taken.page_id, taken.already
    alone.save(update_fields=["original", "page", "already"])
    alone.pieces.all().delete()
    return taken


@contextmanager
def _joined(pieces: list[str], upload: Upload) -> Iterator[ReceivedFile]:
    """The pieces as one file on this machine, flushed."""
    with _local_file() as file:
        digest, size = hashlib.sha256(), 0
        for name in pieces:
            with default_storage.open(name, "rb") as piece:
                while chunk := piece.read(_CHUNK):
                    digest.update(chunk)
                    size += len(chunk)
                    file.write(chunk)
        if size != upload.size:
            raise OSError(f"The pieces of {upload.pk} are {size} bytes, not {upload.size}")
        file.flush()
        os.fsync(file.fileno())
        yield ReceivedFile(Path(file.name), digest.hexdigest(), size, kind_of(bytes(upload.head)))


@contextmanager
def _local_file() -> Iterator[BinaryIO]:
    """On this machine, while it is needed; it may be moved away."""
    path = files.arriving_folder() / uuid.uuid4().hex
    try:
        with path.open("wb") as file:
            yield file
    finally:
        path.unlink(missing_ok=True)


def _remove(names: list[str]) -> None:
    for name in names:
        storage.remove(name)


def give_up(upload: Upload) -> None:
    """Forget a file that was not taken in."""
    pieces = list(upload.pieces.values_list("stored_as", flat=True))
    upload.delete()
    _remove(pieces)
