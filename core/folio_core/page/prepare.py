"""Preparing one page: its steps, one after another, from untrusted bytes to the images that are shown and bound."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .advise import Finding, advise
from .encode import jpeg, png
from .flatten import MARGIN, Curve, curve_of, flattened, is_bent_sheet, with_margin
from .geometry import Geometry
from .ink_rows import ink_rows
from .light import Writing, turned, writing_of
from .likeness import Likeness, likeness_of
from .limits import (
    BEND_MM,
    BENT_SHEET_CONFIDENCE,
    BOOK_MM,
    DEFAULT_LIMITS,
    JPEG_QUALITY,
    LEAN_DEG,
    MIDDLE_LONG_SIDE_PX,
    OUTPUT_LONG_SIDE_PX,
    PREVIEW_JPEG_QUALITY,
    PREVIEW_LONG_SIDE_PX,
    SOURCE_LONG_SIDE_PX,
    UPRIGHT_LONG_SIDE_PX,
    Limits,
)  # fmt: skip
from .measure import Measures, Places, measure
from .opened import Opened
from .opening import open_page
from .recipe import Corners, Recipe, Tone
from .sheet import Sheet, sheet_in, shrunk
from .sheet.book import facing_pages
from .straighten import (
    area_px,
    inset,
    output_size,
    scaled_corners,
    sheet_size_px,
    straighten,
    turned_corners,
    whole_picture,
)  # fmt: skip
from .tone import clean_paper, ink_only
from .upright import AS_IT_IS, Upright, together, upright


@dataclass(frozen=True, slots=True)
class Prepared:
    """One prepared page. ``width``, ``height``: of the source after EXIF. ``halves``: 2 where the picture shows two
    facing pages of an open book, of which this is one. ``turn``: clockwise degrees it was turned by. ``curve``: how its
    lines were bent before they were straightened; None where they lie as they came. ``geometry``: where what it shows
    lies on its source. ``ink_rows``: as `ink_rows` gives it. ``image``: JPEG, or PNG of one bit for `Tone.INK`;
    ``preview``: the same, small; ``source``: the whole picture as it came, small; both JPEG. All sRGB.
    ``image_width``, ``image_height``: of ``image``. ``taken``: EXIF date and time, "" if unknown."""

    width: int
    height: int
    halves: int
    sheet: Sheet
    turn: int
    curve: Curve | None
    geometry: Geometry
    ink_rows: str
    recipe: Recipe
    measures: Measures
    advice: tuple[Finding, ...]
    likeness: Likeness
    taken: str
    image: bytes
    image_width: int
    image_height: int
    preview: bytes
    source: bytes


@dataclass(frozen=True, slots=True)
class FirstView:
    """A page as it can be seen before it is ready: ``preview`` and the size of the image that follows, in pixels."""

    preview: bytes
    image_width: int
    image_height: int


def prepare(
    data: bytes, index: int = 0, recipe: Recipe = Recipe(), limits: Limits = DEFAULT_LIMITS, half: int | None = 0, *,
    early: Callable[[FirstView], None] | None = None,
) -> Prepared:  # fmt: skip
    """The whole way of page ``index`` of a file. Decodes untrusted bytes: call it through `run_limited`.

    ``half``: 0 or 1, the left and the right page where the picture shows an open book; its two are two pages of the
    same index. None: all that is in the picture is one page. ``early`` is called as soon as the page can be seen,
    small. Raises PageError where the page cannot be opened.
    """
    source, middle, sheet = _opened(data, index, recipe.corners, limits)
    scale = source.pixels.shape[1] / source.width
    height, width = source.pixels.shape[:2]
    shrink = middle.shape[1] / width
    book = None
    if half is not None and not source.drawn and recipe.corners is None:
        book = _open_book(middle, shrink, (height, width))
    if book is not None and half is not None:
        sheet = book.pages[half]
    if half is not None and sheet.guess and _is_bent_sheet(source, middle, sheet.guess):
        sheet = Sheet(True, BENT_SHEET_CONFIDENCE, sheet.guess)
    cuttable = sheet.found and not sheet.fills and not recipe.corners
    corners = inset(sheet.corners) if cuttable else sheet.corners
    size = output_size(sheet.corners, (width, height), snap=sheet.found and not sheet.fills and not book)

    with ThreadPoolExecutor(1) as beside:  # OpenCV lets go of the interpreter, so a second core can help
        large = beside.submit(straighten, source.pixels, corners, size)
        small = straighten(middle, scaled_corners(corners, shrink), _scaled(size, UPRIGHT_LONG_SIDE_PX))
        writing = lying = writing_of(small)
        tone = Tone.PHOTO if source.drawn and recipe.tone is Tone.CLEAN else recipe.tone
        toning = beside.submit(lambda: _toned(large.result(), lying, tone))  # as it lies, while the turn is read
        whole = beside.submit(_small_source, middle)
        one = _one_of_several(source, middle, sheet)
        read = one[2] if one else writing
        found = book.upright if book else _way_up(source, read, sheet)
        turn = found.turn if recipe.turn is None else recipe.turn
        straight = cuttable or recipe.corners is not None  # the sheet's own sides say what is straight
        lean = found.lean_deg if not straight and turn == found.turn and abs(found.lean_deg) >= LEAN_DEG else 0.0
        size = size if turn % 180 == 0 else size[::-1]
        corners = turned_corners(corners, turn)
        small, writing = turned(small, turn), writing.turned(turn)
        small_corners = scaled_corners(corners, shrink)
        edges_tell = half is not None and not sheet.cut
        bend = _bend(middle, small_corners, writing, edges_tell) if straight and not sheet.several else None
        curve = bend if bend and bend.told and bend.bend_mm >= BEND_MM else None
        if curve:
            small = flattened(middle, small_corners, (small.shape[1], small.shape[0]), curve)
            writing = writing_of(small)
        preview = b"" if lean else _small_jpeg(_toned(small, writing, tone), PREVIEW_LONG_SIDE_PX)
        if early is not None and preview:
            early(FirstView(preview, *size))
        page, toned = turned(large.result(), turn), turned(toning.result(), turn)
        if curve:
            page = flattened(source.pixels, corners, size, curve)
        elif lean:
            page = straighten(source.pixels, corners, size, lean)
        if curve or lean:
            toned = _toned(page, writing, tone)
        measured = sheet.several[0] if one else sheet.corners
        share = area_px(measured) / (width * height)
        looked_at = _turned(one, turn) if one else (page, small, writing)
        bend_mm = 0.0 if curve else bend.bend_mm if bend else BOOK_MM if book else 0.0
        measuring = beside.submit(measure, *looked_at, max(sheet_size_px(measured)) / scale, share, bend_mm)
        image = png(toned) if toned.ndim == 2 else jpeg(toned, JPEG_QUALITY)
        preview = preview or _small_jpeg(toned, PREVIEW_LONG_SIDE_PX)
        likeness = likeness_of(writing)
        measures, places = measuring.result()
        places = Places(None, None) if one else places
    return Prepared(
        width=source.width, height=source.height, halves=2 if book else 1, sheet=sheet.scaled(1 / scale), turn=turn,
        curve=curve,
        geometry=Geometry(scaled_corners(corners, 1 / scale), toned.shape[1], toned.shape[0], lean, curve),
        ink_rows=ink_rows(writing.ink), recipe=recipe, measures=measures,
        advice=advise(
            measures, places, sheet, found,
            drawn=source.drawn, chosen=recipe.corners is not None, damaged=source.damaged,
        ),
        likeness=likeness, taken=source.taken, image=image, image_width=toned.shape[1],
        image_height=toned.shape[0], preview=preview,
        source=whole.result(),
    )  # fmt: skip


def _way_up(source: Opened, writing: Writing, sheet: Sheet) -> Upright:
    """A drawn page lies as its program laid it."""
    return AS_IT_IS if source.drawn else upright(writing.grey, writing.ink, shape_known=sheet.found)


@dataclass(frozen=True, slots=True)
class _Book:
    """Two facing pages as they are read, left before right."""

    pages: tuple[Sheet, Sheet]
    upright: Upright


def _open_book(middle: NDArray[np.uint8], shrink: float, shape: tuple[int, int]) -> _Book | None:
    """None where there is no gutter, or where lines run along it: a folded sheet, a block bound at its head."""
    facing = facing_pages(middle, shrink, shape)
    if facing is None:
        return None
    one, other, gutter = facing
    readings = []
    for page in (one, other):
        size = _scaled(output_size(page.corners, shape[::-1], snap=False), UPRIGHT_LONG_SIDE_PX)
        writing = writing_of(straighten(middle, scaled_corners(inset(page.corners), shrink), size))
        readings.append(upright(writing.grey, writing.ink, shape_known=True))
    found = together(readings[0], readings[1], sideways=not gutter.down)
    if found is None:
        return None
    return _Book((other, one) if found.turn in (90, 180) else (one, other), found)


def _is_bent_sheet(source: Opened, middle: NDArray[np.uint8], guess: Corners) -> bool:
    height, width = source.pixels.shape[:2]
    shrink = middle.shape[1] / width
    size = _scaled(output_size(guess, (width, height), snap=True), UPRIGHT_LONG_SIDE_PX)
    corners = scaled_corners(inset(guess), shrink)
    writing = writing_of(straighten(middle, corners, size))
    turn = upright(writing.grey, writing.ink, shape_known=True).turn
    writing, corners = writing.turned(turn), turned_corners(corners, turn)
    wide = _with_margin(middle, turned_corners(corners, 90), writing.grey.shape)
    return is_bent_sheet(writing.grey, _with_margin(middle, corners, writing.grey.shape[::-1]), wide)


def _bend(middle: NDArray[np.uint8], corners: Corners, writing: Writing, edges_tell: bool) -> Curve | None:
    """How the lines of an upright page bend."""

    def tall() -> NDArray[np.uint8]:
        return _with_margin(middle, corners, writing.grey.shape[::-1])

    return curve_of(writing.grey, tall, edges_tell=edges_tell)


def _with_margin(middle: NDArray[np.uint8], corners: Corners, size: tuple[int, ...]) -> NDArray[np.uint8]:
    """A page of width and height ``size`` with `MARGIN` of its height above and below."""
    width, height = size
    tall = with_margin(corners, (width, height))
    return straighten(middle, tall, (width, height + 2 * round(MARGIN * height)))


def _opened(data: bytes, index: int, chosen: Corners | None, limits: Limits) -> tuple[Opened, NDArray[np.uint8], Sheet]:
    """The pixels, the same shrunk, and the sheet in them.

    A very large picture comes at half its scale, unless the sheet in it is so small that a page would show it.
    """
    for reduced in (True, False):
        source = open_page(data, index, limits, reduced=reduced)
        height, width = source.pixels.shape[:2]
        scale = width / source.width
        middle, shrink = shrunk(source.pixels, MIDDLE_LONG_SIDE_PX)
        if chosen is not None:
            sheet = Sheet(True, 1.0, scaled_corners(chosen, scale))
        elif source.drawn:
            sheet = Sheet(True, 1.0, whole_picture(width, height), fills=True)
        else:
            sheet = sheet_in(middle, shrink, (height, width))
        if scale > 0.9 or max(sheet_size_px(sheet.corners)) >= OUTPUT_LONG_SIDE_PX:
            break
    return source, middle, sheet


def _small_source(middle: NDArray[np.uint8]) -> bytes:
    return jpeg(shrunk(middle, SOURCE_LONG_SIDE_PX)[0], PREVIEW_JPEG_QUALITY)


_Looked = tuple[NDArray[np.uint8], NDArray[np.uint8], Writing]  # a page, the same small, its writing


def _one_of_several(source: Opened, middle: NDArray[np.uint8], sheet: Sheet) -> _Looked | None:
    """The likeliest of several sheets by itself, large and small: their edges and the desk between are no writing."""
    if not sheet.several:
        return None
    corners = sheet.several[0]
    size = output_size(corners, (source.pixels.shape[1], source.pixels.shape[0]), snap=True)
    shrink = middle.shape[1] / source.pixels.shape[1]
    small = straighten(middle, scaled_corners(corners, shrink), _scaled(size, UPRIGHT_LONG_SIDE_PX))
    return straighten(source.pixels, corners, size), small, writing_of(small)


def _turned(one: _Looked, turn: int) -> _Looked:
    page, small, writing = one
    return turned(page, turn), turned(small, turn), writing.turned(turn)


def _scaled(size: tuple[int, int], long_side: int) -> tuple[int, int]:
    scale = min(1.0, long_side / max(size))
    return max(1, round(size[0] * scale)), max(1, round(size[1] * scale))


def _toned(page: NDArray[np.uint8], writing: Writing, tone: Tone) -> NDArray[np.uint8]:
    match tone:
        case Tone.CLEAN:
            return clean_paper(page, writing.light, writing.depth)
        case Tone.INK:
            return ink_only(page, writing)
        case Tone.PHOTO:
            return page


def _small_jpeg(page: NDArray[np.uint8], long_side: int) -> bytes:
    width, height = _scaled((page.shape[1], page.shape[0]), long_side)
    whole, _ = shrunk(page, 2 * long_side)  # by a whole number first, which is fast
    small = np.asarray(cv2.resize(whole, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
    return jpeg(small, PREVIEW_JPEG_QUALITY)
