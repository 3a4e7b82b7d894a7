"""`./folio bench reading`: folios of the simulated camera, in hands never seen in training, read and proposed.

Folios with seeds below `HELD_OUT`, written in the other hands, are for tuning. ``--second``: another writer's and
another camera's, in hands of their own (`folio_camera.second_writer`). The baseline reads each page by the
general recogniser that ships in the rapidocr wheel and a regular expression, page by page.
"""

from __future__ import annotations

import argparse
import pickle
import re
import resource
import time
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import cache
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from folio_camera import second_camera
from folio_camera.folios import CONDITIONS, Folio, make_folio
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.second_writer import second_folio
from folio_camera.surfaces import DESKS
from folio_core.page import prepare
from folio_core.placing.label_evidence import evidence_of
from folio_core.placing.page_evidence import PageEvidence
from folio_core.placing.proposal import MISSING_SAID, SAID, Proposal, propose
from folio_core.question_map import parse_question_map
from folio_core.reading import PageReading
from folio_core.reading.engine import usual_engine
from label_training import hands

from .reliability import bins, picture

HELD_OUT = 500_000
SURE = 0.9
_SECOND = "second writer"


@dataclass(frozen=True, slots=True)
class Read:
    """A folio with what was read of it. ``seconds``: of reading, each page. ``plain``: what the baseline read."""

    condition: str
    hand: str
    folio: Folio
    readings: tuple[PageReading, ...]
    seconds: tuple[float, ...]
    plain: tuple[tuple[tuple[str, float], ...], ...] = ()


@dataclass
class Score:
    """Counts of links (a question on a page), of orders, of missing questions, of folios."""

    right: int = 0
    proposed: int = 0
    wanted: int = 0
    sure_right: int = 0
    sure: int = 0
    orders: int = 0
    orders_right: int = 0
    missing: int = 0
    missing_found: int = 0
    present: int = 0
    falsely_missing: int = 0
    folios: int = 0
    untouched: int = 0
    tops: int = 0
    tops_near: int = 0
    confidences: list[tuple[float, bool]] = field(default_factory=list)

    def add(self, other: Score) -> None:
        for name in self.__dataclass_fields__:
            setattr(self, name, getattr(self, name) + getattr(other, name))


def add_command(commands: Any) -> None:
    command = commands.add_parser("reading", help="labels read, links, order and missing questions proposed")
    command.add_argument("--folios", type=int, default=10, help="of each condition")
    command.add_argument("--first", type=int, default=0, help="the number of the first folio of each condition")
    command.add_argument("--pages", type=int, nargs=2, default=(3, 12), metavar=("LEAST", "MOST"), help="of a folio")
    command.add_argument("--short", action="store_true", help="smaller maps, as many pages as come: until 29 November")
    command.add_argument("--tuning", action="store_true", help="tuning seeds, in the hands of training")
    command.add_argument(
        "--second", action="store_true", help="the second writer's folios, photographed by another camera"
    )
    command.add_argument("--flat", action="store_true", help="without the camera: the sheet itself is read")
    command.add_argument("--fonts", type=Path, required=True, metavar="DIR", help="where npm installed the hands")
    command.add_argument("--keep", type=Path, metavar="FILE", help="keep what was read, or take it from there")
    command.add_argument("--diagram", type=Path, metavar="FILE", help="write the reliability diagram there, an SVG")
    command.add_argument("--baseline", action="store_true")
    command.add_argument("--fit", action="store_true", help="print what `label_chance` should be made of")
    command.add_argument("--conditions", nargs="*", default=list(CONDITIONS))
    command.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> None:
    if chosen.keep and chosen.keep.exists():
        read = pickle.loads(chosen.keep.read_bytes())
    else:
        jobs = [
            (condition, at, chosen)
            for condition in ((_SECOND,) if chosen.second else chosen.conditions)
            for at in range(chosen.first, chosen.first + chosen.folios)
        ]
        with ProcessPoolExecutor(2) as pool:
            read = list(pool.map(_read, jobs, chunksize=2))
        if chosen.keep:
            chosen.keep.write_bytes(pickle.dumps(read))
    if chosen.fit:
        fit(read)
    report(read, chosen.diagram)


def fit(read: list[Read]) -> None:
    """Logistic regression by Newton's method: what speaks for a mark being a label, from marks whose truth is known."""
    rows, truths = [], []
    for one in read:
        for page, reading in enumerate(one.readings):
            tops = [top for label, (at, top) in one.folio.tops.items() if at == page and label in one.folio.legible]
            for mark in reading.marks:
                if not mark.candidates:
                    continue
                near = min((abs(top + 0.012 - mark.top) for top in tops), default=1.0)
                first = all(other.left >= mark.left for other in reading.marks if other.line == mark.line)
                is_label = near < 0.016 and (first or one.condition == "two columns")
                if not is_label and near < 0.03:
                    continue  # not plain which it is
                rows.append([*evidence_of(mark), 1.0])
                truths.append(is_label)
    x, y = np.array(rows), np.array(truths, float)
    weights = np.zeros(x.shape[1])
    for _ in range(30):
        said = 1 / (1 + np.exp(-x @ weights))
        hessian = (x.T * (said * (1 - said))) @ x + 1e-2 * np.eye(x.shape[1])
        weights += np.linalg.solve(hessian, x.T @ (y - said) - 1e-2 * weights)
    print(f"{len(y)} marks, {int(y.sum())} labels; weights {np.round(weights, 2).tolist()}")


def _read(job: tuple[str, int, argparse.Namespace]) -> Read:
    condition, at, chosen = job
    folio, hand, pages = _second_written(at, chosen) if condition == _SECOND else _written(condition, at, chosen)
    engine, readings, seconds, plain = usual_engine(), [], [], []
    for page in pages:
        began = time.process_time()
        readings.append(engine.read(page))
        seconds.append(time.process_time() - began)
        if chosen.baseline:
            plain.append(_plain(page))
    slim = Folio(**{**{name: getattr(folio, name) for name in folio.__slots__}, "sheets": (None,) * len(folio.order)})
    return Read(condition, hand, slim, tuple(readings), tuple(seconds), tuple(plain))


def _written(condition: str, at: int, chosen: argparse.Namespace) -> tuple[Folio, str, Iterator[NDArray[np.uint8]]]:
    """The truth, the hand's name, and the prepared pages as they arrive, one at a time."""
    files = hands.fonts_for(chosen.fonts, hands.Use.TRAINING if chosen.tuning else hands.Use.MEASURING)
    seed = at if chosen.tuning else HELD_OUT + at
    chance = np.random.default_rng([seed, sorted(CONDITIONS).index(condition)])
    hand = list(files)[int(chance.integers(len(files)))]
    digits = hands.mnist(chosen.fonts, measured=not chosen.tuning)
    count = None if chosen.short else (chosen.pages[0], chosen.pages[1])
    folio = make_folio(condition, files[hand], seed, digits, pages=count)
    pages = (
        sheet.pixels if chosen.flat else _prepared(_photograph(sheet, seed * 31 + number, chance))
        for number, sheet in enumerate(folio.sheets)
    )
    return folio, hand, pages


def _second_written(at: int, chosen: argparse.Namespace) -> tuple[Folio, str, Iterator[NDArray[np.uint8]]]:
    files = hands.fonts_for(chosen.fonts, hands.Use.TRAINING if chosen.tuning else hands.Use.SECOND_WRITER)
    seed = at if chosen.tuning else HELD_OUT + at
    chance = np.random.default_rng(seed)
    hand = list(files)[int(chance.integers(len(files)))]
    folio, sheets = second_folio(files[hand], seed)
    way = second_camera.way(chance)
    pages = (np.asarray(one) if chosen.flat else _prepared(second_camera.taken(one, way, chance)) for one in sheets)
    return folio, hand, pages


def _photograph(sheet: Any, seed: int, chance: np.random.Generator) -> bytes:
    scene = Scene(
        desk=str(chance.choice(DESKS)), size=(1944, 2592), fill=float(chance.uniform(0.7, 0.95)),
        tilt=float(chance.uniform(0.03, 0.2)), rotation_deg=float(chance.uniform(-5, 5)),
        light=float(chance.uniform(0.1, 0.4)), blur_sigma_px=float(chance.uniform(0.5, 1.0)),
        noise=float(chance.uniform(1.5, 3.5)),
    )  # fmt: skip
    return photograph(sheet, scene, seed).jpeg


def _prepared(jpeg: bytes) -> NDArray[np.uint8]:
    with Image.open(BytesIO(prepare(jpeg).image)) as image:
        return np.asarray(image.convert("RGB"))


_LABEL = re.compile(
    r"^\W*(?:q|problem|question|prob|ex)?\W*(\d{1,2}(?:\.\d{1,2})?)?\W{0,3}([a-h]|[ivx]{1,4})?\W*(?=\s|$|[).:])", re.I
)


@cache
def _general() -> Any:
    from rapidocr import RapidOCR

    return RapidOCR(params={"Global.log_level": "error"})


def _plain(page: NDArray[np.uint8]) -> tuple[tuple[str, float], ...]:
    """What the general recogniser and a regular expression take for labels, from the top."""
    found = _general()(page)
    labels = []
    for box, text in zip(found.boxes if found.boxes is not None else (), found.txts or (), strict=False):
        if match := _LABEL.match(text):
            label = "".join(part or "" for part in match.groups()).lower()
            if label:
                labels.append((label, float(box[0][1]) / page.shape[0]))
    return tuple(sorted(labels, key=lambda one: one[1]))


def report(read: list[Read], diagram: Path | None = None) -> None:
    scores: dict[str, Score] = defaultdict(Score)
    spent = []
    for one in read:
        began = time.process_time()
        proposal = propose([PageEvidence(reading) for reading in one.readings], parse_question_map(one.folio.map))
        spent.append(time.process_time() - began)
        made = score(one.folio, proposal)
        scores[one.condition].add(made)
        scores["all"].add(made)
        if one.plain:
            scores["baseline"].add(score(one.folio, _baseline(one)))
    print(f"{'condition':26} folios precise  sure  recall order missing false untouched tops")
    for name, made in sorted(
        scores.items(), key=lambda one: (one[0] == "all", _ratio(one[1].untouched, one[1].folios))
    ):
        print(
            f"{name:26} {made.folios:5} {_ratio(made.right, made.proposed):8.3f}"
            f" {_ratio(made.sure_right, made.sure):6.3f}"
            f" {_ratio(made.right, made.wanted):6.3f} {_ratio(made.orders_right, made.orders):6.3f}"
            f" {_ratio(made.missing_found, made.missing):6.3f} {_ratio(made.falsely_missing, made.present):6.3f}"
            f" {_ratio(made.untouched, made.folios):8.3f} {_ratio(made.tops_near, made.tops):6.3f}"
        )
    said = bins(scores["all"].confidences)
    for bin_ in said:
        print(f"said {bin_.low:.2f}–{bin_.high:.2f}: {bin_.count:5} links, {bin_.right:.3f} of them right")
    if diagram:
        diagram.write_text(picture(said))
    seconds = [second for one in read for second in one.seconds]
    print(f"reading a page: {np.median(seconds):.2f} s median, {np.percentile(seconds, 95):.2f} s p95 of one core")
    print(f"proposing a folio: {np.median(spent):.2f} s median, {max(spent):.2f} s at most")
    most = max(resource.getrusage(who).ru_maxrss for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    print(f"memory: {most // 1024} MB at most")


def score(folio: Folio, proposal: Proposal) -> Score:
    made = Score(folios=1)
    truth = {(label, page) for label, pages in folio.placements.items() for page in pages}
    legible = {one for one in truth if one[0] in folio.legible}
    given = {(one.question, one.page): one for one in proposal.places if one.confidence >= SAID}
    made.proposed, made.right = len(given), len(truth & given.keys())
    made.wanted = len(legible)
    made.right = len(truth & given.keys())
    for link, one in given.items():
        made.confidences.append((one.confidence, link in truth))
        if one.confidence > SURE:
            made.sure += 1
            made.sure_right += link in truth
        if one.top is not None and folio.tops.get(link[0], (None, 0))[0] == link[1]:
            made.tops += 1
            made.tops_near += abs(one.top - folio.tops[link[0]][1]) < 0.03
    if folio.legible and len(folio.order) > 1 and _labels_tell_order(folio):
        made.orders = 1
        made.orders_right = proposal.order == folio.order
    claimed = {label for label, share in proposal.missing.items() if share >= MISSING_SAID}
    made.missing, made.missing_found = len(folio.missing), len(claimed & set(folio.missing))
    if folio.legible:
        made.present, made.falsely_missing = len(folio.placements), len(claimed & set(folio.placements))
    needs = truth != given.keys() or proposal.order != folio.order
    needs |= set(folio.loose) != {page for page, share in proposal.loose.items() if share >= SAID}
    made.untouched = not needs
    return made


def _labels_tell_order(folio: Folio) -> bool:
    """Pages that were shuffled and have no label of their own lie anywhere."""
    labelled = {page for label, (page, _) in folio.tops.items() if label in folio.legible}
    arrived_so = folio.order == tuple(range(len(folio.order)))
    return arrived_so or labelled | set(folio.loose) == set(folio.order)


def _baseline(one: Read) -> Proposal:
    from folio_core.placing.proposal import ProposedPlace

    labels = set(parse_question_map(one.folio.map).labels)
    places, placed = [], set()
    current = ""
    for page, found in enumerate(one.plain):
        number = ""
        for text, top in found:
            number = re.match(r"\d*", text)[0] or number  # type: ignore[index]
            label = text if text[0].isdecimal() else number + text
            if label in labels and label not in placed:
                places.append(ProposedPlace(label, page, top, 1.0))
                placed.add(label)
                current = label
        if current and not any(place.page == page for place in places):
            places.append(ProposedPlace(current, page, None, 1.0))
    missing = dict.fromkeys(labels - placed, 1.0)
    return Proposal(tuple(range(len(one.plain))), 1.0, tuple(places), {}, missing)


def _ratio(part: float, whole: float) -> float:
    return part / whole if whole else float("nan")
