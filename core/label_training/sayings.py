"""What stands at the beginning of a written line: a label in one of the ways people write them, or none."""

from __future__ import annotations

import random
from dataclasses import dataclass

_ROMAN = ("i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x")
_PREFIXES = (
    "Q", "Q", "Q.", "Q ", "q", "Question ", "Problem ", "Prob. ", "Prob ", "Ex. ", "Ex ", "Exercise ", "No. ", "#",
    "Task ", "Part ", "P", "Answer ", "Ans. ", "Ans ", "Solution ", "Sol. ", "Qn ", "Que. ", "A",
)  # fmt: skip
# What is numbered and is no question.
_OTHER_NUMBERED = (
    "Homework", "Assignment", "Week", "Set", "Problem set", "Test", "Class test", "Exam", "Quiz", "Lab", "Sheet",
    "Chapter", "Section", "Unit", "Student no.", "Student", "ID", "Group", "Room", "Date", "Step", "Case", "Fig.",
    "Figure", "Table", "Eq.", "Equation", "Line", "Law", "Theorem", "Lemma", "Method", "Trial", "Note", "Way", "Run",
    "Leg", "Point", "Row", "NAV", "HW", "Term", "Year", "Class",
)  # fmt: skip
_WORDS = (
    "Let u be", "Let x =", "so that", "then", "Hence", "hence", "we get", "by the rule", "area =", "cos Z =", "sin h",
    "and", "Therefore", "Since", "if x > 0", "Given", "Using", "for n =", "tan a =", "log x", "D =", "Ho =", "T = L/c",
    "F = m a", "E = m c", "v = s/t", "lat =", "dx", "integrate", "the vertex", "is normal", "p(x)", "f(x) =", "g(x)",
    "h = 4", "range", "noon", "angle", "speed", "mean", "= 3.2 m", "= x + 1", "= 0", "=> x", "-> y", "+ C", "- 7 x",
    "Check:", "Answer", "Note", "Proof", "Solve", "Find", "Total", "Case", "Step", "Draw", "see above", "units",
    "a = 3", "b = 2 a", "c = 9", "i = 2 A", "x = 4", "y = 2x", "d = 12", "e = 1", "k = 7", "n = 5", "a + b", "bc",
    "at t = 0", "in metres", "of the", "it follows", "is", "I think", "a line", "be", "do", "vi = 3", "ix + 2",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Saying:
    """``label``: as written, "" for none; ``rest``: what follows on the line; ``target``: what is to be read: the
    levels joined, a stroke before a page number, "~" behind what is continued. ``gap``: between the two, in digit
    heights. ``mark``: how it is set off."""

    label: str
    rest: str
    target: str
    gap: float
    mark: str = ""  # underlined, circled, boxed, crossed


def saying(chance: random.Random) -> Saying:
    roll = chance.random()
    if roll < 0.34:
        return Saying("", _content(chance), "", 0)
    if roll < 0.35:
        return Saying("", "", "", 0)
    if roll < 0.37:
        return Saying("", _other_numbered(chance), "", 0)
    if roll < 0.42:
        return _page_number(chance)
    text, target = _label(chance)
    if chance.random() < 0.04:
        text, target = text + chance.choice((" cont.", " cont'd", " (cont.)", " continued", " ctd")), target + "~"
    rest = "" if chance.random() < 0.22 else _content(chance)
    closed = not text[-1].isalnum()
    gap = chance.uniform(0.35 if closed else 0.65, 1.6 if chance.random() < 0.4 else 4.5)
    mark = chance.choices(("", "underlined", "circled", "boxed", "crossed"), (70, 8, 9, 8, 5))[0]
    if mark == "crossed":
        return Saying(text, rest, "", gap, mark)
    return Saying(text, rest, target, gap, mark)


def _label(chance: random.Random) -> tuple[str, str]:
    kind = chance.random()
    number = str(chance.choices((chance.randint(1, 9), chance.randint(10, 20), chance.randint(21, 99)), (74, 22, 4))[0])
    letter = chance.choice("abcdefgh") if chance.random() < 0.93 else chance.choice("ijkmnpqrstx")
    roman = chance.choice(_ROMAN)
    if kind < 0.27:  # the number alone
        return _prefix(chance) + number + chance.choice((".", ".", ")", "", "", ":", ".)")), number
    if kind < 0.32:  # in brackets
        return f"({number})", number
    if kind < 0.59:  # number and part
        part = letter if chance.random() < 0.72 else roman
        shown = part.upper() if chance.random() < 0.12 else part
        way = chance.choice(
            ("{n}{p}", "{n}{p}", "{n}{p})", "{n}{p}.", "{n}({p})", "{n}({p})", "{n} ({p})", "{n}.{p}", "{n}. {p})",
             "{n}) {p})", "{n} {p}", "{n} {p})", "{n}. ({p})", "{n}{p}:", "{n}-{p}",
             "{n}: {p})", "{n}: ({p})", "{n}) ({p})")
        )  # fmt: skip
        return _prefix(chance) + way.format(n=number, p=shown), number + part
    if kind < 0.78:  # the part alone
        part = letter if chance.random() < 0.68 else roman
        shown = part.upper() if chance.random() < 0.1 else part
        way = chance.choice(("{p})", "{p})", "({p})", "({p})", "({p})", "{p}.", "{p}", "{p}:"))
        before = chance.choice(("Part ", "part ", "pt ")) if chance.random() < 0.05 else ""
        return before + way.format(p=shown), part
    if kind < 0.88:  # dotted
        second = str(chance.randint(1, 12))
        part = chance.choice(("", "", letter))
        way = chance.choice(("{p}", "({p})", "{p})", " {p})")) if part else chance.choice(("", ".", ")"))
        return _prefix(chance) + f"{number}.{second}" + way.format(p=part), f"{number}.{second}{part}"
    way = chance.choice(("{n}{p}({r})", "{n}({p})({r})", "{n}{p}{r}", "{n}{p} {r})", "{n} ({p}) ({r})", "({p})({r})"))
    roman = chance.choice(_ROMAN[:5])
    return way.format(n=number, p=letter, r=roman), ("" if way.startswith("(") else number) + letter + roman


def _prefix(chance: random.Random) -> str:
    if chance.random() < 0.76:
        return ""
    chosen = chance.choice(_PREFIXES)
    return chosen.upper() if chance.random() < 0.1 else chosen


def _page_number(chance: random.Random) -> Saying:
    page, of = chance.randint(1, 12), chance.randint(2, 12)
    form = chance.choice(("p. {p}", "p{p}", "page {p}", "Page {p}", "pg {p}", "P. {p}", "- {p} -", "-{p}-"))
    if chance.random() < 0.5:
        form = chance.choice(("{p}/{o}", "{p} / {o}", "{p} of {o}", "p. {p}/{o}", "page {p} of {o}", "({p}/{o})"))
        return Saying(form.format(p=page, o=of), "", f"{page}/{of}", 0)
    return Saying(form.format(p=page), "", f"/{page}", 0)


def _other_numbered(chance: random.Random) -> str:
    words, number = chance.choice(_OTHER_NUMBERED), chance.choice((chance.randint(1, 12), chance.randint(10, 40999)))
    words = chance.choice((words, words, words.lower(), words.upper()))
    return words + chance.choice((" ", " ", "", " #")) + str(number) + chance.choice(("", "", ":", "."))


def _content(chance: random.Random) -> str:
    roll = chance.random()
    if roll < 0.55:
        words = chance.choice(_WORDS)
    elif roll < 0.8:
        n, m = chance.randint(1, 99), chance.randint(1, 99)
        form = chance.choice(
            ("{n}x + {m} = 0", "{n} + {m} = {s}", "{n} x {m}", "{n}.{m} m", "{n} cos x", "{n}/{m} = y", "{n} = {m}x",
             "{n}° {m}.5'", "{n}x", "{n}y - {m}", "{n}.{m}5 km", "{n}^2 + {m}", "{n} sin {m}°", "{n} m/s",
             "{n}a + {m}b",
             "{n}00 kg", "{n}(x + {m})", "({n} + x)", "({n}, {m})", "(x + {n})", "(a + b)", "{n}e{m}", "{n} h {m} min",
             "{n}%", "{n}, {m}, {s}", "-{n} + {m}", "a{n} = {m}", "x{n} = {m}", "{n}i + {m}j")
        )  # fmt: skip
        words = form.format(n=n, m=m, s=n + m)
    else:
        letters = "abcdefghijklmnopqrstuvwxyz"
        words = " ".join(
            "".join(chance.choice(letters) for _ in range(chance.randint(1, 8))) for _ in range(chance.randint(1, 3))
        )
        words = words.capitalize() if chance.random() < 0.5 else words
        if len(words) < 4:
            words += " = " + str(chance.randint(2, 60))
    return words + chance.choice(("", " so x", " = 12", " and", " + 3", " is the"))
