"""Trials for the page image: conditions, each with what the camera is told and what the product should say.

A trial is a pure function of its condition and its seed. Tuning uses seeds below ``HELD_OUT``; the figures of
`./folio bench image` come from the seeds above.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from . import pictures
from .handwriting import (
    A4_MM,
    BLACK_PEN,
    BLUE_PEN,
    FAINT_PENCIL,
    HANDS,
    LETTER_MM,
    PENCIL,
    RED_PEN,
    Style,
    WrittenSheet,
    write_sheet,
)  # fmt: skip
from .photograph import Corners, photograph
from .scene import Scene
from .solutions import great_circles, noon_sight, rule_of_twelfths
from .surfaces import DESKS, NEAR_WHITE

HELD_OUT = 500_000
_COLOURED = ((250, 238, 178), (248, 214, 216), (206, 226, 244), (210, 236, 206))
_WHITE = ((250, 249, 244), (252, 252, 250), (246, 246, 248))


@dataclass(frozen=True, slots=True)
class Trial:
    """``corners``: None where no sheet is to be cut out (then the whole picture is right). ``ink_seen``: see
    `Photograph`; None where nothing is written. ``advice``: codes that must be raised; ``allowed``: may be."""

    condition: str
    tags: tuple[str, ...]
    data: bytes
    size: tuple[int, int]
    corners: Corners | None
    turn: int
    ink_seen: NDArray[np.uint8] | None
    advice: frozenset[str] = frozenset()
    allowed: frozenset[str] = frozenset()
    judged: bool = True  # False: its corners have no single right answer


@dataclass(frozen=True, slots=True)
class Plan:
    """One condition: what it asks of paper and camera beyond what chance gives."""

    style: dict[str, Any] = field(default_factory=dict)
    scene: dict[str, Any] = field(default_factory=dict)
    advice: frozenset[str] = frozenset()
    allowed: frozenset[str] = frozenset()
    picture: str = ""  # "" is a photograph; else what is made instead
    answers: int | None = None


def _raised(*codes: str) -> frozenset[str]:
    return frozenset(codes)


_LIGHTS = _raised("uneven_light", "shadow_edge")
CONDITIONS: dict[str, Plan] = {
    **{f"desk: {name}": Plan(scene={"desk": name}) for name in DESKS},
    "paper: plain": Plan(style={"paper": "plain"}),
    "paper: ruled": Plan(style={"paper": "ruled"}),
    "paper: squared": Plan(style={"paper": "squared"}),
    "paper: coloured": Plan(style={"paper_colour": "coloured"}),
    "paper: Letter": Plan(style={"size_mm": LETTER_MM}),
    "around: papers beneath": Plan(scene={"beneath": 2}),
    "around: papers beside": Plan(scene={"beside": 2, "fill": 0.72}),
    "around: finger over an edge": Plan(scene={"over_edge": "finger"}),
    "around: pen over an edge": Plan(scene={"over_edge": "pen"}),
    "around: rounded corners": Plan(scene={"corner": "rounded"}),
    "around: dog-eared corner": Plan(scene={"corner": "dog_eared"}),
    "around: partly outside": Plan(scene={"outside": 0.10, "fill": 0.95}, advice=_raised("sheet_cut_off")),
    "around: strong tilt": Plan(scene={"tilt": 0.5, "rotation_deg": 12.0}),
    "around: two sheets": Plan(
        scene={"rotation_deg": 2.0, "tilt": 0.05}, advice=_raised("two_sheets"),
        allowed=_raised("low_resolution", "sheet_small", "small_writing"),
    ),
    "fills: scan": Plan(picture="scan"),
    "fills: tablet export": Plan(picture="tablet_export"),
    "light: hand's shadow": Plan(scene={"hand_shadow": True, "light": 0.4}, allowed=_LIGHTS),
    "light: hard shadow edge": Plan(scene={"shadow_edge": True}, advice=_raised("shadow_edge"), allowed=_LIGHTS),
    "light: warm lamp": Plan(scene={"warm": True}),
    "light: glare": Plan(scene={"glare": True}, advice=_raised("glare"), allowed=_raised("over_exposed")),
    "light: under-exposed": Plan(
        scene={"exposure": 0.22, "light": 0.1, "noise": 4.0}, advice=_raised("under_exposed"),
        allowed=_raised("faint_ink"),
    ),
    "light: over-exposed": Plan(
        scene={"exposure": 1.9, "light": 0.1}, advice=_raised("over_exposed"), allowed=_raised("faint_ink", "glare")
    ),
    **{f"hand: {name}": Plan(style={"hand": name}) for name in HANDS},
    "ink: red pen": Plan(style={"pen": RED_PEN}),
    "ink: two colours": Plan(style={"pen": BLUE_PEN, "second_pen": RED_PEN}),
    "ink: pencil": Plan(style={"pen": PENCIL}),
    "ink: faint pencil": Plan(style={"pen": FAINT_PENCIL}, advice=_raised("faint_ink")),
    "lens: out of focus": Plan(
        scene={"blur_sigma_px": 6.5}, advice=_raised("out_of_focus"), allowed=_raised("motion_blur", "faint_ink")
    ),
    "lens: moved": Plan(
        scene={"motion_px": 26.0}, advice=_raised("motion_blur"), allowed=_raised("out_of_focus", "faint_ink")
    ),
    "lens: far away": Plan(
        scene={"fill": 0.34}, advice=_raised("sheet_small"), allowed=_raised("low_resolution", "small_writing")
    ),
    "lens: few pixels": Plan(
        scene={"size": (756, 1008)}, advice=_raised("low_resolution"), allowed=_raised("small_writing", "sheet_small")
    ),
    "turned: quarter": Plan(scene={"quarter_turns": 1}),
    "turned: half": Plan(scene={"quarter_turns": 2}),
    "turned: three quarters": Plan(scene={"quarter_turns": 3}),
    "work: nearly empty": Plan(advice=_raised("nearly_empty"), answers=0),
    "no page: landscape": Plan(picture="landscape", advice=_raised("no_page")),
    "no page: face": Plan(picture="face", advice=_raised("no_page")),
    "no page: screenshot": Plan(picture="screenshot", advice=_raised("no_page")),
}  # fmt: skip
# What a picture without a sheet on a desk may be told besides.
_NO_PAGE_ALLOWED = _raised("sheet_not_found", "turn_unsure", "under_exposed", "low_resolution", "nearly_empty")


def make(condition: str, seed: int, size: tuple[int, int] = (1944, 2592)) -> Trial:
    """The trial of one condition and seed. ``size``: of the upright picture, unless the condition asks for another."""
    plan, chance = CONDITIONS[condition], np.random.default_rng(seed)
    if plan.picture in ("landscape", "face", "screenshot"):
        maker: Callable[[np.random.Generator], NDArray[np.uint8]] = getattr(pictures, plan.picture)
        pixels = maker(chance)
        return Trial(condition, (condition,), pictures.jpeg(pixels), (pixels.shape[1], pixels.shape[0]), None, 0, None,
                     plan.advice, plan.allowed | _NO_PAGE_ALLOWED)  # fmt: skip
    style = style_of(plan, chance)
    sheet = written(style, seed, chance, plan.answers)
    if plan.picture:
        filled = pictures.scan(sheet, chance) if plan.picture == "scan" else pictures.tablet_export(sheet)
        ink = sheet.ink.astype(np.uint8) * np.uint8(255)
        return Trial(condition, (condition,), pictures.jpeg(filled), (filled.shape[1], filled.shape[0]), None, 0, ink)
    scene = _scene(plan, chance, size)
    second = written(style, seed + 1, chance, None) if condition == "around: two sheets" else None
    shot = photograph(sheet, scene, seed, second)
    tags = (condition, f"on {scene.desk}", "near-white desk" if scene.desk in NEAR_WHITE else "distinct desk")
    allowed = plan.allowed | (_raised("turn_unsure") if plan.answers == 0 else _raised())
    if style.pen == FAINT_PENCIL:
        allowed |= _raised("nearly_empty", "turn_unsure")
    return Trial(condition, tags, shot.jpeg, scene.size, shot.corners, shot.turn, shot.ink_seen, plan.advice, allowed,
                 judged=second is None and scene.outside == 0)  # fmt: skip


def make_twice(condition: str, seed: int, *, scene: int, sheet: int) -> bytes:
    """One photograph of several: of sheet ``sheet`` in scene ``scene``; the hand and the paper are the seed's."""
    plan = CONDITIONS[condition]
    style = style_of(plan, np.random.default_rng(seed))
    laid = written(style, seed + 7919 * sheet, np.random.default_rng(seed + 7919 * sheet), None)
    return photograph(laid, _scene(plan, np.random.default_rng(seed + scene), (1944, 2592)), seed + scene).jpeg


def style_of(plan: Plan, chance: np.random.Generator) -> Style:
    pens = (BLUE_PEN, BLUE_PEN, BLACK_PEN, PENCIL)
    style = Style(
        hand=str(chance.choice(list(HANDS))), pen=pens[chance.integers(len(pens))],
        paper=str(chance.choice(["ruled", "squared", "plain"])), paper_colour=_WHITE[chance.integers(len(_WHITE))],
        size_mm=A4_MM,
    )  # fmt: skip
    chosen = dict(plan.style)
    if chosen.get("paper_colour") == "coloured":
        chosen["paper_colour"] = _COLOURED[chance.integers(len(_COLOURED))]
    return replace(style, **chosen)


def _scene(plan: Plan, chance: np.random.Generator, size: tuple[int, int]) -> Scene:
    scene = Scene(
        desk=str(chance.choice(DESKS)), size=size, fill=float(chance.uniform(0.62, 0.97)),
        tilt=float(chance.uniform(0.05, 0.3)), rotation_deg=float(chance.choice([3.0, 8.0, 15.0])),
        light=float(chance.uniform(0.1, 0.5)),
        blur_sigma_px=float(chance.uniform(0.5, 1.0)), noise=float(chance.uniform(1.5, 3.5)),
    )  # fmt: skip
    return replace(scene, **plan.scene)


def written(style: Style, seed: int, chance: np.random.Generator, answers: int | None) -> WrittenSheet:
    """One to six answers in the scenario's words, from a random one on, as many as fit."""
    course = (great_circles, noon_sight, rule_of_twelfths)[chance.integers(3)]()
    first = int(chance.integers(len(course)))
    wanted = int(chance.integers(2, 7)) if answers is None else answers
    chosen = (course[first:] + course[:first])[:wanted]
    while True:
        try:
            return write_sheet(chosen, style, seed)
        except ValueError:
            chosen = chosen[:-1]
