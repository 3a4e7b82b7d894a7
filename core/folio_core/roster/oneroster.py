"""Rosters as OneRoster 1.2 CSV (1EdTech): a ZIP of CSV files that name each other's rows by ``sourcedId``.

The files' names and headers are from memory of the standard's CSV binding.
"""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable, Mapping
from itertools import islice
from uuid import NAMESPACE_URL, uuid5

from .people import Person
from .table import MOST_ROWS, RosterError, Table

ZIP_HEAD = b"PK\x03\x04"
_HEADER = ("given name", "family name", "number", "mail", "role", "section")
_MOST_FILE_BYTES = 10_000_000  # unpacked, of one file
_MOST_FILES = 40
_MOST_LINES = 100_000
_ROLES_HERE: Mapping[str, str] = {
    "student": "student", "teacher": "instructor", "aide": "marker", "proctor": "marker",
}  # fmt: skip
_ROLES_THERE = {"student": "student", "instructor": "teacher", "marker": "aide"}
_EPOCH = (1980, 1, 1, 0, 0, 0)  # so that the same roster is the same bytes


def read_oneroster(data: bytes) -> Table:
    """The active enrolments of its classes, one row each; where there are several classes, each is a section.

    Raises RosterError for what is no such ZIP, with what to give instead.
    """
    files = _files(data)
    users = {row["sourcedId"]: row for row in _active(files, "users.csv")}
    courses = {row["sourcedId"]: row.get("title", "") for row in _active(files, "courses.csv", needed=False)}
    sections = {
        row["sourcedId"]: ""
        if row.get("title") == courses.get(row.get("courseSourcedId", ""))
        else row.get("title", "")
        for row in _active(files, "classes.csv", needed=False)
    }
    enrolments = _active(files, "enrollments.csv")
    several = len({row.get("classSourcedId", "") for row in enrolments}) > 1
    rows = []
    for line, enrolment in enumerate(enrolments, 2):
        user = users.get(enrolment.get("userSourcedId", ""))
        if user is None or user.get("enabledUser", "").lower() == "false":
            continue
        section = (sections.get(enrolment.get("classSourcedId", ""), ""),) if several else ()
        role = enrolment.get("role", "").lower()
        given = user.get("preferredGivenName") or user.get("givenName", "")
        family = user.get("preferredFamilyName") or user.get("familyName", "")
        said = (user.get("identifier", ""), user.get("email", ""), _ROLES_HERE.get(role, role))
        cells = (given, family, *said, *section)
        rows.append((line, tuple(" ".join(cell.split()) for cell in cells)))
    if not rows:
        raise RosterError("Nobody is enrolled in it: enrollments.csv names no active person of users.csv.")
    if len(rows) > MOST_ROWS:
        raise RosterError(f"It holds {len(rows)} enrolments, and at most {MOST_ROWS} are read at a time.")
    return Table(_HEADER if several else _HEADER[:-1], tuple(rows), "utf-8", ",")


def opened(data: bytes) -> Table | str:
    """`read_oneroster` for a limited child (`page.run_limited`): a table, or why there is none."""
    try:
        return read_oneroster(data)
    except RosterError as error:
        return str(error)


def _files(data: bytes) -> dict[str, str]:
    """By name, without folders, as text."""
    wanted = {"users.csv", "classes.csv", "courses.csv", "enrollments.csv"}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if len(archive.infolist()) > _MOST_FILES:
                raise RosterError("This ZIP holds too many files for OneRoster.")
            found = {}
            for entry in archive.infolist():
                name = entry.filename.rsplit("/", 1)[-1].lower()
                if name in wanted:
                    with archive.open(entry) as file:
                        text = file.read(_MOST_FILE_BYTES + 1)
                    if len(text) > _MOST_FILE_BYTES:
                        raise RosterError(f"{name} is far larger than a roster.")
                    found[name] = text.decode("utf-8-sig")
            return found
    except UnicodeDecodeError as error:
        raise RosterError("OneRoster's files are UTF-8, and one of these is not. Export them again.") from error
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise RosterError("This ZIP cannot be opened. Export it again, without a password.") from error


def _active(files: Mapping[str, str], name: str, *, needed: bool = True) -> list[dict[str, str]]:
    if name not in files:
        if needed:
            raise RosterError(f"This ZIP is no OneRoster export: {name} is not in it.")
        return []
    try:
        rows = list(islice(csv.DictReader(io.StringIO(files[name], newline=""), strict=True), _MOST_LINES + 1))
    except csv.Error as error:
        raise RosterError(f"{name} cannot be read: {error}.") from error
    if len(rows) > _MOST_LINES:
        raise RosterError(f"{name} has more than {_MOST_LINES} lines. Export one course at a time.")
    clean = [{key: (value or "") for key, value in row.items() if isinstance(key, str)} for row in rows]
    if clean and "sourcedId" not in clean[0]:
        raise RosterError(f"{name} has no column “sourcedId”, which OneRoster asks for.")
    return [row for row in clean if row.get("status", "").lower() != "tobedeleted"]


def write_oneroster(code: str, title: str, people: Iterable[Person]) -> bytes:
    """One course with a class for each section; `read_oneroster` reads it back. The same roster is the same bytes."""
    everybody = list(people)
    organisation, course = sourced_id("organisation"), sourced_id(f"course {code}")
    sections = sorted({person.section or "" for person in everybody})
    class_ids = {section: sourced_id(f"class {code} {section}") for section in sections}
    users = {person.email: person for person in reversed(everybody)}
    tables: Tables = {
        "orgs": ("sourcedId,name,type", [(organisation, "Inked Folio", "school")]),
        "courses": ("sourcedId,title,courseCode,orgSourcedId", [(course, title, code, organisation)]),
        "classes": (
            "sourcedId,title,courseSourcedId,classCode,classType,schoolSourcedId",
            [(class_ids[one], one or title, course, code, "scheduled", organisation) for one in sections],
        ),
        "users": (
            "sourcedId,enabledUser,username,givenName,familyName,identifier,email",
            [
                (sourced_id(email), "true", email, one.given_name, one.family_name, one.number, email)
                for email, one in sorted(users.items())
            ],
        ),
        "enrollments": (
            "sourcedId,classSourcedId,schoolSourcedId,userSourcedId,role",
            [
                (
                    sourced_id(f"{code} {one.email} {one.role}"), class_ids[one.section or ""], organisation,
                    sourced_id(one.email), _ROLES_THERE[one.role],
                )
                for one in everybody
            ],
        ),
    }  # fmt: skip
    return zipped(tables)


Tables = Mapping[str, tuple[str, list[tuple[str, ...]]]]
"""By file name without its ending: the header, and the rows."""


def zipped(tables: Tables) -> bytes:
    """The files and their manifest as one ZIP."""
    manifest: list[tuple[str, ...]] = [
        ("manifest.version", "1.0"),
        ("oneroster.version", "1.2"),
        ("source.systemName", "Inked Folio"),
    ]
    manifest += [(f"file.{name}", "bulk") for name in tables]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, (header, rows) in {"manifest": ("propertyName,value", manifest), **tables}.items():
            text = io.StringIO(newline="")
            csv.writer(text).writerows([header.split(","), *rows])
            archive.writestr(zipfile.ZipInfo(f"{name}.csv", _EPOCH), text.getvalue(), zipfile.ZIP_DEFLATED)
    return out.getvalue()


def sourced_id(of: str) -> str:
    """The same for the same thing, in whatever file it is named."""
    return str(uuid5(NAMESPACE_URL, f"inked-folio:{of}"))
