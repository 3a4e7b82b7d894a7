"""Pages of a printed paper, bound on the paper itself: the clean print, and over it what the photograph shows."""

from __future__ import annotations

import logging

from assignments.telling_papers import SURE
from folio_core.binding import over_print
from folio_core.page import PageError, pixels_of, run_limited
from folio_core.page.drawn import drawn_page
from pages.files import image_name, put_image
from pages.on_paper import is_sheet, told_on
from plumbing import storage
from plumbing.decoding import limits

from .models import EditionPage

logger = logging.getLogger(__name__)


def lay_on_print(frozen: EditionPage) -> None:
    """Finds where the page lies on its paper and keeps the sheet that is bound; once, so that whatever becomes of the
    paper the document stays. What is not surely a whole page of it is bound as it was photographed."""
    if frozen.kept_on_print or frozen.is_notice:
        return
    frozen.kept_on_print = {"sheet": ""}
    try:
        laid = _laid(frozen)
    except PageError:
        logger.exception("Page %s cannot be laid on its paper", frozen.page_id)
        return
    if laid:
        frozen.kept_on_print = laid


def _laid(frozen: EditionPage) -> dict[str, object] | None:
    from folio_core.forms.onto_print import laid_on_print  # its libraries are large, and only the worker needs them

    pixels = pixels_of(storage.get(image_name(frozen.page.folio_id, frozen.image)))
    best = told_on(pixels, frozen.page, frozen.image, frozen.recipe)
    if best is None or best.found.confidence < SURE:
        return None
    blank = best.form.pages[best.found.page]
    laid = laid_on_print(pixels, blank, best.found, is_sheet=is_sheet(frozen.page, frozen.recipe))
    drawn = laid and run_limited(drawn_page, storage.get(best.paper), blank.index, 0, limits=limits())
    if not laid or not drawn:
        return None
    on_print, layer = laid
    sheet = over_print(drawn, (blank.width_pt, blank.height_pt), layer, on_print.box)
    return {"sheet": put_image(frozen.page.folio_id, sheet), **on_print.as_document()}
