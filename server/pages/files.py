"""Where a folio's originals and prepared images lie in the storage."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings

from plumbing import storage
from plumbing.storage import StorageFolder, register_folder

from .models import Original, Page, Piece, TestPicture


def original_name(folio_id: int, sha256: str) -> str:
    return f"originals/{folio_id}/{sha256}"


def image_name(folio_id: int, sha256: str) -> str:
    return f"prepared/{folio_id}/{sha256}"


def piece_name(key: uuid.UUID, at: int) -> str:
    """Another one each time: of two connections that bring the same bytes, one is heard."""
    return f"pieces/{key.hex}-{at}-{uuid.uuid4().hex}"


def arriving_folder() -> Path:
    """On this machine: bytes that are coming in just now, by the requests that bring them."""
    folder = Path(settings.MEDIA_ROOT) / "arriving"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def put_image(folio_id: int, image: bytes) -> str:
    """Store a prepared image under its own hash; the hash is returned."""
    sha256 = hashlib.sha256(image).hexdigest()
    storage.put(image_name(folio_id, sha256), image)
    return sha256


def image_type(image: bytes) -> str:
    """The media type of one of our own images: PNG where only ink was kept, else JPEG."""
    return "image/png" if image.startswith(b"\x89PNG") else "image/jpeg"


def register_folders() -> None:
    register_folder(StorageFolder("originals", _originals, _hashes_of_originals))
    register_folder(StorageFolder("test-pictures", _test_pictures, backed_up=False))
    register_folder(StorageFolder("pieces", _pieces, backed_up=False))
    register_folder(StorageFolder("arriving", set, backed_up=False))


def images_of_pages() -> set[str]:
    """Of every page's images, by name in the storage; what editions hold is named by them."""
    rows = Page.objects.values_list("folio", "image", "preview", "source")
    return {image_name(folio, sha256) for folio, *hashes in rows for sha256 in hashes if sha256}


def _originals() -> set[str]:
    return set(Original.objects.values_list("stored_as", flat=True))


def _pieces() -> set[str]:
    return set(Piece.objects.values_list("stored_as", flat=True))


def _test_pictures() -> set[str]:
    waiting = TestPicture.objects.filter(state=TestPicture.State.WAITING)
    return set(waiting.values_list("stored_as", flat=True))


def _hashes_of_originals() -> Iterable[tuple[str, str]]:
    return Original.objects.values_list("stored_as", "sha256")
