"""`./folio bench upright`: pages of many kinds in hands never seen, turned at random; how many come upright.

Held-out pages are photographed and go the whole way of a page. Those of tuning, in other hands, are drawn as they are
after straightening; `--fit` prints the weights of `folio_core.page.limits` from them.
"""

from __future__ import annotations

import argparse
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_camera.many_hands import KINDS, page_in_hand
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.surfaces import DESKS
from folio_core.page import Advice, prepare
from folio_core.page.light import writing_of
from folio_core.page.limits import UPRIGHT_LONG_SIDE_PX
from folio_core.page.upright import lines
from folio_core.page.upright.evidence import evidence_of
from label_training import hands

HELD_OUT = 500_000
_SIZE = (1536, 2048)  # three megapixels: quick, and more pixels than turning looks at
_FOLDS = 5  # of hands, so that no hand measures what it was fitted on


@dataclass(frozen=True, slots=True)
class Outcome:
    """``seconds``: of preparing, processor time."""

    kind: str
    hand: str
    right: bool
    unsure: bool
    legible: bool
    seconds: float


def add_command(commands: Any) -> None:
    command = commands.add_parser("upright", help="pages in hands never seen, turned at random")
    command.add_argument("--pages", type=int, default=280)
    command.add_argument("--fit", action="store_true", help="print the weights, from pages of tuning")
    command.add_argument("--fonts", type=Path, required=True, metavar="DIR", help="where npm installed the hands")
    command.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> None:
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        jobs = [(at, chosen.fonts) for at in range(chosen.pages)]
        if chosen.fit:
            fit([one for one in pool.map(_drawn, jobs, chunksize=4) if one is not None])
        else:
            report(list(pool.map(_photographed, jobs, chunksize=4)))


def _hand(at: int, fonts: Path, *, measured: bool) -> tuple[str, str, Path]:
    """Kind, name of the hand, its file: each kind meets many hands."""
    files = hands.fonts_for(fonts, hands.Use.MEASURING if measured else hands.Use.TRAINING)
    names = list(files)
    name = names[(at * 31 + at // len(KINDS)) % len(names)]
    return list(KINDS)[at % len(KINDS)], name, files[name]


def _photographed(job: tuple[int, Path]) -> Outcome:
    cv2.setNumThreads(1)
    at, fonts = job
    kind, name, file = _hand(at, fonts, measured=True)
    seed = HELD_OUT + at
    chance = np.random.default_rng(seed)
    scene = Scene(
        desk=str(chance.choice(DESKS)), size=_SIZE, fill=float(chance.uniform(0.7, 0.96)),
        tilt=float(chance.uniform(0.03, 0.25)), rotation_deg=float(chance.choice([3.0, 8.0])),
        light=float(chance.uniform(0.1, 0.5)), quarter_turns=int(chance.integers(4)),
        blur_sigma_px=float(chance.uniform(0.4, 0.8)), noise=float(chance.uniform(1.5, 3.5)),
    )  # fmt: skip
    shot = photograph(page_in_hand(kind, file, seed), scene, seed)
    began = time.process_time()
    page = prepare(shot.jpeg)
    spent = time.process_time() - began
    said = {finding.code for finding in page.advice}
    blurred = said & {Advice.OUT_OF_FOCUS, Advice.MOTION_BLUR, Advice.NEARLY_EMPTY, Advice.LOW_RESOLUTION}
    return Outcome(kind, name, page.turn == shot.turn, Advice.TURN_UNSURE in said, not blurred, spent)


def report(outcomes: list[Outcome]) -> None:
    rows: dict[str, list[Outcome]] = defaultdict(list)
    for one in outcomes:
        rows[one.kind].append(one)
        rows["all"].append(one)
    print(f"{'':18} pages  right  wrong without a word  a word on right ones")
    for kind, row in sorted(rows.items(), key=lambda item: (item[0] == "all", np.mean([one.right for one in item[1]]))):
        silent = sum(not one.right and not one.unsure for one in row)
        told = sum(one.right and one.unsure for one in row)
        print(f"{kind:18} {len(row):5} {np.mean([one.right for one in row]):7.4f} {silent:9} {told / len(row):24.4f}")
    wrong = [
        f"{one.kind} in {one.hand}{'' if one.legible else ' (told to be taken again)'}"
        for one in outcomes
        if not one.right
    ]
    print("not upright:", "; ".join(wrong) or "none")
    print(f"{len({one.hand for one in outcomes})} hands; {np.median([one.seconds for one in outcomes]):.2f} s a page")


def _drawn(job: tuple[int, Path]) -> tuple[str, NDArray[np.float64]] | None:
    """An upright page of tuning as it is after straightening → its hand, and what speaks for each turn."""
    cv2.setNumThreads(1)
    at, fonts = job
    kind, name, file = _hand(at, fonts, measured=False)
    chance = np.random.default_rng(at)
    page = page_in_hand(kind, file, at).pixels
    scale = UPRIGHT_LONG_SIDE_PX / max(page.shape)
    small = cv2.resize(page, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32)
    small = cv2.GaussianBlur(small, (0, 0), float(chance.uniform(0.4, 0.9)))
    height, width = small.shape[:2]
    y, x = np.mgrid[0:height, 0:width]
    way = chance.uniform(0, 2 * np.pi)
    light = 1 - 0.4 * chance.random() * (np.cos(way) * x / width + np.sin(way) * y / height + 1) / 2
    small = small * light[..., None].astype(np.float32) * np.float32(chance.uniform(0.7, 1))
    small += chance.normal(0, chance.uniform(1, 3), small.shape).astype(np.float32)
    askew = cv2.getRotationMatrix2D((width / 2, height / 2), float(chance.normal(0, 0.4)), 1)
    seen = cv2.warpAffine(
        np.clip(small, 0, 255).astype(np.uint8), askew, (width, height), borderMode=cv2.BORDER_REPLICATE
    )
    writing = writing_of(np.asarray(seen, np.uint8))
    evidence = evidence_of(writing.grey, writing.ink, shape_known=True)
    if evidence is None:
        return None
    read = lines.read(writing.grey, writing.ink, np.ones(4, bool))
    return name, np.concatenate([evidence.table(), read], axis=1)


def fit(pages: list[tuple[str, NDArray[np.float64]]]) -> None:
    """Maximum likelihood of the turn by 0 (all are drawn upright), by Newton's method; and how it holds in hands that
    were left out."""
    names = sorted({name for name, _ in pages})
    fold = np.array([names.index(name) % _FOLDS for name, _ in pages])
    tables = np.stack([table for _, table in pages])
    for words, count in (("TURN_WEIGHTS", tables.shape[2] - 3), ("TURN_READ_WEIGHTS", tables.shape[2])):
        part = tables[:, :, :count]
        chances = np.concatenate([_chances(part[fold == k], _weights(part[fold != k])) for k in range(_FOLDS)])
        right = chances.argmax(axis=1) == 0
        sure = chances.max(axis=1)
        print(f"{words} = ({', '.join(f'{one:.2f}' for one in _weights(part))})")
        print(f"  in hands left out: {right.mean():.4f} of {len(right)} right")
        for least in (0.6, 0.8, 0.9, 0.99):
            silent, told = np.sum(~right & (sure >= least)), np.mean(right & (sure < least))
            print(f"  sure from {least}: {silent} wrong without a word, a word on {told:.4f}")


def _chances(tables: NDArray[np.float64], weights: NDArray[np.float64]) -> NDArray[np.float64]:
    odds = tables @ weights
    chances = np.exp(odds - odds.max(axis=1, keepdims=True))
    return np.asarray(chances / chances.sum(axis=1, keepdims=True))


def _weights(tables: NDArray[np.float64]) -> NDArray[np.float64]:
    spread = tables.reshape(-1, tables.shape[2]).std(axis=0) + 1e-9
    x, ridge = tables / spread, 1e-3 * len(tables)
    weights = np.zeros(x.shape[2])
    for _ in range(100):
        chances = _chances(x, weights)
        mean = (chances[..., None] * x).sum(axis=1)
        slope = (x[:, 0] - mean).sum(axis=0) - ridge * weights
        hessian = np.einsum("nk,nkf,nkg->fg", chances, x, x) - mean.T @ mean + ridge * np.eye(len(weights))
        step = np.linalg.solve(hessian, slope)
        weights += step
        if np.abs(step).max() < 1e-6:
            break
    return np.asarray(weights / spread)
