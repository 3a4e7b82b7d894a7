"""How the marks of a page stand to the rest of it: to the edge of the writing, to the lines above, to what is drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .finding import Found, Start
from .page_reading import Mark

_MARGIN, _LEAST_BODY = 8.0, 3  # digit heights that a label stands left of its column's lines at most; how many tell
_ON_EDGE = 1.5  # digit heights that these begin off their edge at most
# Digit heights: so close to a drawing, so far inside the writing and with nothing so near behind it, it belongs there.
_BESIDE, _INSIDE, _ALONE = 2.0, 2.0, 3.0
_RING = 5.0  # digit heights that a ring around a label is high at most


def on_the_page(marks: Sequence[Mark], found: Found, drawings: NDArray[np.float64]) -> list[Mark]:
    """The marks of ``found.starts`` with `hang`, `space` and `drawn`. ``drawings``: left, top, right, bottom of each,
    in pixels, n × 4."""
    drawings = _without_rings(drawings, found)
    drawn = [_reach(start, drawings, 0.0) for start in found.starts]
    firsts = [at for at, start in enumerate(found.starts) if start.first]
    body = [found.starts[at] for at in firsts if marks[at].nothing > 0.5 and not drawn[at]]
    lefts = [start.left for start in body] or [found.starts[at].left for at in firsts]
    edge = float(np.percentile(lefts, 25 if body else 60))
    placed = []
    for at, (start, mark) in enumerate(zip(found.starts, marks, strict=True)):
        own_edge = _own_edge(start, body, found)
        hang = ((edge if own_edge is None else own_edge) - start.left) / found.digit
        is_drawn = drawn[at] or _is_beside(start, edge, drawings, found.digit)
        placed.append(replace(mark, hang=float(np.clip(hang, -20, 12)), space=_space(start, found), drawn=is_drawn))
    return placed


def _without_rings(drawings: NDArray[np.float64], found: Found) -> NDArray[np.float64]:
    """Without what is drawn around a single label: a ring or a box, little higher than that."""
    inside = np.array([sum(_reach(start, one[None], 0.0) for start in found.starts) for one in drawings])
    return drawings[(inside != 1) | (drawings[:, 3] - drawings[:, 1] > _RING * found.digit)]


def _reach(start: Start, drawings: NDArray[np.float64], more: float) -> bool:
    """Whether a start lies in a drawing, or no more than so many pixels beside one."""
    left, top, right, bottom = drawings.T
    across = (left - more < start.left) & (start.left < right + more)
    return bool((across & (top - more < start.middle) & (start.middle < bottom + more)).any())


def _is_beside(start: Start, edge: float, drawings: NDArray[np.float64], digit: float) -> bool:
    """Whether it names a corner or a side of a figure. What stands at the edge of the writing may be a label, though
    the answer is drawn."""
    is_alone, is_inside = start.gap > _ALONE * digit, start.left > edge + _INSIDE * digit
    return bool(is_alone and is_inside) and _reach(start, drawings, _BESIDE * digit)


def _own_edge(start: Start, body: Sequence[Start], found: Found) -> float | None:
    """Where the lines begin that stand right of a start in its own column; None where they begin anywhere."""
    near = [
        other.left
        for other in body
        if (other.line < found.lines) == (start.line < found.lines)
        and -1.5 * found.digit < other.left - start.left < _MARGIN * found.digit
    ]
    if len(near) < _LEAST_BODY:
        return None
    middle = float(np.median(near))
    return middle if sum(abs(left - middle) < _ON_EDGE * found.digit for left in near) >= _LEAST_BODY else None


def _space(start: Start, found: Found) -> float:
    """The paper above it, in distances of lines."""
    above = [
        other.middle
        for other in found.starts
        if other.middle < start.middle - 0.4 * found.digit and abs(other.left - start.left) < 2 * _MARGIN * found.digit
    ]
    return min((start.middle - max(above)) / found.pitch, 6.0) if above else 3.0
