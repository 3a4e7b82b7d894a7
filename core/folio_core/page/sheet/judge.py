"""How likely a candidate outline is the sheet's: a logistic model over its features and their products.

Fitted by `./folio bench fit-sheet` on the simulated camera's tuning seeds; `./folio bench image` reports how well its
confidence holds on others.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from .features import FEATURES
from .quad import Floats

FILE = Path(__file__).with_name("judge.json")
_SAME = 0.03  # of the outline's size: corners nearer than this are of the same outline
_RIVAL = 2.0  # log odds: outlines of the same sheet that are less likely by no more are compared side by side


def scored(features: Floats) -> Floats:
    """Q × F features → Q scores; the larger the likelier."""
    weights = _model().weights
    count = features.shape[1]
    products = np.zeros((count, count))
    products[np.triu_indices(count)] = weights[count:-1]
    return np.asarray(features @ weights[:count] + ((features @ products) * features).sum(axis=1) + weights[-1])


def confidence(score: float, lead: float) -> float:
    """0–1: how often an outline with this score, leading by this much, is right."""
    scale = _model().scale
    return float(1 / (1 + np.exp(-np.clip(scale[0] * score + scale[1] * lead + scale[2], -40, 40))))


def best_of(scores: Floats, corners: Floats) -> tuple[int, float, NDArray[np.int64]]:
    """The likeliest of Q outlines, by how much it leads the best clearly different one (at most 10), and those that are
    nearly the same and nearly as likely, itself among them."""
    best = int(np.argmax(scores))
    size = np.ptp(corners[best], axis=0).max()
    apart = np.linalg.norm(corners[:, :, None] - corners[best][None, None], axis=3).min(axis=2).max(axis=1)
    same = apart <= _SAME * size
    others = scores[~same]
    lead = float(np.clip(scores[best] - others.max(), 0, 10)) if len(others) else 10.0
    return best, lead, np.flatnonzero(same & (scores > scores[best] - _RIVAL))


def closest(features: Floats) -> int:
    """Which of the outlines of one sheet lies along its edges: another model, fitted on such outlines alone."""
    return int(np.argmax(features @ _model().close))


def expanded(features: Floats) -> Floats:
    i, j = np.triu_indices(features.shape[1])
    return np.concatenate([features, features[:, i] * features[:, j]], axis=1)


def warm_up() -> None:
    _model()


@dataclass(frozen=True, slots=True)
class _Model:
    weights: Floats
    scale: Floats
    close: Floats


@cache
def _model() -> _Model:
    kept = json.loads(FILE.read_text())
    if tuple(kept["features"]) != FEATURES:
        raise ValueError(f"{FILE} was fitted on other features. Run ./folio bench fit-sheet.")
    return _Model(*(np.array(kept[name]) for name in ("weights", "confidence", "close")))
