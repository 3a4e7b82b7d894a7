"""How open books are split and bent lines straightened: a table per condition, beside that of the flat sheets."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_camera import book_trials
from folio_core.page import Advice, Prepared, prepare
from folio_core.page.straighten import homography, inset, turned_corners

_GUTTER_SHARE = 0.015  # of the picture's long side
_CUT_INK_PX = 12  # of the source: fewer are specks of noise at the mask's border
_SQUARE = 1000.0  # a page is laid on so many steps each way to compare its lines


@dataclass(frozen=True, slots=True)
class PageOutcome:
    """``bent``, ``left``: how far the middle one of its lines departs from straight, before and after, in thousandths
    of the page's height."""

    bent: float
    left: float
    told: bool


@dataclass(frozen=True, slots=True)
class Outcome:
    condition: str
    split: bool
    upright: bool
    cut_ink: bool
    pages: tuple[PageOutcome, ...]


def outcome_of(task: tuple[str, int]) -> Outcome:
    cv2.setNumThreads(1)
    trial = book_trials.make(*task)
    pages = [prepare(trial.shot.jpeg, half=half) for half in range(trial.pages)]
    split = all(page.halves == trial.pages for page in pages)
    if split and trial.pages == 2:
        split = all(_at_gutter(trial, half, page) for half, page in enumerate(pages))
    measured = tuple(lines_of(trial, half, page) for half, page in enumerate(pages)) if split else ()
    return Outcome(
        trial.condition, split, all(page.turn == trial.shot.turn for page in pages), _cuts_ink(trial, pages), measured
    )


def _at_gutter(trial: book_trials.BookTrial, half: int, page: Prepared) -> bool:
    """Whether the side of the page that is inside the book lies where the gutter is seen."""
    ends = np.array([(1.0 - half, 0.03), (1.0 - half, 0.97)])
    gutter = book_trials.seen_at(trial.paper, trial.shot, trial.turns, half, ends)
    corners = np.array(turned_corners(page.sheet.corners, trial.shot.turn))
    top, foot = corners[[1, 2]] if half == 0 else corners[[0, 3]]
    along = (foot - top) / np.linalg.norm(foot - top)
    away = np.abs((gutter - top) @ np.array([-along[1], along[0]]))
    return bool(away.max() < _GUTTER_SHARE * max(trial.size))


def _cuts_ink(trial: book_trials.BookTrial, pages: list[Prepared]) -> bool:
    kept = np.zeros(trial.shot.ink_seen.shape, np.uint8)
    for page in pages:
        corners = inset(page.sheet.corners) if page.sheet.found else page.sheet.corners
        cv2.fillConvexPoly(kept, np.rint(np.array(corners) * 16).astype(np.int32), 255, shift=4)
    lost = cv2.bitwise_and(cv2.compare(trial.shot.ink_seen, 128, cv2.CMP_GT), ~kept)
    return cv2.countNonZero(lost) > _CUT_INK_PX


def lines_of(trial: book_trials.BookTrial, half: int, page: Prepared) -> PageOutcome:
    corners = turned_corners(page.sheet.corners, trial.shot.turn)
    to_page = homography(corners, round(_SQUARE), round(_SQUARE))
    before, after = [], []
    for down in np.arange(0.08, 0.95, 0.04):
        points = np.stack([np.linspace(0.03, 0.97, 60), np.full(60, down)], axis=1)
        seen = book_trials.seen_at(trial.paper, trial.shot, trial.turns, half, points)
        x, y = cv2.perspectiveTransform(seen[None], to_page)[0].T
        before.append(off_straight(x, y))
        after.append(off_straight(x, _flat(page, x, y)) if page.curve else before[-1])
    said = Advice.CURVED in {finding.code for finding in page.advice}
    return PageOutcome(float(np.median(before)), float(np.median(after)), said)


def _flat(page: Prepared, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where points of the bent page come to lie: down in thousandths of the height, as they are given."""
    assert page.curve is not None
    width, height = page.image_width, page.image_height
    moved = page.curve.displacement(width, height)
    across = np.clip(x / _SQUARE * width, 0, width - 1).astype(np.int64)
    flat = y
    for _ in range(8):  # a fixed point: the displacement is that of where it comes to lie
        row = np.clip(flat / _SQUARE * height, 0, height - 1).astype(np.int64)
        flat = y - moved[row, across] / height * _SQUARE
    return flat


def off_straight(x: NDArray[np.float64], y: NDArray[np.float64]) -> float:
    return float(np.ptp(y - np.polyval(np.polyfit(x, y, 1), x)))


def report(outcomes: list[Outcome]) -> list[str]:
    groups: dict[str, list[Outcome]] = {}
    for outcome in outcomes:
        groups.setdefault(outcome.condition, []).append(outcome)
    lines = [
        "| not flat | n | split right | upright | ink cut | lines bent, ‰ of the height | after | bend at least halved "
        "| halved or told |", "|---|--:|--:|--:|--:|--:|--:|--:|--:|",
    ]  # fmt: skip
    for name, members in [*sorted(groups.items()), ("all", outcomes)]:
        pages = [page for one in members for page in one.pages]
        split, upright, cut = (_share([of(one) for one in members]) for of in _SHARES)
        bent, left = (np.mean([getattr(page, name) for page in pages]) if pages else 0.0 for name in ("bent", "left"))
        halved = _share([page.left <= page.bent / 2 for page in pages])
        known = _share([page.left <= page.bent / 2 or page.told for page in pages])
        lines.append(
            f"| {name} | {len(members)} | {split} | {upright} | {cut} | {bent:.2f} | {left:.2f} | {halved} | {known} |"
        )
    return lines


_SHARES: tuple[Callable[[Outcome], bool], ...] = (
    lambda one: one.split,
    lambda one: one.upright,
    lambda one: one.cut_ink,
)


def _share(values: list[bool]) -> str:
    return f"{np.mean(values):.1%}" if values else "–"
