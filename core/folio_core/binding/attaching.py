"""The receipt inside the bound PDF: an attached file (ISO 32000-2, 7.11.4) that is appended when the document is done.

The receipt holds the hash of the document, so it cannot be in what is hashed. The document has an empty attached file;
what is appended (an incremental update, ISO 32000-2, 7.5.6) gives that one object its content and nothing else. Its
form is fixed here, byte for byte: whoever has the document and the receipt can make it again and compare.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime
from io import BytesIO
from pathlib import Path

import pikepdf
from pikepdf import Array, Dictionary, Name, String

RECEIPT_FILE = "receipt.json"
_DESCRIPTION = "The signed receipt"
_IN_PRINT = f"/AFRelationship /Source /Desc ({_DESCRIPTION})".encode()  # as `keeping.save` writes it
_HEAD = b"<< /Type /EmbeddedFile /Subtype /application#2Fjson /Params << /Size "
_ATTACHED = re.compile(re.escape(_HEAD) + rb"(?P<size>\d+) >> /Length \d+ >>\nstream\n")
_TAIL = 4096  # the trailer lies within so many bytes of the end
_TRAILER = re.compile(rb"trailer <<(?P<entries>.*)>>\s+startxref\s+(?P<table>\d+)\s+%%EOF\s*\Z", re.DOTALL)


class NoRoomError(Exception):
    """The document has no place for a receipt: this software did not bind it."""


@dataclass(frozen=True, slots=True)
class Place:
    """Where a receipt goes: the length of the document in bytes, and the number of the object it becomes."""

    size: int
    number: int


def leave_room_for_receipt(pdf: pikepdf.Pdf, made: datetime, *, in_print: bool = False) -> None:
    """An empty associated file (ISO 19005-3, 6.8) that `append_receipt` fills. ``made``: the file's date.
    ``in_print``: the document is the receipt in print, and the receipt its source (ISO 32000-2, 7.11.3)."""
    content = pikepdf.Stream(pdf, b"", Type=Name.EmbeddedFile, Subtype=Name("/application/json"))
    content.Params = Dictionary(ModDate=String(f"D:{made:%Y%m%d%H%M%S}Z"))
    attached = Dictionary(
        Type=Name.Filespec, F=String(RECEIPT_FILE), UF=String(RECEIPT_FILE),
        AFRelationship=Name.Source if in_print else Name.Data,
        Desc=String(_DESCRIPTION), EF=Dictionary(F=content, UF=content),
    )  # fmt: skip
    specification = pdf.make_indirect(attached)
    pdf.Root.Names = Dictionary(EmbeddedFiles=Dictionary(Names=Array([String(RECEIPT_FILE), specification])))
    pdf.Root.AF = Array([specification])


def place_of_receipt(document: Path | BytesIO) -> Place:
    """Raises NoRoomError."""
    with pikepdf.open(document) as pdf:
        try:
            content = pdf.Root.AF[0].EF.F
        except (AttributeError, IndexError, KeyError) as error:
            raise NoRoomError("This document has no place for a receipt.") from error
        size = len(document.getbuffer()) if isinstance(document, BytesIO) else document.stat().st_size
        return Place(size, content.objgen[0])


def appended(document_end: bytes, place: Place, receipt: bytes) -> bytes:
    """What follows the document. ``document_end``: its last bytes, 4096 or all. Raises NoRoomError."""
    found = _TRAILER.search(document_end[-_TAIL:])
    if found is None:
        raise NoRoomError("This document does not end as this software ends one.")
    entries, table_before = found["entries"].strip(), int(found["table"])
    size = len(receipt)
    content = b"\n%d 0 obj\n" % place.number + _HEAD + b"%d >> /Length %d >>\nstream\n" % (size, size)
    content += receipt + b"\nendstream\nendobj\n"
    table = b"xref\n%d 1\n%010d 00000 n \n" % (place.number, place.size + 1)
    trailer = b"trailer << /Prev %d %s >>\nstartxref\n%d\n%%%%EOF\n" % (
        table_before,
        entries,
        place.size + len(content),
    )
    return content + table + trailer


def append_receipt(document: Path, place: Place, receipt: bytes) -> None:
    """Appends the receipt to the document's file."""
    with document.open("r+b") as file:
        file.seek(max(0, place.size - _TAIL))
        end = file.read()
        file.write(appended(end, place, receipt))


def shows_receipt(file: bytes) -> bool:
    """Whether this PDF says of itself that it is a receipt in print, and not the work. Nothing vouches for that."""
    return _IN_PRINT in file


def attached_receipt(file: bytes) -> bytes | None:
    """The receipt in a bound PDF, or in its own, as it was downloaded; None where there is none."""
    found = _ATTACHED.match(file, max(0, file.rfind(_HEAD)))
    return None if found is None else file[found.end() : found.end() + int(found["size"])]
