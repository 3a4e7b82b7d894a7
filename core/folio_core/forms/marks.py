"""Small codes in two corners of each printed page: which assignment, page and copy a sheet is (QR, ISO/IEC 18004).

They are printed over the instructor's own form, in its margins; a photograph is read by any QR reader.
"""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import pikepdf
import segno
import zxingcpp
from numpy.typing import NDArray
from reportlab.pdfgen.canvas import Canvas

from .blank import BlankPage
from .number_boxes import BOX_HIGH_PT, EDGE_PT, WORD_PT, is_free, number_boxes, place_on

_LEAST_NAME_PT = 110.0
MARK_PT = 34.0  # 12 mm: a module of 25 is then 0.48 mm, two pixels and a half of a photograph that fills its picture
_WRITTEN = re.compile(r"FOLIO/(\d{1,9})/(\d{1,3})/(\d{1,6})")


@dataclass(frozen=True, slots=True)
class Mark:
    """``page`` from 0; ``copy`` from 1, 0 where all copies are alike. ``corners``: of the code in the picture,
    clockwise from its own upper left, pixels."""

    assignment: int
    page: int
    copy: int
    corners: tuple[tuple[float, float], ...] = ()

    @property
    def text(self) -> str:
        return f"FOLIO/{self.assignment}/{self.page + 1}/{self.copy}"


@dataclass(frozen=True, slots=True)
class Copy:
    """One copy: its number, and whose it is, where that is printed on it."""

    number: int = 0
    name: str = ""
    student_number: str = ""


def with_marks(
    form: bytes, assignment: int, copies: Sequence[Copy] = (Copy(),), first: BlankPage | None = None
) -> bytes:
    """The form as it is, once a copy, with a code in the upper right and the lower left corner of each page, and the
    copy's name and number, or boxes for them where its ``first`` page is white. Trusted bytes only: call it on a form
    that was opened before."""
    with pikepdf.open(io.BytesIO(form)) as blank, pikepdf.new() as printed:
        for copy in copies:
            for index, page in enumerate(blank.pages):
                printed.pages.append(page)
                sheet = printed.pages[-1]
                box = [float(side) for side in sheet.mediabox]
                with pikepdf.open(io.BytesIO(_overlay(box, Mark(assignment, index, copy.number), copy, first))) as over:
                    sheet.add_overlay(over.pages[0], None)
        out = io.BytesIO()
        printed.save(out)
    return out.getvalue()


def marks_in(pixels: NDArray[np.uint8]) -> list[Mark]:
    """The marks of ours in a picture, RGB or grey; other codes are nobody's business."""
    grey = pixels if pixels.ndim == 2 else cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    found = []
    for one in zxingcpp.read_barcodes(
        np.ascontiguousarray(grey), formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)
    ):
        written = _WRITTEN.fullmatch(one.text)
        if written is None:
            continue
        at = one.position
        corners = tuple((float(c.x), float(c.y)) for c in (at.top_left, at.top_right, at.bottom_right, at.bottom_left))
        found.append(Mark(int(written[1]), int(written[2]) - 1, int(written[3]), corners))
    return found


def _overlay(box: list[float], mark: Mark, copy: Copy, first: BlankPage | None) -> bytes:
    width, height = box[2] - box[0], box[3] - box[1]
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width, height), invariant=1)
    rows = list(segno.make(mark.text, error="m", micro=False).matrix)
    for left, foot in ((width - EDGE_PT - MARK_PT, height - EDGE_PT - MARK_PT), (EDGE_PT, EDGE_PT)):
        canvas.setFillGray(1)
        canvas.rect(left - 4, foot - 4, MARK_PT + 8, MARK_PT + 8, stroke=0, fill=1)  # its quiet zone
        canvas.setFillGray(0)
        module = MARK_PT / len(rows)
        for at_y, row in enumerate(rows):
            for at_x, is_dark in enumerate(row):
                if is_dark:
                    canvas.rect(
                        left + at_x * module, foot + MARK_PT - (at_y + 1) * module, module, module, stroke=0, fill=1
                    )
    canvas.setFont("Helvetica", 8)
    if copy.name:
        canvas.drawString(EDGE_PT, height - EDGE_PT - 6, f"{copy.name}   {copy.student_number}")
    elif mark.page == 0 and first is not None:
        _draw_boxes(canvas, first)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _draw_boxes(canvas: Canvas, first: BlankPage) -> None:
    place = place_on(first)
    if place is None:
        return
    (left, top), height = place, first.height_pt
    canvas.setLineWidth(0.6)
    for one, upper, right, lower in number_boxes(place):
        canvas.rect(one, height - lower, right - one, lower - upper)
    canvas.drawRightString(left - 4, height - top - 12, "No.")
    room = (EDGE_PT, top, left - WORD_PT - 4, top + BOX_HIGH_PT)
    if room[2] - room[0] > _LEAST_NAME_PT and is_free(first, *room):
        canvas.drawString(room[0], height - top - 12, "Name")
        canvas.rect(room[0] + 28, height - top - BOX_HIGH_PT, room[2] - room[0] - 28, BOX_HIGH_PT)
