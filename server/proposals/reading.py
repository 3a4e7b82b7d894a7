"""Reading the labels of a page that is ready. Nothing leaves the machine."""

from __future__ import annotations

import io
from datetime import datetime

import numpy as np
from django.conf import settings
from django.db import transaction
from django.dispatch import receiver
from PIL import Image

from folio_core.reading import Engine
from folios.models import Folio
from pages.files import image_name
from pages.models import Page
from pages.signals import page_ready
from plumbing import storage

from .models import ReadPage
from .queueing import enqueue_proposing, enqueue_reading


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
    with Image.open(io.BytesIO(storage.get(image_name(page.folio_id, page.image)))) as image:
        pixels = np.asarray(image.convert("RGB"))
    reading = _engine().read(pixels)
    kept = {"image": page.image, "kept_reading": reading.as_document(), "read_at": now}
    with transaction.atomic():
        ReadPage.objects.update_or_create(page=page, defaults=kept)
        enqueue_proposing(page.folio_id, page.folio.window())


def _engine() -> Engine:
    from folio_core.reading.engine import usual_engine  # its libraries are large, and only the worker needs them

    return usual_engine()
