"""Every operation of the API, with values its description allows and others: no 500, no answer outside the schema.

Schemathesis (https://schemathesis.readthedocs.io) makes the requests from the OpenAPI document.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.core.failures import Failure, FailureGroup
from schemathesis.generation import GenerationMode

# What ends the fuzzer's own session, and streams that never end.
_LEFT_OUT = (("DELETE", "/api/session"), ("DELETE", "/api/account/sessions"), ("GET", "/api/folios/{folio_id}/news"))
schemathesis.checks.load_all_checks()
_CHECKS = [schemathesis.checks.CHECKS.get_one(name) for name in ("not_a_server_error", "response_schema_conformance")]


def fuzz(
    document: dict[str, Any], send: Callable[[Any], Any], examples: int, *, always_the_same: bool = False
) -> tuple[int, list[str]]:
    """``send`` carries out a case; None: it could not be said. Returns how many were sent, and what was wrong where."""
    schema = schemathesis.openapi.from_dict(document)
    wrong: Counter[str] = Counter()
    sent = 0
    for found in schema.get_all_operations():
        operation: Any = found.ok()  # type: ignore[union-attr]
        name = f"{operation.method.upper()} {operation.path}"
        if (operation.method.upper(), operation.path) in _LEFT_OUT:
            continue

        one = _carried_out(name, send, wrong)
        quiet = settings(
            max_examples=examples, derandomize=always_the_same, deadline=None, database=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )  # fmt: skip
        for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):
            try:
                strategy = operation.as_strategy(generation_mode=mode)
                quiet(given(strategy)(one))()
                sent += examples
            except Exception as error:
                if "Unsatisfiable" not in type(error).__name__ and "no negative" not in str(error).lower():
                    wrong[f"{name}: {type(error).__name__}: {error}"[:300]] += 1
    return sent, [f"{words} ({count} times)" for words, count in wrong.items()]


def _carried_out(name: str, send: Callable[[Any], Any], wrong: Counter[str]) -> Callable[[Any], None]:
    def one(case: Any) -> None:
        answer = send(case)
        if answer is None:
            return
        try:
            case.validate_response(answer, checks=_CHECKS)
        except (Failure, FailureGroup) as failure:
            wrong[f"{name} {answer.status_code}: {_words(failure)}"] += 1  # type: ignore[arg-type]

    return one


def _words(failure: Exception) -> str:
    inner = failure.exceptions[0] if isinstance(failure, FailureGroup) else failure
    return json.dumps(str(inner))[:300]
