"""Printed tests with room for answers, set in different ways, and where the room is. Everything on them is invented."""

from __future__ import annotations

import io
import random
from dataclasses import dataclass

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

Space = tuple[int, float, float, float, float]  # page from 0; left, top, right, bottom in points from the upper left
LOOKS = ("boxes", "lines", "white", "dots", "alike")
_STEMS = (
    "A particle moves along the line with velocity v = 3t - 4 metres per second. Find where it comes to rest.",
    "State the theorem and say which of its conditions fails for the function f(x) = |x - 2|.",
    "A tank of volume 40 litres is filled through one pipe and emptied through another. How long does it take?",
    "Two lenses of focal length 8 cm and 20 cm stand 30 cm apart on one axis. Draw the path of the ray.",
    "Explain in two sentences what would change if the temperature were doubled.",
    "Determine the tension in the string when the mass is at its lowest point.",
    "A vessel steams from A (38 30 S) to B (33 54 S); find the great-circle distance and the initial course.",
    "Calculate the mean and the variance of the sample, giving both to three decimal places.",
    "Sketch the curve and mark where it crosses the axes. Give its turning points.",
    "The tide rises 4.8 m between low and high water. Using the rule of twelfths, find the height after two hours.",
)
_ALIKE = "Find x when {a}x + {b} = {c}. Show every step of your working in the space below."


@dataclass(frozen=True, slots=True)
class PrintedForm:
    """``spaces``: by label. ``pages``: how many; the last may have no room for answers."""

    pdf: bytes
    spaces: dict[str, list[Space]]
    pages: int
    size_pt: tuple[float, float]


def make_form(look: str, seed: int, pages: int | None = None) -> PrintedForm:
    """A pure function of its arguments."""
    chance = random.Random(f"form {look} {seed}")
    size = chance.choice((A4, A4, LETTER))
    count = pages or chance.randint(2, 6)
    family = chance.choice(("Times-Roman", "Helvetica", "Courier"))
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=size, invariant=1)
    spaces: dict[str, list[Space]] = {}
    number, title = 1, chance.choice(("Midterm test", "Quiz 4", "Class test", "Unit examination"))
    for page in range(count):
        canvas.setFont(family, 9)
        canvas.drawString(50, size[1] - 36, f"NAV 231 {title}")
        canvas.drawRightString(size[0] - 50, size[1] - 36, f"Page {page + 1} of {count}")
        canvas.line(50, size[1] - 42, size[0] - 50, size[1] - 42)
        if page == 0:
            canvas.setFont(family, 10)
            canvas.drawString(50, size[1] - 64, "Name ______________________   Number ______________")
        number = _questions(canvas, look, family, page, number, size, chance, spaces)
        canvas.showPage()
    canvas.save()
    return PrintedForm(out.getvalue(), spaces, count, size)


def _questions(
    canvas: Canvas, look: str, family: str, page: int, number: int, size: tuple[float, float], chance: random.Random,
    spaces: dict[str, list[Space]],
) -> int:  # fmt: skip
    width, height = size
    many = 2 if look == "alike" else chance.randint(1, 4)
    top = 84.0 if page == 0 else 58.0
    room = (height - 50 - top) / many
    for _ in range(many):
        size_pt = 11 if look == "alike" else chance.choice((10, 11, 12))
        stem = chance.choice(_STEMS)
        if look == "alike":
            stem = _ALIKE.format(a=chance.randint(2, 9), b=chance.randint(11, 99), c=chance.randint(100, 999))
        lines = simpleSplit(stem, family, size_pt, width - 150)
        y = top + size_pt
        canvas.setFont(family, size_pt)
        canvas.drawString(50, height - y, f"{number}.")
        for line in lines:
            canvas.drawString(74, height - y, line)
            y += size_pt * 1.3
        canvas.drawRightString(width - 50, height - top - size_pt, f"[{chance.randint(2, 8)}]")
        left, upper, right, lower = 74.0, y, width - 50, top + room - 12
        _room(canvas, look if look != "alike" else "boxes", (left, upper, right, lower), height)
        spaces[str(number)] = [(page, left, upper, right, lower)]
        number, top = number + 1, top + room
    return number


def _room(canvas: Canvas, look: str, box: tuple[float, float, float, float], height: float) -> None:
    left, top, right, bottom = box
    canvas.setLineWidth(0.7)
    if look == "boxes":
        canvas.rect(left, height - bottom, right - left, bottom - top)
    elif look in ("lines", "dots"):
        if look == "dots":
            canvas.setDash(1, 3)
        y = top + 22
        while y < bottom:
            canvas.line(left, height - y, right, height - y)
            y += 23
        canvas.setDash()
