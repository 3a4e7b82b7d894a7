"""What the measures mean to a student: codes, with what is seen and what to do."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from . import limits
from .measure import Measures


class Advice(StrEnum):
    """In order of weight."""

    OUT_OF_FOCUS = "out_of_focus"
    FAINT_INK = "faint_ink"
    SHEET_NOT_FOUND = "sheet_not_found"
    LOW_RESOLUTION = "low_resolution"
    UNEVEN_LIGHT = "uneven_light"
    NEARLY_EMPTY = "nearly_empty"


@dataclass(frozen=True, slots=True)
class Words:
    seen: str
    do: str


WORDS: dict[Advice, Words] = {
    Advice.OUT_OF_FOCUS: Words(
        "Looks out of focus: the strokes have soft edges.", "Tap the writing on the screen, hold still, take it again."
    ),
    Advice.FAINT_INK: Words(
        "The writing is faint against the paper.",
        "Take it again in brighter light; next time press harder or use a pen.",
    ),
    Advice.SHEET_NOT_FOUND: Words(
        "The edges of the sheet were not found, so the whole picture is kept.",
        "Fine if everything can be read. Otherwise lay the sheet on a darker surface and take it again.",
    ),
    Advice.LOW_RESOLUTION: Words(
        "The sheet is small in the picture.", "Go nearer until the sheet fills the picture, and take it again."
    ),
    Advice.UNEVEN_LIGHT: Words(
        "A shadow or strong light lies over the page.", "Turn so that the lamp or window is at your side."
    ),
    Advice.NEARLY_EMPTY: Words("There is hardly any writing on this page.", "If it is a blank side, remove it."),
}


def advise(measures: Measures, *, drawn: bool, sheet_found: bool) -> tuple[Advice, ...]:
    """The advice for one page, weightiest first. Drawn pages have no light, focus or sheet to judge."""
    if measures.ink_share < limits.EMPTY_INK_SHARE:
        return (Advice.NEARLY_EMPTY,)
    if drawn:
        return ()
    checks = {
        Advice.OUT_OF_FOCUS: measures.blur_sigma_px > limits.BLUR_SIGMA_PX,
        Advice.FAINT_INK: measures.ink_contrast < limits.INK_CONTRAST,
        Advice.SHEET_NOT_FOUND: not sheet_found,
        Advice.LOW_RESOLUTION: measures.resolution_dpi < limits.RESOLUTION_DPI,
        Advice.UNEVEN_LIGHT: measures.light_evenness < limits.LIGHT_EVENNESS,
    }
    return tuple(code for code, raised in checks.items() if raised)
