"""Orders that pages may have come in, besides the one they were laid in: as they were photographed, as files count."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import UTC, datetime

from .page_evidence import PageEvidence

# How much likelier one of these is the pages' own order than another, where they differ; common practice, no source.
_AS_SENT, _AS_TAKEN, _AS_NAMED = 1.0, 2.0, 1.0
_NUMBERS = re.compile(r"\d+")

Order = tuple[int, ...]


def sent_orders(pages: Sequence[PageEvidence]) -> dict[Order, float]:
    """Each order with its share of belief; the shares sum to 1. Times and names count only where all pages have them
    and no two are the same, but for pages of one file, which stay in its order."""
    as_sent = tuple(range(len(pages)))
    weights = {as_sent: _AS_SENT}
    for keys, weight in (([_moment(page.taken) for page in pages], _AS_TAKEN), (_counted(pages), _AS_NAMED)):
        order = _ordered(keys, pages)
        if order is not None:
            weights[order] = weights.get(order, 0.0) + weight
    total = sum(weights.values())
    return {order: weight / total for order, weight in weights.items()}


def _ordered(keys: Sequence[float | None], pages: Sequence[PageEvidence]) -> Order | None:
    known = [key for key in keys if key is not None]
    files = {page.file_name or str(at) for at, page in enumerate(pages)}
    if len(known) < len(keys) or len(set(known)) < len(files) or len(files) < 2:
        return None
    return tuple(sorted(range(len(keys)), key=lambda at: (known[at], at)))


def _moment(taken: str) -> float | None:
    """Seconds of a camera's EXIF time ("2026:11:03 14:02:11", and its offset from UTC), None for none that can be."""
    try:
        return datetime.strptime(taken[:19], "%Y:%m:%d %H:%M:%S").replace(tzinfo=UTC).timestamp()
    except ValueError:
        return None


def _counted(pages: Sequence[PageEvidence]) -> list[float | None]:
    """The one number in which the files' names differ, as cameras count: IMG_0012, IMG_0013."""
    names = [page.file_name for page in pages]
    numbers = [_NUMBERS.findall(name) for name in names]
    if len({_NUMBERS.sub("#", name) for name in names}) != 1 or not numbers or not numbers[0]:
        return [None] * len(pages)
    differing = [at for at in range(len(numbers[0])) if len({one[at] for one in numbers}) > 1]
    return [float(one[differing[0]]) for one in numbers] if len(differing) == 1 else [None] * len(pages)
