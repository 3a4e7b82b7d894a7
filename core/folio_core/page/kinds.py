"""What kind of file some bytes are. Content decides, never the name."""

from __future__ import annotations

from enum import StrEnum

from .errors import PageError, Trouble


class Kind(StrEnum):
    JPEG = "image/jpeg"
    PNG = "image/png"
    WEBP = "image/webp"
    HEIC = "image/heic"
    TIFF = "image/tiff"
    PDF = "application/pdf"


HEAD_BYTES = 1024  # ISO 32000-2 Annex I: readers accept %PDF- within the first 1024 bytes
_HEIF_BRANDS = {b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1"}  # ISO/IEC 23008-12
_ELSEWHERE = (
    (b"PK\x03\x04", "This looks like an office document or an archive. Export it as PDF and add that."),
    (b"\xd0\xcf\x11\xe0", "This looks like an office document. Export it as PDF and add that."),
    (b"<svg", "SVG drawings are not taken. Export it as PDF or PNG and add that."),
    (b"<?xml", "This is a text file, not a picture. Add photographs or a PDF."),
)


def kind_of(head: bytes) -> Kind:
    """The kind of a file from its first ``HEAD_BYTES`` bytes.

    Raises PageError (EMPTY, WRONG_KIND) with a word on what to do.
    """
    if not head:
        raise PageError(Trouble.EMPTY, "This file is empty: 0 bytes came. Choose it again, or take the picture again.")
    if head.startswith(b"\xff\xd8\xff"):
        return Kind.JPEG
    if head.startswith(b"\x89PNG\r\n\x1a\n"):
        return Kind.PNG
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return Kind.WEBP
    if head[4:8] == b"ftyp" and (head[8:12] in _HEIF_BRANDS):
        return Kind.HEIC
    if head[:4] in (b"II*\x00", b"MM\x00*"):
        return Kind.TIFF
    if b"%PDF-" in head[:HEAD_BYTES]:
        return Kind.PDF
    for magic, advice in _ELSEWHERE:
        if head.lstrip()[: len(magic)].lower() == magic.lower():
            raise PageError(Trouble.WRONG_KIND, advice)
    raise PageError(
        Trouble.WRONG_KIND,
        "This is not a kind of file that can be a page. Add JPEG, PNG, HEIC, WebP or TIFF pictures, or a PDF.",
    )
