"""The child process of `automatic.are_same`: pairs of expressions, each in two readings, as JSON in; true, false or
null for each out."""

from __future__ import annotations

import json
import re
import resource
import signal
import sys

import sympy
from sympy.parsing.sympy_parser import (
    implicit_multiplication_application,
    parse_expr,
    standard_transformations,
)

_PROCESSOR_SECONDS, _MEMORY_BYTES, _SECONDS_EACH = 40, 1024**3, 8
_RULES = (*standard_transformations, implicit_multiplication_application)
_KNOWN = {
    "sin": sympy.sin, "cos": sympy.cos, "tan": sympy.tan, "asin": sympy.asin, "acos": sympy.acos, "atan": sympy.atan,
    "sinh": sympy.sinh, "cosh": sympy.cosh, "tanh": sympy.tanh, "sqrt": sympy.sqrt, "exp": sympy.exp, "log": sympy.log,
    "ln": sympy.log, "abs": sympy.Abs, "pi": sympy.pi, "v101": sympy.E, "v105": sympy.I,
}  # fmt: skip
_NOTHING = {"__builtins__": {}, "Integer": sympy.Integer, "Float": sympy.Float, "Rational": sympy.Rational}


class _TooLong(Exception):
    pass


def main() -> None:
    resource.setrlimit(resource.RLIMIT_CPU, (_PROCESSOR_SECONDS, _PROCESSOR_SECONDS + 5))
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY_BYTES, _MEMORY_BYTES))
    signal.signal(signal.SIGALRM, _stop)
    told = []
    for from_left, tight in json.load(sys.stdin):
        signal.alarm(_SECONDS_EACH)
        try:
            same = _are_same(from_left["one"], from_left["other"])
            is_clear = from_left == tight or _are_same(tight["one"], tight["other"]) is same
            told.append(same if is_clear else None)
        except Exception:  # whatever a parser or a simplifier does with it: a marker decides
            told.append(None)
        finally:
            signal.alarm(0)
    json.dump(told, sys.stdout)


def _stop(*_: object) -> None:
    raise _TooLong


def _read(text: str, **assumed: bool) -> sympy.Expr:
    letters = {name: sympy.Symbol(name, **assumed) for name in re.findall(r"v\d+", text)}
    return parse_expr(text, local_dict={**letters, **_KNOWN}, global_dict=dict(_NOTHING), transformations=_RULES)


def _are_same(one: str, other: str) -> bool | None:
    """For all real values. What is the same for positive ones only ("ln x²" and "2 ln x") is left to a marker."""
    same = _is_nothing(_read(one, real=True) - _read(other, real=True))
    if same is False and _is_nothing(_read(one, positive=True) - _read(other, positive=True)) is not False:
        return None
    return same


def _is_nothing(difference: sympy.Expr) -> bool | None:
    """By simplifying; where that does not end in 0, by values."""
    if sympy.simplify(difference) == 0:
        return True
    told = difference.equals(0)
    return None if told is None else bool(told)


if __name__ == "__main__":
    main()
