"""Files for keeping, PDF/A-3b (ISO 19005-3): what they say of themselves, and how they are written."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import BinaryIO

import pikepdf
import pikepdf.pdfa
from pikepdf import Array, Dictionary, String

_FLAVOUR = "3b"


@dataclass(frozen=True, slots=True)
class Title:
    title: str
    author: str
    subject: str = ""
    language: str = "en"


def describe(pdf: pikepdf.Pdf, title: Title, made: datetime) -> None:
    """Title, author, dates and language, alike in the document's information and in its metadata (XMP)."""
    stamp = made.isoformat(timespec="seconds")
    pdf.Root.Lang = String(title.language)
    pdf.Root.ViewerPreferences = Dictionary(DisplayDocTitle=True)  # ISO 14289-1 (PDF/UA), 7.1
    with pdf.open_metadata(set_pikepdf_as_editor=False) as metadata:
        metadata["dc:title"] = title.title
        metadata["dc:creator"] = [title.author]
        metadata["dc:description"] = title.subject
        metadata["dc:language"] = [title.language]
        metadata["xmp:CreateDate"] = metadata["xmp:ModifyDate"] = stamp
        metadata["xmp:CreatorTool"] = metadata["pdf:Producer"] = "Inked Folio"
    pikepdf.pdfa.prepare(pdf, _FLAVOUR)
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as metadata:
        metadata["xmp:MetadataDate"] = stamp  # else the time of day, and no two files alike


def claim_only_what_holds(pdf: pikepdf.Pdf) -> None:
    """A born-digital page may hold what has no place in a file for keeping (fonts that are not in it, say). Then the
    claim is dropped, not the page."""
    if pikepdf.pdfa.check(pdf, _FLAVOUR).passed:
        return
    stamp = str(pdf.open_metadata(set_pikepdf_as_editor=False)["xmp:MetadataDate"])
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as metadata:
        for name in ("pdfaid:part", "pdfaid:conformance"):
            del metadata[name]
        metadata["xmp:MetadataDate"] = stamp


def save(pdf: pikepdf.Pdf, out: Path | BinaryIO, *, identity: object) -> None:
    """With a plain table of objects, so that what is appended later needs nothing else. ``identity``: what tells this
    file from others (ISO 32000-2, 14.4), beside its metadata; not the time of day."""
    said = repr(identity).encode() + pdf.Root.Metadata.read_bytes()
    pdf.trailer.ID = Array([String(hashlib.sha256(said).digest()[:16])] * 2)
    plain = {"object_stream_mode": pikepdf.ObjectStreamMode.disable, "static_id": True, "min_version": "1.7"}
    pdf.save(out, **pikepdf.pdfa.resolve_save_kwargs(_FLAVOUR, **plain))
