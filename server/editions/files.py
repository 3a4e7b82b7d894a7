"""Where bound documents lie in the storage, and which prepared images editions hold."""

from __future__ import annotations

from collections.abc import Iterable

from pages.files import image_name, images_of_pages
from plumbing.storage import StorageFolder, register_folder

from .models import EditionBinding, EditionPage


def bound_name(folio_id: int, sha256: str) -> str:
    """By its hash: a job that runs twice can never put another file in the place of one that a receipt names."""
    return f"bound/{folio_id}/{sha256}.pdf"


def register_folders() -> None:
    register_folder(StorageFolder("bound", _bound, _hashes_of_bound))
    register_folder(StorageFolder("prepared", _prepared))


def _bound() -> set[str]:
    return {name for name, _ in _hashes_of_bound()}


def _hashes_of_bound() -> Iterable[tuple[str, str]]:
    rows = EditionBinding.objects.values_list("edition__folio", "sha256")
    return ((bound_name(folio, sha256), sha256) for folio, sha256 in rows)


def _prepared() -> set[str]:
    frozen = EditionPage.objects.values_list("edition__folio", "image", "preview", "kept_on_print__sheet")
    return images_of_pages() | {image_name(folio, one) for folio, *hashes in frozen for one in hashes if one}
