"""How bytes get into the default storage safely, and the registry of the folders they lie in.

Every app that keeps files registers its folders here once (in its `AppConfig.ready`). Sweeping, verifying and backing
up read the registry, so that a folder is either known to all three or fails a test.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from django.core.files.base import ContentFile, File
from django.core.files.storage import FileSystemStorage, default_storage


@dataclass(frozen=True, slots=True)
class StorageFolder:
    """A first folder of the storage. ``backed_up``: its files are part of a backup.

    ``named_files``: all names in it that rows speak of; what no row speaks of is swept after a day.
    ``hashes``: name and SHA-256 of the files whose every byte is known.
    """

    name: str
    named_files: Callable[[], set[str]]
    hashes: Callable[[], Iterable[tuple[str, str]]] = tuple
    backed_up: bool = True


_folders: dict[str, StorageFolder] = {}


def register_folder(folder: StorageFolder) -> None:
    _folders[folder.name] = folder


def registered_folders() -> list[StorageFolder]:
    """In the order of their names."""
    return [_folders[name] for name in sorted(_folders)]


def is_on_this_machine() -> bool:
    """Files in a folder here; else in an object storage that all machines share."""
    return isinstance(default_storage, FileSystemStorage)


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


def send_ahead(part: Path, name: str) -> None:
    """A flushed local file goes to the object storage, which may take long: before any row is locked. Within one
    machine there is nothing to send: it is moved later, at once."""
    if not is_on_this_machine():
        with part.open("rb") as file:
            default_storage.save(name, File(file))


def move_into_place(part: Path, name: str) -> None:
    """A flushed local file, which was sent ahead, becomes the stored one. On this machine's disk it is renamed, and its
    folder flushed."""
    storage = default_storage
    if isinstance(storage, FileSystemStorage):
        target = Path(storage.path(name))
        target.parent.mkdir(parents=True, exist_ok=True)
        os.replace(part, target)
        _flush_folder(target.parent)
    else:
        part.unlink()


def remove(name: str) -> None:
    """Whether it is still there or not."""
    with suppress(FileNotFoundError):
        default_storage.delete(name)


def names_in(folder: str) -> Iterator[str]:
    """All files below a folder of the storage."""
    try:
        folders, files = default_storage.listdir(folder)
    except FileNotFoundError:
        return
    for name in files:
        if name:  # an object storage may list the folder itself
            yield f"{folder}/{name}"
    for name in folders:
        yield from names_in(f"{folder}/{name}")


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
