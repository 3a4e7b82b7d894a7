"""How labels and points are printed on question papers (common practice, no source)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from folio_core.labels import ROMAN

_WORDS = r"(?:questions?|problems?|exercises?|tasks?|ex|q)"
_NUMBER = r"[1-9][0-9]{0,2}(?:\.[1-9][0-9]{0,2}){0,2}"
_NAMED = re.compile(rf"\s*{_WORDS}\s*\.?\s*(?:no\.?\s*)?({_NUMBER})\s*(?:[.:)\]–—-]|(?=[\s(a-z]|$))", re.IGNORECASE)
_CLOSED = re.compile(rf"\s*(\(?)({_NUMBER})\s*([.):\]])(?=[\s(\[A-Za-z]|$)")
_GLUED = re.compile(rf"\s*({_NUMBER})(?=\s?\([a-z]{{1,5}}\)|[a-z]{{1,4}}[).](?:\s|$)|[a-m](?:\s|$))")
_BARE = re.compile(rf"\s*({_NUMBER})(?=\s+[A-Z]|\s*$)")
_PART = re.compile(
    r"\s*(?:part\s+)?(?:\(\s*([a-z]{1,5})\s*\)|([a-z]{1,5})\s*([).])|([a-z])(?=\s|$))(?=[\s(\[:]|$)[:]?", re.IGNORECASE
)
_UNIT = r"(?:marks?|points?|pts?|credits?|p)"
_AMOUNT = r"([0-9]{1,3}(?:[.,][0-9])?)"
_POINTS = re.compile(
    rf"\[\s*{_AMOUNT}\s*{_UNIT}?\.?\s*\]|\(\s*{_AMOUNT}\s*{_UNIT}\b\.?(?:\s+(each))?\s*\)|(?<![\w.]){_AMOUNT}\s*{_UNIT}\b\.?\s*$"
    rf"|\[\s*{_AMOUNT}\s*{_UNIT}\b\.?\s+(each)\s*\]|(?:_+|\s)/\s*{_AMOUNT}\s*$",
    re.IGNORECASE,
)
_TOTAL = re.compile(r"\b(?:total|altogether|in all)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Mark:
    """One level or more of a label as it is printed. ``style``: what it looks like; those of one row look alike."""

    levels: tuple[str, ...]
    style: str
    is_part: bool
    end: int


@dataclass(frozen=True, slots=True)
class Points:
    value: float
    is_total: bool
    each: bool


def marks_at_start(text: str) -> list[Mark]:
    """The labels a piece of text begins with: "1. (a) (i) Find" → 1, a, i. Empty where it begins with none."""
    found: list[Mark] = []
    at = 0
    number = _number(text)
    if number:
        found.append(number)
        at = number.end
    while match := _PART.match(text, at):
        level = (match[1] or match[2] or match[4]).lower()
        if match[4] and not (number and match.start(4) == number.end):
            break  # a letter without any sign is a part only right behind its number: "3b"
        if len(level) > 1 and level not in ROMAN:
            break
        if level.isupper() or (match[1] or match[2] or match[4]).isupper():
            break  # (A) to (D) are mostly answers to choose from
        style = "(x)" if match[1] else f"x{match[3] or ''}"
        found.append(Mark((level,), style, is_part=True, end=match.end()))
        at = match.end()
    return found


def _number(text: str) -> Mark | None:
    """A number, or None; of a number with a letter behind it, the letter is a part and no unknown of an equation."""
    if match := _NAMED.match(text):
        return Mark(tuple(match[1].split(".")), "named", is_part=False, end=match.end())
    if (match := _CLOSED.match(text)) and not (match[1] and match[3] != ")"):
        dots = "_" * match[2].count(".")
        return Mark(tuple(match[2].split(".")), f"{match[1]}#{dots}{match[3]}", is_part=False, end=match.end())
    if (match := _GLUED.match(text)) or (match := _BARE.match(text)):
        dots = "_" * match[1].count(".")
        return Mark(tuple(match[1].split(".")), f"#{dots}", is_part=False, end=match.end())
    return None


def points_in(text: str) -> Iterator[Points]:
    """Every "[4 marks]", "(5 points)", "[3]" or "6 pts" at the end of a line."""
    for match in _POINTS.finditer(text):
        value = next(one for one in match.groups() if one and one[0].isdigit())
        before = text[max(0, match.start() - 30) : match.end()]
        each = any(one and one.lower() == "each" for one in match.groups())
        yield Points(float(value.replace(",", ".")), bool(_TOTAL.search(before)), each)


def without_points(text: str) -> str:
    return _POINTS.sub(" ", text)
