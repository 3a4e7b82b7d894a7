"""The bound PDF: one page a page with a slim footer, an outline entry a question, page labels, title, author, language.

It is a file for keeping, PDF/A-3b (ISO 19005-3), and tagged: each page is a figure that says in words what it answers.
"""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from itertools import islice
from pathlib import Path
from typing import Any

import img2pdf
import pikepdf
from pikepdf import Array, Dictionary, Name, String

from ..page.limits import A4_MM, LETTER_MM, MM_PER_INCH
from .attaching import leave_room_for_receipt
from .fax import faxed
from .footer import BAND_PT, NO_FOOTER, Footer, footers_pdf
from .keeping import Title, claim_only_what_holds, describe, save

POINTS_PER_INCH = 72  # ISO 32000-2, 8.3.2.3
_PART_PAGES = 20


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
    """One page. ``image`` gives a JPEG (kept byte for byte inside the PDF) or a one-bit PNG (kept pixel for pixel) when
    its turn has come; its size in pixels, what it is in words for those who cannot see it, and its footer. ``drawn``
    gives a born-digital page as a PDF of one page, which is laid down in the picture's place and stays as sharp.
    ``scale``: how wide it is laid down, of how wide it could be."""

    image: Callable[[], bytes]
    width: int
    height: int
    words: str = ""
    footer: Footer = NO_FOOTER
    drawn: Callable[[], bytes] | None = None
    scale: float = 1.0

    @property
    def bytes(self) -> int:
        return len(self.drawn() if self.drawn else self.image())


@dataclass(frozen=True, slots=True)
class Landing:
    """An outline entry: a text, the page (from 0) and how far down (0–1) it lands. No page: a plain entry."""

    text: str
    page: int | None
    top: float = 0.0


@dataclass(frozen=True, slots=True)
class PicturePlace:
    """Where a picture lies on its sheet: the sheet's width and height, then the picture's left, foot and size, in
    points from the sheet's lower left corner."""

    sheet: tuple[float, float]
    left: float
    foot: float
    width: float
    height: float


def bind(
    pages: Sequence[BoundPage],
    landings: Sequence[Landing],
    title: Title,
    paper: Paper,
    made: datetime,
    out: Path,
    *,
    receipt_follows: bool = False,
    before: int = 0,
) -> None:
    """Writes the bound document to ``out``. The same input gives the same bytes; memory does not grow with the pages.

    ``before``: how many stand before page 1; their page labels are i, ii, … ``receipt_follows``: with the place of an
    attached file that `attaching.append_receipt` fills.
    Raises ValueError without a page, or where a landing names a page that is not there.
    """
    if not pages:
        raise ValueError("There is no page to bind.")
    if any(landing.page is not None and not 0 <= landing.page < len(pages) for landing in landings):
        raise ValueError("An outline entry lands on a page that is not in the document.")
    places = [picture_place(page.width, page.height, paper, page.scale) for page in pages]
    with tempfile.TemporaryDirectory(dir=out.parent) as parts, _pictures(pages, Path(parts)) as pdf:
        _lay_out(pdf, pages, places)
        with pdf.open_outline() as outline:
            outline.root.extend(_entry(landing, places) for landing in landings)
        front = [0, Dictionary(S=Name.r)] if before else []
        pdf.Root.PageLabels = Dictionary(Nums=[*front, before, Dictionary(S=Name.D)])
        pdf.Root.PageMode = Name.UseOutlines
        if receipt_follows:
            leave_room_for_receipt(pdf, made)
        describe(pdf, title, made)
        if any(page.drawn for page in pages):
            claim_only_what_holds(pdf)
        save(pdf, out, identity=[(page.words, page.width, page.height, page.scale) for page in pages])


def picture_place(width: float, height: float, paper: Paper, share: float = 1.0) -> PicturePlace:
    """A picture, by its width and height in pixels, as large as it can be above the footer, the sheet turned to
    landscape where the picture lies; or only by a ``share`` of that."""
    short, long = paper.size_pt
    sheet = (short, long) if height >= width else (long, short)
    room = sheet[1] - BAND_PT
    scale = share * min(sheet[0] / width, room / height)
    width, height = width * scale, height * scale
    return PicturePlace(sheet, (sheet[0] - width) / 2, BAND_PT + (room - height) / 2, width, height)


@contextmanager
def _pictures(pages: Sequence[BoundPage], parts: Path) -> Iterator[pikepdf.Pdf]:
    """A document with a page for each picture, not laid out yet. Of many pages, parts are written to files first, from
    which they are copied when all is saved: else all pictures would lie in memory at once."""
    if len(pages) <= _PART_PAGES:
        yield _document(pages).writer
        return
    files = []
    for number, part in enumerate(_batched(pages, _PART_PAGES)):
        files.append(parts / f"{number}.pdf")
        with files[-1].open("wb") as written, _document(part).writer as document:
            document.save(written, static_id=True)
    whole = parts / "whole.pdf"
    # By qpdf's own job: it copies from file to file, where `Pdf.pages.extend` takes all pictures into memory.
    pikepdf.Job(["qpdf", "--empty", "--static-id", "--pages", *map(str, files), "--", str(whole)]).run()
    with pikepdf.open(whole, access_mode=pikepdf.AccessMode.stream) as pdf:
        yield pdf


def _batched(pages: Sequence[BoundPage], size: int) -> Iterator[list[BoundPage]]:
    rest = iter(pages)
    while part := list(islice(rest, size)):
        yield part


def _document(pages: Sequence[BoundPage]) -> Any:
    images = [faxed(page.image()) for page in pages]
    return img2pdf.convert_to_docobject(images, nodate=True, engine=img2pdf.Engine.pikepdf)


def _lay_out(pdf: pikepdf.Pdf, pages: Sequence[BoundPage], places: Sequence[PicturePlace]) -> None:
    """Puts pictures and footers in their places and tags them (ISO 32000-2, 14.7): the picture is a figure with its
    words, the footer is no part of the content."""
    with pikepdf.open(io.BytesIO(footers_pdf([page.footer for page in pages], [one.sheet for one in places]))) as feet:
        root = pdf.make_indirect(Dictionary(Type=Name.StructTreeRoot, ParentTreeNextKey=len(pages)))
        whole = pdf.make_indirect(Dictionary(Type=Name.StructElem, S=Name.Document, P=root))
        figures = []
        for number, (sheet, foot, page, place) in enumerate(zip(pdf.pages, feet.pages, pages, places, strict=True)):
            sheet.MediaBox = Array([0, 0, *(round(side, 3) for side in place.sheet)])
            for name in ("/CropBox", "/BleedBox", "/TrimBox", "/ArtBox"):
                if name in sheet:
                    del sheet[name]
            (picture,) = sheet.Resources.XObject.keys()
            shown = f"q {_matrix(place)} cm {picture} Do Q"
            if page.drawn:
                shown = _laid_down(pdf, sheet, picture, page.drawn(), place)
            sheet.Resources.XObject.Footer = pdf.copy_foreign(foot.as_form_xobject())
            sheet.Contents = pdf.make_stream(_content(shown))
            sheet.StructParents, sheet.Tabs = number, Name.S
            box = [place.left, place.foot, place.left + place.width, place.foot + place.height]
            figures.append(
                pdf.make_indirect(
                    Dictionary(
                        Type=Name.StructElem, S=Name.Figure, P=whole, Pg=sheet.obj, K=0,
                        Alt=String(page.words or f"Page {number + 1}"),
                        A=Dictionary(O=Name.Layout, Placement=Name.Block, BBox=[round(side, 3) for side in box]),
                    )
                )
            )  # fmt: skip
        whole.K, root.K = Array(figures), Array([whole])
        parents = [entry for number, figure in enumerate(figures) for entry in (number, Array([figure]))]
        root.ParentTree = pdf.make_indirect(Dictionary(Nums=parents))
        pdf.Root.StructTreeRoot, pdf.Root.MarkInfo = root, Dictionary(Marked=True)


def _matrix(place: PicturePlace) -> str:
    return f"{place.width:.3f} 0 0 {place.height:.3f} {place.left:.3f} {place.foot:.3f}"


def _laid_down(pdf: pikepdf.Pdf, sheet: pikepdf.Page, picture: str, drawn: bytes, place: PicturePlace) -> str:
    """A drawn page in the place of its picture, under the same name. Returns what draws it."""
    box = pikepdf.Rectangle(place.left, place.foot, place.left + place.width, place.foot + place.height)
    with pikepdf.open(io.BytesIO(drawn)) as source:
        form = pdf.copy_foreign(source.pages[0].as_form_xobject())
        sheet.Resources.XObject[picture] = form
        placed = sheet.calc_form_xobject_placement(form, Name(picture), box, allow_expand=True, allow_shrink=True)
    return placed.decode().strip()


def _content(shown: str) -> bytes:
    return (
        f"/Figure <</MCID 0>> BDC {shown} EMC\n"
        f"/Artifact <</Type /Pagination /Subtype /Footer>> BDC q /Footer Do Q EMC\n"
    ).encode()


def _entry(landing: Landing, places: Sequence[PicturePlace]) -> pikepdf.OutlineItem:
    if landing.page is None:
        return pikepdf.OutlineItem(landing.text)
    place = places[landing.page]
    top = place.foot + place.height * (1 - landing.top)
    return pikepdf.OutlineItem(
        landing.text, landing.page, page_location=pikepdf.PageLocation.XYZ, left=0, top=top, zoom=0
    )
