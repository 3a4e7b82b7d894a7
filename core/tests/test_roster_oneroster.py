"""OneRoster 1.2 CSV (1EdTech; headers from memory): read as other systems write it, and written so that it is read."""

from __future__ import annotations

import csv
import io
import unittest
import zipfile

from folio_core.roster import Person, RosterError, guess_columns, read_oneroster, read_people, write_oneroster

USERS = (
    "sourcedId,status,dateLastModified,enabledUser,username,givenName,familyName,identifier,email,preferredGivenName\n"
    "u1,active,,true,ilse,Ilse,Marrow,30417,ilse@kestrelpoint.example,\n"
    "u2,active,,true,tobin,Tobias,Ashgrove,30402,tobin@kestrelpoint.example,Tobin\n"
    "u3,active,,false,gone,Gone,Away,1,gone@kestrelpoint.example,\n"
    "u4,active,,true,corin,Corin,Vale,,corin@kestrelpoint.example,\n"
)
CLASSES = "sourcedId,status,title,courseSourcedId\nc1,,Morning,k1\nc2,,Celestial Navigation,k1\n"
COURSES = "sourcedId,title\nk1,Celestial Navigation\n"
ENROLMENTS = (
    "sourcedId,status,classSourcedId,schoolSourcedId,userSourcedId,role\n"
    "e1,active,c1,s,u1,student\ne2,active,c2,s,u2,student\ne3,tobedeleted,c1,s,u2,student\n"
    "e4,active,c1,s,u3,student\ne5,active,c1,s,u4,teacher\ne6,active,c1,s,nobody,student\n"
)


def packed(**files: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files.items():
            archive.writestr(f"export/{name}.csv", text)
    return out.getvalue()


FILES = {"users": USERS, "classes": CLASSES, "courses": COURSES, "enrollments": ENROLMENTS}


class Reading(unittest.TestCase):
    def test_active_enrolments_become_people_with_their_class_as_section(self) -> None:
        table = read_oneroster(packed(**FILES))
        roster = read_people(table, guess_columns(table))
        self.assertEqual(roster.bad, [])
        self.assertEqual(
            [(one.given_name, one.number, one.section, one.role) for one in roster.people],
            [("Ilse", "30417", "Morning", "student"), ("Tobin", "30402", "", "student"),
             ("Corin", "", "Morning", "instructor")],
        )  # fmt: skip

    def test_of_one_class_nothing_is_said_of_sections(self) -> None:
        table = read_oneroster(packed(**FILES | {"enrollments": ENROLMENTS.replace(",c2,", ",c1,")}))
        self.assertEqual({one.section for one in read_people(table, guess_columns(table)).people}, {None})

    def test_a_role_that_is_not_known_here_is_a_bad_row_and_the_others_go_on(self) -> None:
        table = read_oneroster(packed(**FILES | {"enrollments": ENROLMENTS.replace("u1,student", "u1,guardian")}))
        roster = read_people(table, guess_columns(table))
        self.assertEqual((len(roster.people), len(roster.bad)), (2, 1))
        self.assertIn("guardian", roster.bad[0].reason)

    def test_what_is_no_export_is_refused_in_words(self) -> None:
        huge = "sourcedId,status\n" + "x" * 11_000_000
        for data, words in (
            (b"PK\x03\x04 and then nothing", "cannot be opened"),
            (packed(users=USERS), "enrollments.csv is not in it"),
            (packed(**FILES | {"users": "name\nIlse\n"}), "sourcedId"),
            (packed(**FILES | {"enrollments": "sourcedId,userSourcedId\n"}), "Nobody is enrolled"),
            (packed(**FILES | {"users": huge}), "far larger"),
            (packed(**FILES | {"users": "sourcedId\n" + "x\n" * 100_001}), "one course at a time"),
            (packed(**FILES | {"users": 'sourcedId\n"u1'}), "cannot be read"),
        ):
            with self.subTest(words), self.assertRaisesRegex(RosterError, words):
                read_oneroster(data)


class Writing(unittest.TestCase):
    PEOPLE = (
        Person(0, "Ilse", "Marrow", "30417", "ilse@kestrelpoint.example", "A", "student", 1.0, 0),
        Person(0, "Zoë", "D’Arcy", "", "zoe@kestrelpoint.example", "", "student", 1.0, 0),
        Person(0, "Corin", "Vale", "", "corin@kestrelpoint.example", "", "instructor", 1.0, 0),
    )

    def test_what_is_written_is_read_back_and_the_same_each_time(self) -> None:
        data = write_oneroster("NAV 231", "Celestial Navigation", self.PEOPLE)
        table = read_oneroster(data)
        read = read_people(table, guess_columns(table)).people
        self.assertEqual(
            [(one.given_name, one.family_name, one.number, one.email, one.section, one.role) for one in read],
            [(one.given_name, one.family_name, one.number, one.email, one.section, one.role) for one in self.PEOPLE],
        )
        self.assertEqual(write_oneroster("NAV 231", "Celestial Navigation", self.PEOPLE), data)

    def test_each_file_is_in_the_manifest_and_each_reference_leads_to_a_row(self) -> None:
        with zipfile.ZipFile(io.BytesIO(write_oneroster("NAV 231", "Navigation", self.PEOPLE))) as archive:
            tables = {
                name.removesuffix(".csv"): list(csv.DictReader(io.StringIO(archive.read(name).decode())))
                for name in archive.namelist()
            }
        said = {row["propertyName"]: row["value"] for row in tables.pop("manifest")}
        self.assertEqual({f"file.{name}" for name in tables}, {name for name in said if name.startswith("file.")})
        self.assertEqual(said["oneroster.version"], "1.2")
        ids = {name: {row["sourcedId"] for row in rows} for name, rows in tables.items()}
        for row in tables["enrollments"]:
            self.assertIn(row["classSourcedId"], ids["classes"])
            self.assertIn(row["userSourcedId"], ids["users"])
        for row in tables["classes"]:
            self.assertIn(row["courseSourcedId"], ids["courses"])
