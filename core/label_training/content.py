"""What is written on a line besides a label: sentences and formulas; no line begins as a label does."""

from __future__ import annotations

import random
from pathlib import Path

_WORDS = Path(__file__).with_name("words.txt").read_text().split()
_SYMBOLS = "abcdefghijklmnpqrstuvwxyzABCDEFGHKLMNPQRSTVWXYZ"
_UNITS = ("m", "km", "kg", "N", "s", "m/s", "km/h", "J", "V", "W", "Pa", "mol", "g", "cm", "mm", "h", "min", "Hz", "K",
          "A", "°", "%", "°C", "m²", "knots", "NM", "L", "ml", "kJ", "eV")  # fmt: skip
_FUNCTIONS = ("sin", "cos", "tan", "log", "ln", "exp", "f", "g", "p", "h", "arctan", "lim", "max")
_JOINED = ("+", "-", "-", "x", "/", "=", "=", "<", ">", "·", "=>", "->")


def content(chance: random.Random) -> str:
    """The rest of a line, or a whole one."""
    roll = chance.random()
    if roll < 0.46:
        return sentence(chance)
    if roll < 0.88:
        return formula(chance)
    letters = "abcdefghijklmnopqrstuvwxyz"
    words = "".join(chance.choice(letters) for _ in range(chance.randint(4, 9)))
    return (words.capitalize() if chance.random() < 0.5 else words) + " " + chance.choice(("", "=", "is", "= 12"))


def sentence(chance: random.Random) -> str:
    words = " ".join(chance.choice(_WORDS) for _ in range(chance.randint(2, 6)))
    words = words.capitalize() if chance.random() < 0.45 else words
    return words + " " + formula(chance) if chance.random() < 0.12 else words


def formula(chance: random.Random) -> str:
    number, other = _number(chance), _number(chance)
    symbol, second = chance.choice(_SYMBOLS), chance.choice(_SYMBOLS)
    unit, function, joined = chance.choice(_UNITS), chance.choice(_FUNCTIONS), chance.choice(_JOINED)
    form = chance.choice(
        ("{s} = {n}", "{s} = {n}{t} + {m}", "{s}² - {n}{s} + {m} = 0", "{n}{s} {j} {m}{t}", "{n} {j} {m} = {s}",
         "= {n} {u}", "= {n}", "= {n}{s} {j} {m}", "= {s}({t} + {n})", "{n}({s} - {m})", "({n}, {m})", "({s} + {n})²",
         "{n}% of {m} {u}", "{n} {u} {j} {m} {u}", "{f} {n}° = {m}", "{f}({s}) = {n}{s}", "{f}({n}) = {m}",
         "d{s}/d{t} = {n}{t}", "{s}/{t} = {n}/{m}", "{s} {j} {t}", "{s}{t} = {n}", "-{n} + {m} = {s}", "{n}!/{m}!",
         "{n}{s}² + {m}{t}", "{s}1 = {n}", "{s}2 + {t}2 = {n}", "{n}, {m}, {s}", "{n} = {m}{s}", "({s}, {t})",
         "{n}°{m}'", "{n} h {m} min", "{n}! = {m}", "|{s} - {n}| < {m}", "{s} < {n}", "{n}:{m} = {s}:{t}",
         "{s}^{n} = {t}", "{n} mod {m}", "({s} {j} {t}) = {n}", "{s} = ±{n}", "{n}i + {m}j", "[{n}, {m}]",
         "{s} = {t} = {n}", "{n} x {m} x {n}", "{s}({n}) = {m}", "{n}/{m} = {s}/{t}", "so {s} = {n}", "-> {n} {u}")
    )  # fmt: skip
    return form.format(n=number, m=other, s=symbol, t=second, u=unit, f=function, j=joined)


def _number(chance: random.Random) -> str:
    roll = chance.random()
    if roll < 0.35:
        return str(chance.randint(1, 12))
    if roll < 0.72:
        return str(chance.randint(10, 99))
    if roll < 0.86:
        return f"{chance.randint(0, 99)}.{chance.randint(1, 99)}"
    return str(chance.randint(100, 9999))
