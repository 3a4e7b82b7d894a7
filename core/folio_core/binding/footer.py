"""The slim line of type at the foot of each bound page, below the picture."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas

from folio_core.fonts import first_font, runs, shortened, width_pt

BAND_PT = 20.0  # 7 mm: nothing of the picture reaches into it
_BASELINE_PT = 8.5  # printers leave 3 mm at the edge; common practice, no source
_MARGIN_PT = 28.0
_GAP_PT = 18.0
_SIZE_PT = 6.5
_INK = 0.35


@dataclass(frozen=True, slots=True)
class Footer:
    """``left`` is shortened where both have no room beside one another; ``right`` never is."""

    left: str
    right: str


NO_FOOTER = Footer("", "")


def footers_pdf(footers: Sequence[Footer], sizes_pt: Sequence[tuple[float, float]]) -> bytes:
    """A PDF of as many pages, of these widths and heights, with nothing on them but the footers. The same input gives
    the same bytes."""
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1, pageCompression=1, initialFontName=first_font())
    for footer, (width, height) in zip(footers, sizes_pt, strict=True):
        canvas.setPageSize((width, height))
        canvas.setFillGray(_INK)
        right = width_pt(footer.right, _SIZE_PT)
        room = width - 2 * _MARGIN_PT - _GAP_PT - right
        write(canvas, shortened(footer.left, _SIZE_PT, room), _MARGIN_PT, _BASELINE_PT, _SIZE_PT)
        write(canvas, footer.right, width - _MARGIN_PT - right, _BASELINE_PT, _SIZE_PT)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def write(canvas: Canvas, text: str, x_pt: float, y_pt: float, size_pt: float) -> None:
    """One line from ``x_pt`` rightwards, each piece in a font that can write it."""
    line = canvas.beginText(x_pt, y_pt)
    for font, piece in runs(text):
        line.setFont(font, size_pt)
        line.textOut(piece)
    canvas.drawText(line)
