"""The bytes of a roster as a table: its encoding and its separator are found out."""

from __future__ import annotations

import csv
import io
import unicodedata
from dataclasses import dataclass

MOST_ROWS = 20_000
MOST_BYTES = 8_000_000
_SEPARATORS = ("\t", ";", ",")  # a comma may stand inside a name, so it is the last of those that fit alike


class RosterError(ValueError):
    """A file that is no roster. The message says what to give instead."""


@dataclass(frozen=True, slots=True)
class Table:
    """``rows``: each with the line it begins on, counted from 1. ``header``: empty where the file has none."""

    header: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    encoding: str
    separator: str


def read_table(data: bytes) -> Table:
    """UTF-8 or UTF-16 with a mark, UTF-8, else Windows-1252 (of which Latin-1 is a part); comma, semicolon or tab.

    Raises RosterError for a file that is empty, far too large, or no text.
    """
    if len(data) > MOST_BYTES:
        raise RosterError("This file is far larger than a roster. Give a CSV with one line for each person.")
    text, encoding = _decoded(data)
    if "\x00" in text:
        raise RosterError("This is no text file. Save the roster as CSV, then give that.")
    separator = max(_SEPARATORS, key=lambda one: _columns_with(text, one))
    rows = _rows(text, separator, strict=True)
    if not rows:
        raise RosterError("There is nobody in it. Give one line for each person: name, number, mail address.")
    if len(rows) > MOST_ROWS:
        raise RosterError(f"This file has {len(rows)} lines, and at most {MOST_ROWS} are read at a time.")
    first = rows[0][1]
    has_header = (
        not any("@" in cell for cell in first) and not any(cell.isdecimal() for cell in first) and len(rows) > 1
    )
    return Table(first if has_header else (), tuple(rows[1:] if has_header else rows), encoding, separator)


def _decoded(data: bytes) -> tuple[str, str]:
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            try:
                return data.decode(encoding), encoding
            except UnicodeDecodeError as error:
                raise RosterError("This file is cut off or damaged. Save it again as CSV.") from error
    for encoding in ("utf-8", "cp1252"):
        try:
            return data.decode(encoding), encoding
        except UnicodeDecodeError:
            continue
    return data.decode("latin-1"), "latin-1"


def _columns_with(text: str, separator: str) -> tuple[int, int]:
    """How well a separator fits: how many lines have as many cells as most have, then how many cells."""
    counts = [len(cells) for _, cells in _rows("\n".join(text.splitlines()[:60]), separator, strict=False)]
    if not counts:
        return 0, 0
    usual = max(set(counts), key=lambda count: (counts.count(count), count))
    return (counts.count(usual), usual) if usual > 1 else (0, usual)


def _rows(text: str, separator: str, *, strict: bool) -> list[tuple[int, tuple[str, ...]]]:
    """Rows with something in them. A quoted cell may run over several lines."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, skipinitialspace=True, strict=strict)
    rows, begins = [], 1
    try:
        for cells in reader:
            clean = tuple(unicodedata.normalize("NFC", " ".join(cell.split())) for cell in cells)
            if any(clean):
                rows.append((begins, clean))
            begins = reader.line_num + 1
    except csv.Error as error:
        raise RosterError(
            f"Line {begins} cannot be read: {error}. Look for a quotation mark without its other one."
        ) from error
    return rows
