"""The demo's marking, half done: so that every screen of it shows something."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal

from assignments.models import Assignment
from editions.models import Edition
from folio_core.marking import Tool
from marking.giving_back import What, figures_of_work, give_back
from marking.giving_marks import Given, give_mark
from marking.inking import Drawn, draw
from marking.models import Round
from marking.work import MarkedFolio, work_of
from people.models import User

from . import scenario
from .sample_people import ILSE, INSTRUCTOR, JOSS, KAITO, MARKER, MIRELA, PETRA, TOBIN, WREN, Person

ROUND_LATE = "round at the end, not before"
UNITS = "units?"


@dataclass(frozen=True, slots=True)
class Marked:
    """``signs``: what is drawn on the answer, from left to right."""

    person: Person
    label: str
    points: str
    note: str = ""
    signs: tuple[Tool, ...] = (Tool.TICK,)
    by: Person = INSTRUCTOR


GREAT_CIRCLES = (
    *(Marked(one, "1a", points) for one, points in ((TOBIN, "4"), (MIRELA, "4"), (KAITO, "2.5"))),
    *(Marked(one, "1a", points, by=MARKER) for one, points in ((PETRA, "4"), (JOSS, "3.5"))),
    Marked(WREN, "1a", "3", "The formula first, then the numbers: $\\cos d = \\sin\\varphi_A\\sin\\varphi_B + \\dots$",
           (Tool.UNDERLINE, Tool.TICK)),
    Marked(TOBIN, "1b", "3"),
    Marked(WREN, "1b", "2", ROUND_LATE, (Tool.UNDERLINE,)),
    Marked(PETRA, "1b", "2.5", UNITS),
    Marked(JOSS, "1b", "3"),
    Marked(TOBIN, "2b", "6"),
    Marked(WREN, "2b", "4.5", UNITS, (Tool.PEN, Tool.CROSS)),
    Marked(TOBIN, "3", "7", "Name the triangle you use."),
)  # fmt: skip
TIDES = (
    Marked(ILSE, "1a", "4"),
    Marked(ILSE, "1b", "5.5", "The third hour takes three twelfths, the fourth too.", (Tool.TICK, Tool.UNDERLINE)),
    Marked(ILSE, "2a", "4.5", UNITS),
    Marked(ILSE, "2b", "4"),
    Marked(
        ILSE, "3", "4", "$T = 2L/\\sqrt{gh}$ holds for a closed basin. Say why it does here.", (Tool.PEN, Tool.CROSS)
    ),
)


def load_marking(assignments: dict[str, Assignment], now: datetime) -> None:
    """Some of *great circles* is marked; all of Ilse's *rule of twelfths* is, and given back."""
    mark(assignments[scenario.GREAT_CIRCLES.key], GREAT_CIRCLES, now)
    tides = assignments[scenario.TIDES.key]
    mark(tides, TIDES, now)
    return_all(tides, now)


def return_all(assignment: Assignment, now: datetime) -> None:
    work = work_of(assignment)
    give_back(
        work, What(figures=True), opens_at=now, asks_until=now + timedelta(days=6), now=now,
        by=User.objects.get(email=INSTRUCTOR.email), figures=figures_of_work(work, assignment.question_map.questions),
    )  # fmt: skip


def mark(assignment: Assignment, marks: tuple[Marked, ...], now: datetime) -> None:
    people = {user.email: user for user in User.objects.filter(email__in={one.by.email for one in marks})}
    folios = {one.folio.student.email: one for one in work_of(assignment)}
    for at, one in enumerate(marks):
        work, by = folios[one.person.email], people[one.by.email]
        question = next(asked.id for asked in work.question_map.questions if asked.label == one.label)
        when = now - timedelta(minutes=len(marks) - at)
        given = Given(Decimal(one.points), one.note)
        give_mark(work.edition, question, given, round_=Round.FIRST, seen=0, by=by, now=when)
        _draw(work, question, one, by, when)


def _draw(work: MarkedFolio, question: str, one: Marked, by: User, now: datetime) -> None:
    cuts = work.cuts(question)
    edition: Edition = work.edition
    if not cuts:
        return
    cut = cuts[0]
    foot = cut.bottom - 0.02
    for at, tool in enumerate(one.signs):
        x, y = 0.56 + 0.16 * at, foot - 0.03
        drawn = {
            Tool.TICK: Drawn(tool, [(x, y, 0.5)], 0.045),
            Tool.CROSS: Drawn(tool, [(x, y, 0.5)], 0.04),
            Tool.UNDERLINE: Drawn(tool, [(x - 0.22, y + 0.02, 0.5), (x, y + 0.02, 0.5)], 0.003),
            Tool.PEN: Drawn(tool, _wave(x - 0.2, y + 0.022), 0.0032),
        }[tool]
        draw(edition, cut.page, drawn, key=uuid.uuid4(), question=question, round_=Round.FIRST, by=by, now=now)


def _wave(x: float, y: float) -> list[tuple[float, float, float]]:
    """A wavy line, as one draws beneath what is doubtful."""
    return [(x + 0.006 * at, y + (0.003 if at % 4 < 2 else -0.001), 0.4 + 0.02 * (at % 5)) for at in range(30)]
