"""Filled sheets of printed forms, photographed: which page it is, where every point lies, which answers are empty.

A trial is a pure function of its condition and its seed. Tuning uses seeds below ``HELD_OUT``.
"""

from __future__ import annotations

import io
import random
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pypdfium2
from numpy.typing import NDArray
from PIL import Image

from .handwriting import BLACK_PEN, BLUE_PEN, HANDS, PENCIL, SHEET_DPI, WrittenSheet, file_of
from .many_hands import Kind, Pen
from .photograph import Photograph, photograph
from .printed_forms import LOOKS, PrintedForm, make_form
from .scene import Scene
from .surfaces import DESKS

HELD_OUT = 500_000
_POINT_PX = SHEET_DPI / 72
_MM = SHEET_DPI / 25.4
Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Plan:
    """``scale``: of the print on its sheet. ``hidden``: share of the picture that something covers."""

    scene: dict[str, Any] = field(default_factory=dict)
    look: str = ""
    scale: float = 1.0
    grain: float = 0.0
    crease: bool = False
    hidden: float = 0.0
    pen: tuple[int, int, int] | None = None
    filled: float = 0.75
    no_form: bool = False


CONDITIONS: dict[str, Plan] = {
    "plain": Plan(),
    "turned": Plan(scene={"quarter_turns": -1}),
    "steep": Plan(scene={"tilt": 0.45, "rotation_deg": 25.0}),
    "dim, uneven light": Plan(scene={"light": 0.7, "exposure": 0.6, "noise": 5.0}),
    "hand's shadow": Plan(scene={"hand_shadow": True}),
    "out of focus": Plan(scene={"blur_sigma_px": 2.2}),
    "creased": Plan(crease=True),
    "a third hidden": Plan(hidden=0.33),
    "a third cut off": Plan(scene={"outside": 0.33}),
    "fit to page, 94 %": Plan(scale=0.94),
    "inkjet grain": Plan(grain=1.0),
    "pages look alike": Plan(look="alike"),
    "pencil": Plan(pen=PENCIL),
    "written full": Plan(filled=1.0),
    "blank": Plan(filled=0.0),
    "small in the picture": Plan(scene={"fill": 0.5}),
    "scrap paper": Plan(no_form=True),
    "another form": Plan(no_form=True),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class FormTrial:
    """``page``: None where it is of no page of this form. ``seen_at``: points of the page (n × 2, points) → pixels of
    the picture."""

    condition: str
    form: PrintedForm
    page: int | None
    data: bytes
    seen: _Seen | None
    empty: frozenset[str]

    def seen_at(self, points: Floats) -> Floats:
        assert self.seen is not None
        return self.seen.at(points)


@dataclass(frozen=True, slots=True)
class _Seen:
    """Form points → sheet pixels (print scale, crease) → picture."""

    scale: float
    size_pt: tuple[float, float]
    crease: tuple[float, float]  # where, as a share of the height, and how much shorter the part below it looks
    to_picture: Floats
    bend: float
    picture: tuple[int, int]

    def on_sheet(self, points: Floats) -> Floats:
        middle = np.array(self.size_pt) / 2
        placed = (points - middle) * self.scale + middle
        fold, short = self.crease
        below = np.maximum(0.0, placed[:, 1] - fold * self.size_pt[1])
        return np.stack([placed[:, 0], placed[:, 1] - below * short], axis=1) * _POINT_PX

    def at(self, points: Floats) -> Floats:
        flat = cv2.perspectiveTransform(self.on_sheet(points)[None], self.to_picture)[0]
        centre, radius = np.array(self.picture) / 2, max(self.picture) / 2
        away = (flat - centre) / radius
        return np.asarray(centre + away * (1 + self.bend * (away**2).sum(axis=1, keepdims=True)) * radius)


def make(condition: str, seed: int, hands: Sequence[Path] = (), size: tuple[int, int] = (1944, 2592)) -> FormTrial:
    """``hands``: handwriting fonts; without them those of the web packages."""
    plan, chance = CONDITIONS[condition], random.Random(f"{condition} {seed}")
    look = plan.look or chance.choice(LOOKS[:4])
    form = make_form(look, seed)
    shown = make_form(chance.choice(LOOKS[:4]), seed + 7_000_000) if condition == "another form" else form
    page = chance.randrange(shown.pages)
    hand = chance.choice(list(hands) or [file_of(one) for one in HANDS])
    print_ = np.full_like(print_of(shown.pdf, page), 255) if condition == "scrap paper" else print_of(shown.pdf, page)
    labels = [label for label, boxes in shown.spaces.items() if boxes[0][0] == page]
    empty = frozenset(label for label in labels if chance.random() >= plan.filled)
    sheet = filled(print_, shown, page, [label for label in labels if label not in empty], plan, hand, chance)
    crease = (chance.uniform(0.35, 0.65), chance.uniform(0.008, 0.03)) if plan.crease else (0.5, 0.0)
    sheet = _creased(sheet, *crease)
    scene = Scene(
        desk=chance.choice(DESKS), size=size, fill=chance.uniform(0.7, 0.97), tilt=chance.uniform(0.05, 0.25),
        rotation_deg=chance.choice((3.0, 8.0, 15.0)), light=chance.uniform(0.1, 0.5), quarter_turns=0,
        blur_sigma_px=chance.uniform(0.5, 1.0), noise=chance.uniform(1.5, 3.5),
    )  # fmt: skip
    wanted = dict(plan.scene)
    if wanted.get("quarter_turns") == -1:
        wanted["quarter_turns"] = chance.randint(1, 3)
    scene = replace(scene, **wanted)
    shot = photograph(sheet, scene, seed)
    data = covered(shot.jpeg, plan.hidden, chance) if plan.hidden else shot.jpeg
    if plan.no_form:
        return FormTrial(condition, form, None, data, None, frozenset())
    rows, columns = sheet.pixels.shape[:2]
    seen = _Seen(plan.scale, form.size_pt, crease, _to_picture(shot, columns, rows, scene), shot.lens, size)
    return FormTrial(condition, form, page, data, seen, empty)


def _to_picture(shot: Photograph, columns: int, rows: int, scene: Scene) -> Floats:
    """Sheet pixels → picture without its lens. ``shot.corners`` are of the sheet as it lies, so turned."""
    centre, radius = np.array(scene.size) / 2, max(scene.size) / 2
    bent = (np.array(shot.corners) - centre) / radius
    straight = bent.copy()
    for _ in range(20):  # the lens undone, by iteration
        straight = bent / (1 + shot.lens * (straight**2).sum(axis=1, keepdims=True))
    corners = centre + straight * radius
    turned = np.roll(corners, -scene.quarter_turns, axis=0)  # the sheet's own upper left corner first
    flat = np.array([(0, 0), (columns, 0), (columns, rows), (0, rows)], np.float32)
    return np.asarray(cv2.getPerspectiveTransform(flat, turned.astype(np.float32)), np.float64)


@lru_cache(4)
def print_of(pdf: bytes, page: int) -> NDArray[np.uint8]:
    with pypdfium2.PdfDocument(pdf) as document:
        return np.asarray(document[page].render(scale=_POINT_PX).to_numpy()[:, :, 0].copy(), np.uint8)


def filled(
    print_: NDArray[np.uint8], form: PrintedForm, page: int, answered: Sequence[str], plan: Plan, hand: Path,
    chance: random.Random,
) -> WrittenSheet:  # fmt: skip
    height, width = print_.shape
    noise = np.random.default_rng(chance.randrange(2**32))
    if plan.scale != 1.0:
        move = np.array([[plan.scale, 0, (1 - plan.scale) * width / 2], [0, plan.scale, (1 - plan.scale) * height / 2]])
        print_ = np.asarray(cv2.warpAffine(print_, move, (width, height), borderValue=255), np.uint8)
    dark = (255 - print_.astype(np.float32)) / 255 * chance.uniform(0.8, 0.97)
    if plan.grain:
        spots = cv2.GaussianBlur(noise.standard_normal(print_.shape).astype(np.float32), (0, 0), 1.6)
        dark = np.clip(dark * (0.85 + 0.7 * spots) + 0.06 * (spots > 0.42), 0, 1)
    colour = np.array(chance.choice(((250, 249, 244), (252, 252, 250), (246, 246, 248))), np.float32)
    ink = np.zeros(print_.shape, np.uint8)
    pen = Pen(ink, hand, Kind(height_mm=(2.6, 4.0)), chance)
    for label in answered:
        for _, left, top, right, bottom in form.spaces[label]:
            _answer(pen, (left, top, right, bottom), form.size_pt, plan, chance)
    drawn = plan.pen or chance.choice((BLUE_PEN, BLACK_PEN, BLACK_PEN, PENCIL))
    return written_over(dark, ink, drawn, colour)


def written_over(
    dark: NDArray[np.floating[Any]],
    ink: NDArray[np.uint8],
    pen: tuple[int, int, int],
    paper: NDArray[np.float32] | None = None,
) -> WrittenSheet:
    """A printed sheet with writing on it. ``dark``: how dark the print is, 0 to 1; ``ink``: 255 where the pen went."""
    colour = np.array((250, 249, 244), np.float32) if paper is None else paper
    pixels = colour * (1 - dark[..., None])
    pixels += ink[..., None].astype(np.float32) / 255 * 0.9 * (np.array(pen, np.float32) - pixels)
    return WrittenSheet(np.clip(pixels, 0, 255).astype(np.uint8), ink > 127, ())


def _answer(
    pen: Pen, box: tuple[float, float, float, float], size_pt: tuple[float, float], plan: Plan, chance: random.Random
) -> None:
    """A few lines within the space, sometimes only a number; sometimes the first is struck through."""
    middle = np.array(size_pt) / 2
    (left, top), (_, bottom) = (
        ((np.array(corner) - middle) * plan.scale + middle) * _POINT_PX for corner in (box[:2], box[2:])
    )
    y = top + pen.height * 1.6
    many = 99 if plan.filled == 1.0 else chance.choice((1, 1, 2, 3, 5, 8))
    for number in range(many):
        if y > bottom - pen.height * 0.4:
            break
        short = many == 1 and chance.random() < 0.5
        text = f"{chance.uniform(1, 99):.1f}" if short else chance.choice(_SAID)
        started = left + chance.uniform(2, 12) * _MM
        ended = pen.write(text, started, y)
        if number == 0 and many > 1 and chance.random() < 0.2:
            cv2.line(
                pen.ink, (round(started), round(y - pen.height / 2)), (round(ended), round(y - pen.height / 2)), 255, 4
            )
        y += pen.height * chance.uniform(1.9, 2.6)


_SAID = (
    "v = 3t - 4 = 0 so t = 4/3", "cos D = sin A sin B", "so it takes 24 minutes", "D = 57 04.2", "mean 4.812",
    "the forces balance", "h = 1.20 m after two hours", "x = 12", "not continuous at 2", "T = 3mg at the lowest point",
)  # fmt: skip


def _creased(sheet: WrittenSheet, fold: float, short: float) -> WrittenSheet:
    """Folded once across: the part below the fold leans away and looks shorter; a soft line of shade along it."""
    if short == 0:
        return sheet
    height, width = sheet.pixels.shape[:2]
    y = np.arange(height, dtype=np.float32)
    below = np.maximum(0, y - fold * height)
    source = np.where(below > 0, fold * height + below / (1 - short), y).astype(np.float32)
    map_y = np.repeat(source[:, None], width, axis=1)
    map_x = np.repeat(np.arange(width, dtype=np.float32)[None], height, axis=0)
    pixels = cv2.remap(sheet.pixels, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    shade = 1 - 0.22 * np.exp(-(((y - fold * height) / 12) ** 2)) - 0.07 * (below > 0)
    pixels = np.clip(pixels * shade[:, None, None], 0, 255).astype(np.uint8)
    outline = np.where(map_y < height, 255, 0).astype(np.uint8)
    return WrittenSheet(pixels, sheet.ink, (), outline)


def covered(jpeg: bytes, share: float, chance: random.Random) -> bytes:
    """Something of no light colour over one side of the picture, as large as a hand."""
    with Image.open(io.BytesIO(jpeg)) as image:
        pixels = np.asarray(image.convert("RGB")).copy()
    height, width = pixels.shape[:2]
    side = chance.choice(("left", "right", "bottom"))
    reach = share * (width if side != "bottom" else height)
    edge = np.array([(0, reach * chance.uniform(0.8, 1.1)) for _ in range(9)])[:, 1]
    if side == "bottom":
        ends = [(round(at * width / 8), round(height - deep)) for at, deep in enumerate(edge)]
        ends += [(width, height), (0, height)]
    else:
        ends = [
            (round(deep if side == "left" else width - deep), round(at * height / 8)) for at, deep in enumerate(edge)
        ]
        ends += [(0 if side == "left" else width, height), (0 if side == "left" else width, 0)]
    cv2.fillPoly(pixels, [np.array(ends, np.int32)], chance.choice(((196, 150, 126), (92, 66, 52), (60, 60, 66))))
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=88)
    return out.getvalue()


def photographed(
    form: PrintedForm, page: int, answered: Sequence[str], seed: int, size: tuple[int, int] = (1944, 2592)
) -> bytes:
    """One filled page in a plain scene, as JPEG. ``answered``: the labels under whose words something is written."""
    chance = random.Random(f"photographed {page} {seed}")
    hand = file_of(chance.choice(list(HANDS)))
    sheet = filled(print_of(form.pdf, page), form, page, answered, Plan(pen=BLUE_PEN), hand, chance)
    scene = Scene(desk="wood", size=size, fill=chance.uniform(0.8, 0.95), tilt=0.12, rotation_deg=5.0)
    return photograph(sheet, scene, seed).jpeg


def photographed_with_number(
    form: PrintedForm, number: str, boxes: Sequence[tuple[float, float, float, float]], seed: int,
    size: tuple[int, int] = (1512, 2016),
) -> bytes:  # fmt: skip
    """Its first page with a digit in each box. JPEG."""
    chance = random.Random(f"number {number} {seed}")
    print_ = print_of(form.pdf, 0)
    ink = np.zeros(print_.shape, np.uint8)
    pen = Pen(ink, file_of(chance.choice(list(HANDS))), Kind(height_mm=(2.8, 4.2)), chance)
    for digit, (left, _, _, bottom) in zip(number, boxes, strict=False):
        x, y = left + chance.uniform(2, 5), bottom - chance.uniform(2, 4.5)
        pen.write(digit, x * _POINT_PX, y * _POINT_PX)
    dark = (255 - print_.astype(np.float32)) / 255 * 0.9
    return photograph(
        written_over(dark, ink, BLUE_PEN), Scene(size=size, fill=0.9, tilt=0.12, rotation_deg=4.0), seed
    ).jpeg
