"""Windows, phases and arrival verdicts. Pure: the instant is always passed in, in UTC."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, tzinfo
from enum import StrEnum


class NaiveDatetime(ValueError):
    """A moment without a time zone reached the clock."""


class SittingClosed(Exception):
    """Pages came, or a hand-in was asked for, outside the window. The message says when it was open."""


class Phase(StrEnum):
    NOT_OPEN = "not_open"  # before opening
    READY = "ready"  # open; a timed sitting not yet begun
    WRITING = "writing"  # untimed work before due, or the first phase of a sitting
    HANDOVER = "handover"  # the second phase of a sitting: photograph and send
    LATE = "late"  # after due, still taken, marked late
    PLACING = "placing"  # closed for pages, open for placing
    CLOSED = "closed"


class Verdict(StrEnum):
    IN_TIME = "in_time"
    LATE = "late"
    REFUSED = "refused"


@dataclass(frozen=True, slots=True)
class Rules:
    """The time rules of an assignment. ``writing_minutes`` None means untimed work. ``zone``: for words only."""

    opens: datetime
    due: datetime
    late_until: datetime | None = None
    writing_minutes: int | None = None
    handover_minutes: int = 15  # common practice
    due_cuts_sitting: bool = True
    placing_minutes: int = 0
    zone: tzinfo = UTC

    def __post_init__(self) -> None:
        for moment in (self.opens, self.due, self.late_until):
            if moment is not None and moment.tzinfo is None:
                raise NaiveDatetime(f"{moment} has no time zone.")
        if self.due <= self.opens:
            raise ValueError("The due moment must come after the opening.")
        if self.late_until is not None and self.late_until < self.due:
            raise ValueError("Late work cannot end before the due moment.")

    @property
    def timed(self) -> bool:
        return self.writing_minutes is not None


@dataclass(frozen=True, slots=True)
class ExtraTime:
    """A student's extra time on writing: a factor (1.25, 1.5, 2) and/or minutes."""

    factor: float = 1.0
    minutes: int = 0

    def __post_init__(self) -> None:
        if self.factor < 1 or self.minutes < 0:
            raise ValueError("Extra time never takes time away.")


@dataclass(frozen=True, slots=True)
class Window:
    """Every instant of one student's work on one assignment."""

    rules: Rules
    begun: datetime | None
    latest_full_begin: datetime | None
    writing_ends: datetime | None
    handover_ends: datetime | None
    closes: datetime
    placing_ends: datetime


def window(rules: Rules, begun: datetime | None, extra: ExtraTime = ExtraTime()) -> Window:
    """Work out every instant from the rules, the moment of beginning and the student's extra time.

    A timed sitting closes at the end of its handover, or at the due moment where that cuts it short;
    untimed work closes at ``late_until`` where late work is taken, else at the due moment.
    """
    if begun is not None and begun.tzinfo is None:
        raise NaiveDatetime(f"{begun} has no time zone.")
    placing = timedelta(minutes=rules.placing_minutes)
    if rules.writing_minutes is None:
        closes = rules.late_until or rules.due
        return Window(rules, begun, None, None, None, closes, closes + placing)
    writing = timedelta(minutes=rules.writing_minutes * extra.factor + extra.minutes)
    handover = timedelta(minutes=rules.handover_minutes)
    latest = max(rules.opens, rules.due - writing - handover) if rules.due_cuts_sitting else rules.due
    if begun is None:
        return Window(rules, None, latest, None, None, rules.due, rules.due + placing)
    writing_ends, handover_ends = begun + writing, begun + writing + handover
    if rules.due_cuts_sitting:
        handover_ends = max(begun, min(handover_ends, rules.due))
        writing_ends = max(begun, min(writing_ends, handover_ends - handover))
    return Window(rules, begun, latest, writing_ends, handover_ends, handover_ends, handover_ends + placing)


def phase(win: Window, now: datetime) -> Phase:
    """The phase at an instant. A boundary belongs to the later phase."""
    if now < win.rules.opens:
        return Phase.NOT_OPEN
    if now >= win.placing_ends:
        return Phase.CLOSED
    if now >= win.closes:
        return Phase.PLACING if win.begun or not win.rules.timed else Phase.CLOSED
    if win.writing_ends is None:
        if win.rules.timed:
            return Phase.READY
        return Phase.WRITING if now < win.rules.due else Phase.LATE
    return Phase.WRITING if now < win.writing_ends else Phase.HANDOVER


def verdict(win: Window, arrived: datetime) -> Verdict:
    """Whether a page or a hand-in of that instant counts."""
    match phase(win, arrived):
        case Phase.WRITING | Phase.HANDOVER:
            return Verdict.IN_TIME
        case Phase.LATE:
            return Verdict.LATE
        case _:
            return Verdict.REFUSED


def require_open(win: Window, now: datetime) -> Verdict:
    """The verdict for ``now``. Raises SittingClosed where it is refused."""
    match phase(win, now):
        case Phase.NOT_OPEN:
            raise SittingClosed(f"This opens {_said(win.rules.opens, win)}. Nothing can be sent before.")
        case Phase.READY:
            raise SittingClosed("This sitting has not begun. Press Begin on the brief first.")
        case Phase.PLACING | Phase.CLOSED:
            raise SittingClosed(f"This closed {_said(win.closes, win)}. Pages and hand-ins end there.")
    return verdict(win, now)


def _said(moment: datetime, win: Window) -> str:
    """A moment as the people of the course read it: Thu 26 Nov 15:00 AST."""
    return f"{moment.astimezone(win.rules.zone):%a %-d %b %H:%M %Z}"


def require_placing(win: Window, now: datetime) -> None:
    """Raises SittingClosed once placing and ordering have ended too, or have not begun."""
    if phase(win, now) is not Phase.PLACING:
        require_open(win, now)
