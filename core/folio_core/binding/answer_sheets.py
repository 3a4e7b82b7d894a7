"""A sheet of typed answers as a page of the bound document."""

from __future__ import annotations

import io
from functools import cache, partial

from PIL import Image

from .bound import BoundPage, Paper


def answer_sheet(drawn: bytes, paper: Paper) -> BoundPage:
    """``drawn``: a PDF of one page, of that size; it stays as sharp as it is."""
    width, height = (round(side) for side in paper.size_pt)
    return BoundPage(_white, width, height, drawn=partial(bytes, drawn))


@cache
def _white() -> bytes:
    """The drawn page lies in this one's place."""
    out = io.BytesIO()
    Image.new("1", (8, 8), 1).save(out, "PNG")
    return out.getvalue()
