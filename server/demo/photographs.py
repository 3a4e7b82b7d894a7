"""Photographs of a scenario's sheets, from the simulated camera, kept so that a second start takes none."""

from __future__ import annotations

import hashlib
import io
import json
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import partial
from multiprocessing import get_context
from pathlib import Path

import img2pdf
from PIL import Image

from folio_camera.handwriting import write_sheet
from folio_camera.photograph import photograph
from folio_camera.solutions import Answer

from .scenario import Roll, Set


@dataclass(frozen=True, slots=True)
class Photo:
    """A photograph and the truth about it: where on the sheet (0–1 from its top) each answer begins."""

    path: Path
    tops: dict[str, float]


_EXIF, _DATE_TIME_ORIGINAL, _DATE_TIME = 0x8769, 0x9003, 0x0132  # Exif 3.0
_EXIF_TIME = "%Y:%m:%d %H:%M:%S"
_EXIF_BYTES = 65_536  # a segment of JPEG is no longer
_STILL_NEW = timedelta(minutes=10)


def take(folder: Path, rolls: Iterable[Roll]) -> dict[int, list[Photo]]:
    """Photograph every sheet of the rolls below ``folder``, by the seed of its set; what is there already is kept."""
    tasks = [(folder, roll, number) for roll in rolls for number in range(len(roll.set.sheets))]
    missing = [task for task in tasks if _truth(*task) is None]
    if missing:
        with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
            list(pool.map(partial(_take_one, began=datetime.now(UTC)), missing))
    photos: dict[int, list[Photo]] = {}
    for task in tasks:
        _date_anew(*task, began=datetime.now(UTC))
        truth = _truth(*task)
        assert truth is not None
        photos.setdefault(task[1].set.seed, []).append(Photo(_path(*task), truth))
    return photos


def _truth(folder: Path, roll: Roll, number: int) -> dict[str, float] | None:
    """Where the answers begin, if this photograph was taken and of exactly this sheet."""
    file = _truth_path(folder, roll, number)
    if not file.exists():
        return None
    kept = json.loads(file.read_text())
    return kept["tops"] if kept.get("of") == _fingerprint(roll, number) else None


def _fingerprint(roll: Roll, number: int) -> str:
    return hashlib.sha256(repr((roll.set.style, roll.set.sheets[number], roll.answers)).encode()).hexdigest()


def _path(folder: Path, roll: Roll, number: int) -> Path:
    return folder / roll.folder / f"IMG_{roll.set.seed * 100 + number + 1:04}.jpg"


def _truth_path(folder: Path, roll: Roll, number: int) -> Path:
    """Out of the way of whoever drags a folder's photographs onto the board."""
    photo = _path(folder, roll, number)
    return folder / ".truth" / photo.parent.relative_to(folder) / f"{photo.stem}.json"


def _take_one(task: tuple[Path, Roll, int], began: datetime) -> None:
    """Dated as of when all of them are taken: the work of the scenario opened the day before."""
    folder, roll, number = task
    path, one = _path(folder, roll, number), roll.set
    path.parent.mkdir(parents=True, exist_ok=True)
    seed, sheet = one.seed * 100 + number + 1, one.sheets[number]
    heading = f"{one.person.first} {one.person.last}  {one.person.number}"
    written = write_sheet(_answers(roll, sheet.labels), one.style, seed, heading=heading)
    taken = began + timedelta(seconds=20 * number)
    shot = photograph(written, replace(sheet.scene, taken=taken), seed)
    path.write_bytes(shot.jpeg)
    tops = {name: round(at.top, 4) for name, at in zip(sheet.labels, shot.labels, strict=True)}
    truth = {"of": _fingerprint(roll, number), "tops": tops}
    told = _truth_path(folder, roll, number)
    told.parent.mkdir(parents=True, exist_ok=True)
    told.write_text(json.dumps(truth))


def _date_anew(folder: Path, roll: Roll, number: int, began: datetime) -> None:
    """A photograph that was kept from another day would be told of as taken before the work was begun."""
    path = _path(folder, roll, number)
    if not path.exists():
        return
    data = path.read_bytes()
    with Image.open(io.BytesIO(data)) as picture:
        exif = picture.getexif()
        said = str(exif.get_ifd(_EXIF).get(_DATE_TIME_ORIGINAL) or exif.get(_DATE_TIME) or "")
    wanted = (began + timedelta(seconds=20 * number)).strftime(_EXIF_TIME)
    if said and said < (began - _STILL_NEW).strftime(_EXIF_TIME):
        head = data[:_EXIF_BYTES].replace(said.encode(), wanted.encode())  # of the same length
        path.write_bytes(head + data[_EXIF_BYTES:])


def _answers(roll: Roll, names: tuple[str, ...]) -> list[Answer]:
    """What is written on a sheet; an answer that runs on to the next sheet is cut into two, the second says so."""
    by_label = {answer.label: answer for answer in roll.answers}
    answers = []
    for name in names:
        label, _, half = name.partition("/")
        answer = by_label[label]
        cut = (len(answer.lines) + 1) // 2
        if half == "1":
            answer = Answer(label, answer.lines[:cut])
        elif half == "2":
            answer = Answer(f"{label} cont.", answer.lines[cut:], answer.figure)
        answers.append(answer)
    return answers


def files_of(photos: list[Photo], one: Set) -> list[tuple[str, bytes]]:
    """The files a student sends: name and bytes, in the order sent."""
    order = one.send or tuple(range(len(photos)))
    if one.as_pdf:
        return [("great circles.pdf", img2pdf.convert([str(photo.path) for photo in photos]))]
    return [(photos[number].path.name, photos[number].path.read_bytes()) for number in order]
