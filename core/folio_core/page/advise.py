"""What the measures mean to a student: codes, with what is seen, what to do, and where on the page."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from . import limits
from .measure import Box, Measures, Places
from .sheet import Sheet
from .upright import Upright


class Advice(StrEnum):
    """In order of weight: what loses work first, what only costs beauty last."""

    DAMAGED = "damaged"
    NO_PAGE = "no_page"
    SHEET_CUT_OFF = "sheet_cut_off"
    OUT_OF_FOCUS = "out_of_focus"
    MOTION_BLUR = "motion_blur"
    TWO_SHEETS = "two_sheets"
    OVER_EXPOSED = "over_exposed"
    UNDER_EXPOSED = "under_exposed"
    GLARE = "glare"
    FAINT_INK = "faint_ink"
    LOW_RESOLUTION = "low_resolution"
    SMALL_WRITING = "small_writing"
    SHEET_SMALL = "sheet_small"
    CURVED = "curved"
    SEEN_BEFORE = "seen_before"
    TAKEN_BEFORE = "taken_before"
    TURN_UNSURE = "turn_unsure"
    SHEET_NOT_FOUND = "sheet_not_found"
    SHADOW_EDGE = "shadow_edge"
    UNEVEN_LIGHT = "uneven_light"
    NEARLY_EMPTY = "nearly_empty"


@dataclass(frozen=True, slots=True)
class Words:
    seen: str
    do: str


WORDS: dict[Advice, Words] = {
    Advice.DAMAGED: Words(
        "A part of this picture was lost before it came here.",
        "Look whether all can be read. Otherwise send it again, from the device that took it.",
    ),
    Advice.NO_PAGE: Words("This does not look like a page of written work.", "If it came by mistake, remove it."),
    Advice.SHEET_CUT_OFF: Words(
        "The sheet goes beyond the edge of the picture.",
        "If writing is missing there, move back until all four corners are in the picture, and take it again.",
    ),
    Advice.OUT_OF_FOCUS: Words(
        "Looks out of focus: the strokes have soft edges.", "Tap the writing on the screen, hold still, take it again."
    ),
    Advice.MOTION_BLUR: Words(
        "The camera moved: the strokes are smeared one way.", "Rest your elbows on the desk and take it again."
    ),
    Advice.TWO_SHEETS: Words(
        "There are two sheets in this picture; both are kept, on one page.",
        "Take one picture of each sheet: they are then larger, and each can have its own questions.",
    ),
    Advice.OVER_EXPOSED: Words(
        "The picture is too bright; pale strokes may be lost.", "Turn off the flash or move out of direct sun."
    ),
    Advice.UNDER_EXPOSED: Words("The picture is very dark.", "Switch on a light or go nearer to a window."),
    Advice.GLARE: Words(
        "A light is mirrored on the paper and hides what is under it.", "Tilt the sheet or move the lamp aside."
    ),
    Advice.FAINT_INK: Words(
        "The writing is faint against the paper.",
        "Take it again in brighter light; next time press harder or use a pen.",
    ),
    Advice.LOW_RESOLUTION: Words(
        "The sheet has few pixels; small figures may be hard to read.",
        "Go nearer until the sheet fills the picture, and take it again.",
    ),
    Advice.SMALL_WRITING: Words(
        "The writing is very small in this picture.", "Take it again from nearer, in two pictures if need be."
    ),
    Advice.SHEET_SMALL: Words("The sheet is small in the picture.", "Go nearer until it fills the picture."),
    Advice.CURVED: Words(
        "The paper did not lie flat, so that its lines bend.",
        "Fine if it can be read. Otherwise press it flat and take it again.",
    ),
    Advice.SEEN_BEFORE: Words("This looks like a sheet that is already in the folio.", "If it is, remove one of them."),
    Advice.TAKEN_BEFORE: Words(
        "By its camera this picture was taken before the work began.",
        "If it is not of this work, remove it or take it again. A camera's clock can be wrong, too.",
    ),
    Advice.TURN_UNSURE: Words("Which way up this page belongs could not be told.", "Turn it if it lies wrong."),
    Advice.SHEET_NOT_FOUND: Words(
        "The edges of the sheet were not found, so the whole picture is kept.",
        "Fine if everything can be read. Otherwise set the corners by hand, or lay the sheet on a darker surface.",
    ),
    Advice.SHADOW_EDGE: Words(
        "The edge of a shadow lies over the page.",
        "Fine if it can be read. Otherwise turn so that no shadow falls on it.",
    ),
    Advice.UNEVEN_LIGHT: Words(
        "A shadow or strong light lies over the page.", "Turn so that the lamp or window is at your side."
    ),
    Advice.NEARLY_EMPTY: Words("There is hardly any writing on this page.", "If it is a blank side, remove it."),
}


# On a page with hardly any writing only what may have hidden the writing matters.
_TOLD_OF_EMPTY = (Advice.DAMAGED, Advice.OVER_EXPOSED, Advice.UNDER_EXPOSED, Advice.GLARE, Advice.NEARLY_EMPTY)


@dataclass(frozen=True, slots=True)
class Finding:
    """``where``: the place on the prepared page; None is all of it."""

    code: Advice
    where: Box | None = None


def advise(
    measures: Measures, places: Places, sheet: Sheet, turned: Upright, *, drawn: bool, chosen: bool, damaged: bool
) -> tuple[Finding, ...]:
    """The advice for one page, weightiest first.

    ``damaged``: pixels were lost. ``drawn`` pages (born digital) have no light, focus or sheet to judge. ``chosen``:
    corners and turn come from a person, who needs no advice about them.
    """
    if drawn:
        return (Finding(Advice.NEARLY_EMPTY),) if _empty(measures) else ()
    if measures.resolution_dpi < limits.UNREADABLE_DPI:  # so few pixels that nothing else can be said
        return (*((Finding(Advice.DAMAGED),) if damaged else ()), Finding(Advice.LOW_RESOLUTION))
    if not chosen and _no_page(measures, sheet):
        return (*((Finding(Advice.DAMAGED),) if damaged else ()), Finding(Advice.NO_PAGE))
    empty = _empty(measures)
    # Nothing but clipped white with pale strokes is no clean export: those measure a contrast of 0.69 and more.
    washed_out = (
        sheet.fills and measures.clipped_share > limits.CLIPPED_SHARE and measures.ink_contrast < limits.WASHED_OUT
    )
    photographed = not sheet.fills or washed_out
    over = photographed and measures.clipped_share > limits.CLIPPED_SHARE
    small = sheet.found and photographed and measures.sheet_share < limits.SHEET_SHARE
    moved = measures.motion_ratio > limits.MOTION_RATIO
    under = measures.paper_level < limits.DARK_PAPER
    soft = not empty and not moved and measures.blur_sigma_px > limits.BLUR_SIGMA_PX
    legible = not (empty or moved or soft)
    raised = {
        Advice.DAMAGED: damaged,
        Advice.SHEET_CUT_OFF: bool(sheet.cut),
        Advice.OUT_OF_FOCUS: soft,
        Advice.MOTION_BLUR: not empty and moved,
        Advice.TWO_SHEETS: bool(sheet.several),
        Advice.OVER_EXPOSED: over,
        Advice.UNDER_EXPOSED: photographed and under,
        Advice.GLARE: photographed and measures.glare_share > limits.GLARE_SHARE,
        Advice.FAINT_INK: not empty and measures.ink_contrast < limits.INK_CONTRAST,
        Advice.LOW_RESOLUTION: measures.resolution_dpi < limits.RESOLUTION_DPI,
        Advice.SMALL_WRITING: legible and 0 < measures.writing_height_px < limits.WRITING_HEIGHT_PX,
        Advice.SHEET_SMALL: small and not sheet.several,  # two are told to be taken one by one
        Advice.CURVED: photographed and legible and measures.bend_mm > limits.CURVED_MM,
        Advice.TURN_UNSURE: not chosen and legible and not turned.told,
        Advice.SHEET_NOT_FOUND: not sheet.found,
        Advice.SHADOW_EDGE: photographed and measures.shadow_step > limits.SHADOW_STEP,
        Advice.UNEVEN_LIGHT: photographed and not under and measures.light_evenness < limits.LIGHT_EVENNESS,
        Advice.NEARLY_EMPTY: empty and not over,  # else its writing may have been lost in the light
    }
    if raised[Advice.SHADOW_EDGE]:
        raised[Advice.UNEVEN_LIGHT] = False
    where = {Advice.GLARE: places.glare, Advice.SHADOW_EDGE: places.shadow}
    told = _TOLD_OF_EMPTY if empty else tuple(Advice)
    return tuple(Finding(code, where.get(code)) for code in told if raised.get(code))


def _no_page(measures: Measures, sheet: Sheet) -> bool:
    """Nothing like paper: no sheet in sight, and a ground of several colours."""
    if sheet.found and not sheet.fills:
        return False
    if sheet.confidence > limits.SHEET_MAYBE and measures.paper_level > limits.SCREEN_LEVEL:
        return False
    return measures.colour_spread > limits.PAGE_COLOUR_SPREAD


def _empty(measures: Measures) -> bool:
    few = measures.ink_share < limits.EMPTY_INK_SHARE or measures.letters < limits.EMPTY_LETTERS
    height_mm = measures.writing_height_px / max(measures.resolution_dpi, 1) * limits.MM_PER_INCH
    few |= measures.ink_contrast < limits.RULING_CONTRAST and height_mm > limits.RULING_MM
    return few or (measures.ink_contrast < limits.EMPTY_CONTRAST and measures.ink_share < limits.EMPTY_FAINT_SHARE)
