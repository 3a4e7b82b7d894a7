"""Reading the labels of a page that is ready. Nothing leaves the machine."""

from __future__ import annotations

import logging
from datetime import datetime
from typing import Any

import numpy as np
from django.conf import settings
from django.db import transaction
from django.dispatch import receiver
from numpy.typing import NDArray

from folio_core.page import PageError, pixels_of
from folio_core.reading import Engine
from folios.models import Folio
from pages.files import image_name
from pages.models import Page
from pages.on_paper import told_on
from pages.signals import page_ready
from plumbing import storage

from .models import ReadPage
from .printed import place_sheets, sheet_in
from .queueing import enqueue_proposing, enqueue_reading

logger = logging.getLogger(__name__)


@receiver(page_ready)
def read_when_ready(page: Page, **_: object) -> None:
    if is_wanted(page.folio):
        enqueue_reading(page.pk, page.folio.window())


def is_wanted(folio: Folio) -> bool:
    """Whether this folio's pages are read: unless installation, course, assignment or student want it not."""
    assignment = folio.assignment
    if settings.FOLIO_READING == "none" or assignment.whole_work or not assignment.proposes:
        return False
    return assignment.course.proposes and folio.student.wants_proposals


def read_page(page_id: int, *, now: datetime) -> None:
    """Done twice is done once; a page whose image is another by now brought its own job."""
    page = Page.objects.select_related("folio__assignment__course", "folio__student").filter(pk=page_id).first()
    if page is None or page.state != Page.State.READY or not is_wanted(page.folio):
        return
    if ReadPage.objects.filter(page=page, image=page.image).exists():
        return
    pixels = pixels_of(storage.get(image_name(page.folio_id, page.image)))
    assignment = page.folio.assignment
    sheet = _sheet(pixels, page) if assignment.on_paper and assignment.question_paper else {}
    reading = _engine().read(pixels)
    kept = {"image": page.image, "kept_reading": reading.as_document(), "read_at": now, "kept_sheet": sheet}
    with transaction.atomic():
        ReadPage.objects.update_or_create(page=page, defaults=kept)
        enqueue_proposing(page.folio_id, page.folio.window())
    if sheet.get("page") is not None:
        place_sheets(page.folio_id, now)


def _sheet(pixels: NDArray[np.uint8], page: Page) -> dict[str, Any]:
    """A paper that cannot be opened any more must not keep its pages from being read."""
    try:
        return sheet_in(pixels, told_on(pixels, page, page.image, page.recipe))
    except PageError:
        logger.exception("The paper of assignment %s cannot be told on its pages", page.folio.assignment_id)
        return {}


def _engine() -> Engine:
    from folio_core.reading.engine import usual_engine  # its libraries are large, and only the worker needs them

    return usual_engine()
