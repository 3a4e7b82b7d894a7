"""A marked document: the bound PDF with ink, points and notes as standard annotations (ISO 32000-2, 12.5.6), which any
reader shows and any editor can take off again. The pages themselves stay as they were bound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import pikepdf
from pikepdf import Array, Dictionary, Name, String

from ..binding import Paper, PicturePlace, picture_place
from .ink import Stroke, Tool, pen_width, traces

_RED = (0.722, 0.196, 0.122)
_YELLOW = (0.886, 0.714, 0.373)
_PRINT = 4  # annotation flag (table 167)
_POINTS_PT, _TEXT_PT = 15, 10


@dataclass(frozen=True, slots=True)
class Said:
    """What stands beside an answer: its points in words ("2b: 3 of 4"), and the note. ``top``: share of the height."""

    top: float
    points: str
    note: str = ""


@dataclass(frozen=True, slots=True)
class MarkedPage:
    """``width``, ``height``: of the page's picture in pixels. ``strokes``: in the same pixels; with each who drew it.
    ``said``: at its answers. ``scale``: how wide it is bound, of how wide it could be."""

    width: int
    height: int
    strokes: Sequence[tuple[Stroke, str]] = ()
    said: Sequence[Said] = ()
    scale: float = 1.0


def annotate(
    bound: Path, pages: Sequence[MarkedPage], paper: Paper, total: str, out: Path, *, before: int = 0
) -> None:  # fmt: skip
    """Writes ``bound`` with annotations to ``out``. ``pages``: of the document in order, behind ``before`` sheets;
    further ones, typed answers say, stay bare. ``total``: stands on the first page, in words."""
    with pikepdf.open(bound) as pdf:
        for number, (sheet, page) in enumerate(zip(list(pdf.pages)[before:], pages, strict=False)):
            place = picture_place(page.width, page.height, paper, page.scale)
            marks = [_ink(pdf, stroke, by, place, page) for stroke, by in page.strokes]
            for said in page.said:
                marks += _beside(pdf, said, place)
            if number == 0 and total:
                marks.append(_words(pdf, total, place.sheet[0] - 20, place.sheet[1] - 24, _POINTS_PT, right=True))
            there = list(sheet.get("/Annots", []))
            sheet.Annots = Array([*there, *(pdf.make_indirect(mark) for mark in marks)])
        if "/Metadata" in pdf.Root:  # it claims PDF/A with a signed receipt, which holds for the bound document alone
            del pdf.Root.Metadata
        pdf.save(out, deterministic_id=True)


def _ink(pdf: pikepdf.Pdf, stroke: Stroke, by: str, place: PicturePlace, page: MarkedPage) -> Dictionary:
    scale = place.width / page.width

    def laid(x: float, y: float) -> tuple[float, float]:
        return place.left + x * scale, place.foot + place.height - y * scale

    if stroke.tool is Tool.TEXT:
        x, y = laid(*stroke.points[0][:2])
        return _words(pdf, stroke.text, x, y, _TEXT_PT, by=by)
    lines = [[laid(x, y) for x, y, _ in line] for line in traces(stroke)]
    lines = [line if len(line) > 1 else [*line, (line[0][0] + 0.1, line[0][1])] for line in lines]
    width = max(0.6, pen_width(stroke) * scale)
    across, up = [x for line in lines for x, _ in line], [y for line in lines for _, y in line]
    rect = [min(across) - width, min(up) - width, max(across) + width, max(up) + width]
    marker = stroke.tool is Tool.HIGHLIGHTER
    red, green, blue = _YELLOW if marker else _RED
    drawn = " ".join(
        f"{line[0][0]:.2f} {line[0][1]:.2f} m " + " ".join(f"{x:.2f} {y:.2f} l" for x, y in line[1:]) + " S"
        for line in lines
    )
    content = f"/G gs {red} {green} {blue} RG {width:.2f} w 1 J 1 j {drawn}"
    state = Dictionary(CA=0.45, BM=Name.Multiply) if marker else Dictionary(CA=1)
    return Dictionary(
        Type=Name.Annot, Subtype=Name.Ink, Rect=_rounded(rect), F=_PRINT, T=String(by),
        Contents=String(stroke.tool.value), C=Array([red, green, blue]), CA=0.45 if marker else 1,
        InkList=Array([_rounded([side for point in line for side in point]) for line in lines]),
        BS=Dictionary(W=round(width, 2), S=Name.S),
        AP=Dictionary(N=_form(pdf, rect, content, Dictionary(ExtGState=Dictionary(G=state)))),
    )  # fmt: skip


def _beside(pdf: pikepdf.Pdf, said: Said, place: PicturePlace) -> list[Dictionary]:
    """At the right edge, where the answer begins; the note as a note that opens, with all its signs."""
    up = min(place.foot + place.height * (1 - said.top), place.sheet[1] - 44)
    right = place.sheet[0] - 26 if said.note else place.sheet[0] - 8
    marks = [_words(pdf, said.points, right, up, _POINTS_PT, right=True)]
    if said.note:
        marks.append(
            Dictionary(
                Type=Name.Annot, Subtype=Name.Text, Name=Name.Comment, F=_PRINT, C=Array(_RED),
                Rect=_rounded([right + 2, up - 20, right + 22, up]), Contents=String(said.note),
            )
        )  # fmt: skip
    return marks


def _words(
    pdf: pikepdf.Pdf, text: str, x: float, up: float, size: float, *, right: bool = False, by: str = ""
) -> Dictionary:
    """Free text, its upper left (or right) corner at the spot. What a standard font has no signs for becomes a note
    that opens: its words are all there."""
    try:
        shown = text.encode("cp1252")
    except UnicodeEncodeError:
        return Dictionary(
            Type=Name.Annot, Subtype=Name.Text, Name=Name.Comment, F=_PRINT, C=Array(_RED), T=String(by),
            Rect=_rounded([x - 20 if right else x, up - 20, x if right else x + 20, up]), Contents=String(text),
        )  # fmt: skip
    lines = shown.split(b"\n")
    wide = max(map(len, lines)) * size * 0.56 + 6  # Helvetica's mean advance, and some room
    rect = [x - wide if right else x, up - size * 1.2 * len(lines) - 4, x if right else x + wide, up]
    colour = " ".join(map(str, _RED))
    font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica, Encoding=Name.WinAnsiEncoding)
    rows = b" ".join(b"T* (" + _escaped(line) + b") Tj" for line in lines)
    start = f"BT /F {size} Tf {colour} rg {size * 1.2:.2f} TL {rect[0] + 3:.2f} {rect[3] - 1:.2f} Td ".encode()
    return Dictionary(
        Type=Name.Annot, Subtype=Name.FreeText, F=_PRINT, Rect=_rounded(rect), Contents=String(text), T=String(by),
        DA=String(f"/Helv {size} Tf {colour} rg"), BS=Dictionary(W=0),
        AP=Dictionary(N=_form(pdf, rect, start + rows + b" ET", Dictionary(Font=Dictionary(F=font)))),
    )  # fmt: skip


def _escaped(text: bytes) -> bytes:
    for sign in (b"\\", b"(", b")"):
        text = text.replace(sign, b"\\" + sign)
    return text.replace(b"\r", b"")


def _form(pdf: pikepdf.Pdf, rect: Sequence[float], content: str | bytes, resources: Dictionary) -> pikepdf.Object:
    """An appearance in the page's own coordinates."""
    data = content.encode() if isinstance(content, str) else content
    return pdf.make_stream(
        data, Type=Name.XObject, Subtype=Name.Form, BBox=_rounded(rect), Matrix=Array([1, 0, 0, 1, 0, 0]),
        Resources=resources,
    )  # fmt: skip


def _rounded(numbers: Sequence[float]) -> Array:
    return Array([round(float(number), 2) for number in numbers])
