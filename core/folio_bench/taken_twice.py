"""Of `./folio bench forms`: the same sheet photographed twice; whether the better picture is named."""

from __future__ import annotations

import io
from collections import Counter, defaultdict
from collections.abc import Iterator
from concurrent.futures import Executor

import cv2
import numpy as np
from PIL import Image

from folio_camera.same_sheet import KINDS, TakenTwice, taken_twice
from folio_core.forms import register, written_on
from folio_core.forms.from_files import form_from
from folio_core.page import prepare
from folio_core.placing.better_picture import PagePicture, better_of


def lines_of(pool: Executor, first: int, pairs: int) -> Iterator[str]:
    """``pairs``: of each kind, with seeds from ``first`` on."""
    rows: dict[str, Counter[str]] = defaultdict(Counter)
    for kind, told in pool.map(_try, [(kind, first + seed) for kind in KINDS for seed in range(pairs)], chunksize=2):
        rows[kind][told] += 1
        rows["all"][told] += 1
    yield f"{'the same sheet twice':30}{'right':>8}{'silent':>8}{'wrong':>8}{'not told':>10}"
    for kind, row in rows.items():
        yield f"{kind:30}{row['right']:8}{row['silent']:8}{row['wrong']:8}{row['not told']:10}"


def _try(job: tuple[str, int]) -> tuple[str, str]:
    """``silent``: none is named though one is better. ``not told``: a picture of which the page is not known, so that
    nothing is said of it."""
    cv2.setNumThreads(1)
    pair = taken_twice(*job)
    pictures = [picture_of(pair, data) for data in pair.pictures]
    if None in pictures:
        return job[0], "not told"
    better = better_of([one for one in pictures if one])
    if better is None:
        return job[0], "right" if pair.better is None else "silent"
    return job[0], "right" if pair.either or better.index == pair.better else "wrong"


def picture_of(pair: TakenTwice, data: bytes) -> PagePicture | None:
    """None where it is not known which page it is."""
    made = prepare(data)
    with Image.open(io.BytesIO(made.image)) as image:
        pixels = np.asarray(image.convert("RGB"), np.uint8)
    form = form_from(pair.form.pdf)
    found = register(pixels, form, is_sheet=made.sheet.found)
    if found is None or not found.is_known or found.page != pair.page:
        return None
    written = written_on(pixels, form, found, pair.form.spaces)
    codes, measures = [one.code.value for one in made.advice], made.measures
    return PagePicture(
        True, written.ink_mm2, written.is_covered, codes, measures.blur_sigma_px, measures.resolution_dpi
    )  # fmt: skip
