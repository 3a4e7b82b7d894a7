"""Files as they came → the readings of their pages, for the command line."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from folio_core.page import DEFAULT_LIMITS, PageError, Recipe, count_pages, pixels_of, prepare, run_limited

from .engine import usual_engine
from .page_reading import PageReading


@dataclass(frozen=True, slots=True)
class PageOfFile:
    """``reading``: None where the page could not be opened, which ``error`` says: a code and words. ``taken``: EXIF
    date and time, "" if unknown."""

    source: str
    index: int
    reading: PageReading | None
    error: tuple[str, str] = ("", "")
    taken: str = ""


def pages_of(source: Path) -> Iterator[PageOfFile]:
    """Each page of a file, and both of an open book, prepared in a limited child process, then read."""
    try:
        data = source.read_bytes()
        count = run_limited(count_pages, data, DEFAULT_LIMITS)
    except OSError as error:
        yield PageOfFile(str(source), 0, None, ("unreadable", f"{error.strerror}. Check the path."))
        return
    except PageError as error:
        yield PageOfFile(str(source), 0, None, (error.trouble, error.message))
        return
    for index in range(count):
        half, halves = 0, 1
        while half < halves:
            try:
                prepared = run_limited(prepare, data, index, Recipe(), DEFAULT_LIMITS, half)
            except PageError as error:
                yield PageOfFile(str(source), index, None, (error.trouble, error.message))
                break
            reading = usual_engine().read(pixels_of(prepared.image))
            yield PageOfFile(str(source), index, reading, taken=prepared.taken)
            half, halves = half + 1, prepared.halves
