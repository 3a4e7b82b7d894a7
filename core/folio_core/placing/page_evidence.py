"""What is known of one page of a folio when its place is proposed."""

from __future__ import annotations

from dataclasses import dataclass

from folio_core.reading.page_reading import PageReading


@dataclass(frozen=True, slots=True)
class PageEvidence:
    """What is known of one page. ``held``: the questions a person placed on it, which are never overruled; None where
    nobody did. ``loose``: a person said that it is. ``taken``: when it was photographed, as EXIF has it, "" if unknown;
    ``file_name``: "" if unknown."""

    reading: PageReading
    held: tuple[str, ...] | None = None
    loose: bool = False
    taken: str = ""
    file_name: str = ""
