"""A second student, who shares nothing with `folio_writer` but the names of the questions: other maps, layouts, label
forms, papers and drawings. What the reading owes to the habits of the first one shows here.

A folio is a pure function of its hand and its seed. Everything in it is invented.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

from .folios import Folio

WIDTH_PX, HEIGHT_PX = 1654, 2339  # A4 at 200 dots an inch
Colour = tuple[int, int, int]
_PAPER_COLOURS: Sequence[Colour] = ((255, 255, 255), (250, 247, 238), (252, 250, 230), (244, 246, 250))
_INKS: Sequence[Colour] = ((25, 35, 120), (20, 20, 24), (60, 60, 64), (15, 75, 60), (30, 30, 140))
_WHOLE_LABELS = ("{n}{p})", "{n}{p}.", "{n}({p})", "{n} {p})", "{n}. {p})", "{n}){p})", "Q{n}{p}", "{n}-{p}", "{n}{p}",
                 "#{n}{p}")  # fmt: skip
_DOTTED_LABELS = ("{n}.{p}", "{n}.{p})", "Q{n}.{p}")
_NUMBERS = ("{n}.", "{n})", "({n})", "Q{n}", "Q.{n}", "Question {n}", "Problem {n}:", "{n}:", "Ex {n}", "No. {n}")
_PARTS = ("{p})", "({p})", "{p}.", "({p}) ")
_STEPS = ("{k}. ", "{k}) ", "({k}) ", "Step {k}: ", "{k} ")
_NAMES = ("Ilse Marrow  30417", "I. Marrow", "Marrow NAV 231", "Ilse Marrow 30417 Set 5")
_SENTENCES = (
    "The ship sails due north for two hours", "so the distance is found from the triangle", "which gives",
    "and the angle at B is obtuse", "Using the law of cosines", "Since the current sets to the east we add it",
    "but the sign must be negative here", "the answer is about", "By symmetry both sides are equal",
    "We differentiate once more", "and set it equal to zero", "so it is a minimum",
    "The reaction needs two moles of acid", "for each mole of base", "therefore the solution is neutral",
    "The resistance doubles when the wire is twice as long", "at the equator", "Assume the earth is a sphere",
    "This holds for every n", "take logs of both sides", "the mass is conserved", "hence proved",
)  # fmt: skip
_FORMULAS = (
    "{v} = {a}{w} + {b}", "{v}² - {a}{v} + {b} = 0", "= {a}.{b} m/s", "= {c} N", "{a} × {b} = {c}", "{v}/{w} = {a}/{b}",
    "sin {a}° = 0.{b}", "so {v} = {b}", "= {a}({v} - {b})", "{v}({a}) = {b}", "d{v}/d{w} = {a}{w}", "({a}, {b})",
    "{v} < {b}", "{a}{v} + {b}{w} = {c}", "-{a} + {b} = {c}", "ln {v} = {a}.{b}", "{a}% of {b} kg", "C = {a} mol",
)  # fmt: skip
# How often somebody has each of these habits.
_HABITS = {"table": 0.3, "equation numbers": 0.25, "boxed answer": 0.3, "steps": 0.3, "name": 0.35, "underlined": 0.2,
           "ringed": 0.15, "crossed out": 0.1, "triangle": 0.25, "graph": 0.3, "struck lines": 0.3}  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Question:
    number: str
    part: str = ""
    dotted: bool = False

    @property
    def label(self) -> str:
        return f"{self.number}.{self.part}" if self.dotted else self.number + self.part


def second_folio(hand: Path, seed: int) -> tuple[Folio, list[Image.Image]]:
    """The truth, and the pages in the order they arrive. ``hand``: a font's file. Of one to about sixteen pages."""
    chance = random.Random(f"second writer {seed}")
    questions = _questions(chance)
    left_out = set(chance.sample(questions, 1)) if chance.random() < 0.35 and len(questions) > 3 else set()
    writer = _Writer(hand, chance, dotted=questions[0].dotted or questions[-1].dotted)
    if chance.random() < 0.12:
        writer.cover()
    before = ""
    for question in questions:
        if question not in left_out:
            writer.answer(question, new_number=question.number != before)
            before = question.number
    writer.finish()
    arrival = list(range(len(writer.pages)))  # arrival[k] is the page that comes k-th
    if chance.random() < 0.3:
        chance.shuffle(arrival)
    index = {page: at for at, page in enumerate(arrival)}
    folio = Folio(
        map=_map_of(questions),
        sheets=(),
        order=tuple(index[page] for page in range(len(arrival))),
        placements={label: tuple(index[page] for page in pages) for label, pages in writer.answered_on.items()},
        tops={label: (index[page], top) for label, (page, top) in writer.tops.items()},
        loose=tuple(index[page] for page in writer.loose),
        missing=tuple(one.label for one in questions if one in left_out),
        legible=frozenset(writer.answered_on),
    )
    return folio, [writer.pages[page] for page in arrival]


def _questions(chance: random.Random) -> list[_Question]:
    kind = chance.choice(("letters", "letters", "mixed", "numbers", "roman", "dotted"))
    questions = []
    for number in range(1, chance.randint(2, 7) + 1):
        if kind == "numbers" or (kind == "mixed" and chance.random() < 0.4):
            questions.append(_Question(str(number)))
            continue
        for at in range(chance.randint(2, 4)):
            part = {"roman": ("i", "ii", "iii", "iv")[at], "dotted": str(at + 1)}.get(kind, "abcd"[at])
            questions.append(_Question(str(number), part, kind == "dotted"))
    return questions


def _map_of(questions: Sequence[_Question]) -> str:
    groups = []
    for number in dict.fromkeys(one.number for one in questions):
        parts = [one for one in questions if one.number == number]
        if parts[0].dotted or len(parts) == 1:
            groups += [one.label for one in parts]
        else:
            groups.append(f"{parts[0].label}-{parts[-1].part}")
    return ", ".join(groups)


class _Writer:
    """Writes pages from the top; lengths in pixels of the page."""

    def __init__(self, hand: Path, chance: random.Random, *, dotted: bool) -> None:
        self.hand, self.chance = hand, chance
        self.style = chance.choice(("whole", "whole", "under a number", "number at its first part", "line of its own"))
        if dotted and self.style in ("under a number", "number at its first part"):
            self.style = "whole"
        self.whole = chance.choice(_DOTTED_LABELS if dotted else _WHOLE_LABELS)
        self.number, self.part = chance.choice(_NUMBERS), chance.choice(_PARTS)
        self.hang = chance.choice((0, 0, 1, 1, 0.5))  # how much of a label stands in the margin
        self.digit = chance.uniform(30, 46)
        self.pitch = self.digit * chance.uniform(1.75, 2.6)
        self.left, self.right = chance.uniform(120, 260), WIDTH_PX - chance.uniform(60, 150)
        self.foot = HEIGHT_PX - chance.uniform(70, 160)
        self.paper = chance.choice(("plain", "ruled", "ruled", "squared", "dotted"))
        self.colour, self.ink = chance.choice(_PAPER_COLOURS), chance.choice(_INKS)
        self.unsteady, self.slope = chance.uniform(0, 0.05), chance.uniform(-0.012, 0.012)
        self.new_pages = chance.random() < 0.25  # each problem begins on one
        self.page_number = chance.choice(("", "", "{k}", "p{k}", "{k}/{n}"))
        self.step, self.step_indent = chance.choice(_STEPS), chance.choice((0.0, 1.0, 2.5, 2.5, 5.0))
        self.habits = {habit for habit, share in _HABITS.items() if chance.random() < share}
        self.pages: list[Image.Image] = []
        self.answered_on: dict[str, list[int]] = {}
        self.tops: dict[str, tuple[int, float]] = {}
        self.loose: list[int] = []
        self.y = 0.0
        self.fresh = True  # the next line begins a page

    def cover(self) -> None:
        self._room(1)
        for text in ("Ilse Marrow", "Student no. 30417", "Homework 6"):
            self.write(text, WIDTH_PX * 0.3, self.y + 300, 1.3)
            self.y += 110
        self.loose.append(0)
        self.fresh = True

    def answer(self, question: _Question, *, new_number: bool) -> None:
        chance, digit = self.chance, self.digit
        if self.pages:
            self.y += self.pitch * chance.choice((0, 0.4, 1, 1.5))
            self.fresh |= self.new_pages and new_number
        self._room(2)
        if self.style == "under a number" and question.part and new_number:
            self.write(self.number.format(n=question.number), self.left - (2 * digit if self.hang else 0), self.y, 1.15)
            self._next_line()
        written = self._label(question, new_number)
        left = max(30, self.left - self._width(written) * self.hang - (digit * 0.8 if self.hang else 0))
        left += chance.gauss(0, 8)
        if "crossed out" in self.habits and chance.random() < 0.3:
            end = self.write(written, left, self.y)
            self._stroke([(left, self.y - digit * 0.4), (end, self.y - digit * 0.6)], 5)
            self._next_line()
        self._note(question.label)
        self.tops[question.label] = (len(self.pages) - 1, (self.y - digit) / HEIGHT_PX)
        end = self.write(written, left, self.y)
        if "underlined" in self.habits:
            self._stroke([(left, self.y + digit * 0.25), (end, self.y + digit * 0.2)])
        if "ringed" in self.habits:
            self._around(left, end, ring=True)
        start = max(self.left, end + digit * chance.uniform(0.7, 1.6))
        if self.style == "line of its own":
            self._next_line()
            start = self.left
        self._work(question.label, start)
        self._extras()

    def finish(self) -> None:
        """Names at the head of pages, and their numbers."""
        chance = self.chance
        for number, page in enumerate(self.pages, 1):
            drawing = ImageDraw.Draw(page)
            if "name" in self.habits and (number == 1 or chance.random() < 0.5):
                self.write(chance.choice(_NAMES), chance.choice((self.left, WIDTH_PX * 0.45)), 85, drawing=drawing)
            if self.page_number:
                text = self.page_number.format(k=number, n=len(self.pages))
                self.write(text, WIDTH_PX - 200, 90, drawing=drawing)

    def write(
        self, text: str, x: float, y: float, size: float = 1.0, *, drawing: ImageDraw.ImageDraw | None = None
    ) -> float:
        """``y`` of the baseline. Returns where it ends."""
        chance, begun = self.chance, x
        drawing = drawing or ImageDraw.Draw(self.pages[-1])
        for sign in text:
            if sign == " ":
                x += self.digit * chance.uniform(0.35, 0.6)
                continue
            face = _face(self.hand, self.digit * size * (1 + chance.gauss(0, self.unsteady)))
            at = (x + chance.gauss(0, self.unsteady * 6), y + (x - begun) * self.slope)
            at = (at[0], at[1] + chance.gauss(0, self.unsteady * self.digit))
            drawing.text(at, sign, font=face, fill=self.ink, anchor="ls")
            x += face.getlength(sign) + self.digit * chance.uniform(0, 0.06)
        return x

    def _label(self, question: _Question, new_number: bool) -> str:
        if not question.part:
            return self.number.format(n=question.number)
        part = self.part.format(p=question.part)
        if self.style == "under a number":
            return part
        if self.style == "number at its first part":
            return self.number.format(n=question.number) + " " + part if new_number else part
        return self.whole.format(n=question.number, p=question.part)

    def _work(self, label: str, start: float) -> None:
        chance, digit, count = self.chance, self.digit, self.chance.choice((1, 2, 3, 4, 5, 6, 8, 10, 14))
        for line in range(count):
            self._room(1)
            self._note(label)
            left = start if line == 0 else self.left + chance.choice((0, 0, 0, digit * 2, digit * 5))
            text = self._line_of_work()
            while " " in text and left + self._width(text) > self.right:
                text = text.rsplit(" ", 1)[0]
            end = self.write(text, left, self.y)
            if "equation numbers" in self.habits and chance.random() < 0.15 and end < self.right - 6 * digit:
                self.write(f"({chance.randint(1, 9)})", self.right - 2 * digit, self.y)
            if "struck lines" in self.habits and chance.random() < 0.06:
                self._stroke([(left, self.y - digit * 0.4), (end, self.y - digit * 0.5)])
            if line == count - 1 and "boxed answer" in self.habits and chance.random() < 0.6:
                self.y += self.pitch * 1.2
                self._room(1)
                self._note(label)
                left = self.left + chance.choice((0, 0, digit * 4, digit * 12))
                answer = chance.choice(("{n}", "x = {n}", "{n} m")).format(n=chance.randint(1, 99))
                self._around(left, self.write(answer, left, self.y), ring=False)
            self.y += self.pitch * (1 if chance.random() < 0.85 else 1.3)

    def _line_of_work(self) -> str:
        chance = self.chance
        if chance.random() < 0.4:
            text = chance.choice(_SENTENCES)
        else:
            text = "   ".join(self._formula() for _ in range(chance.choice((1, 1, 1, 2))))
        return chance.choice(_SENTENCES) + " " + self._formula() if chance.random() < 0.2 else text

    def _formula(self) -> str:
        chance = self.chance
        a, b, c = (chance.randint(2, 99) for _ in range(3))
        return chance.choice(_FORMULAS).format(v=chance.choice("xyztnvuaFmqR"), w=chance.choice("xyzt"), a=a, b=b, c=c)

    def _extras(self) -> None:
        """What is numbered and names no question, where there is room for it."""
        chance = self.chance
        if "steps" in self.habits and chance.random() < 0.4 and self._fits(6):
            for number in range(1, chance.choice((2, 3, 3, 4, 5)) + 1):
                text = self.step.format(k=number) + self._line_of_work()[:30]
                self.write(text, self.left + self.digit * self.step_indent, self.y)
                self.y += self.pitch
        if "table" in self.habits and chance.random() < 0.35 and self._fits(6):
            self._table()
        if "triangle" in self.habits and chance.random() < 0.35 and self._fits(7):
            self._triangle()
        if "graph" in self.habits and chance.random() < 0.3 and self._fits(7):
            self._graph()

    def _table(self) -> None:
        digit, pitch, left, top = self.digit, self.pitch, self.left, self.y - self.pitch * 0.8
        rows, columns = self.chance.choice(((2, 6), (5, 3), (5, 2)))
        wide = digit * 4.2
        for row in range(rows + 1):
            self._stroke([(left, top + row * pitch), (left + columns * wide, top + row * pitch)], 3)
        for column in range(columns + 1):
            self._stroke([(left + column * wide, top), (left + column * wide, top + rows * pitch)], 3)
        lying = rows == 2
        for row in range(rows):
            for column in range(columns):
                along, across = (column, row) if lying else (row, column)
                text = str(along) if across == 0 else str(self.chance.randint(1, 60))
                text = "xyn"[across] if along == 0 else text
                self.write(text, left + column * wide + digit * 0.8, top + (row + 0.7) * pitch, 0.9)
        self.y += pitch * (rows + 1)

    def _triangle(self) -> None:
        chance, digit, pitch, top = self.chance, self.digit, self.pitch, self.y
        left, foot = self.left + chance.uniform(50, 400), self.y + self.pitch * 4.5
        corners = [(left, foot), (left + 500, foot), (left + chance.uniform(100, 400), top)]
        self._stroke([*corners, corners[0]])
        for (x, y), letter in zip(corners, "ABC", strict=True):
            self.write(letter, x + (-digit if x < left + 50 else digit * 0.3), y + (digit * 1.1 if y > top else 0))
        self.write(str(chance.randint(2, 20)), (left + corners[2][0]) / 2 - digit * 2, (foot + top) / 2)
        self.write(str(chance.randint(2, 20)), left + 250, foot + digit * 1.3)
        self.write(f"{chance.randint(20, 80)}°", left + digit * 1.5, foot - pitch * 0.2, 0.8)
        self.y += pitch * 6.2

    def _graph(self) -> None:
        pitch, top, left = self.pitch, self.y, self.left + 100
        foot = top + pitch * 5
        self._stroke([(left, top), (left, foot)])
        self._stroke([(left, foot), (left + 700, foot)])
        self._stroke([(left + at * 7, foot - (at / 100) ** 2 * pitch * 4.5) for at in range(100)])
        for tick in range(1, 6):
            self.write(str(tick), left + tick * 120, foot + self.digit * 1.2, 0.7)
            self.write(str(tick * 2), left - 60, foot - tick * pitch * 0.8, 0.7)
        self.y += pitch * 7

    def _around(self, left: float, right: float, *, ring: bool) -> None:
        box = (left - self.digit * 0.5, self.y - self.digit * 1.4, right + self.digit * 0.4, self.y + self.digit * 0.5)
        drawing = ImageDraw.Draw(self.pages[-1])
        (drawing.ellipse if ring else drawing.rectangle)(box, outline=self.ink, width=4)

    def _stroke(self, points: Sequence[tuple[float, float]], wide: int = 4) -> None:
        ImageDraw.Draw(self.pages[-1]).line(list(points), fill=self.ink, width=wide)

    def _width(self, text: str) -> float:
        return float(_face(self.hand, self.digit).getlength(text))

    def _note(self, label: str) -> None:
        """That this page carries a piece of the answer."""
        pages = self.answered_on.setdefault(label, [])
        if len(self.pages) - 1 not in pages:
            pages.append(len(self.pages) - 1)

    def _next_line(self) -> None:
        self.y += self.pitch
        self._room(1)

    def _fits(self, lines: int) -> bool:
        return self.y + self.pitch * lines < self.foot

    def _room(self, lines: int) -> None:
        """A new page, if so many lines do not fit on this one."""
        if not self.fresh and self.y + self.pitch * (lines - 1) <= self.foot:
            return
        self.pages.append(_paper(self.paper, self.colour, self.pitch, self.left, self.chance))
        self.y, self.fresh = 150 + self.pitch * 0.95, False


def _paper(kind: str, colour: Colour, pitch: float, left: float, chance: random.Random) -> Image.Image:
    page = Image.new("RGB", (WIDTH_PX, HEIGHT_PX), colour)
    drawing = ImageDraw.Draw(page)
    if kind == "ruled":
        for line in range(int((HEIGHT_PX - 150) / pitch) + 1):
            y = 150 + line * pitch
            drawing.line((0, y, WIDTH_PX, y), fill=(170, 190, 225), width=2)
        if chance.random() < 0.7:
            drawing.line((left - 25, 0, left - 25, HEIGHT_PX), fill=(230, 150, 160), width=2)
    elif kind == "squared":
        step = pitch / chance.choice((1, 2))
        for line in range(int(HEIGHT_PX / step) + 1):
            at = line * step
            drawing.line((0, at, WIDTH_PX, at), fill=(190, 205, 230))
            drawing.line((at, 0, at, HEIGHT_PX), fill=(190, 205, 230))
    elif kind == "dotted":
        points = [(x, y) for y in range(0, HEIGHT_PX, 40) for x in range(0, WIDTH_PX, 40)]
        drawing.point(points, fill=(150, 150, 160))
    return page


@cache
def _cap_height(hand: Path) -> float:
    """Of its digits, as a share of the size: fonts of one size differ by two."""
    return max(0.2, -ImageFont.truetype(str(hand), 200).getbbox("5", anchor="ls")[1] / 200)


def _face(hand: Path, digit: float) -> ImageFont.FreeTypeFont:
    return _sized(hand, max(10, round(digit / _cap_height(hand))))


@cache
def _sized(hand: Path, size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(hand), size)
