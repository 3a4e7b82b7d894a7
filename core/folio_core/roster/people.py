"""The people of a roster, each checked; a bad row is named with its line and why, and the others go on."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from .columns import Column
from .table import Table

Role = Literal["student", "marker", "instructor"]
_ROLES: Mapping[str, Role] = {
    "": "student", "student": "student", "learner": "student", "participant": "student",
    "marker": "marker", "grader": "marker", "ta": "marker", "assistant": "marker",
    "teaching assistant": "marker", "aide": "marker",
    "instructor": "instructor", "teacher": "instructor", "lecturer": "instructor", "professor": "instructor",
}  # fmt: skip
# The address of RFC 5321 with its limits, as people write it: quoted local parts and address literals are left out.
_MAIL = re.compile(
    r"(?=.{3,254}$)(?=[^@]{1,64}@)[^@\s,;<>\"()\[\]\\]+@"
    r"(?:[^@\s.,;<>\"()\[\]\\]{1,63}\.)+[^@\s.,;<>\"()\[\]\\]{2,63}"
)
_MOST_FACTOR, _MOST_MINUTES = 4.0, 600
MOST_NAME, MOST_NUMBER, MOST_SECTION = 150, 32, 40


@dataclass(frozen=True, slots=True)
class Person:
    """One line. ``email`` in small letters; ``extra_factor`` 1.0 and ``extra_minutes`` 0: none. None: not said."""

    line: int
    given_name: str
    family_name: str
    number: str
    email: str
    section: str | None
    role: Role
    extra_factor: float | None
    extra_minutes: int | None


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that is not taken. ``reason``: what would be right."""

    line: int
    text: str
    reason: str


@dataclass(slots=True)
class Roster:
    people: list[Person] = field(default_factory=list)
    bad: list[BadRow] = field(default_factory=list)


class _Bad(ValueError):
    pass


def read_people(table: Table, columns: Mapping[Column, int]) -> Roster:
    """Every row as a person or with the reason why not. Mail addresses and numbers stand once a role."""
    roster = Roster()
    addresses: dict[tuple[str, str], int] = {}
    numbers: dict[str, tuple[str, int]] = {}
    for line, cells in table.rows:
        said = {column: cells[place] if place < len(cells) else "" for column, place in columns.items()}
        try:
            person = _person(line, said, Column.SECTION in columns, Column.EXTRA in columns)
            before = addresses.get((person.email, person.role))
            if before is not None:
                raise _Bad(f"{person.email} stands on line {before} already. Keep one of the two.")
            owner = numbers.get(person.number) if person.number else None
            if owner and owner[0] != person.email:
                raise _Bad(f"Number {person.number} is {owner[0]}'s on line {owner[1]}. Each person has their own.")
        except _Bad as error:
            roster.bad.append(BadRow(line, ", ".join(cell for cell in cells if cell)[:120], str(error)))
            continue
        addresses[person.email, person.role] = line
        numbers.setdefault(person.number, (person.email, line))
        roster.people.append(person)
    return roster


def _person(line: int, said: Mapping[Column, str], has_section: bool, has_extra: bool) -> Person:
    email = said.get(Column.EMAIL, "").lower()
    if not email:
        raise _Bad("The mail address is missing: it is what the person signs in with.")
    if not _MAIL.fullmatch(email):
        raise _Bad(f"“{email}” is no mail address. Write it like name@college.example.")
    given, family = _names(said)
    if not given and not family:
        raise _Bad("The name is missing.")
    number, section = said.get(Column.NUMBER, ""), said.get(Column.SECTION, "")
    for text, most, what in (
        (given, MOST_NAME, "given name"),
        (family, MOST_NAME, "family name"),
        (number, MOST_NUMBER, "number"),
        (section, MOST_SECTION, "section"),
    ):
        if len(text) > most:
            raise _Bad(f"The {what} has {len(text)} characters, and {most} are the most.")
    role = _ROLES.get(said.get(Column.ROLE, "").lower())
    if role is None:
        raise _Bad(f"“{said[Column.ROLE]}” is no role. Write student, marker or instructor.")
    factor, minutes = read_extra_time(said.get(Column.EXTRA, "")) if has_extra else (None, None)
    return Person(line, given, family, number, email, section if has_section else None, role, factor, minutes)


def _names(said: Mapping[Column, str]) -> tuple[str, str]:
    given, family = said.get(Column.GIVEN, ""), said.get(Column.FAMILY, "")
    whole = said.get(Column.NAME, "")
    if given or family or not whole:
        return given, family
    if "," in whole:
        family, given = (part.strip() for part in whole.split(",", 1))
        return given, family
    *first, last = whole.split()
    return " ".join(first), last


def read_extra_time(text: str) -> tuple[float, int]:
    """Factor and minutes: "×1.25", "25 %", "15 min", "×1.25 + 10 min"; nothing is none. Raises ValueError."""
    factor, minutes = 1.0, 0
    bare = text.strip().lower().replace(",", ".")
    for piece in filter(None, (one.strip() for one in re.split(r"\s*(?:\+|\band\b)\s*", bare))):
        if match := re.fullmatch(r"[×x*]?\s*([0-9]+(?:\.[0-9]+)?)\s*[×x]?", piece):
            factor = float(match[1])
        elif match := re.fullmatch(r"([0-9]+(?:\.[0-9]+)?)\s*%", piece):
            factor = 1 + float(match[1]) / 100
        elif match := re.fullmatch(r"([0-9]+)\s*(?:min(?:utes?)?\.?|m|')", piece):
            minutes = int(match[1])
        else:
            raise _Bad(f"“{text}” is no extra time. Write ×1.25, 25 %, 15 min, or ×1.25 + 10 min.")
    if not 1 <= factor <= _MOST_FACTOR:
        raise _Bad(
            f"Extra time of ×{factor:g} cannot be right. Write a factor from 1 to {_MOST_FACTOR:g}, or minutes: 15 min."
        )
    if minutes > _MOST_MINUTES:
        raise _Bad(f"{minutes} minutes of extra time cannot be right: {_MOST_MINUTES} are the most.")
    return round(factor, 4), minutes


def write_extra_time(factor: float, minutes: int) -> str:
    """As `read_extra_time` reads it; empty for none."""
    said = [f"×{factor:g}"] if factor != 1 else []
    return " + ".join([*said, f"{minutes} min"] if minutes else said)


def write_roster(people: Iterable[Person]) -> bytes:
    """CSV that `read_table` and `guess_columns` read back, UTF-8 with a mark, so that spreadsheets show all scripts.

    A cell that a spreadsheet would take for a formula is written with an apostrophe before it (OWASP, CSV injection).
    """
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["given name", "family name", "number", "email", "section", "role", "extra time"])
    for one in people:
        extra = write_extra_time(one.extra_factor or 1.0, one.extra_minutes or 0)
        cells = [one.given_name, one.family_name, one.number, one.email, one.section or "", one.role, extra]
        writer.writerow([f"'{cell}" if cell[:1] in "=+-@\t\r" and cell else cell for cell in cells])
    return out.getvalue().encode("utf-8-sig")
