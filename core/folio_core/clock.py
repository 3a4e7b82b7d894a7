"""Windows, phases and arrival verdicts. Pure: the instant is always passed in, with its time zone.

All of it is the server's time; nothing here ever sees a device's clock. Moments are turned into UTC at the door: within
one zone Python adds and compares times of day, which is wrong across a change of the clocks (datetime's documentation).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta, tzinfo
from enum import StrEnum


class NaiveDatetime(ValueError):
    """A moment without a time zone reached the clock."""


class NoSuchWallTime(ValueError):
    """A time of day that the clocks skip on that day. The message names the zone and the first time after it."""


class SittingClosed(Exception):
    """Pages came, or a hand-in was asked for, outside the window. The message says when it was open."""


class Phase(StrEnum):
    NOT_OPEN = "not_open"  # before opening
    READY = "ready"  # open; a timed sitting not yet begun
    WRITING = "writing"  # untimed work before due, or the first phase of a sitting
    HANDOVER = "handover"  # the second phase of a sitting: photograph and send
    LATE = "late"  # after due, still taken, marked late
    ASKED_AGAIN = "asked_again"  # closed, but staff asked for pages again: these are taken
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
    pledge_minutes: int = 0
    zone: tzinfo = UTC

    def __post_init__(self) -> None:
        object.__setattr__(self, "opens", _utc(self.opens))
        object.__setattr__(self, "due", _utc(self.due))
        object.__setattr__(self, "late_until", None if self.late_until is None else _utc(self.late_until))
        if self.due <= self.opens:
            raise ValueError("The due moment must come after the opening.")
        if self.late_until is not None and self.late_until < self.due:
            raise ValueError("Late work cannot end before the due moment.")
        if self.timed and self.late_until is not None:
            raise ValueError("A timed sitting has its own end; late work is for untimed work only.")
        if (self.writing_minutes or 0) < 0 or min(self.handover_minutes, self.placing_minutes, self.pledge_minutes) < 0:
            raise ValueError("Minutes cannot be negative.")

    @property
    def timed(self) -> bool:
        return self.writing_minutes is not None


@dataclass(frozen=True, slots=True)
class ExtraTime:
    """A student's extra time: a factor (1.25, 1.5, 2) and/or minutes on writing.

    ``on_handover``: the factor lengthens the handover too. ``on_due``: the due moment moves by as much as the sitting
    grew; of untimed work, which has no length a factor could stretch, by the minutes.
    """

    factor: float = 1.0
    minutes: int = 0
    on_handover: bool = False
    on_due: bool = False

    def __post_init__(self) -> None:
        if not 1 <= self.factor < float("inf") or self.minutes < 0:
            raise ValueError("Extra time never takes time away.")


@dataclass(frozen=True, slots=True)
class Lengthening:
    """Minutes an instructor gave to a sitting that was running at that moment."""

    at: datetime
    minutes: int

    def __post_init__(self) -> None:
        object.__setattr__(self, "at", _utc(self.at))
        if self.minutes <= 0:
            raise ValueError("A sitting can only be lengthened.")


@dataclass(frozen=True, slots=True)
class Window:
    """Every instant of one student's work on one assignment. ``rules``: as they hold for this student.
    ``asked_until``: staff asked for pages again, which are taken until then; None where they did not, or where that is
    no later than the close."""

    rules: Rules
    begun: datetime | None
    latest_full_begin: datetime | None
    writing_ends: datetime | None
    handover_ends: datetime | None
    closes: datetime
    pledges_end: datetime
    placing_ends: datetime
    asked_until: datetime | None = None

    @property
    def arranging_ends(self) -> datetime:
        """Until then order and places may be changed and handed in."""
        return max(self.placing_ends, self.asked_until or self.closes)

    def taking_ends(self, now: datetime) -> datetime:
        """The next moment at which pages cease to be taken, or the last where that is over."""
        return self.closes if now < self.closes else self.asked_until or self.closes

    @property
    def all_ends(self) -> datetime:
        """From then on nothing of it changes any more."""
        return max(self.arranging_ends, self.pledges_end)


@dataclass(frozen=True, slots=True)
class Judgement:
    """``late_by`` is zero unless the verdict is LATE."""

    verdict: Verdict
    late_by: timedelta = timedelta(0)


def window(
    rules: Rules,
    begun: datetime | None,
    extra: ExtraTime = ExtraTime(),
    *,
    personal_due: datetime | None = None,
    lengthenings: Iterable[Lengthening] = (),
    asked_until: datetime | None = None,
) -> Window:
    """Work out every instant from the rules, the moment of beginning, and what was granted to the student.

    A timed sitting closes at the end of its handover, or at the due moment where that cuts it short; untimed work
    closes at ``late_until`` where late work is taken, else at the due moment. A personal due moment takes the place of
    the assignment's; the time for late work keeps its length. A lengthening moves every end that is still to come when
    it is given, also past the due moment; given after the close, or to untimed work, it moves nothing. What is asked
    for again moves none of them.
    """
    made = _granted(rules, begun, extra, personal_due, lengthenings)
    asked = None if asked_until is None else _utc(asked_until)
    return replace(made, asked_until=asked) if asked is not None and asked > made.closes else made


def _granted(
    rules: Rules, begun: datetime | None, extra: ExtraTime, personal_due: datetime | None, given: Iterable[Lengthening]
) -> Window:
    begun = None if begun is None else _utc(begun)
    writing, handover = lengths(rules, extra)
    rules = _personal(rules, extra, personal_due)
    if not rules.timed:
        return _window(rules, begun, None, None, None, rules.late_until or rules.due)
    latest = max(rules.opens, rules.due - writing - handover) if rules.due_cuts_sitting else rules.due
    if begun is None:
        return _window(rules, None, latest, None, None, rules.due)
    writing_ends, handover_ends = begun + writing, begun + writing + handover
    if rules.due_cuts_sitting:
        handover_ends = max(begun, min(handover_ends, rules.due))
        # Only the plain handover is kept free before a cut: extra handover must not shorten anybody's writing.
        kept = min(handover, timedelta(minutes=rules.handover_minutes))
        writing_ends = max(begun, min(writing_ends, handover_ends - kept))
    for one in sorted(given, key=lambda one: one.at):
        more = timedelta(minutes=one.minutes)
        if one.at < handover_ends:
            writing_ends += more if one.at < writing_ends else timedelta(0)
            handover_ends += more
    return _window(rules, begun, latest, writing_ends, handover_ends, handover_ends)


def lengths(rules: Rules, extra: ExtraTime) -> tuple[timedelta, timedelta]:
    """Writing and handover with extra time; of untimed work, writing is nothing."""
    writing = 0 if rules.writing_minutes is None else rules.writing_minutes * extra.factor + extra.minutes
    handover = rules.handover_minutes * (extra.factor if extra.on_handover else 1)
    return timedelta(minutes=writing), timedelta(minutes=handover)


def _personal(rules: Rules, extra: ExtraTime, personal_due: datetime | None) -> Rules:
    due = rules.due if personal_due is None else _utc(personal_due)
    if extra.on_due and rules.writing_minutes is None:
        due += timedelta(minutes=extra.minutes)
    elif extra.on_due:
        due += sum(lengths(rules, extra), timedelta(0)) - sum(lengths(rules, ExtraTime()), timedelta(0))
    if due == rules.due:
        return rules
    late = None if rules.late_until is None else rules.late_until + (due - rules.due)
    return replace(rules, due=due, late_until=late)


def _window(
    rules: Rules,
    begun: datetime | None,
    latest: datetime | None,
    writing_ends: datetime | None,
    handover_ends: datetime | None,
    closes: datetime,
) -> Window:
    pledges_end = closes + timedelta(minutes=rules.pledge_minutes)
    placing_ends = closes + timedelta(minutes=rules.placing_minutes)
    return Window(rules, begun, latest, writing_ends, handover_ends, closes, pledges_end, placing_ends)


def phase(win: Window, now: datetime) -> Phase:
    """The phase at an instant. A boundary belongs to the later phase."""
    now = _utc(now)
    if now < win.rules.opens:
        return Phase.NOT_OPEN
    if win.asked_until is not None and win.closes <= now < win.asked_until:
        return Phase.ASKED_AGAIN
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
        case Phase.WRITING | Phase.HANDOVER | Phase.ASKED_AGAIN:
            return Verdict.IN_TIME
        case Phase.LATE:
            return Verdict.LATE
        case _:
            return Verdict.REFUSED


def judge(win: Window, arrived: datetime, promised: datetime | None = None) -> Judgement:
    """The verdict on a page from its last byte, and from its pledge where that was made in time and kept.

    A pledge covers the limit that comes next after it (due, or the close): bytes that follow within
    ``pledge_minutes`` of that limit count as of the moment of the pledge.
    """
    arrived = _utc(arrived)
    told = verdict(win, arrived)
    if promised is not None and (promised := _utc(promised)) < arrived:
        kept = arrived < _limit_after(promised, win) + timedelta(minutes=win.rules.pledge_minutes)
        if kept and told is not verdict(win, promised) is not Verdict.REFUSED:
            return judge(win, promised)
    return Judgement(told, arrived - win.rules.due if told is Verdict.LATE else timedelta(0))


def judged_by_staff(win: Window, counts_at: datetime) -> Judgement:
    """The judgement on pages that staff took in as of a moment they answer for: never refused; after the due moment, or
    the end of a sitting, they are late by what is between."""
    told = judge(win, counts_at)
    if told.verdict is not Verdict.REFUSED:
        return told
    limit = win.closes if win.rules.timed else win.rules.due
    return Judgement(Verdict.LATE, _utc(counts_at) - limit) if _utc(counts_at) > limit else Judgement(Verdict.IN_TIME)


def _limit_after(promised: datetime, win: Window) -> datetime:
    told = phase(win, promised)
    if told is Phase.ASKED_AGAIN and win.asked_until is not None:
        return win.asked_until
    return win.rules.due if told is Phase.WRITING and not win.rules.timed else win.closes


def require_open(win: Window, now: datetime) -> Verdict:
    """The verdict for ``now``. Raises SittingClosed where it is refused."""
    match phase(win, now):
        case Phase.NOT_OPEN:
            raise SittingClosed(f"This opens {_said(win.rules.opens, win)}. Nothing can be sent before.")
        case Phase.READY:
            raise SittingClosed("This sitting has not begun. Press Begin on the brief first.")
        case Phase.PLACING | Phase.CLOSED:
            raise SittingClosed(
                f"This closed {_said(win.asked_until or win.closes, win)}. Pages and hand-ins end there."
            )
    return verdict(win, now)


def require_arrival(win: Window, arrived: datetime, promised: datetime | None) -> Judgement:
    """The judgement on a page whose last byte is here. Raises SittingClosed where it is refused."""
    told = judge(win, arrived, promised)
    if told.verdict is not Verdict.REFUSED:
        return told
    if promised is not None and _utc(arrived) >= win.closes:
        raise SittingClosed(
            f"This page was promised in time, but promised pages were taken only until {_said(win.pledges_end, win)}."
        )
    require_open(win, arrived)
    raise SittingClosed(f"This closed {_said(win.asked_until or win.closes, win)}. No more pages are taken.")


def require_placing(win: Window, now: datetime) -> None:
    """Raises SittingClosed once placing and ordering have ended too, or have not begun."""
    if phase(win, now) is not Phase.PLACING:
        require_open(win, now)


def wall_time(wall: datetime, zone: tzinfo, *, ends: bool) -> datetime:
    """The instant (UTC) of a time of day in a zone, on days when the clocks change too.

    A time that comes twice is the first for an opening and, with ``ends``, the second for an end: nobody loses the
    hour. Raises NoSuchWallTime for a time the clocks skip. ``wall`` carries no zone (PEP 495 on folds and gaps).
    """
    if wall.tzinfo is not None:
        raise ValueError(f"{wall} has a time zone already.")
    moment = wall.replace(tzinfo=zone, fold=1 if ends else 0).astimezone(UTC)
    back = moment.astimezone(zone).replace(tzinfo=None)
    if back != wall:
        after = wall.replace(tzinfo=zone, fold=0).astimezone(UTC).astimezone(zone)
        raise NoSuchWallTime(
            f"{wall:%Y-%m-%d %H:%M} does not exist in {zone}: the clocks go forward. Take {after:%H:%M} instead."
        )
    return moment


def _said(moment: datetime, win: Window) -> str:
    """A moment as the people of the course read it: Thu 26 Nov 15:00 AST."""
    return f"{moment.astimezone(win.rules.zone):%a %-d %b %H:%M %Z}"


def _utc(moment: datetime) -> datetime:
    if moment.tzinfo is None:
        raise NaiveDatetime(f"{moment} has no time zone.")
    return moment.astimezone(UTC)
