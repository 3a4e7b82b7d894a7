"""On which rows of a page there is writing: so coarse that it is kept with the page."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

ROWS = 100
_RIM = 0.025  # of the width at both sides: shadows of edges, holes
_LEAST = 0.002  # of a row's area: a short word is 0.01, specks are less


def ink_rows(ink: NDArray[np.uint8]) -> str:
    """``ink``: strokes without ruled lines, as `light.Writing` has them. Returns a 1 for each hundredth of the page's
    height with writing on it, from the top, else a 0."""
    height, width = ink.shape
    rim = round(_RIM * width)
    share = (ink[:, rim : width - rim] > 0).mean(axis=1)
    edges = np.linspace(0, height, ROWS + 1).round().astype(int)
    bands = (share[top : max(bottom, top + 1)].mean() for top, bottom in pairwise(edges))
    return "".join("1" if band >= _LEAST else "0" for band in bands)
