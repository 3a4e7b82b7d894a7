"""Answer paper of ours, to be printed and written on: ruled, squared or white, with a column for the labels.

Sizes of rulings are common practice, no source: 8 mm between lines, squares of 5 mm.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from enum import StrEnum

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from folio_core.fonts import runs, shortened, width_pt

MOST_SIDES = 40
HEAD_MM, FOOT_MM, SIDE_MM, COLUMN_MM = 30.0, 14.0, 10.0, 24.0
_BOX_MM, _NUMBER_BOXES, _PAGE_BOXES = 6.5, 8, 2
_LINE_GREY, _EDGE_GREY = 0.72, 0.45


class Ruling(StrEnum):
    RULED = "ruled"
    SQUARED = "squared"
    PLAIN = "plain"


_STEP_MM = {Ruling.RULED: 8.0, Ruling.SQUARED: 5.0}


@dataclass(frozen=True, slots=True)
class AnswerPaper:
    """``size_pt``: width and height in points. ``name``, ``number``: printed where they are given, else left to be
    written, the number in boxes."""

    heading: str
    ruling: Ruling
    sides: int
    size_pt: tuple[float, float]
    name: str = ""
    number: str = ""

    def __post_init__(self) -> None:
        if not 1 <= self.sides <= MOST_SIDES:
            raise ValueError(f"Answer paper has 1 to {MOST_SIDES} sides, not {self.sides}.")


def draw_answer_paper(paper: AnswerPaper) -> bytes:
    """As PDF. The same paper is the same bytes."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=paper.size_pt, invariant=1)
    canvas.setTitle(f"{paper.heading}: answer paper")
    for _ in range(paper.sides):
        _rules(canvas, paper)
        _head(canvas, paper)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _rules(canvas: Canvas, paper: AnswerPaper) -> None:
    width, height = paper.size_pt
    left, right, top, foot = SIDE_MM * mm, width - SIDE_MM * mm, height - HEAD_MM * mm, FOOT_MM * mm
    column = left + COLUMN_MM * mm
    canvas.setLineWidth(0.4)
    canvas.setStrokeGray(_LINE_GREY)
    if step := _STEP_MM.get(paper.ruling):
        y = top - step * mm
        while y >= foot:
            canvas.line(left, y, right, y)
            y -= step * mm
    if paper.ruling is Ruling.SQUARED:
        x = column + _STEP_MM[Ruling.SQUARED] * mm
        while x <= right:
            canvas.line(x, top, x, foot)
            x += _STEP_MM[Ruling.SQUARED] * mm
    canvas.setStrokeGray(_EDGE_GREY)
    canvas.setLineWidth(0.8)
    canvas.line(column, top, column, foot)
    canvas.line(left, top, right, top)


def _head(canvas: Canvas, paper: AnswerPaper) -> None:
    width, height = paper.size_pt
    left, right = SIDE_MM * mm, width - SIDE_MM * mm
    above, below = height - 16 * mm, height - 26 * mm
    canvas.setFillGray(0.15)
    _write(canvas, left, above + 2 * mm, shortened(paper.heading, 9, right - left - 62 * mm), 9)
    _write(canvas, left, height - HEAD_MM * mm + 1.2 * mm, "Question", 7)
    _page_boxes(canvas, right, above)
    if paper.name:
        _write(canvas, left + COLUMN_MM * mm, below + 2 * mm, f"{paper.name}   {paper.number}", 10)
        return
    boxes = right - _NUMBER_BOXES * _BOX_MM * mm
    _boxes(canvas, boxes, below, _NUMBER_BOXES)
    _write(canvas, boxes - 11 * mm, below + 2 * mm, "Number", 7)
    name = left + COLUMN_MM * mm
    _write(canvas, name, below + 2 * mm, "Name", 7)
    canvas.line(name + 10 * mm, below, boxes - 14 * mm, below)


def _page_boxes(canvas: Canvas, right: float, y: float) -> None:
    """Which page of how many is written by hand: nobody knows before how many there will be."""
    wide = _PAGE_BOXES * _BOX_MM * mm
    _boxes(canvas, right - wide, y, _PAGE_BOXES)
    _write(canvas, right - wide - 6 * mm, y + 2 * mm, "of", 7)
    _boxes(canvas, right - 2 * wide - 7 * mm, y, _PAGE_BOXES)
    _write(canvas, right - 2 * wide - 16 * mm, y + 2 * mm, "Page", 7)


def _boxes(canvas: Canvas, x: float, y: float, count: int) -> None:
    canvas.setStrokeGray(_LINE_GREY)  # so pale that the reading takes no edge for a 1
    canvas.setLineWidth(0.5)
    for at in range(count):
        canvas.rect(x + at * _BOX_MM * mm, y, _BOX_MM * mm, _BOX_MM * mm)


def _write(canvas: Canvas, x: float, y: float, text: str, size_pt: float) -> None:
    for font, piece in runs(text):
        canvas.setFont(font, size_pt)
        canvas.drawString(x, y, piece)
        x += width_pt(piece, size_pt)
