"""Where a folio's originals and prepared images lie in the storage."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

from plumbing import storage
from plumbing.storage import StorageFolder, register_folder

from .models import Original, Page


def original_name(folio_id: int, sha256: str) -> str:
    return f"originals/{folio_id}/{sha256}"


def image_name(folio_id: int, sha256: str) -> str:
    return f"prepared/{folio_id}/{sha256}"


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
    register_folder(StorageFolder("arriving", set, backed_up=False))


def images_of_pages() -> set[str]:
    """Of every page's images, by name in the storage; what editions hold is named by them."""
    rows = Page.objects.values_list("folio", "image", "preview", "source")
    return {image_name(folio, sha256) for folio, *hashes in rows for sha256 in hashes if sha256}


def _originals() -> set[str]:
    return set(Original.objects.values_list("stored_as", flat=True))


def _hashes_of_originals() -> Iterable[tuple[str, str]]:
    return Original.objects.values_list("stored_as", "sha256")
