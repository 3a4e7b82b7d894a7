"""The bound PDF: one page a page, an outline entry a question, page labels, title, author, language."""

from __future__ import annotations

import io
from collections.abc import Sequence
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
    with pikepdf.open(io.BytesIO(_laid_out(pages, paper))) as pdf:
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


def _laid_out(pages: Sequence[BoundPage], paper: Paper) -> bytes:
    """Each picture centred on its own sheet, turned to landscape where the picture lies."""
    parts = [
        img2pdf.convert(
            page.image,
            layout_fun=img2pdf.get_layout_fun(_sheet_pt(page, paper), fit=img2pdf.FitMode.into),
            nodate=True,
            engine=img2pdf.Engine.pikepdf,
        )
        for page in pages
    ]
    with pikepdf.new() as whole:
        for part in parts:
            with pikepdf.open(io.BytesIO(part)) as one:
                whole.pages.extend(one.pages)
        out = io.BytesIO()
        whole.save(out, deterministic_id=True)
    return out.getvalue()


def _sheet_pt(page: BoundPage, paper: Paper) -> tuple[float, float]:
    short, long = paper.size_pt
    return (short, long) if page.height >= page.width else (long, short)


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
