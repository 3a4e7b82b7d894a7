"""What a chosen or short answer is worth by itself: a proposal, over which a marker has the last word.

Units by Pint, expressions by SymPy. What a student typed is read by a small grammar of our own first: only numbers,
letters, operators and a few functions reach the parser, in a child process with limits.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import unicodedata
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path

from .answering import Answering, AnswerKind, ShortKind
from .content import AnswerContent

_SECONDS = 60
_PACKAGE_ROOT = Path(__file__).resolve().parents[2]
_EXPRESSION_MOST = 120  # characters: a longer one is left to the marker
_FUNCTIONS = (
    "sin", "cos", "tan", "asin", "acos", "atan", "sinh", "cosh", "tanh", "sqrt", "exp", "log", "ln", "abs",
)  # fmt: skip
_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_SIGNS = str.maketrans(
    {"·": "*", "×": "*", "∙": "*", "⋅": "*", "÷": "/", "−": "-", "–": "-", "π": " pi ", "[": "(", "]": ")"}
)
_HIGHEST_POWER = 99


@dataclass(frozen=True, slots=True)
class Judged:
    """``is_right``: None where a marker decides. ``words``: why, for the marker."""

    is_right: bool | None
    words: str


UNDECIDED = Judged(None, "")


@dataclass(frozen=True, slots=True)
class Comparison:
    """Two expressions that may be the same."""

    one: str
    other: str


def judge(answering: Answering, content: AnswerContent) -> Judged:
    """What is asked for in several ways is right where each way that decides says so; one wrong makes it wrong."""
    told = []
    if AnswerKind.CHOSEN in answering.kinds and answering.right:
        told.append(_judge_chosen(answering, content))
    if AnswerKind.SHORT in answering.kinds and answering.short.expected.strip():
        told.append(_judge_short(answering, content.short.strip()))
    decided = [one for one in told if one.is_right is not None]
    if not decided or len(decided) < len(told):
        return next((one for one in told if one.is_right is None), UNDECIDED)
    return Judged(all(one.is_right for one in decided), "; ".join(one.words for one in decided))


def _judge_chosen(answering: Answering, content: AnswerContent) -> Judged:
    """Right where exactly the right ones are chosen; common practice, no source."""
    if not content.chosen:
        return Judged(False, "nothing chosen")
    is_right = set(content.chosen) == set(answering.right)
    return Judged(is_right, "the right choice" if is_right else "another choice than the right one")


def _judge_short(answering: Answering, typed: str) -> Judged:
    rule = answering.short
    if not typed:
        return Judged(False, "nothing typed")
    if rule.kind is ShortKind.WORD:
        is_right = plain_word(typed) in {plain_word(one) for one in rule.expected.splitlines() if one.strip()}
        return Judged(is_right, "the expected word" if is_right else "another word than expected")
    if rule.kind is ShortKind.NUMBER:
        return judge_number(typed, rule.expected, rule.unit, rule.tolerance)
    same = are_same([Comparison(typed, rule.expected)])[0]
    if same is None:
        return Judged(None, "cannot be read as an expression")
    return Judged(same, f"the same as {rule.expected}" if same else f"not the same as {rule.expected}")


def plain_word(text: str) -> str:
    """Without case, accents apart from letters, and spaces that do not matter."""
    return " ".join(unicodedata.normalize("NFKC", text).casefold().split()).strip(".")


_NUMBER = re.compile(
    r"\s*(?P<sign>[-+]?)\s*(?P<digits>\d[\d\s]*(?:[.,]\d+)?|[.,]\d+)\s*"
    r"(?:(?:[eE]|[x×·*]\s*10\s*\^?)\s*(?P<power>\(?[-+]?\d{1,3}\)?))?\s*(?P<unit>.*)",
    re.S,
)


def judge_number(typed: str, expected: str, unit: str, tolerance: float) -> Judged:
    """``tolerance``: a share of the expected value; of an expected 0 it is the value itself. A number without its unit
    is left to the marker where one is expected; another unit of the same kind is converted."""
    mine, right = _read_number(typed), _read_number(expected)
    if right is None or right[1]:
        return UNDECIDED
    if mine is None:
        return Judged(None, "cannot be read as a number")
    value, typed_unit = mine
    if unit and not typed_unit:
        near = _is_near(value, right[0], tolerance)
        return Judged(None, f"{'the right' if near else 'another'} number, without its unit")
    if typed_unit or unit:
        converted = _converted(value, typed_unit, unit)
        if converted is None:
            return Judged(None, f"“{typed_unit}” cannot be compared with “{unit}”")
        value = converted
    is_right = _is_near(value, right[0], tolerance)
    share = f" within {tolerance * 100:g} %" if tolerance else ""
    return Judged(is_right, f"{'' if is_right else 'not '}{expected} {unit}".strip() + share)


def _is_near(value: float, right: float, tolerance: float) -> bool:
    allowed = tolerance * abs(right) if right else tolerance
    return abs(value - right) <= allowed + 1e-9 * max(1.0, abs(right))


def _read_number(text: str) -> tuple[float, str] | None:
    found = _NUMBER.fullmatch(unicodedata.normalize("NFC", text).translate(_SUPERSCRIPTS).replace("−", "-"))
    if found is None:
        return None
    digits = re.sub(r"\s", "", found["digits"]).replace(",", ".")
    power = int((found["power"] or "0").strip("()"))
    return float(f"{found['sign']}{digits}e{power}"), found["unit"].strip()


def _converted(value: float, typed: str, wanted: str) -> float | None:
    """In the wanted unit; None where the two are of different kinds, or one is unknown."""
    import pint

    units = _units()
    try:
        quantity = units.Quantity(value, units.parse_units(_unit_spelled(typed)))
        return float(quantity.to(units.parse_units(_unit_spelled(wanted))).magnitude)
    except (pint.errors.PintError, ArithmeticError, AssertionError, AttributeError, SyntaxError, TypeError, ValueError):
        return None


_UNIT = re.compile(r"[A-Za-zµμΩ°'′\"″%/*^().\d\s·-]{0,40}")


def _unit_spelled(unit: str) -> str:
    """As Pint reads it: "m s-1", "m·s⁻¹", "°", "′" too."""
    if not _UNIT.fullmatch(unit):
        raise ValueError("not a unit")
    spelled = unit.replace("°C", "degC").replace("°", "degree").replace("'", "arcminute").replace("′", "arcminute")
    spelled = spelled.replace('"', "arcsecond").replace("″", "arcsecond").replace("·", "*").replace("%", "percent")
    spelled = re.sub(r"([A-Za-zµμΩ])\^?(-?\d)", r"\1**\2", spelled)
    return re.sub(r"(?<=[A-Za-z\d])\s+(?=[A-Za-z])", "*", spelled.strip())


@cache
def _units():  # type: ignore[no-untyped-def]
    """Made at its first use: it reads all units there are."""
    import pint

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def are_same(pairs: Sequence[Comparison]) -> list[bool | None]:
    """Whether two expressions are equal for all values ("12x²" = "12·x^2"); None where one cannot be read, where it
    cannot be told in time, and where it depends on how "a/2b" is meant."""
    readable = {at: pair for at, pair in enumerate(pairs) if spelled(pair.one) and spelled(pair.other)}
    told: list[bool | None] = [None] * len(pairs)
    if not readable:
        return told
    asked = [
        [{name: spelled(text, tight=tight) for name, text in asdict(pair).items()} for tight in (False, True)]
        for pair in readable.values()
    ]
    command = [sys.executable, "-m", "folio_core.answers.same_expressions"]
    try:
        done = subprocess.run(
            command, input=json.dumps(asked).encode(), capture_output=True, timeout=_SECONDS, check=True,
            env={"PYTHONPATH": str(_PACKAGE_ROOT), "LANG": "C.UTF-8"},
        )  # fmt: skip
    except (subprocess.TimeoutExpired, subprocess.CalledProcessError):
        return told
    for at, same in zip(readable, json.loads(done.stdout), strict=True):
        told[at] = same
    return told


_TOKEN = re.compile(r"\s*(?:(?P<number>\d+(?:\.\d+)?)|(?P<name>[A-Za-zα-ωΑ-Ω]+)|(?P<sign>\*\*|[-+*/^()=,]))")


# "1/2 m v²": set off by a space, such a fraction is a factor, however "/" is read.
_FRACTION = re.compile(r"(?<![\w.)^])(\d+(?:\.\d+)?)\s*/\s*(\d+(?:\.\d+)?)(?=\s+[A-Za-zα-ωΑ-Ω(])")


def spelled(text: str, *, tight: bool = False) -> str:
    """An expression in the few signs that the parser is given; "" where it is none, or too long. ``tight``: "a/2b" is
    read as a/(2b), as many write it, and not from the left."""
    if not text.strip() or len(text) > _EXPRESSION_MOST:
        return ""
    raised = re.sub(r"[⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺]+", lambda found: f"^({found[0].translate(_SUPERSCRIPTS)})", text)
    plain = unicodedata.normalize("NFC", raised).translate(_SIGNS).replace("√", " sqrt ")
    plain = re.sub(r"(?<=\d),(?=\d)", ".", plain)
    plain = _FRACTION.sub(r"(\1/\2)*", plain)
    out, at = [], 0
    while plain[at:].strip():
        found = _TOKEN.match(plain, at)
        if found is None or found["sign"] in ("=", ","):
            return ""
        at = found.end()
        if found["number"]:
            out.append(found["number"])
        elif found["name"]:
            out += _names(found["name"])
        else:
            out.append("**" if found["sign"] == "^" else found["sign"])
    tokens = _with_brackets(out)
    read = " ".join(_divided_by_all(tokens) if tight else tokens)
    powers = re.findall(r"\*\* \(? ?[-+]? ?(\d+(?:\.\d+)?)", read)
    is_tower = re.search(r"\*\* \(?[-+ ]*[\d.]+ \*\*", read)
    return "" if is_tower or any(float(power) > _HIGHEST_POWER for power in powers) else read


def _with_brackets(tokens: list[str]) -> list[str]:
    """A function without brackets is of the product behind it, up to the next function: "sin 2x cos x"."""
    out: list[str] = []
    at = 0
    while at < len(tokens):
        out.append(tokens[at])
        at += 1
        if out[-1] not in _FUNCTIONS:
            continue
        if tokens[at : at + 1] == ["**"]:  # sin^2 x
            in_brackets = tokens[at + 1 : at + 2] == ["("] and ")" in tokens[at:]
            width = tokens.index(")", at) - at + 1 if in_brackets else 2
            out += tokens[at : at + width]
            at += width
        if tokens[at : at + 1] == ["("]:
            continue
        end = at
        while end < len(tokens) and tokens[end] not in ("+", "-", "/", ")", "(", *_FUNCTIONS):
            end += 1
        out += ["(", *tokens[at:end], ")"]
        at = end
    return out


def _divided_by_all(tokens: list[str]) -> list[str]:
    """All factors that stand together without a sign behind a "/" are in the denominator."""
    out: list[str] = []
    at = 0
    while at < len(tokens):
        out.append(tokens[at])
        at += 1
        if out[-1] != "/":
            continue
        end, depth = at, 0
        while end < len(tokens) and (depth > 0 or tokens[end] not in ("+", "-", "*", "/", ")")):
            depth += (tokens[end] == "(") - (tokens[end] == ")")
            end += 1
        out += ["(", *_divided_by_all(tokens[at:end]), ")"]
        at = end
    return out


def _names(word: str) -> list[str]:
    """Functions and pi stand as they are; other letters that stand together are multiplied: "xy" is x·y."""
    for known in sorted((*_FUNCTIONS, "pi"), key=len, reverse=True):
        if word.lower() == known:
            return [known]
        if word.lower().startswith(known) and len(word) > len(known):
            return [known, *_names(word[len(known) :])]
    return [f"v{ord(letter)}" for letter in word]
