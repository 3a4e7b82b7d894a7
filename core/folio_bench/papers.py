"""Question papers made up with different typesetting, and the map that each of them has."""

from __future__ import annotations

import io
import random
from collections.abc import Iterator
from dataclasses import dataclass, field

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

TUNING = range(60)
HELD_OUT = range(5000, 5120)

_STEMS = (
    "A particle moves along the line with velocity v = 3t - 4 metres per second.",
    "The matrix M has eigenvalues 2 and 5, and its trace is known to be twice that of N.",
    "Let f be a continuous function on the closed interval from 0 to 1 with f(0) = f(1).",
    "A tank of volume 40 litres is filled through one pipe and emptied through another.",
    "A sample of 12.5 g of the salt is heated in an open dish until its mass no longer falls.",
    "Two lenses of focal length 8 cm and 20 cm stand 30 cm apart on one axis.",
    "The sequence is defined by its first term and by the rule that each term is half of the sum of its neighbours.",
)
_TASKS = (
    "Show that the limit exists and find it.",
    "Find the general solution.",
    "State the domain of the inverse.",
    "Sketch the curve and mark where it crosses the axes.",
    "Prove that there is no rational number with this property.",
    "Determine the tension in the string when the mass is at its lowest point, and compare it with the weight.",
    "Hence, or otherwise, evaluate the integral from 0 to\n3. Give your answer as a fraction in lowest terms.",
    "Using the result of part\n(a), explain why the series cannot converge for any larger value of the variable.",
    "Calculate the mean and the variance, giving both to three decimal places.",
    "Explain in two sentences what would change if the temperature were doubled.",
    "Write down the first\n4 terms of the expansion in ascending powers.",
    "Find all values of k for which the system has more than one solution, and say for which it has\n2 free variables.",
)
_LETTERS = "abcdefgh"
_NUMERALS = ("i", "ii", "iii", "iv", "v")
_NUMBERS = ("{}.", "{})", "({})", "Question {}", "Q{}.", "Problem {}.", "{}", "Exercise {}:")
_PARTS = (("({})", "({})"), ("{})", "({})"), ("{}.", "({})"), ("({})", "{}."))
_POINTS = ("[{} marks]", "({} points)", "[{}]", "({} pts)", "", "{} marks")


@dataclass(slots=True)
class Paper:
    """``labels`` and ``points`` (None where the paper says none): what a person would read on it."""

    pdf: bytes
    labels: list[str]
    points: list[float | None]
    look: str


@dataclass(slots=True)
class _Setting:
    """How one paper is set."""

    number: str
    part: str
    sub: str
    points: str
    points_right: bool
    columns: int
    hanging: bool
    right_aligned: bool
    same_line: bool
    size: float
    family: str
    bold: bool
    instructions: bool
    running: bool
    equations: bool
    choices: bool
    sections: bool
    width: float
    height: float


def make_paper(seed: int) -> Paper:
    random_ = random.Random(f"paper {seed}")
    setting = _setting(random_)
    first = random_.choice((1, 1, 1, 1, 5))
    dotted = setting.number in ("{}.", "{}") and random_.random() < 0.2
    return _Printer(random_, setting).print(first, random_.randint(3, 8), dotted)


def _setting(random_: random.Random) -> _Setting:
    part, sub = random_.choice(_PARTS)
    number = random_.choice(_NUMBERS)
    width, height = random_.choice((A4, LETTER))
    columns = 2 if random_.random() < 0.2 else 1
    return _Setting(
        number, part, sub, random_.choice(_POINTS), random_.random() < 0.5, columns,
        hanging=number == "{}" or random_.random() < 0.6, right_aligned=random_.random() < 0.3,
        same_line=random_.random() < 0.5, size=random_.choice((9.5, 10, 11, 12)),
        family=random_.choice(("Times", "Helvetica", "Courier") if columns == 1 else ("Times", "Helvetica")),
        bold=random_.random() < 0.5, instructions=random_.random() < 0.4, running=random_.random() < 0.6,
        equations=random_.random() < 0.3, choices=random_.random() < 0.15, sections=random_.random() < 0.2,
        width=width, height=height,
    )  # fmt: skip


@dataclass(slots=True)
class _Printer:
    random: random.Random
    setting: _Setting
    out: io.BytesIO = field(default_factory=io.BytesIO)
    labels: list[str] = field(default_factory=list)
    points: list[float | None] = field(default_factory=list)
    column: int = 0
    y: float = 0.0
    page: int = 1
    canvas: Canvas = field(init=False)

    def __post_init__(self) -> None:
        self.canvas = Canvas(self.out, pagesize=(self.setting.width, self.setting.height), invariant=True)

    def print(self, first: int, count: int, dotted: bool) -> Paper:
        setting = self.setting
        self._new_page()
        self._head()
        for number in range(first, first + count):
            if setting.sections and number in (first, first + count // 2):
                self._line(f"Section {'A' if number == first else 'B'}", 0, bold=True)
            if dotted:
                self._dotted(number)
            else:
                self._question(number)
            self.y -= setting.size
        self.canvas.save()
        look = f"{setting.number} {setting.part} {setting.columns} col"
        return Paper(self.out.getvalue(), self.labels, self.points, look + (" dotted" if dotted else ""))

    @property
    def _left(self) -> float:
        inner = self.setting.width - 130
        return 65 + self.column * (inner / self.setting.columns + 10)

    @property
    def _wide(self) -> float:
        return (self.setting.width - 130) / self.setting.columns - (20 if self.setting.columns == 2 else 0)

    def _font(self, bold: bool = False) -> str:
        return (
            {"Times": "Times-Roman"}.get(self.setting.family, self.setting.family)
            if not bold
            else f"{self.setting.family}-Bold"
        )

    def _new_page(self) -> None:
        self.canvas.setFont(self._font(), self.setting.size)
        if self.setting.running:
            self.canvas.drawString(65, self.setting.height - 36, "MATH 204 Linear methods, second midterm")
            self.canvas.drawCentredString(
                self.setting.width / 2, 30, self.random.choice((str(self.page), f"Page {self.page} of 3"))
            )
        self.y = self.setting.height - 80
        self.column = 0

    def _room(self, lines: int = 1) -> None:
        if self.y - lines * self.setting.size * 1.3 > 70:
            return
        if self.column + 1 < self.setting.columns:
            self.column += 1
            self.y = self.setting.height - 130 if self.page == 1 else self.setting.height - 80
            return
        self.canvas.showPage()
        self.page += 1
        self._new_page()

    def _line(self, text: str, indent: float, bold: bool = False) -> None:
        self._room()
        self.canvas.setFont(self._font(bold), self.setting.size)
        self.canvas.drawString(self._left + indent, self.y, text)
        self.y -= self.setting.size * 1.3

    def _head(self) -> None:
        self._line("Second midterm examination", 0, bold=True)
        self._line("Time allowed: 90 minutes. Answer all questions.", 0)
        if self.setting.instructions:
            self._line("Instructions", 0, bold=True)
            for number, text in enumerate(("Write in ink.", "Show all your work.", "No calculators."), 1):
                self._line(f"{number}. {text}", 0)
        self.y -= 10

    def _wrapped(self, text: str, indent: float) -> Iterator[str]:
        width = self._wide - indent
        line = ""
        for word in text.replace("\n", " \n").split(" "):
            if word.startswith("\n") or stringWidth(f"{line} {word}", self._font(), self.setting.size) > width:
                yield line
                line = word.strip()
            else:
                line = f"{line} {word}".strip()
        yield line

    def _labelled(self, label: str, text: str, indent: float, points: str = "") -> None:
        """A label with its text behind it, wrapped; points at its end or at the right edge of its last line."""
        setting = self.setting
        self._room(3)
        wide = stringWidth(label + " ", self._font(setting.bold), setting.size)
        body = indent + (max(26.0, wide) if setting.hanging else wide)
        lines = list(self._wrapped(text + (f" {points}" if points and not setting.points_right else ""), body))
        self.canvas.setFont(self._font(setting.bold), setting.size)
        x = self._left + indent + (22 - wide if setting.right_aligned and setting.hanging and wide < 22 else 0)
        self.canvas.drawString(x, self.y, label)
        for number, line in enumerate(lines):
            if number:
                self._room()
            self.canvas.setFont(self._font(), setting.size)
            start = body if number == 0 or setting.hanging else indent
            self.canvas.drawString(self._left + start, self.y, line)
            if points and setting.points_right and number == len(lines) - 1:
                if start + stringWidth(f"{line} {points}", self._font(), setting.size) > self._wide:
                    self.y -= setting.size * 1.3  # no room behind the text
                self.canvas.drawRightString(self._left + self._wide, self.y, points)
            self.y -= setting.size * 1.3

    def _points(self) -> tuple[str, float | None]:
        value = self.random.randint(1, 12)
        return (self.setting.points.format(value), float(value)) if self.setting.points else ("", None)

    def _add(self, label: str, points: float | None) -> None:
        self.labels.append(label)
        self.points.append(points)

    def _question(self, number: int) -> None:
        label = self.setting.number.format(number)
        parts = self.random.choice((0, 0, 2, 3, 4, 5))
        if self.setting.equations and self.random.random() < 0.5:
            self._line("", 0)
        if not parts:
            words, value = self._points()
            self._labelled(label, f"{self.random.choice(_STEMS)} {self.random.choice(_TASKS)}", 0, words)
            self._equation(number)
            self._choices()
            self._add(str(number), value)
            return
        stem = self.setting.same_line and self.random.random() < 0.5
        if not stem:
            self._labelled(label, self.random.choice(_STEMS), 0)
            self._equation(number)
        for letter in _LETTERS[:parts]:
            ahead = f"{label} " if stem and letter == "a" else ""
            self._part(f"{ahead}{self.setting.part.format(letter)}", f"{number}{letter}", 0 if ahead else 26)

    def _part(self, printed: str, label: str, indent: float) -> None:
        subs = (
            self.random.choice((0, 0, 0, 0, 2, 3))
            if self.setting.sub != self.setting.part or "(" in self.setting.sub
            else 0
        )
        if not subs:
            words, value = self._points()
            self._labelled(printed, self.random.choice(_TASKS), indent, words)
            self._add(label, value)
            return
        self._labelled(printed, self.random.choice(_STEMS), indent)
        for numeral in _NUMERALS[:subs]:
            words, value = self._points()
            self._labelled(self.setting.sub.format(numeral), self.random.choice(_TASKS), 52, words)
            self._add(f"{label}{numeral}", value)

    def _dotted(self, number: int) -> None:
        self._line(f"{number}  " + self.random.choice(("Vectors", "Waves", "Mixtures")), 0, bold=True)
        for part in range(1, self.random.randint(3, 5)):
            words, value = self._points()
            self._labelled(f"{number}.{part}", self.random.choice(_TASKS), 0, words)
            self._add(f"{number}.{part}", value)

    def _equation(self, number: int) -> None:
        if not self.setting.equations:
            return
        self._room(2)
        self.canvas.drawString(self._left + self._wide * 0.4, self.y, "y'' + 4y = sin(2x)")
        self.canvas.drawRightString(self._left + self._wide, self.y, f"({number})")
        self.y -= self.setting.size * 1.6

    def _choices(self) -> None:
        if self.setting.choices:
            for letter in "ABCD":
                self._line(f"({letter}) {self.random.randint(2, 90)}", 40)
