"""`./folio bench forms`: photographs of filled printed sheets; which page, where its spaces lie, what is empty.

Beside it, on the same pictures, what takes no thought: ORB features and one RANSAC homography a page.
"""

from __future__ import annotations

import argparse
import io
import random
import time
from collections import defaultdict
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import lru_cache
from multiprocessing import get_context
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from folio_camera.form_trials import CONDITIONS, HELD_OUT, FormTrial, make, photographed_with_number
from folio_camera.printed_forms import LOOKS, PrintedForm, make_form
from folio_core.forms import Form, Registered, ink_in, is_empty, register
from folio_core.forms.fit import Evidence
from folio_core.forms.from_files import form_from
from folio_core.forms.marks import with_marks
from folio_core.forms.number_boxes import digits_in, likeliest, number_boxes, place_on
from folio_core.reading.engine import usual_engine

from . import taken_twice

_CLOSE_MM, _MM_A_POINT = 1.5, 25.4 / 72
_ORB_LEAST = 15
_ROSTER, _SURE = 300, 0.95
Floats = NDArray[np.float64]


@dataclass(slots=True)
class Outcome:
    """``page``: told right; ``sure_wrong``: told wrong above 0.9. ``edge_mm``: the farthest of the spaces' edges that
    the picture shows; ``bent_mm``: the same with what is known of how the sheet is bent; ``best_mm``: of the truth's
    best single homography. ``empty``: (is, told) of spaces."""

    condition: str
    page: bool
    sure_wrong: bool
    edge_mm: float | None
    bent_mm: float | None
    best_mm: float | None
    empty: list[tuple[bool, bool]]
    seconds: float
    orb_page: bool
    orb_edge_mm: float | None
    evidence: Evidence | None = None
    seed: int = 0


@dataclass(slots=True)
class _Row:
    all: list[Outcome] = field(default_factory=list)

    def line(self, name: str) -> str:
        known = [one for one in self.all if one.edge_mm is not None]
        orb = [one.orb_edge_mm for one in self.all if one.orb_edge_mm is not None]
        empties = [pair for one in self.all for pair in one.empty]
        found = [told for is_empty, told in empties if is_empty]
        falsely = [told for is_empty, told in empties if not is_empty]
        return (
            f"{name:22}{_share([one.page for one in self.all])}{sum(one.sure_wrong for one in self.all):5}"
            f"{_share([one.edge_mm <= _CLOSE_MM for one in known if one.edge_mm is not None])}"
            f"{_share([one.bent_mm <= _CLOSE_MM for one in known if one.bent_mm is not None])}"
            f"{_middle([one.edge_mm for one in known])}{_middle([one.bent_mm for one in known])}"
            f"{_middle([one.best_mm for one in known])}"
            f"{_share(found)}{_share(falsely)}{np.median([one.seconds for one in self.all]):7.2f}"
            f"{_share([one.orb_page for one in self.all])}{_share([mm <= _CLOSE_MM for mm in orb])}"
        )


def add_command(commands: Any) -> None:
    command = commands.add_parser("forms", help="filled printed sheets: page, spaces, empty answers")
    command.add_argument("--trials", type=int, default=20, help="of each condition")
    command.add_argument("--numbers", type=int, default=60, help="students' numbers written in boxes")
    command.add_argument("--pairs", type=int, default=12, help="of each kind, the same sheet photographed twice")
    command.add_argument("--tuning", action="store_true", help="seeds that may be looked at")
    command.add_argument("--fit", action="store_true", help="print the weights of the confidence, from tuning seeds")
    command.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> None:
    first = 0 if chosen.tuning or chosen.fit else HELD_OUT
    jobs = [(condition, first + seed) for condition in CONDITIONS for seed in range(chosen.trials)]
    rows: dict[str, _Row] = defaultdict(_Row)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        for outcome in pool.map(_try, jobs, chunksize=4):
            rows[outcome.condition].all.append(outcome)
        numbers = [] if chosen.fit else list(pool.map(_number, range(first, first + chosen.numbers), chunksize=4))
        twice = [] if chosen.fit else list(taken_twice.lines_of(pool, first, chosen.pairs))
    everything = _Row([one for row in rows.values() for one in row.all])
    if chosen.fit:
        print(_fitted(everything.all))
        return
    print(
        f"{'':22}{'page':>8}{'>0.9':>5}{'1.5 mm':>8}{'bent':>8}{'mm':>7}{'bent':>7}{'best':>7}{'empty':>8}"
        f"{'falsely':>8}{'s':>7}{'ORB':>8}{'1.5 mm':>8}"
    )
    for name, row in sorted(rows.items(), key=lambda item: np.mean([one.page for one in item[1].all])):
        print(row.line(name))
    print(everything.line("all"))
    wrong = [f"{one.condition} {one.seed}" for one in everything.all if not one.page]
    print("page not told right:", ", ".join(wrong) or "none")
    told, sure, wrongly = (sum(one[at] for one in numbers) for at in range(3))
    print(
        f"numbers in boxes, of a roster of {_ROSTER}: {told} of {len(numbers)} likeliest right, "
        f"{sure} above {_SURE} right, {wrongly} above {_SURE} wrong"
    )
    print(*twice, sep="\n")


def _number(seed: int) -> tuple[bool, bool, bool]:
    """Whether the written number is the likeliest; whether it is told surely; whether another one is."""
    cv2.setNumThreads(1)
    chance = random.Random(f"number {seed}")
    roster = [f"{one:05}" for one in chance.sample(range(100_000), _ROSTER)]
    written, form = chance.choice(roster), make_form(chance.choice(LOOKS[:4]), seed, pages=1)
    blank = _form(form.pdf).pages[0]
    place = place_on(blank)
    if place is None:
        return False, False, False
    marked = PrintedForm(with_marks(form.pdf, 37, first=blank), {}, 1, form.size_pt)
    with Image.open(io.BytesIO(photographed_with_number(marked, written, number_boxes(place), seed))) as picture:
        pixels = np.asarray(picture.convert("RGB"), np.uint8)
    found = register(pixels, _form(form.pdf), 0)
    told = found and likeliest(digits_in(pixels, blank, found.homography, usual_engine()), roster)
    if not told:
        return False, False, False
    right, sure = told[0] == written, told[1] >= _SURE
    return right, sure and right, sure and not right


def _try(job: tuple[str, int]) -> Outcome:
    cv2.setNumThreads(1)
    trial = make(*job)
    form = _form(trial.form.pdf)
    with Image.open(io.BytesIO(trial.data)) as picture:
        pixels = np.asarray(picture.convert("RGB"), np.uint8)
    started = time.process_time()
    found = register(pixels, form)
    seconds = time.process_time() - started
    known = found if found is not None and found.is_known else None
    right = (known.page if known else None) == trial.page
    edge = bent = best = None
    empty: list[tuple[bool, bool]] = []
    if known is not None and trial.page is not None and right:
        edge, best = _edges(trial, _by(known.homography), pixels.shape)
        bent, _ = _edges(trial, known.on_page, pixels.shape)
        empty = _empties(trial, form, known, pixels)
    page, homography = _orb(pixels, form)
    orb_right = page == trial.page
    orb_edge = None
    if homography is not None and orb_right and trial.page is not None:
        orb_edge, _ = _edges(trial, _by(homography), pixels.shape)
    sure_wrong = bool(known and known.confidence > 0.9 and not right)
    return Outcome(
        trial.condition, right, sure_wrong, edge, bent, best, empty, seconds, orb_right, orb_edge,
        found.evidence if found else None, job[1],
    )  # fmt: skip


@lru_cache(8)
def _form(pdf: bytes) -> Form:
    form = form_from(pdf)
    for blank in form.pages:
        _ = blank.features, blank.words, blank.pieces  # made once for a form
    return form


def _by(homography: Floats) -> Callable[[Floats], Floats]:
    return lambda seen: np.asarray(cv2.perspectiveTransform(seen[None], homography)[0])


def _edges(
    trial: FormTrial, to_page: Callable[[Floats], Floats], shape: tuple[int, ...]
) -> tuple[float | None, float | None]:
    steps = np.linspace(0, 1, 5)
    points = np.array(
        [
            point
            for boxes in trial.form.spaces.values()
            for page, left, top, right, bottom in boxes
            if page == trial.page
            for share in steps
            for point in (
                (left + (right - left) * share, top), (left + (right - left) * share, bottom),
                (left, top + (bottom - top) * share), (right, top + (bottom - top) * share),
            )
        ], float,
    )  # fmt: skip
    seen = trial.seen_at(points)
    shown = (seen > 0).all(axis=1) & (seen < (shape[1], shape[0])).all(axis=1)
    if shown.sum() < 4:
        return None, None
    seen, points = seen[shown], points[shown]
    truth, _ = cv2.findHomography(seen, points, 0)
    return _farthest(to_page(seen) - points), _farthest(_by(truth)(seen) - points)


def _farthest(away: Floats) -> float:
    return float(np.linalg.norm(away, axis=1).max() * _MM_A_POINT)


def _empties(trial: FormTrial, form: Form, known: Registered, pixels: NDArray[np.uint8]) -> list[tuple[bool, bool]]:
    """Of the spaces that the picture shows."""
    found = ink_in(pixels, form.pages[known.page], known.homography, trial.form.spaces)
    told = {label: is_empty(parts) for label, parts in found.items()}
    return [(label in trial.empty, empty) for label, empty in told.items() if empty is not None]


def _orb(pixels: NDArray[np.uint8], form: Form) -> tuple[int | None, Floats | None]:
    """The baseline: ORB, nearest signs of each page, one RANSAC homography; the page with the most inliers."""
    shrink = 1600 / max(pixels.shape[:2])
    small = cv2.cvtColor(
        cv2.resize(pixels, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA), cv2.COLOR_RGB2GRAY
    )
    finder, matcher = cv2.ORB.create(2000), cv2.BFMatcher(cv2.NORM_HAMMING)
    points, signs = finder.detectAndCompute(small, None)
    best: tuple[int, int | None, Floats | None] = (_ORB_LEAST, None, None)
    for page in form.pages:
        theirs, page_signs = finder.detectAndCompute(page.grey, None)
        if signs is None or page_signs is None or len(theirs) < 4:
            continue
        pairs = [pair for pair in matcher.knnMatch(page_signs, signs, k=2) if len(pair) == 2]
        good = [one for one, next_ in pairs if one.distance < 0.8 * next_.distance]
        if len(good) < 4:
            continue
        source = np.array([points[one.trainIdx].pt for one in good], np.float64)
        target = np.array([theirs[one.queryIdx].pt for one in good], np.float64)
        homography, inside = cv2.findHomography(source, target, cv2.RANSAC, 4.0)
        if homography is not None and int(inside.sum()) > best[0]:
            to_points = np.diag([page.width_pt / page.grey.shape[1], page.height_pt / page.grey.shape[0], 1.0])
            best = int(inside.sum()), page.index, to_points @ homography @ np.diag([shrink, shrink, 1.0])
    return best[1], best[2]


def _fitted(outcomes: list[Outcome]) -> str:
    """Logistic regression by Newton's steps, a little drawn to nothing. All that is told of scrap is wrong."""
    told = [one for one in outcomes if one.evidence is not None]
    values = np.array([(*one.evidence.values, 1.0) for one in told if one.evidence is not None])
    right = np.array([one.condition not in ("scrap paper", "another form") and _is_right(one) for one in told], float)
    weights = np.zeros(values.shape[1])
    for _ in range(60):
        chance = 1 / (1 + np.exp(-np.clip(values @ weights, -30, 30)))
        slope = values.T @ (chance - right) + 0.05 * weights
        bend = (values * (chance * (1 - chance))[:, None]).T @ values + 0.05 * np.eye(len(weights))
        weights -= np.linalg.solve(bend, slope)
    chance = 1 / (1 + np.exp(-np.clip(values @ weights, -30, 30)))
    least = sorted(chance[right == 1])[:6]
    most = sorted(chance[right == 0])[-6:]
    return f"{np.round(weights, 2).tolist()}\nleast of right {np.round(least, 3)}\nmost of wrong {np.round(most, 3)}"


def _is_right(one: Outcome) -> bool:
    return one.page or (one.evidence is not None and one.edge_mm is not None)


def _share(values: list[bool]) -> str:
    return f"{np.mean(values):8.3f}" if values else f"{'–':>8}"


def _middle(values: list[float | None]) -> str:
    told = [value for value in values if value is not None]
    return f"{np.median(told):7.2f}" if told else f"{'–':>7}"
