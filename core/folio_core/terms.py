"""The terms of one student's work: the time rules and what was granted, as one value that is kept with the folio.

They are fixed when the work is begun; what is changed later is an amendment, which makes new terms of the old ones.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from .clock import ExtraTime, Lengthening, Rules, Window, window

_MINUTES = ("writing_minutes", "handover_minutes", "placing_minutes", "pledge_minutes")


@dataclass(frozen=True, slots=True)
class Terms:
    """``personal_due`` takes the place of the rules' due moment. ``lengthenings``: minutes given while it ran.
    ``asked_until``: until when pages that staff asked for again are taken."""

    rules: Rules
    extra: ExtraTime = field(default_factory=ExtraTime)
    personal_due: datetime | None = None
    lengthenings: tuple[Lengthening, ...] = ()
    asked_until: datetime | None = None

    def window(self, begun: datetime | None) -> Window:
        """Every instant of the work that was, or would be, begun then."""
        return window(
            self.rules, begun, self.extra, personal_due=self.personal_due, lengthenings=self.lengthenings,
            asked_until=self.asked_until,
        )  # fmt: skip

    def lengthened(self, given: Lengthening) -> Terms:
        return replace(self, lengthenings=(*self.lengthenings, given))

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping: moments in RFC 3339, the zone by its IANA name."""
        rules, extra = self.rules, self.extra
        return {
            "opens": rules.opens.isoformat(),
            "due": rules.due.isoformat(),
            "late_until": _written(rules.late_until),
            **{name: getattr(rules, name) for name in _MINUTES},
            "due_cuts_sitting": rules.due_cuts_sitting,
            "zone": str(rules.zone),
            "extra_factor": extra.factor,
            "extra_minutes": extra.minutes,
            "extra_on_handover": extra.on_handover,
            "extra_on_due": extra.on_due,
            "personal_due": _written(self.personal_due),
            "lengthenings": [{"at": given.at.isoformat(), "minutes": given.minutes} for given in self.lengthenings],
            "asked_until": _written(self.asked_until),
        }

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> Terms:
        """What `as_document` wrote. Raises KeyError or ValueError for anything else."""
        rules = Rules(
            opens=datetime.fromisoformat(kept["opens"]),
            due=datetime.fromisoformat(kept["due"]),
            late_until=_read(kept["late_until"]),
            due_cuts_sitting=kept["due_cuts_sitting"],
            zone=ZoneInfo(kept["zone"]),
            **{name: kept[name] for name in _MINUTES},
        )
        extra = ExtraTime(kept["extra_factor"], kept["extra_minutes"], kept["extra_on_handover"], kept["extra_on_due"])
        given = (Lengthening(datetime.fromisoformat(one["at"]), one["minutes"]) for one in kept["lengthenings"])
        return cls(rules, extra, _read(kept["personal_due"]), tuple(given), _read(kept.get("asked_until")))


def takes_nothing_away(before: Window, after: Window) -> bool:
    """Whether no end comes earlier for the student, so that a change may hold for work that is begun already."""
    ends = ("closes", "pledges_end", "placing_ends")
    if any(getattr(after, name) < getattr(before, name) for name in ends):
        return False
    if (before.writing_ends is None) != (after.writing_ends is None):
        return False
    return before.writing_ends is None or after.writing_ends is None or after.writing_ends >= before.writing_ends


def _written(moment: datetime | None) -> str | None:
    return None if moment is None else moment.isoformat()


def _read(text: str | None) -> datetime | None:
    return None if text is None else datetime.fromisoformat(text)
