"""Opening PDFs: how many pages, and the pixels of one of them.

These functions decode untrusted bytes: call them through `sandbox`.
"""

from __future__ import annotations

import numpy as np
import pypdfium2 as pdfium

from .errors import PageError, Trouble
from .limits import MM_PER_INCH, OUTPUT_DPI, Limits
from .opened import Opened, check_pixels, damaged_file

_LEAST_PHOTO_DPI = 50.0
_POINTS_PER_INCH = 72  # ISO 32000-2, 8.3.2.3: default user space unit
_PDFIUM_PASSWORD_ERROR = 4  # fpdfview.h FPDF_ERR_PASSWORD


def open_pdf(data: bytes) -> pdfium.PdfDocument:
    """Raises PageError (ENCRYPTED, or TRUNCATED where it is damaged)."""
    try:
        return pdfium.PdfDocument(data)
    except pdfium.PdfiumError as error:
        if getattr(error, "err_code", None) == _PDFIUM_PASSWORD_ERROR or "password" in str(error).lower():
            raise PageError(
                Trouble.ENCRYPTED, "This PDF is locked with a password. Save a copy without one and add that."
            ) from error
        raise damaged_file() from error


def open_pdf_page(data: bytes, index: int, limits: Limits) -> Opened:
    """Draw one page; a photograph that fills it comes at its own resolution. Raises PageError."""
    with open_pdf(data) as document:
        try:
            document.init_forms()  # before the page is loaded, or what was filled in is not drawn
            page = document[index]
            width_pt, height_pt = page.get_size()
            longest_mm = max(width_pt, height_pt) / _POINTS_PER_INCH * MM_PER_INCH
            if longest_mm > limits.pdf_side_mm:
                raise PageError(
                    Trouble.TOO_MANY_PIXELS,
                    f"Page {index + 1} of this PDF is {longest_mm / 1000:.1f} m long. Print it to A4 or Letter first.",
                )
            photo = _lone_photo(page)
            dpi = OUTPUT_DPI if photo is None else _photo_dpi(page, photo)
            scale = dpi / _POINTS_PER_INCH
            check_pixels(width_pt * scale, height_pt * scale, limits)
            bitmap = page.render(scale=scale, may_draw_forms=True, rev_byteorder=True)
            pixels = np.ascontiguousarray(bitmap.to_numpy()[:, :, :3])
        except pdfium.PdfiumError as error:
            raise damaged_file() from error
    return Opened(pixels, pixels.shape[1], pixels.shape[0], drawn=photo is None)


def page_sizes(data: bytes, limits: Limits) -> list[tuple[float, float]]:
    """Width and height of each page in points, as it is shown. Raises PageError."""
    with open_pdf(data) as document:
        if len(document) > limits.pages:
            raise PageError(Trouble.TOO_MANY_PAGES, f"This PDF has {len(document)} pages, which is too many.")
        try:
            return [page.get_size() for page in document]
        except pdfium.PdfiumError as error:
            raise damaged_file() from error


def is_drawn(page: pdfium.PdfPage) -> bool:
    """Whether it was born digital, and is not a photograph inside a PDF."""
    return _lone_photo(page) is None


def _lone_photo(page: pdfium.PdfPage) -> pdfium.PdfImage | None:
    """The one picture that fills a page and is all that is seen of it: a photograph or scan inside a PDF.

    The invisible text that scanners lay over their pictures does not count.
    """
    objects = [thing for thing in page.get_objects(max_depth=3) if not _invisible(thing)]
    if len(objects) != 1 or not isinstance(objects[0], pdfium.PdfImage) or _annotated(page):
        return None
    left, bottom, right, top = objects[0].get_bounds()
    width, height = page.get_size()
    return objects[0] if (right - left) * (top - bottom) > 0.9 * width * height else None


def _invisible(thing: pdfium.PdfObject) -> bool:
    kind = pdfium.raw.FPDFPageObj_GetType(thing.raw)
    if kind == pdfium.raw.FPDF_PAGEOBJ_FORM:
        return True  # the group itself; what it holds is looked at one by one
    if kind != pdfium.raw.FPDF_PAGEOBJ_TEXT:
        return False
    return pdfium.raw.FPDFTextObj_GetTextRenderMode(thing.raw) == pdfium.raw.FPDF_TEXTRENDERMODE_INVISIBLE


def _annotated(page: pdfium.PdfPage) -> bool:
    """Something is written over the picture: the page is then drawn as a whole, at a drawn page's size."""
    return bool(pdfium.raw.FPDFPage_GetAnnotCount(page.raw) > 0)


def _photo_dpi(page: pdfium.PdfPage, photo: pdfium.PdfImage) -> float:
    """Its own resolution, as far as a page can use it."""
    longest_px = max(photo.get_px_size())
    longest_in = max(page.get_size()) / _POINTS_PER_INCH
    return float(min(max(longest_px / longest_in, _LEAST_PHOTO_DPI), 2 * OUTPUT_DPI))
