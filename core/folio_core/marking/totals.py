"""What points add up to: exactly, in decimals, with "any n of", bonus, the lowest dropped, and late deductions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import timedelta
from decimal import ROUND_HALF_UP, Decimal

from ..question_map import QuestionMap

_HUNDREDTH = Decimal("0.01")


@dataclass(frozen=True, slots=True)
class LateRule:
    """What late work loses: ``percent`` of the points reached, for each ``every`` begun after ``grace``, at most
    ``most_percent``. 0 percent: nothing. How long work may be late at all is the clock's."""

    percent: Decimal = Decimal(0)
    every: timedelta = timedelta(days=1)
    grace: timedelta = timedelta(0)
    most_percent: Decimal = Decimal(100)

    def __post_init__(self) -> None:
        if not (0 <= self.percent <= 100 and 0 <= self.most_percent <= 100):
            raise ValueError("Late work loses between 0 and 100 percent.")
        if self.every <= timedelta(0) or self.grace < timedelta(0):
            raise ValueError("Late work loses something for each hour or day, after a grace of none or more.")

    def lost_percent(self, late_by: timedelta) -> Decimal:
        """Of the points reached. Half a day late is one day begun."""
        over = late_by - self.grace
        if over <= timedelta(0):
            return Decimal(0)
        begun = -(-over // self.every)
        return min(self.percent * begun, self.most_percent)


@dataclass(frozen=True, slots=True)
class Worth:
    """The points of one answer. ``points``: None while it is not marked. ``by_itself``: nobody gave them: it was left
    blank, or a chosen or short answer that says itself whether it is right."""

    points: Decimal | None
    by_itself: bool = False
    not_attempted: bool = False


@dataclass(frozen=True, slots=True)
class Total:
    """``reached``: before what lateness takes off; ``most``: without bonus. ``unmarked``: ids of the questions whose
    points are missing and could count. ``dropped``: of those that do not count: the lowest, or more than "any n of".
    """

    reached: Decimal
    most: Decimal
    lost: Decimal = Decimal(0)
    unmarked: tuple[str, ...] = ()
    dropped: frozenset[str] = field(default_factory=frozenset)

    @property
    def points(self) -> Decimal:
        return self.reached - self.lost


def worth_by_itself(most: float, is_right: bool | None, *, left_blank: bool) -> Worth:
    """What an answer is worth before anybody marks it. ``is_right``: None where a marker decides."""
    if left_blank:
        return Worth(Decimal(0), by_itself=True, not_attempted=True)
    if is_right is None:
        return Worth(None)
    return Worth(_decimal(most) if is_right else Decimal(0), by_itself=True)


def total_of(
    question_map: QuestionMap, worth: Mapping[str, Worth], *, drop_lowest: int = 0, late: LateRule = LateRule(),
    late_by: timedelta = timedelta(0),
) -> Total:  # fmt: skip
    """Of each "any n of" the n best count; a bonus (any 0 of) counts on top and never below nought. Of the questions
    outside groups the ``drop_lowest`` lowest, by their share of what they are worth, do not count, neither as reached
    nor as possible; negative points may come out of an answer, but no total below nought."""
    points = {one: given.points or Decimal(0) for one, given in worth.items()}
    dropped: set[str] = set()
    for group in question_map.groups:
        members = [one.id for one in question_map.members(group)]
        best = sorted(members, key=lambda one: (-points.get(one, Decimal(0)), members.index(one)))
        if group.choose:
            dropped |= set(best[group.choose :])
    bonus = {one.id for group in question_map.groups if not group.choose for one in question_map.members(group)}
    single = [one for one in question_map.questions if not one.group]
    shares = {one.id: points.get(one.id, Decimal(0)) / _decimal(one.points) for one in single if one.points > 0}
    order = [one.id for one in single]
    lowest = sorted(shares, key=lambda one: (shares[one], order.index(one)))[: max(0, drop_lowest)]
    if len(lowest) == len(shares):
        lowest = lowest[:-1]  # something always counts
    dropped |= set(lowest)
    counted = [
        max(points[one], Decimal(0)) if one in bonus else points[one]
        for one in points
        if one not in dropped and one in question_map
    ]
    reached = max(Decimal(0), sum(counted, Decimal(0)))
    most = _decimal(question_map.points) - sum((_decimal(question_map[one].points) for one in lowest), Decimal(0))
    lost = (reached * late.lost_percent(late_by) / 100).quantize(_HUNDREDTH, ROUND_HALF_UP)
    unmarked = tuple(one.id for one in question_map.questions if worth.get(one.id, Worth(None)).points is None)
    return Total(reached, most, lost, unmarked, frozenset(dropped))


def plain_number(number: Decimal | float) -> str:
    """Without zeros that say nothing: 2.50 is "2.5"."""
    return f"{Decimal(str(number)).normalize():f}"


def _decimal(number: float) -> Decimal:
    """As it is written: points have at most two places."""
    return Decimal(str(number))
