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

MARK_PT = 34.0  # 12 mm: a module of 25 is then 0.48 mm, two pixels and a half of a photograph that fills its picture
_EDGE_PT = 20.0  # printers leave the outermost 5 to 7 mm white; common practice, no source
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


def with_marks(form: bytes, assignment: int, copies: Sequence[Copy] = (Copy(),)) -> bytes:
    """The form as it is, once a copy, with a code in the upper right and the lower left corner of each page, and the
    copy's name and number, or boxes for them on the first page. Trusted bytes only: call it on a form that was opened
    before."""
    with pikepdf.open(io.BytesIO(form)) as blank, pikepdf.new() as printed:
        for copy in copies:
            for index, page in enumerate(blank.pages):
                printed.pages.append(page)
                sheet = printed.pages[-1]
                box = [float(side) for side in sheet.mediabox]
                with pikepdf.open(io.BytesIO(_overlay(box, Mark(assignment, index, copy.number), copy))) as over:
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


def _overlay(box: list[float], mark: Mark, copy: Copy) -> bytes:
    width, height = box[2] - box[0], box[3] - box[1]
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width, height), invariant=1)
    rows = list(segno.make(mark.text, error="m", micro=False).matrix)
    for left, foot in ((width - _EDGE_PT - MARK_PT, height - _EDGE_PT - MARK_PT), (_EDGE_PT, _EDGE_PT)):
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
        canvas.drawString(_EDGE_PT, height - _EDGE_PT - 6, f"{copy.name}   {copy.student_number}")
    elif mark.page == 0:
        canvas.drawString(_EDGE_PT, height - _EDGE_PT - 6, "Name and number:")
        canvas.rect(_EDGE_PT + 70, height - _EDGE_PT - 14, 190, 18)
    canvas.showPage()
    canvas.save()
    return out.getvalue()
