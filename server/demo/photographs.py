"""Photographs of a scenario's sheets, from the simulated camera, kept so that a second start takes none."""

from __future__ import annotations

import json
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from datetime import datetime, timedelta
from multiprocessing import get_context
from pathlib import Path

import img2pdf

from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import Scene, photograph
from folio_camera.solutions import Answer

from .scenario import Set, Sheet

Task = tuple[Path, tuple[Answer, ...], Style, Scene, int, str]


def take(folder: Path, sheets: Sequence[Sheet], answers: Sequence[Answer], style: Style, seed: int, heading: str) -> list[Path]:
    """Photograph every sheet into ``folder``; what is there already is kept."""
    folder.mkdir(parents=True, exist_ok=True)
    by_label = {answer.label: answer for answer in answers}
    tasks: list[Task] = []
    for number, sheet in enumerate(sheets, 1):
        path = folder / f"IMG_{seed * 100 + number:04}.jpg"
        tasks.append((path, tuple(by_label[label] for label in sheet.labels), style, sheet.scene, seed * 100 + number, heading))
    missing = [task for task in tasks if not task[0].exists()]
    if missing:
        with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
            list(pool.map(_take_one, missing))
    return [task[0] for task in tasks]


def _take_one(task: Task) -> None:
    path, answers, style, scene, seed, heading = task
    sheet = write_sheet(answers, style, seed, heading=heading)
    taken = datetime(2026, 11, 23, 15, 40) + timedelta(seconds=20 * (seed % 100))
    shot = photograph(sheet, replace(scene, taken=taken), seed)
    part = path.with_suffix(".part")
    part.write_bytes(shot.jpeg)
    part.rename(path)
    truth = {"corners": shot.corners, "turn": shot.turn, "labels": [[at.label, round(at.top, 4)] for at in shot.labels]}
    path.with_suffix(".json").write_text(json.dumps(truth))


def files_of(photos: list[Path], one: Set) -> list[tuple[str, bytes]]:
    """The files a student sends: name and bytes, in the order sent."""
    order = one.send or tuple(range(len(photos)))
    if one.as_pdf:
        return [("great circles.pdf", img2pdf.convert([str(photo) for photo in photos]))]
    return [(photos[number].name, photos[number].read_bytes()) for number in order]
