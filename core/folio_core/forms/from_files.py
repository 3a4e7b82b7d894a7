"""Files as they came → the pages of a form they show, for the command line. Opened in limited children."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from folio_core.page import DEFAULT_LIMITS, PageError, Trouble, count_pages, picture, pixels_of, run_limited
from folio_core.page.pdf import page_sizes

from .answers import Space, Spaces
from .blank import BlankPage, Form, blank_page
from .marks import Mark, marks_in

_MOST_PAGES = 60


class BadSpaces(ValueError):
    """A file of answer spaces that is none. The message says where."""


@dataclass(frozen=True, slots=True)
class FilledSheet:
    """``pixels``: RGB, at most 2000 pixels long; ``scale``: how many pixels of the source one of them is. Without
    pixels it could not be opened, which ``error`` says: a code and words. ``mark``: of our own print, where it is."""

    source: str
    index: int
    pixels: NDArray[np.uint8] | None
    scale: float = 1.0
    mark: Mark | None = None
    error: tuple[str, str] = ("", "")


def first_page_from(data: bytes) -> BlankPage:
    """Raises PageError: a file that cannot be opened."""
    size = run_limited(page_sizes, data, DEFAULT_LIMITS)[0]
    return blank_page(0, pixels_of(run_limited(picture, data, 0, DEFAULT_LIMITS).image), size)


def form_from(data: bytes) -> Form:
    """Raises PageError: a file that cannot be opened, or has more pages than a form should."""
    sizes = run_limited(page_sizes, data, DEFAULT_LIMITS)
    if len(sizes) > _MOST_PAGES:
        raise PageError(
            Trouble.TOO_MANY_PAGES,
            f"This form has {len(sizes)} pages, and one has at most {_MOST_PAGES}. Split it into several assignments.",
        )
    pages = []
    for index, size in enumerate(sizes):
        drawn = run_limited(picture, data, index, DEFAULT_LIMITS)
        pages.append(blank_page(index, pixels_of(drawn.image), size))
    form = Form(tuple(pages))
    if all(page.is_empty for page in form.pages):
        raise PageError(
            Trouble.WRONG_KIND,
            "There is no print on this form by which a sheet could be told. Give the form as it is printed.",
        )
    return form


def sheets_of(source: Path) -> Iterator[FilledSheet]:
    """Each page of a file."""
    try:
        data = source.read_bytes()
        count = run_limited(count_pages, data, DEFAULT_LIMITS)
    except OSError as error:
        yield FilledSheet(str(source), 0, None, error=("unreadable", f"{error.strerror}. Check the path."))
        return
    except PageError as error:
        yield FilledSheet(str(source), 0, None, error=(error.trouble, error.message))
        return
    for index in range(count):
        try:
            seen = run_limited(picture, data, index, DEFAULT_LIMITS)
        except PageError as error:
            yield FilledSheet(str(source), index, None, error=(error.trouble, error.message))
            continue
        pixels = pixels_of(seen.image)
        marks = marks_in(pixels)
        yield FilledSheet(str(source), index, pixels, seen.source_width / seen.width, marks[0] if marks else None)


def read_spaces(text: str) -> Spaces:
    """{label: [[page, left, top, right, bottom], …]}, in points. Raises BadSpaces."""
    try:
        document = json.loads(text)
        return {str(label): [_space(box) for box in boxes] for label, boxes in document.items()}
    except (ValueError, TypeError, AttributeError, RecursionError) as error:
        raise BadSpaces(
            "Answer spaces are written {label: [[page, left, top, right, bottom], …]}, in points."
        ) from error


def _space(box: list[float]) -> Space:
    page, left, top, right, bottom = (float(side) for side in box)
    if page != int(page) or page < 0 or left >= right or top >= bottom:
        raise ValueError(box)
    return int(page), left, top, right, bottom
