"""What kind of file some bytes are. Content decides, never the name."""

from __future__ import annotations

from enum import StrEnum

from .errors import PageError, Trouble


class Kind(StrEnum):
    JPEG = "image/jpeg"
    PNG = "image/png"
    WEBP = "image/webp"
    HEIC = "image/heic"
    AVIF = "image/avif"
    BMP = "image/bmp"
    GIF = "image/gif"
    TIFF = "image/tiff"
    PDF = "application/pdf"


HEAD_BYTES = 1024  # ISO 32000-2 Annex I: readers accept %PDF- within the first 1024 bytes
_HEIF_BRANDS = {b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1"}  # ISO/IEC 23008-12
_BMP_HEADERS = {size.to_bytes(4, "little") for size in (12, 40, 52, 56, 64, 108, 124)}  # sizes of its known headers
_AVIF_BRANDS = {b"avif", b"avis"}  # AV1 Image File Format, Alliance for Open Media
_ELSEWHERE = (
    (b"PK\x03\x04", "This looks like an office document or an archive. Export it as PDF and add that."),
    (b"\xd0\xcf\x11\xe0", "This looks like an office document. Export it as PDF and add that."),
    (b"<svg", "SVG drawings are not taken. Export it as PDF or PNG and add that."),
    (b"{\\rtf", "This looks like an office document. Export it as PDF and add that."),
    (b"%!PS", "PostScript is not taken. Export it as PDF and add that."),
    (b"Rar!", "This is an archive. Unpack it and add the pictures or the PDF inside."),
    (b"7z\xbc\xaf", "This is an archive. Unpack it and add the pictures or the PDF inside."),
    (b"\x1f\x8b", "This is an archive. Unpack it and add the pictures or the PDF inside."),
    (b"<!doctype html", "This is a web page. Print it to PDF and add that."),
    (b"<html", "This is a web page. Print it to PDF and add that."),
    (b"#!", "This is a script, not a picture. Add photographs or a PDF."),
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
    if head[4:8] == b"ftyp" and (head[8:12] in _AVIF_BRANDS):
        return Kind.AVIF
    if head[:2] == b"BM" and head[14:18] in _BMP_HEADERS:
        return Kind.BMP
    if head[:6] in (b"GIF87a", b"GIF89a"):
        return Kind.GIF
    if head[:4] in (b"II*\x00", b"MM\x00*"):
        return Kind.TIFF
    if b"%PDF-" in head[:HEAD_BYTES]:
        return Kind.PDF
    for magic, advice in _ELSEWHERE:
        if head.lstrip()[: len(magic)].lower() == magic.lower():
            raise PageError(Trouble.WRONG_KIND, advice)
    raise PageError(
        Trouble.WRONG_KIND,
        "This is not a kind of file that can be a page. "
        "Add JPEG, PNG, HEIC, AVIF, WebP, TIFF, BMP or GIF pictures, or a PDF.",
    )
