"""Fonts for what is set in type: names in any script that one of them can write."""

from __future__ import annotations

import functools
import unicodedata
from pathlib import Path

import reportlab
from fontTools.ttLib import TTFont as FontFile
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

_FONTS = Path("/usr/share/fonts/truetype")
_LAST_RESORT = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"  # Latin only, but always there
_FILES = (
    ("FolioSans", (_FONTS / "dejavu" / "DejaVuSans.ttf", _LAST_RESORT)),
    ("FolioSansEast", (_FONTS / "droid" / "DroidSansFallbackFull.ttf",)),
)
_UNKNOWN = "?"


@functools.cache
def _registered() -> dict[str, frozenset[int]]:
    """The characters that each font can write, the preferred font first."""
    known = {}
    for name, files in _FILES:
        file = next((one for one in files if one.exists()), None)
        if file is not None:
            pdfmetrics.registerFont(TTFont(name, str(file)))
            with FontFile(file, lazy=True) as read:
                known[name] = frozenset(read.getBestCmap())
    return known


def runs(text: str) -> list[tuple[str, str]]:
    """The text in pieces (font, text), each of which its font can write whole. What none can write is a question
    mark: a file for keeping (ISO 19005-3, 6.2.11.8) must not hold glyphs that its font does not have."""
    pieces: list[tuple[str, str]] = []
    for letter in unicodedata.normalize("NFC", text):
        font, written = _font_of(letter)
        if pieces and pieces[-1][0] == font:
            pieces[-1] = (font, pieces[-1][1] + written)
        else:
            pieces.append((font, written))
    return pieces


def _font_of(letter: str) -> tuple[str, str]:
    known = _registered()
    if letter.isprintable():
        for name, letters in known.items():
            if ord(letter) in letters:
                return name, letter
    return first_font(), " " if letter.isspace() else _UNKNOWN


def first_font() -> str:
    return next(iter(_registered()))


def width_pt(text: str, size_pt: float) -> float:
    return sum(float(pdfmetrics.stringWidth(piece, font, size_pt)) for font, piece in runs(text))


def shortened(text: str, size_pt: float, room_pt: float) -> str:
    """The text, or as much of its beginning as has room, with an ellipsis."""
    if width_pt(text, size_pt) <= room_pt:
        return text
    while text and width_pt(text + "…", size_pt) > room_pt:
        text = text[:-1]
    return text.rstrip() + "…"
