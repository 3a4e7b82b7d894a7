"""How likely a candidate outline is the sheet's: a logistic model over its features and their products.

Fitted by `./folio bench fit-sheet` on the simulated camera's tuning seeds; `./folio bench image` reports how well its
confidence holds on others.
"""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path

import numpy as np

from .features import FEATURES
from .quad import Floats

FILE = Path(__file__).with_name("judge.json")
_SAME = 0.03  # of the outline's size: corners nearer than this are of the same outline


def scored(features: Floats) -> Floats:
    """Q × F features → Q scores; the larger the likelier."""
    weights, _ = _model()
    count = features.shape[1]
    products = np.zeros((count, count))
    products[np.triu_indices(count)] = weights[count:-1]
    return np.asarray(features @ weights[:count] + ((features @ products) * features).sum(axis=1) + weights[-1])


def confidence(score: float, lead: float) -> float:
    """0–1: how often an outline with this score, leading by this much, is right."""
    _, scale = _model()
    return float(1 / (1 + np.exp(-np.clip(scale[0] * score + scale[1] * lead + scale[2], -40, 40))))


def best_of(scores: Floats, corners: Floats) -> tuple[int, float]:
    """The best of Q outlines, and by how much it leads the best clearly different one (at most 10)."""
    best = int(np.argmax(scores))
    size = np.ptp(corners[best], axis=0).max()
    apart = np.linalg.norm(corners[:, :, None] - corners[best][None, None], axis=3).min(axis=2).max(axis=1)
    others = scores[apart > _SAME * size]
    return best, float(np.clip(scores[best] - others.max(), 0, 10)) if len(others) else 10.0


def expanded(features: Floats) -> Floats:
    i, j = np.triu_indices(features.shape[1])
    return np.concatenate([features, features[:, i] * features[:, j]], axis=1)


def warm_up() -> None:
    _model()


@cache
def _model() -> tuple[Floats, Floats]:
    kept = json.loads(FILE.read_text())
    if tuple(kept["features"]) != FEATURES:
        raise ValueError(f"{FILE} was fitted on other features. Run ./folio bench fit-sheet.")
    return np.array(kept["weights"]), np.array(kept["confidence"])
