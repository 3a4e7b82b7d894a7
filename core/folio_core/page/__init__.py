"""One page: open, find the sheet, straighten, set upright, tone, measure, advise."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .advise import WORDS, Advice, advise
from .errors import PageError, Trouble
from .kinds import HEAD_BYTES, Kind, kind_of
from .limits import DEFAULT_LIMITS, JPEG_QUALITY, PREVIEW_JPEG_QUALITY, PREVIEW_LONG_SIDE_PX, Limits
from .measure import Measures, measure
from .opening import count_pages, open_page, too_large_message
from .recipe import Corners, Recipe, Tone
from .sandbox import run_limited
from .sheet import Sheet, find_sheet
from .straighten import inset, output_size, sheet_size_px, straighten, turned, whole_picture
from .tone import clean_paper, paper_light

__all__ = [
    "DEFAULT_LIMITS", "HEAD_BYTES", "WORDS", "Advice", "Kind", "Limits", "Measures", "PageError", "Prepared", "Recipe",
    "Sheet", "Tone", "Trouble", "count_pages", "find_sheet", "kind_of", "prepare", "run_limited", "too_large_message",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Prepared:
    """One prepared page. ``width``, ``height``: of the source after EXIF. ``image``, ``preview``: JPEG bytes, sRGB;
    ``image_width``, ``image_height``: of ``image``. ``taken``: EXIF date and time, "" if unknown."""

    width: int
    height: int
    sheet: Sheet
    recipe: Recipe
    measures: Measures
    advice: tuple[Advice, ...]
    taken: str
    image: bytes
    image_width: int
    image_height: int
    preview: bytes


def prepare(data: bytes, index: int = 0, recipe: Recipe = Recipe(), limits: Limits = DEFAULT_LIMITS) -> Prepared:
    """The whole way of page ``index`` of a file. Decodes untrusted bytes: call it through `run_limited`.

    Raises PageError where the page cannot be opened.
    """
    source = open_page(data, index, limits)
    height, width = source.pixels.shape[:2]
    sheet = _sheet(source.pixels, recipe.corners, drawn=source.drawn)
    size = output_size(sheet.corners, snap=sheet.found and not source.drawn)
    cut = sheet.corners if recipe.corners or source.drawn or not sheet.found else inset(sheet.corners)
    flat = straighten(source.pixels, cut, size)
    light = paper_light(flat)
    measures = measure(flat, light, max(sheet_size_px(sheet.corners)))
    toned = clean_paper(flat, light, measures.ink_contrast) if recipe.tone is Tone.CLEAN and not source.drawn else flat
    page = turned(toned, recipe.turn)
    return Prepared(
        width=width, height=height, sheet=sheet, recipe=recipe, measures=measures,
        advice=advise(measures, drawn=source.drawn, sheet_found=sheet.found),
        taken=source.taken,
        image=_jpeg(page, JPEG_QUALITY), image_width=page.shape[1], image_height=page.shape[0],
        preview=_preview(page),
    )  # fmt: skip


def _sheet(pixels: NDArray[np.uint8], corners: Corners | None, *, drawn: bool) -> Sheet:
    if corners is not None:
        return Sheet(True, 1.0, corners)
    if drawn:
        return Sheet(True, 1.0, whole_picture(pixels.shape[1], pixels.shape[0]))
    return find_sheet(pixels)


def _preview(page: NDArray[np.uint8]) -> bytes:
    scale = PREVIEW_LONG_SIDE_PX / max(page.shape[:2])
    small = page if scale >= 1 else cv2.resize(page, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return _jpeg(np.asarray(small, np.uint8), PREVIEW_JPEG_QUALITY)


def _jpeg(page: NDArray[np.uint8], quality: int) -> bytes:
    bgr = cv2.cvtColor(page, cv2.COLOR_RGB2BGR)
    done, data = cv2.imencode(".jpg", bgr, [cv2.IMWRITE_JPEG_QUALITY, quality])
    if not done:
        raise PageError(Trouble.DECODER_DIED, "The prepared page could not be written. Try again.")
    return data.tobytes()
