"""Which column of a roster says what: by its heading, else by what stands in it."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from enum import StrEnum

from .table import Table


class Column(StrEnum):
    NAME = "name"  # the whole name in one cell, "Given Family" or "Family, Given"
    GIVEN = "given_name"
    FAMILY = "family_name"
    NUMBER = "number"
    EMAIL = "email"
    SECTION = "section"
    ROLE = "role"
    EXTRA = "extra_time"  # "×1.25", "25 %", "15 min", "1.5 + 10 min"


# Headings as registries and colleges write them (common practice), with those of OneRoster 1.2 users.csv: givenName,
# familyName, identifier, email, role (from memory).
_HEADINGS: Mapping[Column, tuple[str, ...]] = {
    Column.EMAIL: ("email", "emailaddress", "mail", "mailaddress", "email1", "emailid"),
    Column.GIVEN: ("givenname", "given", "first", "firstname", "forename", "forenames", "vorname", "prenom"),
    Column.FAMILY: ("familyname", "family", "last", "lastname", "surname", "nachname", "nom"),
    Column.NAME: ("name", "fullname", "student", "studentname", "displayname", "person"),
    Column.NUMBER: (
        "number", "no", "id", "studentnumber", "studentno", "studentid", "identifier", "matriculation",
        "matriculationnumber", "registration", "registrationnumber", "userid", "idnumber",
    ),
    Column.SECTION: ("section", "group", "class", "tutorial", "lab", "sections"),
    Column.ROLE: ("role", "roles", "type"),
    Column.EXTRA: ("extratime", "extra", "accommodation", "accommodations", "additionaltime", "timefactor", "factor"),
}  # fmt: skip
_MAIL = re.compile(r"[^@\s]+@[^@\s]+\.[^@\s]+")
_EXTRA = re.compile(r"\s*[×x]?\s*[12][.,]\d+|\d+\s*(?:%|min)", re.IGNORECASE)
_ROLE_WORDS = {"student", "learner", "marker", "grader", "instructor", "teacher", "assistant", "ta"}


def guess_columns(table: Table) -> dict[Column, int]:
    """Column → its place, from 0. A column that is not recognised is left out; nothing is guessed twice."""
    found: dict[Column, int] = {}
    for place, heading in enumerate(table.header):
        bare = re.sub(r"[^a-z0-9]", "", heading.lower())
        for column, words in _HEADINGS.items():
            if bare in words and column not in found:
                found[column] = place
                break
    wide = max((len(cells) for _, cells in table.rows), default=0)
    sample = [cells for _, cells in table.rows[:200]]
    for place in range(wide):
        if place in found.values():
            continue
        cells = [row[place] for row in sample if place < len(row) and row[place]]
        content = _by_content(cells)
        if content and content not in found:
            found[content] = place
    if not {Column.NAME, Column.GIVEN, Column.FAMILY} & found.keys() and not table.header:
        left = [place for place in range(wide) if place not in found.values()]
        worded = [
            place for place in left if any(re.search(r"[^\W\d]", row[place]) for row in sample if place < len(row))
        ]
        if len(worded) == 1:
            found[Column.NAME] = worded[0]
        elif len(worded) > 1:
            found[Column.GIVEN], found[Column.FAMILY] = worded[0], worded[1]
    return found


def _by_content(cells: list[str]) -> Column | None:
    if not cells:
        return None
    if _share(cells, lambda cell: bool(_MAIL.fullmatch(cell))) > 0.5:
        return Column.EMAIL
    if _share(cells, lambda cell: cell.lower() in _ROLE_WORDS) > 0.8:
        return Column.ROLE
    numbers = _share(cells, lambda cell: bool(re.fullmatch(r"[A-Za-z]{0,3}\d{3,}", cell)))
    if numbers > 0.8 and len(set(cells)) == len(cells):
        return Column.NUMBER
    if _share(cells, lambda cell: bool(_EXTRA.match(cell))) > 0.9:
        return Column.EXTRA
    return None


def _share(cells: list[str], holds: Callable[[str], bool]) -> float:
    return sum(bool(holds(cell)) for cell in cells) / len(cells)
