"""The same filled sheet of a printed form, photographed twice: which picture shows more, or shows it plainer."""

from __future__ import annotations

import random
from dataclasses import dataclass, replace

from .form_trials import Plan, covered, filled, print_of
from .handwriting import BLUE_PEN, HANDS, SHEET_DPI, WrittenSheet, file_of
from .photograph import photograph
from .printed_forms import LOOKS, PrintedForm, make_form
from .scene import Scene
from .surfaces import DESKS

_FAULTS: dict[str, dict[str, float]] = {
    "out of focus": {"blur_sigma_px": 2.2},
    "camera moved": {"motion_px": 12.0},
    "a third cut off": {"outside": 0.33},
    "small in the picture": {"fill": 0.45},
}
KINDS = (
    "as good", *_FAULTS, "a third hidden", "an answer written later", "half an answer written later",
    "written later, out of focus", "each with another answer",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class TakenTwice:
    """``pictures``: two, JPEG. ``better``: index; None where each shows what the other does not. ``either``: both show
    all of it, equally well."""

    form: PrintedForm
    page: int
    pictures: tuple[bytes, bytes]
    better: int | None
    either: bool


def taken_twice(kind: str, seed: int) -> TakenTwice:
    """A pure function of both. ``kind``: of `KINDS`."""
    chance = random.Random(f"taken twice {kind} {seed}")
    form, page, labels = _form(chance, seed)
    first = second = _sheet(form, page, labels[:-1], seed)
    if kind == "half an answer written later":
        full = Plan(pen=BLUE_PEN, filled=1.0)
        second = _sheet(form, page, labels, seed, full)
        first = _half_written(second, _sheet(form, page, labels[:-1], seed, full), form, labels[-1])
    elif kind in ("an answer written later", "written later, out of focus"):
        second = _sheet(form, page, labels, seed)
    elif kind == "each with another answer":
        first, second = (_sheet(form, page, own, seed) for own in (labels[:1], labels[1:]))
    fault = "out of focus" if kind == "written later, out of focus" else kind
    shots = [
        photograph(first, _scene(chance), seed).jpeg,
        photograph(second, replace(_scene(chance), **_FAULTS.get(fault, {})), seed + 1).jpeg,  # type: ignore[arg-type]
    ]
    if kind == "a third hidden":
        shots[1] = covered(shots[1], 0.33, chance)
    better = 1 if "later" in kind else 0
    if chance.random() < 0.5:
        shots.reverse()
        better = 1 - better
    return TakenTwice(
        form, page, (shots[0], shots[1]), None if kind == "each with another answer" else better, kind == "as good"
    )


def _form(chance: random.Random, seed: int) -> tuple[PrintedForm, int, list[str]]:
    """A page with two answers and more."""
    for more in range(100):
        form = make_form(chance.choice(LOOKS[:4]), seed + more * 1_000_000)
        for page in chance.sample(range(form.pages), form.pages):
            labels = [label for label, boxes in form.spaces.items() if {box[0] for box in boxes} == {page}]
            if len(labels) > 1:
                return form, page, labels
    raise ValueError("no form has two answers on a page")


def _sheet(
    form: PrintedForm, page: int, answered: list[str], seed: int, plan: Plan = Plan(pen=BLUE_PEN)
) -> WrittenSheet:
    """The same handwriting for the answers that two sheets begin with."""
    same = random.Random(f"sheet {seed}")
    hand = file_of(same.choice(list(HANDS)))
    return filled(print_of(form.pdf, page), form, page, answered, plan, hand, same)


def _half_written(whole: WrittenSheet, without: WrittenSheet, form: PrintedForm, label: str) -> WrittenSheet:
    """The lower half of this answer not yet there."""
    pixels = whole.pixels.copy()
    for _, left, top, right, bottom in form.spaces[label]:
        left, upper, right, lower = (round(at * SHEET_DPI / 72) for at in (left, (top + bottom) / 2, right, bottom))
        pixels[upper:lower, left:right] = without.pixels[upper:lower, left:right]
    return WrittenSheet(pixels, whole.ink, ())


def _scene(chance: random.Random) -> Scene:
    return Scene(
        desk=chance.choice(DESKS), size=(1944, 2592), fill=chance.uniform(0.75, 0.97), tilt=chance.uniform(0.05, 0.2),
        rotation_deg=chance.choice((3.0, 8.0, 15.0)), light=chance.uniform(0.1, 0.4),
        blur_sigma_px=chance.uniform(0.5, 1.0), noise=chance.uniform(1.5, 3.5),
    )  # fmt: skip
