"""What a device says of a file it sends, and the acknowledgement it gets: every door speaks this."""

from __future__ import annotations

import unicodedata
import uuid
from dataclasses import dataclass
from datetime import datetime
from urllib.parse import unquote

from ninja import Field, Schema

from .models import Original


def _plain_name(name: str) -> str:
    """Without control characters, which no file system shows and PostgreSQL does not take."""
    return "".join(one for one in name if unicodedata.category(one)[0] != "C").strip()[:255]


@dataclass(frozen=True, slots=True)
class Sent:
    """What the browser said of a file. ``instead_of``: a page that was taken again. ``batch`` and ``number``: files
    chosen together, and their order. ``sha256``: as promised. ``seconds``: how long ago it was chosen."""

    file_name: str
    instead_of: int | None = None
    batch: uuid.UUID | None = None
    number: int = 0
    sha256: str = ""
    seconds: float | None = None
    camera: int | None = None

    def __post_init__(self) -> None:
        object.__setattr__(self, "file_name", _plain_name(self.file_name))


class SentIn(Schema):
    """What a device says of a file: its name, the files chosen with it and its number among them, its SHA-256 where
    that is known, how many seconds ago it was chosen, and which page it was taken instead of."""

    name: str
    batch: uuid.UUID | None = None
    number: int = Field(0, ge=0, le=30_000)
    sha256: str = ""
    seconds: float | None = None
    instead_of: int | None = None

    def sent(self) -> Sent:
        return Sent(**{**self.model_dump(exclude={"name"}), "file_name": unquote(self.name)})


@dataclass(frozen=True, slots=True)
class Acknowledged:
    """A file that is safe. ``already``: it was there before."""

    original: Original
    page_id: int
    already: bool


class AcknowledgedOut(Schema):
    page_id: int
    original_id: int
    sha256: str
    size: int
    arrived: datetime
    promised: datetime | None
    already: bool

    @classmethod
    def of(cls, acknowledged: Acknowledged) -> AcknowledgedOut:
        original = acknowledged.original
        return cls(
            page_id=acknowledged.page_id, original_id=original.pk, sha256=original.sha256, size=original.size,
            arrived=original.arrived_at, promised=original.promised_at, already=acknowledged.already,
        )  # fmt: skip
