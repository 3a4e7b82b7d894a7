"""The bound PDF: one page a page, an outline entry a question, page labels, title, author, language."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import Enum

import img2pdf
import pikepdf

from ..page.limits import A4_MM, LETTER_MM, MM_PER_INCH

POINTS_PER_INCH = 72  # ISO 32000-2, 8.3.2.3


class Paper(Enum):
    """Width and height in millimetres, upright."""

    A4 = A4_MM
    LETTER = LETTER_MM

    @property
    def size_pt(self) -> tuple[float, float]:
        width_mm, height_mm = self.value
        return width_mm / MM_PER_INCH * POINTS_PER_INCH, height_mm / MM_PER_INCH * POINTS_PER_INCH


@dataclass(frozen=True, slots=True)
class BoundPage:
    """One page: JPEG or one-bit PNG (kept as it is inside the PDF), its size in pixels, and the labels it answers."""

    image: bytes
    width: int
    height: int


@dataclass(frozen=True, slots=True)
class Landing:
    """An outline entry: a text, the page (from 0) and how far down (0–1) it lands. No page: a plain entry."""

    text: str
    page: int | None
    top: float = 0.0


@dataclass(frozen=True, slots=True)
class Title:
    title: str
    author: str
    subject: str = ""
    language: str = "en"


def bind(pages: Sequence[BoundPage], landings: Sequence[Landing], title: Title, paper: Paper, made: datetime) -> bytes:
    """The bound document. The same input gives the same bytes.

    Raises ValueError without a page, or where a landing names a page that is not there.
    """
    if not pages:
        raise ValueError("There is no page to bind.")
    if any(landing.page is not None and not 0 <= landing.page < len(pages) for landing in landings):
        raise ValueError("An outline entry lands on a page that is not in the document.")
    with _laid_out(pages, paper) as pdf:
        with pdf.open_outline() as outline:
            outline.root.extend(_entry(landing, pdf, paper) for landing in landings)
        pdf.Root.PageLabels = pikepdf.Dictionary(Nums=[0, pikepdf.Dictionary(S=pikepdf.Name.D)])
        pdf.Root.Lang = pikepdf.String(title.language)
        pdf.Root.PageMode = pikepdf.Name.UseOutlines
        pdf.Root.ViewerPreferences = pikepdf.Dictionary(DisplayDocTitle=True)  # ISO 14289-1 (PDF/UA), 7.1
        with pdf.open_metadata(set_pikepdf_as_editor=False) as metadata:
            metadata["dc:title"] = title.title
            metadata["dc:creator"] = [title.author]
            metadata["dc:description"] = title.subject
            metadata["dc:language"] = [title.language]
            metadata["xmp:CreateDate"] = made.isoformat(timespec="seconds")
            metadata["pdf:Producer"] = "Inked Folio"
        out = io.BytesIO()
        pdf.save(out, deterministic_id=True, linearize=False)
    return out.getvalue()


def _laid_out(pages: Sequence[BoundPage], paper: Paper) -> pikepdf.Pdf:
    """Each picture centred on its own sheet, turned to landscape where the picture lies. Not written in between: that
    would be half of the binding's time."""
    document = img2pdf.convert_to_docobject(
        [page.image for page in pages], layout_fun=_layout_on(paper), nodate=True, engine=img2pdf.Engine.pikepdf
    )
    pdf: pikepdf.Pdf = document.writer
    return pdf


def _layout_on(paper: Paper) -> Callable[[int, int, tuple[float, float]], tuple[float, float, float, float]]:
    """Of a picture's size in pixels and its dots an inch: page and picture, width and height, in points."""
    short, long = paper.size_pt
    upright, lying = (img2pdf.get_layout_fun(size, fit=img2pdf.FitMode.into) for size in ((short, long), (long, short)))

    def layout(width: int, height: int, dpi: tuple[float, float]) -> tuple[float, float, float, float]:
        placed: tuple[float, float, float, float] = (upright if height >= width else lying)(width, height, dpi)
        return placed

    return layout


def _entry(landing: Landing, pdf: pikepdf.Pdf, paper: Paper) -> pikepdf.OutlineItem:
    if landing.page is None:
        return pikepdf.OutlineItem(landing.text)
    box = pdf.pages[landing.page].mediabox
    height = float(box[3]) - float(box[1])
    return pikepdf.OutlineItem(
        landing.text,
        landing.page,
        page_location=pikepdf.PageLocation.XYZ,
        left=0,
        top=height * (1 - landing.top),
        zoom=0,
    )
