"""A born-digital PDF page by itself, as it was drawn, with nothing in it that could do anything but be seen."""

from __future__ import annotations

import io
from collections.abc import Iterator

import pikepdf
from pikepdf import Array, Dictionary, Name, Object, Stream

from .opened import damaged_file
from .pdf import is_drawn, open_pdf

# ISO 32000-2: actions (12.6), scripts (12.6.4.17), attached files (7.11.4, 14.13), what belongs to one program (14.5,
# 14.11), references to other files (8.10.4), the structure of the whole document (14.7), and metadata of parts.
_FORBIDDEN = (
    "/A", "/AA", "/AF", "/Alternates", "/EF", "/JS", "/JavaScript", "/LastModified", "/Metadata", "/OPI", "/OpenAction",
    "/PieceInfo", "/Ref", "/StructParent", "/StructParents", "/Thumb",
)  # fmt: skip
_KEPT_OF_PAGE = ("/Type", "/MediaBox", "/CropBox", "/Rotate", "/UserUnit", "/Resources", "/Contents", "/Group")
_MOST_OBJECTS = 20_000
_MOST_BYTES = 8_000_000  # of one page; a larger one is bound as a picture


def drawn_page(data: bytes, index: int, turn: int) -> bytes:
    """A PDF of this one page, turned clockwise by ``turn`` degrees; empty where it is better kept as a picture: a
    photograph, one with layers that can be hidden, or with more in it than a page should have.

    What was filled in or written over is drawn into it. Reads untrusted bytes: call it through `run_limited`. Raises
    PageError for a file that cannot be read.
    """
    with open_pdf(data) as document:
        document.init_forms()
        if not is_drawn(document[index]):
            return b""
    try:
        with pikepdf.open(io.BytesIO(data)) as source:
            return _alone(source, index, turn)
    except (pikepdf.PdfError, RecursionError, KeyError, TypeError, ValueError) as error:
        raise damaged_file() from error


def _alone(source: pikepdf.Pdf, index: int, turn: int) -> bytes:
    if "/OCProperties" in source.Root:
        return b""
    source.generate_appearance_streams()
    source.flatten_annotations("screen")
    with pikepdf.new() as alone:
        alone.pages.append(source.pages[index])
        page = alone.pages[0]
        page.rotate(turn, relative=True)
        for key in [key for key in page.obj.keys() if key not in _KEPT_OF_PAGE]:  # noqa: SIM118 (not a dict)
            del page.obj[key]
        for thing in _everything_in(page.obj):
            if isinstance(thing, Stream) and thing.get("/Subtype") == Name.PS:
                return b""
            for key in _FORBIDDEN:
                if key in thing:
                    del thing[key]
        out = io.BytesIO()
        alone.save(out, static_id=True, deterministic_id=False)
    return out.getvalue() if out.tell() <= _MOST_BYTES else b""


def _everything_in(page: Object) -> Iterator[Object]:
    """All dictionaries and streams that are reached from the page, each once. Raises ValueError for too many."""
    seen: set[tuple[int, int]] = set()
    waiting, count = [page], 0
    while waiting:
        thing = waiting.pop()
        if thing.is_indirect:
            if thing.objgen in seen:
                continue
            seen.add(thing.objgen)
        count += 1
        if count > _MOST_OBJECTS:
            raise ValueError("There is more in this page than a page should have.")
        if isinstance(thing, Array):
            waiting += [one for one in thing if isinstance(one, Object)]
        elif isinstance(thing, Dictionary | Stream):
            yield thing
            waiting += [value for key, value in thing.items() if key != "/Parent" and isinstance(value, Object)]
