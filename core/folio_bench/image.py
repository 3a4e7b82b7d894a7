"""How well pages are found, set upright, toned and judged: a table per condition, weakest rows first.

Photographs come from seeds kept apart from those used for tuning (`folio_camera.trials.HELD_OUT`).
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_camera import book_trials, trials
from folio_core.page import Advice, Prepared, Recipe, Tone, alike, prepare
from folio_core.page.straighten import (
    inset,
    straighten,
    turned_corners,
    whole_picture,
)  # fmt: skip

from . import books
from .corners import decoded, distances, seen_distances

_SIZES = (*[(1944, 2592)] * 5, (2448, 3264), (3024, 4032))  # by turns: pictures of 5, 8 and 12 megapixels
_CORNER_SHARE = 0.005  # of the diagonal
_CUT_INK_PX = 12  # of the source: fewer are specks of noise at the mask's border


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of one trial. None where the trial has no answer to compare with."""

    condition: str
    tags: tuple[str, ...]
    corners_right: bool | None
    confidence: float
    cut_ink: bool | None
    turn_right: bool | None
    strokes: tuple[float, float, float] | None  # F-measure of ink only, of Otsu, of Sauvola
    missed: frozenset[str]
    wanted: frozenset[str]
    false: frozenset[str]


def add_command(commands: Any) -> None:
    parser = commands.add_parser("image", help="sheets found, upright, strokes kept, advice: by condition")
    parser.add_argument("-n", "--each", type=int, default=9, help="photographs of each condition (default: 9)")
    parser.add_argument("--only", default="", help="conditions that contain this")
    parser.add_argument("--seed", type=int, default=trials.HELD_OUT)
    parser.add_argument("--report", type=Path, help="write the table as Markdown there")
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> None:
    tasks = [
        (condition, arguments.seed + 1000 * number + k, _SIZES[(number + k) % len(_SIZES)])
        for number, condition in enumerate(trials.CONDITIONS)
        for k in range(arguments.each)
        if arguments.only in condition
    ]
    bent = [
        (condition, arguments.seed + 1000 * number + k)
        for number, condition in enumerate(book_trials.CONDITIONS)
        for k in range(2 * arguments.each)
        if arguments.only in condition
    ]
    twice = [arguments.seed + 900_000 + k for k in range(0 if arguments.only else 4 * arguments.each)]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        outcomes = list(pool.map(_try, tasks, chunksize=2))
        not_flat = list(pool.map(books.outcome_of, bent, chunksize=2))
        pairs = list(pool.map(_twice, twice, chunksize=2))
    lines = [*(report(outcomes) if outcomes else []), "", *books.report(not_flat), *_pairs_line(pairs)]
    print("\n".join(lines))
    if arguments.report:
        arguments.report.write_text("\n".join(lines) + "\n")


def _try(task: tuple[str, int, tuple[int, int]]) -> Outcome:
    cv2.setNumThreads(1)
    condition, seed, size = task
    trial = trials.make(condition, seed, size)
    page = prepare(trial.data)
    raised = {finding.code.value for finding in page.advice}
    written = trial.ink_seen is not None and "empty" not in condition
    return Outcome(
        condition, trial.tags, _corners_right(trial, page), page.sheet.confidence,
        _cuts_ink(trial, page) if written else None,
        page.turn == trial.turn if written else None,
        _strokes(trial, page) if written else None,
        missed=trial.advice - raised, wanted=trial.advice,
        false=frozenset(raised) - trial.advice - trial.allowed,
    )  # fmt: skip


def _twice(seed: int) -> tuple[bool, bool]:
    """Whether a sheet taken twice is known again, and whether another page of the same hand is taken for it."""
    cv2.setNumThreads(1)
    conditions = list(trials.CONDITIONS)
    first, again, other = (
        prepare(trials.make_twice(conditions[seed % 8], seed, scene=number, sheet=number // 2)).likeness
        for number in range(3)
    )
    return alike(first, again), alike(first, other)


def _pairs_line(pairs: list[tuple[bool, bool]]) -> list[str]:
    if not pairs:
        return []
    known, mistaken = (sum(pair[k] for pair in pairs) / len(pairs) for k in (0, 1))
    return ["", f"seen_before, {len(pairs)} pairs each: the same sheet taken twice is known {known:.1%}; "
            f"another page of the same hand is taken for it {mistaken:.1%}"]  # fmt: skip


def _corners_right(trial: trials.Trial, page: Prepared) -> bool | None:
    if trial.corners is None:
        return page.sheet.corners == whole_picture(page.width, page.height)
    if "two sheets" in trial.condition:
        return None
    truth, found = np.array(trial.corners), np.array(page.sheet.corners)
    # Of a sheet that is cut off only what lies in the picture can be compared.
    apart = distances(found[None], truth) if trial.judged else seen_distances(found[None], truth, trial.size)
    return bool(apart[0] <= _CORNER_SHARE * np.hypot(*trial.size))


def _cuts_ink(trial: trials.Trial, page: Prepared) -> bool:
    assert trial.ink_seen is not None
    kept = np.zeros(trial.ink_seen.shape, np.uint8)
    cuttable = page.sheet.found and not page.sheet.fills
    corners = inset(page.sheet.corners) if cuttable else page.sheet.corners
    cv2.fillConvexPoly(kept, np.rint(np.array(corners) * 16).astype(np.int32), 255, shift=4)
    return cv2.countNonZero(cv2.bitwise_and(cv2.compare(trial.ink_seen, 128, cv2.CMP_GT), ~kept)) > _CUT_INK_PX


def _strokes(trial: trials.Trial, page: Prepared) -> tuple[float, float, float] | None:
    """F-measure of each way to tell ink, on the same crop, against the ink the camera saw there."""
    from skimage.filters import threshold_otsu, threshold_sauvola

    assert trial.ink_seen is not None
    corners = page.sheet.corners
    ours = prepare(trial.data, recipe=Recipe(corners=corners, turn=page.turn, tone=Tone.INK))
    size = ours.image_width, ours.image_height
    turned = turned_corners(corners, page.turn)
    truth = straighten(trial.ink_seen, turned, size) > 127
    if not truth.any():
        return None
    crop = straighten(cv2.cvtColor(decoded(trial.data), cv2.COLOR_RGB2GRAY), turned, size)
    ink = np.asarray(cv2.imdecode(np.frombuffer(ours.image, np.uint8), cv2.IMREAD_GRAYSCALE), np.uint8) < 128
    ways = [ink, crop <= threshold_otsu(crop), crop <= threshold_sauvola(crop, window_size=51)]
    if "two sheets" in trial.condition:  # the camera tells only where the first one's ink is
        first = np.zeros(trial.ink_seen.shape, np.uint8)
        cv2.fillConvexPoly(first, np.rint(np.array(trial.corners)).astype(np.int32), 255)
        ways = [way & (straighten(first, turned, size) > 127) for way in ways]
    f_ours, f_otsu, f_sauvola = (_f_measure(way, truth) for way in ways)
    return f_ours, f_otsu, f_sauvola


def _f_measure(ink: NDArray[np.bool_], truth: NDArray[np.bool_]) -> float:
    both = float(np.count_nonzero(ink & truth))
    return 2 * both / max(float(np.count_nonzero(ink) + np.count_nonzero(truth)), 1.0)


def report(outcomes: list[Outcome]) -> list[str]:
    groups: dict[str, list[Outcome]] = {}
    for outcome in outcomes:
        for tag in dict.fromkeys(outcome.tags):
            groups.setdefault(tag, []).append(outcome)
    rows = sorted(groups.items(), key=lambda group: _worth(group[1]))
    sure_and_wrong = [o for o in outcomes if o.corners_right is False and o.confidence > 0.8]
    lines = [
        f"{len(outcomes)} pictures; seeds kept apart from tuning. Weakest rows first.", "",
        "| condition | n | corners right | ink cut | upright | strokes F | Otsu | Sauvola |",
        "|---|--:|--:|--:|--:|--:|--:|--:|",
        *(_row(tag, members) for tag, members in [*rows, ("all", outcomes)]), "",
        f"Wrong with confidence above 0.8: {len(sure_and_wrong)} "
        f"{dict(Counter(o.condition for o in sure_and_wrong)) or ''}", "",
        *_calibration(outcomes), "", *_advice_table(outcomes),
    ]  # fmt: skip
    return lines


def _worth(members: list[Outcome]) -> float:
    shares = [_share(members, lambda o: o.corners_right), _share(members, lambda o: o.turn_right)]
    return min((share for share in shares if share is not None), default=1.0)


def _share(members: Iterable[Outcome], of: Callable[[Outcome], bool | None]) -> float | None:
    told = [value for value in map(of, members) if value is not None]
    return sum(told) / len(told) if told else None


def _row(tag: str, members: list[Outcome]) -> str:
    shares = (_share(members, of) for of in (lambda o: o.corners_right, lambda o: o.cut_ink, lambda o: o.turn_right))
    measured = [o.strokes for o in members if o.strokes is not None]
    strokes = [f"{value:.3f}" for value in np.mean(measured, axis=0)] if measured else ["–"] * 3
    cells = ["–" if share is None else f"{share:.1%}" for share in shares]
    return f"| {tag} | {len(members)} | {' | '.join([*cells, *strokes])} |"


def _calibration(outcomes: list[Outcome]) -> list[str]:
    lines = ["| confidence | n | right |", "|---|--:|--:|"]
    for low, high in ((0.0, 0.5), (0.5, 0.8), (0.8, 0.95), (0.95, 1.01)):
        told = [o for o in outcomes if o.corners_right is not None and low <= o.confidence < high]
        if told:
            lines.append(
                f"| {low:.2f}–{min(high, 1):.2f} | {len(told)} | {_share(told, lambda o: o.corners_right):.1%} |"
            )
    return lines


def _advice_table(outcomes: list[Outcome]) -> list[str]:
    lines = ["| advice | wanted | found | falsely raised | where |", "|---|--:|--:|--:|---|"]
    for code in (advice.value for advice in Advice):
        wanted = [o for o in outcomes if code in o.wanted]
        other = [o for o in outcomes if code not in o.wanted]
        wrong = [o for o in other if code in o.false]
        found = f"{1 - sum(code in o.missed for o in wanted) / len(wanted):.1%}" if wanted else "–"
        where = ", ".join(f"{name} {count}" for name, count in Counter(o.condition for o in wrong).most_common(3))
        lines.append(f"| {code} | {len(wanted)} | {found} | {len(wrong) / max(len(other), 1):.1%} | {where} |")
    return lines
