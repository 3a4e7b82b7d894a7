"""The text of a question paper: pieces of lines with where they stand.

`read_paper` decodes untrusted bytes: call it through `folio_core.page.run_limited`.
"""

from __future__ import annotations

import ctypes
from collections.abc import Sequence
from dataclasses import dataclass, replace

import pypdfium2 as pdfium
from pypdfium2 import raw

from folio_core.page import Limits, PageError, Trouble
from folio_core.page.opened import damaged_file
from folio_core.page.pdf import open_pdf

MOST_CHARACTERS = 200_000  # of a whole paper; a thick examination has about 30,000
_WIDE_GAP = 0.9  # in sizes of the type: a column, a tab stop, a label before its text
_WORD_GAP = 0.18
_SAME_LINE = 0.6  # how much of their height characters of one line have in common
_FINE = 100.0  # PDFium gives places in whole units; this many of them are a point


@dataclass(frozen=True, slots=True)
class Piece:
    """Text of one line without a wide gap in it. Points from the page's upper left; ``line`` counts on the page."""

    text: str
    left: float
    top: float
    right: float
    bottom: float
    size: float
    line: int


@dataclass(frozen=True, slots=True)
class PaperText:
    """One page of the paper, in points."""

    width: float
    height: float
    pieces: tuple[Piece, ...]


@dataclass(frozen=True, slots=True)
class _Character:
    text: str
    left: float
    top: float
    right: float
    bottom: float
    after_space: bool

    @property
    def height(self) -> float:
        return self.bottom - self.top


def read_paper(data: bytes, limits: Limits) -> tuple[PaperText, ...]:
    """Every page's text. Raises PageError: locked, damaged, or more text than a question paper has."""
    pages: list[PaperText] = []
    left = MOST_CHARACTERS
    with open_pdf(data) as document:
        if len(document) > limits.pages:
            raise PageError(
                Trouble.TOO_MANY_PAGES,
                f"This PDF has {len(document)} pages, and a question paper at most {limits.pages}.",
            )
        try:
            for page in document:
                characters = _characters(page, left)
                left -= len(characters)
                width, height = page.get_size()
                pages.append(PaperText(width, height, _pieces(characters)))
        except pdfium.PdfiumError as error:
            raise damaged_file() from error
    return tuple(pages)


def _characters(page: pdfium.PdfPage, most: int) -> list[_Character]:
    width, height = page.get_size()
    text = page.get_textpage()
    count = text.count_chars()
    if count > most:
        raise PageError(
            Trouble.TOO_MANY_PAGES, "This PDF has far more text than a question paper. Give only the paper."
        )
    found = []
    box = raw.FS_RECTF()
    x, y = ctypes.c_int(), ctypes.c_int()

    def place(of_x: float, of_y: float) -> tuple[float, float]:
        """From the PDF's coordinates to the page as it is seen, turned and cropped."""
        raw.FPDF_PageToDevice(
            page.raw, 0, 0, int(width * _FINE), int(height * _FINE), 0, of_x, of_y, ctypes.byref(x), ctypes.byref(y)
        )
        return x.value / _FINE, y.value / _FINE

    spaced = False
    for index in range(count):
        code = raw.FPDFText_GetUnicode(text.raw, index)
        character = chr(code) if code else ""
        if not character.strip() or not character.isprintable():
            spaced = True
            continue
        if not raw.FPDFText_GetLooseCharBox(text.raw, index, ctypes.byref(box)):
            continue
        one, other = place(box.left, box.top), place(box.right, box.bottom)
        (left, right), (top, bottom) = sorted((one[0], other[0])), sorted((one[1], other[1]))
        if right > 0 and bottom > 0 and left < width and top < height and bottom > top:
            found.append(_Character(character, left, top, right, bottom, spaced))
        spaced = False
    return found


def _pieces(characters: Sequence[_Character]) -> tuple[Piece, ...]:
    """Characters put together to lines, by where they stand and not by their order in the file."""
    lines: list[list[_Character]] = []
    for one in sorted(characters, key=lambda character: (character.bottom, character.left)):
        for line in reversed(lines[-6:]):
            first = line[0]
            common = min(first.bottom, one.bottom) - max(first.top, one.top)
            if common >= _SAME_LINE * min(first.height, one.height):
                line.append(one)
                break
        else:
            lines.append([one])
    found = [piece for number, line in enumerate(lines) for piece in _split(line, number)]
    return tuple(sorted(found, key=lambda piece: (piece.line, piece.left)))


def _split(line: list[_Character], number: int) -> list[Piece]:
    pieces: list[Piece] = []
    for one in sorted(line, key=lambda character: character.left):
        last = pieces[-1] if pieces else None
        gap = one.left - last.right if last else 0.0
        size = max(one.height, 1.0)
        if last is None or gap > _WIDE_GAP * size:
            pieces.append(Piece(one.text, one.left, one.top, one.right, one.bottom, size, number))
            continue
        text = last.text + (" " if one.after_space or gap > _WORD_GAP * size else "") + one.text
        pieces[-1] = replace(
            last, text=text, right=max(last.right, one.right), top=min(last.top, one.top),
            bottom=max(last.bottom, one.bottom),
        )  # fmt: skip
    return pieces
