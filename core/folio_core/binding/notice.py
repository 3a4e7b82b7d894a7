"""A plain sheet that stands in for a page whose file could not be opened, so that nothing goes silently missing."""

from __future__ import annotations

import io

from PIL import Image, ImageDraw, ImageFont

from .bound import BoundPage

_SIZE = (1240, 1754)  # A4 at 150 dpi
_TEXT_PX = 34


def notice_page(lines: list[str]) -> BoundPage:
    sheet = Image.new("RGB", _SIZE, "white")
    font = ImageFont.load_default(_TEXT_PX)
    ImageDraw.Draw(sheet).multiline_text((120, 160), "\n".join(lines), fill="#1D2740", font=font, spacing=18)
    out = io.BytesIO()
    sheet.save(out, "JPEG", quality=85)
    return BoundPage(out.getvalue, *_SIZE)
