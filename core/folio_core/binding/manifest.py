"""The manifest of an edition: what was handed in, as plain data in a fixed form."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

import rfc8785

_ONLY_WHERE_IT_APPLIES = {"counts", "asked", "taken_in", "answers"}


@dataclass(frozen=True, slots=True)
class PageRecord:
    """One page: where it came from, when its last byte arrived, what it answers, and whether it counts.

    ``promised``: when its fingerprint was sent ahead, where it was. ``note``: the student's word on it to the reader.
    """

    number: int
    file_name: str
    sha256: str
    index: int
    arrived: datetime
    labels: tuple[str, ...]
    verdict: str = "in_time"
    promised: datetime | None = None
    note: str = ""


@dataclass(frozen=True, slots=True)
class AnswerRecord:
    """An answer on the screen: to which question, how it was given ("chosen", "short", "written"), the hash of what was
    answered, and when it was saved last."""

    label: str
    kinds: tuple[str, ...]
    sha256: str
    saved: datetime


@dataclass(frozen=True, slots=True)
class NotDelivered:
    """A page that was promised and had not come when the edition was handed in."""

    file_name: str
    sha256: str
    promised: datetime


@dataclass(frozen=True, slots=True)
class Asked:
    """Staff had asked for this, so it was taken until ``until``. ``what``: "page" (with its number), "all", "place"."""

    what: str
    number: int | None
    reason: str
    by: str
    until: datetime


@dataclass(frozen=True, slots=True)
class TakenInBy:
    """Staff took the pages in for the student."""

    by: str
    reason: str
    counts: datetime


@dataclass(frozen=True, slots=True)
class Manifest:
    """One edition, frozen. ``by_itself``: handed in by the server at the close. ``record``: the head of the chain of
    the folio's events at the hand-in; no event before it can be changed or left out unseen. ``not_delivered``: what
    was promised until then and had not come. ``honour``: words the student confirmed by handing in. ``previous``: the
    hash of the manifest of the edition before, so that no edition can vanish unseen; empty for the first. ``counts``:
    the moment that counts, where that is another one than of the hand-in. ``asked``: what it answers; ``taken_in``;
    ``answers``: those on the screen."""

    course: str
    assignment: str
    student: str
    student_number: str
    edition: int
    handed_in: datetime
    verdict: str
    pages: tuple[PageRecord, ...]
    left_blank: tuple[str, ...]
    open: tuple[str, ...]
    comment: str = ""
    honour: str = ""
    late_seconds: int = 0
    by_itself: bool = False
    record: str = ""
    not_delivered: tuple[NotDelivered, ...] = ()
    section: str = ""
    previous: str = ""
    counts: datetime | None = None
    asked: tuple[Asked, ...] = ()
    taken_in: TakenInBy | None = None
    answers: tuple[AnswerRecord, ...] = ()

    @property
    def sha256(self) -> str:
        """Of its canonical form, in hexadecimal."""
        return hashlib.sha256(canonical_json(self.as_json())).hexdigest()

    @property
    def short_hash(self) -> str:
        """What stands at the foot of each bound page."""
        return self.sha256[:8]

    def as_json(self) -> dict[str, Any]:
        """What does not apply is left out where it came later than the first receipts: they go on hashing the same."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self), default=_plain))
        return {name: value for name, value in plain.items() if value or name not in _ONLY_WHERE_IT_APPLIES}


def _plain(value: object) -> str:
    if isinstance(value, datetime):
        return value.isoformat().replace("+00:00", "Z")  # RFC 3339
    raise TypeError(f"{value!r} has no place in a manifest.")


def canonical_json(document: Mapping[str, Any]) -> bytes:
    """One spelling for one document (RFC 8785, JSON Canonicalization Scheme). Raises ValueError for what has none, such
    as a whole number beyond 2**53."""
    try:
        written: bytes = rfc8785.dumps(dict(document))
    except (rfc8785.CanonicalizationError, RecursionError) as error:
        raise ValueError("This has no canonical form.") from error
    return written
