"""The order in which one student sees the choices of a question."""

from __future__ import annotations

import hashlib

from .answering import Answering, Choice


def choices_for(answering: Answering, question: str, seed: str) -> tuple[Choice, ...]:
    """As they were written down, or mixed: for one ``question`` (its id) and one ``seed`` (of a student) always the
    same, on every machine and version of Python."""
    if not answering.mixed:
        return answering.choices

    def turn(choice: Choice) -> bytes:
        return hashlib.sha256(f"{seed}\n{question}\n{choice.id}".encode()).digest()

    return tuple(sorted(answering.choices, key=turn))
