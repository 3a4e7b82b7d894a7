"""Where a folio's files lie in the default storage, and how bytes get there safely."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

from django.core.files.base import ContentFile, File
from django.core.files.storage import FileSystemStorage, default_storage


def original_name(folio_id: int, sha256: str) -> str:
    return f"originals/{folio_id}/{sha256}"


def image_name(folio_id: int, sha256: str) -> str:
    return f"prepared/{folio_id}/{sha256}"


def bound_name(folio_id: int, edition: int) -> str:
    return f"bound/{folio_id}/edition-{edition}.pdf"


def put_image(folio_id: int, image: bytes) -> str:
    """Store a prepared image under its own hash; the hash is returned."""
    sha256 = hashlib.sha256(image).hexdigest()
    put(image_name(folio_id, sha256), image)
    return sha256


def image_type(image: bytes) -> str:
    """The media type of one of our own images: PNG where only ink was kept, else JPEG."""
    return "image/png" if image.startswith(b"\x89PNG") else "image/jpeg"


def put(name: str, data: bytes) -> None:
    """Write once: what is there under a name is there whole."""
    storage = default_storage
    if isinstance(storage, FileSystemStorage):
        path = Path(storage.path(name))
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_name(f".{path.name}.{os.getpid()}.{os.urandom(4).hex()}")
        with part.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        move_into_place(part, name)
    else:
        storage.save(name, ContentFile(data))


def move_into_place(part: Path, name: str) -> None:
    """A flushed local file becomes the stored one: renamed with its folder flushed, or sent to the object storage."""
    storage = default_storage
    if isinstance(storage, FileSystemStorage):
        target = Path(storage.path(name))
        target.parent.mkdir(parents=True, exist_ok=True)
        os.replace(part, target)
        _flush_folder(target.parent)
    else:
        with part.open("rb") as file:
            storage.save(name, File(file))
        part.unlink()


def _flush_folder(folder: Path) -> None:
    """A rename is on disk only when its folder is (fsync(2), notes)."""
    descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def get(name: str) -> bytes:
    with default_storage.open(name, "rb") as file:
        data: bytes = file.read()
        return data
