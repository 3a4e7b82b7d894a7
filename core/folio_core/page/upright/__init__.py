"""Which way up the writing stands, and how far its lines lean: from the writing itself.

What speaks for each of the four ways (`evidence`) is weighed by a conditional logit model. Where it does not say
clearly, a reader looks at some lines in each way that is still open (`lines`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .. import limits, recogniser
from . import lines
from .evidence import Evidence, evidence_of, warm_up_network

Grey = NDArray[np.uint8]
Floats = NDArray[np.float64]
TURNS = (0, 90, 180, 270)


@dataclass(frozen=True, slots=True)
class Upright:
    """``turn``: clockwise degrees that set the page upright; 0 unless it is ``told``, sure enough. ``lean_deg``:
    counter-clockwise degrees its lines then rise by. ``sure``: 0–1. ``chances``: of each of `TURNS`."""

    turn: int
    lean_deg: float
    sure: float
    told: bool
    chances: tuple[float, float, float, float] = (0.25, 0.25, 0.25, 0.25)


AS_IT_IS = Upright(0, 0.0, 0.0, told=False)


def upright(page: Grey, ink: Grey, *, shape_known: bool = True) -> Upright:
    """``page``: a straightened page, about `limits.UPRIGHT_LONG_SIDE_PX` long, its light evened (255 is paper);
    ``ink``: its strokes as a mask (255), ruled lines left out. ``shape_known``: the picture is as wide and high as the
    sheet."""
    seen = evidence_of(page, ink, shape_known=shape_known)
    if seen is None:
        return AS_IT_IS
    chances = chances_of(seen.table(), limits.TURN_WEIGHTS)
    as_the_sheet_lies = seen.fits_the_sheet(int(chances.argmax()))
    if chances.max() < limits.TURN_CLEAR or not as_the_sheet_lies:
        open_yet = (chances > limits.TURN_OPEN) | (not as_the_sheet_lies)
        read = lines.read(page, ink, open_yet)
        chances = chances_of(np.concatenate([seen.table(), read], axis=1), limits.TURN_READ_WEIGHTS, open_yet)
    return _decided(chances, limits.TURN_SURE if shape_known else limits.TURN_SURE_ON_A_DESK, seen)


def chances_of(table: Floats, weights: tuple[float, ...], open_yet: NDArray[np.bool_] | None = None) -> Floats:
    """McFadden's conditional logit (Frontiers in Econometrics, 1974). ``table``: 4 × as many as ``weights``."""
    odds = table @ np.asarray(weights)
    if open_yet is not None:
        odds = np.where(open_yet, odds, -np.inf)
    chances = np.exp(odds - odds.max())
    return np.asarray(chances / chances.sum())


def _decided(chances: Floats, least: float, seen: Evidence | None = None) -> Upright:
    """``least``: how sure a turn must be to be told."""
    best, sure = int(chances.argmax()), round(float(chances.max()), 3)
    told = sure >= least
    lean = seen.lean_deg(best) if seen and told else 0.0
    return Upright(TURNS[best] if told else 0, lean, sure, told, tuple(chances.tolist()))


def together(one: Upright, other: Upright, *, sideways: bool) -> Upright | None:
    """Which way up two pages lie that lie the same way, their lines across the gutter between them; None where they
    rather run along it. ``sideways``: the gutter runs across the picture. They do not lean: their sides are known."""
    both = np.array(one.chances) * np.array(other.chances) + 1e-12
    across = np.array([sideways is (turn % 180 == 90) for turn in TURNS])
    if both[across].max() < both[~across].max():
        return None
    chances = np.where(across, both, 0) / both[across].sum()
    return _decided(chances, limits.TURN_SURE)


def warm_up() -> None:
    """Load the networks. They run in one thread, so that a process forked afterwards can use them."""
    warm_up_network()
    recogniser.warm_up()
