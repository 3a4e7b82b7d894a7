"""Prepared pages without photographs and without a worker, for what begins where those end."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import lru_cache

from django.utils import timezone
from PIL import Image, ImageDraw

from folio_core.placing import Arrangement, write_arrangement
from folios.models import Folio
from pages import files
from pages.models import Original, Page


def lay_prepared(folio: Folio, count: int, *, width: int = 1654, names: Sequence[str] = ()) -> None:
    """Pages as the worker would have left them; with that width, in pixels, those of a photographed A4 sheet."""
    made = []
    for number in range(count):
        image, preview = (files.put_image(folio.pk, _sheet(number, size)) for size in (width, min(width, 339)))
        original = Original.objects.create(
            folio=folio, file_name=names[number] if names else f"IMG_{number + 1}.jpg", kind="jpeg",
            sha256=f"{folio.pk:032d}{number:032d}", size=1, stored_as="bench", arrived_at=timezone.now(),
            verdict="in_time",
        )  # fmt: skip
        page = Page(
            folio=folio, original=original, state=Page.State.READY, image=image, preview=preview, source=preview,
            width=width, height=round(width * 2**0.5),
        )  # fmt: skip
        page.save()
        made.append(page.pk)
    folio.arrangement = write_arrangement(Arrangement(order=tuple(made)))
    folio.save()


@lru_cache(maxsize=64)
def _sheet(number: int, width: int) -> bytes:
    height = round(width * 2**0.5)
    sheet = Image.new("RGB", (width, height), (253, 252, 247))
    draw = ImageDraw.Draw(sheet)
    draw.text((width / 10, height / 12), f"Sheet {number + 1}", fill=(29, 39, 96), font_size=width / 24)
    for line in range(28):
        y = height * (0.16 + line * 0.028)
        draw.line(
            [(width / 10, y), (width * (0.45 + (line * 37 + number * 11) % 40 / 100), y)], (29, 39, 96), width // 240
        )
    out = io.BytesIO()
    sheet.save(out, "JPEG", quality=85)
    return out.getvalue()
