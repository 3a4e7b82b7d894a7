"""Typed answers set as sheets of a bound document: text and maths that can be searched, selected and read aloud.

Pandoc (its own reader of CommonMark and LaTeX) writes what Typst sets: both come inside wheels, work without a network,
and set the same bytes each time; Typst embeds its fonts with their Unicode, as PDF/A asks. Both run in a child process
with limits on time and memory. What cannot be set as maths stands as it was typed.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from .answering import Choice
from .content import AnswerContent

_SECONDS = 120  # of the wall clock: a queue of other work may stand before it
_HEAD = 0.1  # of a sheet's height: what begins above it begins the sheet
_PACKAGE_ROOT = Path(__file__).resolve().parents[2]


class CannotTypeset(RuntimeError):
    """The child process died, or took too long. It may pass: the job is tried again."""


@dataclass(frozen=True, slots=True)
class ScreenAnswer:
    """All that stands on the sheet about one question. ``choices``: as its student saw them, in that order; none where
    nothing was to be chosen. ``asks_short``, ``asks_written``: whether that was asked for: what is missing shows."""

    id: str
    label: str
    title: str
    text: str
    choices: tuple[Choice, ...]
    content: AnswerContent
    asks_short: bool = False
    asks_written: bool = False
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a question begins: its sheet, from 0, and how far down, a share of the height."""

    sheet: int
    top: float


@dataclass(frozen=True, slots=True)
class AnswerSheets:
    """``sheets``: a PDF of one page each. ``spots``: by question id. ``words``: of each sheet, its text for those who
    cannot see it."""

    sheets: tuple[bytes, ...]
    spots: dict[str, Spot]
    words: tuple[str, ...]

    def sheets_of(self, question: str) -> range:
        """The sheets on which a question stands, from 0: up to where the next one begins."""
        begins = sorted((spot.sheet, spot.top) for spot in self.spots.values())
        own = self.spots[question]
        following = next((one for one in begins if one > (own.sheet, own.top)), (len(self.sheets), 0.0))
        return range(own.sheet, max(own.sheet + 1, following[0] + (following[1] > _HEAD)))


def typeset(answers: Sequence[ScreenAnswer], paper_pt: tuple[float, float], made: datetime) -> AnswerSheets:
    """``paper_pt``: width and height of the sheets in points. The same answers give the same bytes.

    Raises CannotTypeset.
    """
    if not answers:
        return AnswerSheets((), {}, ())
    asked = {"answers": [_plain(one) for one in answers], "paper": list(paper_pt), "made": made.isoformat()}
    environment = {"PATH": os.environ.get("PATH", ""), "PYTHONPATH": str(_PACKAGE_ROOT), "LANG": "C.UTF-8"}
    command = [sys.executable, "-m", "folio_core.answers.typesetting_child"]
    try:
        done = subprocess.run(
            command,
            input=json.dumps(asked).encode(),
            capture_output=True,
            timeout=_SECONDS,
            env=environment,
            check=True,
        )
    except subprocess.TimeoutExpired as error:
        raise CannotTypeset("Setting the typed answers took too long.") from error
    except subprocess.CalledProcessError as error:
        said = error.stderr.decode(errors="replace").strip().splitlines()
        raise CannotTypeset(f"Setting the typed answers failed: {said[-1] if said else error.returncode}") from error
    read = json.loads(done.stdout)
    return AnswerSheets(
        tuple(bytes.fromhex(sheet) for sheet in read["sheets"]),
        {question: Spot(sheet, top) for question, (sheet, top) in read["spots"].items()},
        tuple(read["words"]),
    )


def _plain(one: ScreenAnswer) -> dict[str, Any]:
    return {**asdict(one), "content": one.content.as_document()}
