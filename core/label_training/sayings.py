"""What stands at the beginning of a written line: a label in one of the ways people write them, or none."""

from __future__ import annotations

import random
from dataclasses import dataclass

from .content import content

_ROMAN = ("i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x")
_PREFIXES = (
    "Q", "Q", "Q", "Q", "Q.", "Q. ", "Q ", "q", "#", "#", "#", "Question ", "Question ", "Problem ", "Problem ",
    "Prob. ", "Prob ", "Ex. ", "Ex ", "Exercise ", "No. ", "Question no. ", "Task ", "Part ", "P", "Answer ", "Ans. ",
    "Ans ", "Solution ", "Sol. ", "Qn ", "Que. ", "A",
)  # fmt: skip
# What is numbered and is no question.
_OTHER_NUMBERED = (
    "Homework", "Assignment", "Week", "Set", "Problem set", "Test", "Class test", "Exam", "Quiz", "Lab", "Sheet",
    "Chapter", "Section", "Unit", "Student no.", "Student", "ID", "Group", "Room", "Date", "Step", "Case", "Fig.",
    "Figure", "Table", "Eq.", "Equation", "Line", "Law", "Theorem", "Lemma", "Method", "Trial", "Note", "Way", "Run",
    "Leg", "Point", "Row", "NAV", "HW", "Term", "Year", "Class",
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
        return Saying("", content(chance), "", 0)
    if roll < 0.35:
        return Saying("", "", "", 0)
    if roll < 0.37:
        return Saying("", _other_numbered(chance), "", 0)
    if roll < 0.42:
        return _page_number(chance)
    text, target = _label(chance)
    if chance.random() < 0.04:
        text, target = text + chance.choice((" cont.", " cont'd", " (cont.)", " continued", " ctd")), target + "~"
    rest = "" if chance.random() < 0.22 else content(chance)
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
    if kind < 0.29:  # the number alone
        return _prefix(chance) + number + chance.choice((".", ".", ")", "", "", ":", ".)")), number
    if kind < 0.33:  # in brackets
        return f"({number})", number
    if kind < 0.64:  # number and part
        part = letter if chance.random() < 0.72 else roman
        shown = part.upper() if chance.random() < 0.12 else part
        way = chance.choice(
            ("{n}{p}", "{n}{p}", "{n}{p})", "{n}{p})", "{n}{p}.", "{n}({p})", "{n}({p})", "{n} ({p})", "{n}.{p}",
             "{n}.{p})", "{n}. {p})", "{n}) {p})", "{n}){p})", "{n}){p}", "{n} {p}", "{n} {p})", "{n}. ({p})",
             "{n}{p}:", "{n}-{p}", "{n}: {p})", "{n}: {p}.", "{n}: ({p})", "{n}) ({p})", "({n}) {p})", "({n}{p})",
             "{n}, {p})")
        )  # fmt: skip
        return _prefix(chance) + way.format(n=number, p=shown), number + part
    if kind < 0.82:  # the part alone
        part = letter if chance.random() < 0.68 else roman
        shown = part.upper() if chance.random() < 0.1 else part
        way = chance.choice(("{p})", "{p})", "({p})", "({p})", "({p})", "{p}.", "{p}", "{p}:"))
        before = chance.choice(("Part ", "part ", "pt ")) if chance.random() < 0.05 else ""
        return before + way.format(p=shown), part
    if kind < 0.93:  # dotted
        second = str(chance.randint(1, 12))
        part = chance.choice(("", "", letter))
        way = chance.choice(("{p}", "({p})", "{p})", " {p})")) if part else chance.choice(("", ".", ")"))
        return _prefix(chance) + f"{number}.{second}" + way.format(p=part), f"{number}.{second}{part}"
    way = chance.choice(("{n}{p}({r})", "{n}({p})({r})", "{n}{p}{r}", "{n}{p} {r})", "{n} ({p}) ({r})", "({p})({r})"))
    roman = chance.choice(_ROMAN[:5])
    return way.format(n=number, p=letter, r=roman), ("" if way.startswith("(") else number) + letter + roman


def _prefix(chance: random.Random) -> str:
    if chance.random() < 0.7:
        return ""
    chosen = chance.choice(_PREFIXES)
    return chosen.upper() if chance.random() < 0.1 else chosen


def _page_number(chance: random.Random) -> Saying:
    page, of = chance.randint(1, 12), chance.randint(2, 12)
    form = chance.choice(("p. {p}", "p{p}", "page {p}", "Page {p}", "pg {p}", "P. {p}", "- {p} -", "-{p}-"))
    if chance.random() < 0.5:
        form = chance.choice(
            ("{p}/{o}", "{p}/{o}", "{p} / {o}", "{p} of {o}", "p. {p}/{o}", "page {p} of {o}", "({p}/{o})")
        )
        return Saying(form.format(p=page, o=of), "", f"{page}/{of}", 0)
    return Saying(form.format(p=page), "", f"/{page}", 0)


def _other_numbered(chance: random.Random) -> str:
    words, number = chance.choice(_OTHER_NUMBERED), chance.choice((chance.randint(1, 12), chance.randint(10, 40999)))
    words = chance.choice((words, words, words.lower(), words.upper()))
    return words + chance.choice((" ", " ", "", " #")) + str(number) + chance.choice(("", "", ":", "."))
