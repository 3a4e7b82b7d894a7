"""Fitting the judge of sheet outlines on the simulated camera's tuning seeds. Writes `judge.json` beside the judge.

A logistic model over the features and their products, fitted round by round on the outlines it still takes for the
sheet. Of those that it takes for the same sheet another model tells which lies along its edges: logistic, on the
differences of two outlines' features (Bradley and Terry, Biometrika 39, 1952). Then the confidence is calibrated on
photographs neither was fitted on (Platt, Advances in Large Margin Classifiers, 1999).
"""

from __future__ import annotations

import argparse
import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from folio_camera import trials
from folio_core.page import sheet
from folio_core.page.limits import FINDER_LONG_SIDE_PX, MIDDLE_LONG_SIDE_PX
from folio_core.page.sheet import judge
from folio_core.page.sheet.features import FEATURES

from .corners import decoded, distances, seen_distances

Floats = NDArray[np.float64]

_RIGHT, _WRONG = 0.010, 0.015  # of the diagonal: the last step, refining, reaches as far; between the two says nothing
_CLOSE, _OFF = 0.0055, 0.0085  # of the diagonal: of two outlines of one sheet, that the one fits and the other does not
_MOST_CLOSE, _MOST_OFF = 8, 12  # that are compared of one photograph
_SIZE = (1512, 2016)
# Photographs of each condition, and more of those in which outlines are easily mistaken.
_EACH, _MORE = 9, {"light: hard shadow edge": 30, "around: papers beneath": 150, "around: papers beside": 12,
                   "no page: screenshot": 10, "desk: white": 12, "desk: pale": 12, "desk: tartan": 20,
                   "around: strong tilt": 12, "around: partly outside": 100, "light: hand's shadow": 12,
                   "light: over-exposed": 30, "ink: pencil": 14}  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Shot:
    features: Floats
    error: Floats  # of each outline, as a share of the diagonal
    corners: Floats


def add_command(commands: Any) -> None:
    parser = commands.add_parser("fit-sheet", help="fit the judge of sheet outlines anew (some minutes)")
    parser.add_argument("--out", type=Path, default=judge.FILE)
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> None:
    tasks = [
        (condition, 1000 * number + k)
        for number, condition in enumerate(trials.CONDITIONS)
        for k in range(_MORE.get(condition, _EACH))
    ]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        shots = [shot for shot in pool.map(_look, tasks, chunksize=4) if shot is not None]
    order = np.random.default_rng(1).permutation(len(shots))
    halves = [[shots[i] for i in order[k::2]] for k in (0, 1)]
    unseen: list[tuple[float, float, bool]] = []
    for fitted_on, other in (halves, halves[::-1]):
        weights = _fit(fitted_on)
        close = _fit_close(fitted_on, weights)
        unseen += [_verdict(shot, weights, close) for shot in other if len(shot.error)]
    verdicts = np.array(unseen, np.float64)
    scale = _logistic(verdicts[:, :2], verdicts[:, 2], np.ones(len(verdicts)), 0.01)
    weights = _fit(shots)
    fitted = {"weights": weights, "confidence": scale, "close": _fit_close(shots, weights)}
    rounded = {name: [float(f"{w:.5g}") for w in values] for name, values in fitted.items()}
    arguments.out.write_text(json.dumps({"features": FEATURES} | rounded, indent=0) + "\n")
    print(f"{len(shots)} photographs; right on those not fitted on: {verdicts[:, 2].mean():.3f}")


def _look(task: tuple[str, int]) -> _Shot | None:
    trial = trials.make(*task, size=_SIZE)
    if not trial.judged and "outside" not in trial.condition:
        return None
    middle, scale = sheet.shrunk(decoded(trial.data), MIDDLE_LONG_SIDE_PX)
    small, smaller = sheet.shrunk(middle, FINDER_LONG_SIDE_PX)
    found = sheet.outlines(small)
    outlines = found.corners / (scale * smaller)
    if trial.corners is None:
        error = np.ones(len(outlines))
    elif trial.judged:
        error = distances(outlines, np.array(trial.corners)) / np.hypot(*trial.size)
    else:
        error = seen_distances(outlines, np.array(trial.corners), trial.size) / np.hypot(*trial.size)
    return _Shot(found.features, error, found.corners)


def _fit(shots: list[_Shot], rounds: int = 4) -> Floats:
    chance = np.random.default_rng(2)
    chosen = [chance.permutation(len(shot.error))[:150] for shot in shots]
    weights = np.zeros(0)
    for _ in range(rounds):
        rows, right, weight = [], [], []
        for shot, some in zip(shots, chosen, strict=True):
            telling = (shot.error < _RIGHT) | (shot.error > _WRONG)
            use = np.unique(np.concatenate([some, np.flatnonzero(shot.error < _RIGHT)])).astype(np.int64)
            use = use[telling[use]]
            good = shot.error[use] < _RIGHT
            rows.append(shot.features[use])
            right.append(good)
            weight.append(np.where(good, 1 / max(good.sum(), 1), 20 / max((~good).sum(), 1)))
        expanded = judge.expanded(np.concatenate(rows))
        weights = _logistic(expanded, np.concatenate(right).astype(float), np.concatenate(weight), 1.0)
        chosen = [
            np.concatenate([some, np.argsort(-(judge.expanded(shot.features) @ weights[:-1]))[:60]])
            for shot, some in zip(shots, chosen, strict=True)
        ]
    return weights


def _fit_close(shots: list[_Shot], weights: Floats) -> Floats:
    chance, rows, weight = np.random.default_rng(3), [], []
    for shot in shots:
        if not len(shot.error):
            continue
        _, _, near = judge.best_of(_scores(shot, weights), shot.corners)
        good, bad = near[shot.error[near] < _CLOSE], near[shot.error[near] > _OFF]
        good, bad = chance.permutation(good)[:_MOST_CLOSE], chance.permutation(bad)[:_MOST_OFF]
        if len(good) and len(bad):
            apart = (shot.features[good][:, None] - shot.features[bad][None]).reshape(-1, len(FEATURES))
            rows += [apart, -apart]  # whichever is named first
            weight.append(np.full(2 * len(apart), 0.5 / len(apart)))
    right = np.concatenate([np.full(len(row), float(at % 2 == 0)) for at, row in enumerate(rows)])
    return _logistic(np.concatenate(rows), right, np.concatenate(weight), 0.25)[:-1]


def _verdict(shot: _Shot, weights: Floats, close: Floats) -> tuple[float, float, bool]:
    """Score of the best outline, by how much it leads, and whether what is then taken is right."""
    scores = _scores(shot, weights)
    best, lead, near = judge.best_of(scores, shot.corners)
    taken = near[np.argmax(shot.features[near] @ close)]
    return float(scores[best]), lead, bool(shot.error[taken] < _RIGHT * 1.2)


def _scores(shot: _Shot, weights: Floats) -> Floats:
    return np.asarray(judge.expanded(shot.features) @ weights[:-1] + weights[-1])


def _logistic(rows: Floats, right: Floats, weight: Floats, ridge: float) -> Floats:
    """Weights and, last, the bias: ridge logistic regression by iteratively reweighted least squares."""
    mean, spread = rows.mean(axis=0), rows.std(axis=0) + 1e-9
    design = np.column_stack([(rows - mean) / spread, np.ones(len(rows))])
    penalty = np.diag(np.append(np.full(rows.shape[1], 2 * ridge), 1e-9))
    solved = np.zeros(design.shape[1])
    for _ in range(60):
        chance = 1 / (1 + np.exp(-np.clip(design @ solved, -40, 40)))
        slope = design.T @ (weight * (chance - right)) + penalty @ solved
        curve = (design * (weight * np.maximum(chance * (1 - chance), 1e-6))[:, None]).T @ design + penalty
        change = np.linalg.solve(curve, slope)
        solved -= change * min(1.0, 4.0 / max(float(np.abs(change).max()), 1e-9))
        if np.abs(change).max() < 1e-5:
            break
    scaled = solved[:-1] / spread
    return np.append(scaled, solved[-1] - scaled @ mean)
