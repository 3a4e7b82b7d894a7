"""A student who writes a folio's pages: labels, lines of working, what stands around them."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from .distractors import distract
from .handwriting import BLACK_PEN, BLUE_PEN, PENCIL, SHEET_DPI, Style, WrittenSheet, paper_of, trimmed

_MM = SHEET_DPI / 25.4
_WIDE, _HIGH = round(210 * _MM), round(297 * _MM)
_LINE = 8.0  # mm
_FIRST_COLUMN = 106.0  # mm: nobody writes on to where the second one's labels stand
_TOP, _FOOT = 22.0, 283.0
_WAYS = ("{n}{p}", "{n}{p})", "{n}({p})", "{n} {p})", "{n}.{p}", "Q{n}{p}", "Q{n} ({p})", "{n}{p}.", "{n}) {p})")
_WHOLE = ("{n}", "{n}.", "{n})", "Q{n}", "({n})", "Problem {n}", "Question {n}")
_PARTS = ("{p})", "({p})", "{p}.", "({p})")
Digits = Mapping[str, NDArray[np.uint8]]


@dataclass(frozen=True, slots=True)
class Habits:
    """How somebody writes and sends. ``where``: of the label, margin, inline or own (on a line of its own)."""

    where: str = "margin"
    sloppy: float = 0.3
    parts_alone: bool = False
    shuffled: bool = False
    page_numbers: str = ""
    cover: bool = False
    missing: int = 0
    out_of_order: bool = False
    distractors: bool = False
    set_off: str = ""
    unlabelled: bool = False
    columns: bool = False
    running_on: bool = False
    real_digits: bool = False
    changes: bool = False  # of pen or paper, once, between two pages
    on_new_pages: bool = False  # each problem begins on one
    lines: tuple[int, int] = (3, 9)


class Writer:
    def __init__(self, habits: Habits, hand: Path, chance: random.Random, digits: Digits | None) -> None:
        self.habits, self.hand, self.chance, self.digits = habits, hand, chance, digits
        plain = chance.random() < 0.3
        self.ways = ("{n}{p}" if plain else chance.choice(_WAYS), chance.choice(_WHOLE), chance.choice(_PARTS))
        self.page_form = chance.choice(("{k}", "p. {k}", "{k}/{n}", "- {k} -", "page {k}"))
        self.style = Style(
            pen=chance.choice((BLUE_PEN, BLACK_PEN, BLACK_PEN, PENCIL)),
            paper=chance.choice(("ruled", "squared", "plain")),
            paper_colour=chance.choice(((250, 249, 244), (252, 252, 250), (246, 246, 248))),
        )  # fmt: skip
        self.size = chance.uniform(3.4, 4.6)  # mm, of a digit
        self.factor = 200 / max(40, -ImageFont.truetype(str(hand), 200).getbbox("5", anchor="ls")[1])
        self.text_left = chance.uniform(24, 34)
        self.layers: list[Image.Image] = []
        self.pages: dict[str, tuple[int, ...]] = {}
        self.tops: dict[str, tuple[int, float]] = {}
        self.loose: list[int] = []
        self.y = math.inf
        self.column = 0

    def cover(self) -> None:
        self._turn_page()
        for text in ("Ilse Marrow", "30417", "NAV 231", f"Problem set {self.chance.randint(1, 9)}"):
            self.write(text, 60 + self.chance.uniform(0, 20), self.y + 40, self.size * 1.3)
            self.y += 16
        self.loose.append(len(self.layers) - 1)
        self.y = math.inf

    def answer(self, label: str, levels: tuple[str, ...], before: tuple[str, ...]) -> None:
        lines = self.chance.randint(*self.habits.lines)
        distracted = self.chance.randint(0, 2 * lines) if self.habits.distractors else -1  # every other answer
        room = (_FOOT - self.y) / _LINE
        if self.habits.on_new_pages and before and before[0] != levels[0]:
            self._turn_page()
        elif room < (3 if self.habits.running_on else min(lines, 4) + 1):
            self._next_place()
        elif self.layers:
            self.y += _LINE * self.chance.choice((0.6, 1, 1, 1.5))
        begun = len(self.layers) - 1
        self.tops[label] = (begun, (self.y - 0.5 * _LINE) / 297)
        pages = [begun]
        indent = self._label(levels, before)
        for number in range(lines):
            if self.y > _FOOT:
                self._next_place()
                if len(self.layers) - 1 != pages[-1]:
                    pages.append(len(self.layers) - 1)
            self._line(indent if number == 0 else 0.0)
            self.y += _LINE
            if self.habits.distractors and number == distracted:
                self.y += distract(_Drawer(self), self._left(), self.y, _FOOT - self.y)
        self.pages[label] = tuple(pages)

    def _label(self, levels: tuple[str, ...], before: tuple[str, ...]) -> float:
        """Writes it, and returns how far the text must keep from where it begins, in mm."""
        if self.habits.unlabelled:
            return 0.0
        text = self._label_text(levels, before)
        habits = self.habits
        left = self._left()
        if habits.where == "margin":
            x = left - self.text_left + max(6.0, self.text_left - 15) + self.chance.gauss(0, 1.2 + 2.5 * habits.sloppy)
            end = self.write(text, max(5.0, x), self.y, self.size * 1.05)
            self._set_off(max(5.0, x), end)
            return max(0.0, end + 4.0 - left)
        if habits.where == "inline":
            end = self.write(text, left + self.chance.gauss(0, 0.8), self.y, self.size * 1.05)
            return end - left + self.chance.uniform(3.0, 6.0)
        x = left + self.chance.uniform(0, 60)
        end = self.write(text, x, self.y, self.size * 1.1)
        self._set_off(x, end)
        self.y += _LINE
        return 0.0

    def _label_text(self, levels: tuple[str, ...], before: tuple[str, ...]) -> str:
        both, whole, part = self.ways
        number, parts = levels[0], "".join(levels[1:])
        if not parts:
            return whole.format(n=number)
        if "." in number or (number.isdecimal() and all(one.isdecimal() for one in levels[1:])):
            return ".".join(levels)
        if len(levels) == 3:
            parts = f"{levels[1]}({levels[2]})"
        if self.habits.parts_alone and before and before[0] == number:
            return part.format(p=parts)
        return both.format(n=number, p=parts)

    def _set_off(self, left: float, right: float) -> None:
        if not self.habits.set_off:
            return
        draw = ImageDraw.Draw(self.layers[-1])
        x0, x1 = (left - 1.2) * _MM, (right + 1.0) * _MM
        base = (self.y + 0.75 * _LINE) * _MM
        high = self.size * _MM
        thick = max(2, round(0.35 * _MM))
        way = self.chance.choice(("underlined", "circled", "boxed"))
        if way == "underlined":
            draw.line((x0, base + 1.1 * _MM, x1, base + 1.3 * _MM), fill=255, width=thick)
        elif way == "boxed":
            draw.rectangle((x0, base - high - 1.4 * _MM, x1, base + 1.4 * _MM), outline=255, width=thick)
        else:
            draw.ellipse((x0 - 5, base - high - 2.0 * _MM, x1 + 5, base + 2.0 * _MM), outline=255, width=thick)

    def _line(self, keep: float) -> None:
        left = self._left()
        indent = self.chance.uniform(0, 3 + 5 * self.habits.sloppy)
        chance = self.chance
        text = working(chance)
        if self.habits.distractors and chance.random() < 0.25:
            kind = chance.randrange(3)
            if kind == 0:
                text = f"{chance.randint(1, 5)}. " + text
            elif kind == 1:
                self.write(f"({chance.randint(1, 9)})", left + 130 + chance.uniform(0, 15), self.y, self.size)
            else:
                text = f"{chance.randint(2, 40)}  {text}"
        self.write(text, left + max(keep, indent), self.y, self.size)

    def _left(self) -> float:
        return self.text_left + (100.0 if self.column else 0.0)

    def _next_place(self) -> None:
        if self.habits.columns and self.layers and self.column == 0:
            self.column, self.y = 1, _TOP + 4
            return
        self._turn_page()

    def _turn_page(self) -> None:
        self.layers.append(Image.new("L", (_WIDE, _HIGH), 0))
        self.column, self.y = 0, _TOP + self.chance.uniform(0, 8)
        if self.habits.sloppy < 0.9 and self.chance.random() < 0.4:
            self.write("Ilse Marrow 30417", 90 + self.chance.uniform(0, 30), 8, self.size)

    def write(self, text: str, x_mm: float, y_mm: float, digit_mm: float) -> float:
        """Returns where it ends, in mm."""
        chance, draw = self.chance, ImageDraw.Draw(self.layers[-1])
        unsteady = 0.03 + 0.05 * self.habits.sloppy
        digit = digit_mm * _MM
        x, slope = x_mm * _MM, chance.gauss(0, 0.004 + 0.008 * self.habits.sloppy)
        begun = x
        most = _FIRST_COLUMN * _MM if self.habits.columns and self.column == 0 else math.inf
        for word in text.split(" "):
            size = max(10, round(digit * self.factor * (1 + chance.gauss(0, unsteady)) / 2) * 2)
            face = ImageFont.truetype(str(self.hand), size)
            y = (y_mm + 0.75 * _LINE) * _MM + slope * (x - begun) + chance.gauss(0, unsteady) * digit
            if x > begun and x + face.getlength(word) > most:
                break
            if self.digits is None:
                draw.text((x, y), word, font=face, fill=255, anchor="ls")
                x += face.getlength(word)
            else:
                x = self._signs(word, x, y, digit, face)
            x += digit * chance.uniform(0.35, 0.55)
            if x > _WIDE - 6 * _MM:
                break
        return x / _MM - 0.4 * digit_mm

    def _signs(self, word: str, x: float, y: float, digit: float, face: ImageFont.FreeTypeFont) -> float:
        assert self.digits is not None
        for sign in word:
            if not sign.isdecimal():
                ImageDraw.Draw(self.layers[-1]).text((x, y), sign, font=face, fill=255, anchor="ls")
                x += face.getlength(sign)
                continue
            images = self.digits[sign]
            ink = images[self.chance.randrange(len(images))]
            cut = Image.fromarray(trimmed(ink))
            high = round(digit * self.chance.uniform(0.95, 1.1))
            wide = max(3, round(cut.width * high / cut.height))
            mask = cut.resize((wide, high), Image.Resampling.BICUBIC).point(lambda v: min(255, max(0, (v - 70) * 3)))
            self.layers[-1].paste(255, (round(x), round(y - high)), mask)
            x += wide + digit * 0.14
        return x

    def finish(self) -> list[WrittenSheet]:
        made = []
        styles = self._styles()
        for number, layer in enumerate(self.layers, 1):
            style = styles[number - 1]
            if self.habits.page_numbers:
                text = self.page_form.format(k=number, n=len(self.layers))
                x, y = self.chance.choice(((185.0, 6.0), (178.0, 286.0), (98.0, 286.0)))
                self.layers[number - 1], keep = layer, self.layers
                self.layers = [layer]
                self.write(text, x, y, self.size)
                self.layers = keep
            ink = np.asarray(layer, np.float32) / 255
            paper = paper_of(style, (_WIDE, _HIGH), self.chance)
            alpha = ink[..., None] * np.float32(self.chance.uniform(0.86, 0.96))
            pixels = paper * (1 - alpha) + np.asarray(style.pen, np.float32) * alpha
            made.append(WrittenSheet(np.rint(pixels).astype(np.uint8), ink > 0.5, ()))
        return made

    def _styles(self) -> list[Style]:
        """Of each page."""
        count = len(self.layers)
        if not self.habits.changes or count < 2:
            return [self.style] * count
        first = self.chance.randrange(1, count)  # page of the other look
        other = replace(self.style, pen=BLACK_PEN if self.style.pen == BLUE_PEN else BLUE_PEN)
        if self.chance.random() < 0.5:
            papers = [paper for paper in ("ruled", "squared", "plain") if paper != self.style.paper]
            other = replace(self.style, paper=self.chance.choice(papers))
        return [self.style] * first + [other] * (count - first)


class _Drawer:
    """The writer, as `distract` draws with it."""

    def __init__(self, writer: Writer) -> None:
        self.writer, self.chance, self.size, self.pitch = writer, writer.chance, writer.size, _LINE

    @property
    def drawing(self) -> ImageDraw.ImageDraw:
        return ImageDraw.Draw(self.writer.layers[-1])

    def write(self, text: str, x: float, y: float, size: float) -> float:
        return self.writer.write(text, x, y, size)

    def work(self) -> str:
        return working(self.chance)


_TALK = (
    "so that", "then", "hence", "we get", "by the rule of twelfths", "because the course is fixed", "which gives",
    "from the table", "using the law of cosines", "as asked", "in the limit", "since both are positive",
)  # fmt: skip


def working(chance: random.Random) -> str:
    n, m, k = chance.randint(2, 99), chance.randint(2, 99), chance.randint(2, 9)
    forms: tuple[Callable[[], str], ...] = (
        lambda: f"{chance.choice(_TALK)} x = {n}.{m}",
        lambda: f"cos D = sin A sin B + {n / 100:.2f}",
        lambda: f"{chance.choice('abcdhkrvxyz')} = {n} {chance.choice('+-')} {m}{chance.choice('xyab')}",
        lambda: f"  = {n * m} {chance.choice(('m', 'nm', 's', 'm/s'))}",
        lambda: f"{n}x + {m} = {k}y",
        lambda: f"Let {chance.choice('uvwxy')} = {k}{chance.choice('xyt')} - {n}",
        lambda: f"{chance.choice(_TALK)} {chance.choice(_TALK)}",
        lambda: f"D = {n}° {m % 60:02d}.{k}'",
        lambda: f"{chance.choice(_TALK).capitalize()} the answer is {n}.{k}",
        lambda: f"f(x) = {k}x^2 - {n}",
        lambda: f"= {n}.{m} / {k}",
        lambda: f"T = 2 L / {k} = {n} min",
    )
    return chance.choice(forms)()
