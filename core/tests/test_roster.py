"""Rosters as they come: encodings, separators, orders of columns, and rows that cannot be taken."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from folio_core.roster import (
    Column,
    Person,
    Roster,
    RosterError,
    guess_columns,
    read_extra_time,
    read_people,
    read_table,
    write_extra_time,
    write_roster,
)


def read(text: str | bytes) -> Roster:
    table = read_table(text if isinstance(text, bytes) else text.encode())
    return read_people(table, guess_columns(table))


class Tables(unittest.TestCase):
    def test_encodings_are_found_out(self) -> None:
        text = "name;mail\nZoë Müller;zoe@kestrelpoint.example\nŁucja Dąb;lucja@kestrelpoint.example"
        for encoding in ("utf-8", "utf-8-sig", "utf-16"):
            self.assertEqual(read_table(text.encode(encoding)).rows[1][1][0], "Łucja Dąb", encoding)
        latin = "name;mail\nZoë Müller;zoe@kestrelpoint.example"
        for encoding in ("latin-1", "cp1252"):
            self.assertEqual(read_table(latin.encode(encoding)).rows[0][1][0], "Zoë Müller", encoding)
        self.assertEqual(
            read_table("name,mail\nO’Hara,o@kestrelpoint.example".encode("cp1252")).rows[0][1][0], "O’Hara"
        )

    def test_separators_are_found_out(self) -> None:
        for separator in (",", ";", "\t"):
            table = read_table(
                separator.join(["given", "family", "mail"]).encode()
                + b"\n"
                + separator.join(["A", "B", "a@b.example"]).encode()
            )
            self.assertEqual((table.separator, table.rows), (separator, ((2, ("A", "B", "a@b.example")),)))

    def test_a_quoted_cell_may_run_over_lines_and_lines_are_counted_on(self) -> None:
        roster = read('name,mail\n"Marrow,\n Ilse",ilse@kestrelpoint.example\n\nTobin Ashgrove,nobody\n')
        self.assertEqual((roster.people[0].given_name, roster.people[0].family_name), ("Ilse", "Marrow"))
        self.assertEqual([row.line for row in roster.bad], [5])

    def test_accents_written_in_two_ways_are_one_name(self) -> None:
        self.assertEqual(read("name,mail\nZoe\u0308,zoe@kestrelpoint.example").people[0].family_name, "Zoë")

    def test_what_is_no_roster_is_refused(self) -> None:
        for data in (b"", b"\n\n", b"PK\x03\x04\x00\x00", b'"name\nx', b"\xff\xfea"):
            with self.assertRaises(RosterError):
                read_people(table := read_table(data), guess_columns(table)).people[0]


class Columns(unittest.TestCase):
    def test_any_order_with_headings_of_many_kinds(self) -> None:
        for header, expected in {
            "E-mail Address,Student ID,Surname,First name,Section": (
                "email",
                "number",
                "family_name",
                "given_name",
                "section",
            ),
            "sourcedId,givenName,familyName,identifier,email,role": (
                None,
                "given_name",
                "family_name",
                "number",
                "email",
                "role",
            ),
            "Name;No.;Mail;Extra time": ("name", "number", "email", "extra_time"),
        }.items():
            table = read_table(f"{header}\nx".encode())
            found = {place: column.value for column, place in guess_columns(table).items()}
            self.assertEqual([found.get(place) for place in range(len(expected))], list(expected), header)

    def test_without_headings_by_what_stands_in_them(self) -> None:
        table = read_table(
            b"30402,Tobin,Ashgrove,tobin@kestrelpoint.example\n30405,Kaito,Brandreth,kaito@kestrelpoint.example"
        )
        self.assertEqual(guess_columns(table), {Column.NUMBER: 0, Column.EMAIL: 3, Column.GIVEN: 1, Column.FAMILY: 2})
        alone = read_table(b"Ashgrove, Tobin\ttobin@kestrelpoint.example")
        self.assertEqual(guess_columns(alone), {Column.NAME: 0, Column.EMAIL: 1})


class People(unittest.TestCase):
    def test_a_bad_row_is_named_and_the_others_go_on(self) -> None:
        roster = read(
            "name,number,mail,role,extra time\n"
            "Ilse Marrow,30417,IMarrow@kestrelpoint.example,,×1.25\n"
            "Tobin Ashgrove,30402,tobin at kestrelpoint,,\n"
            ",30403,x@kestrelpoint.example,,\n"
            "Kaito Brandreth,30417,kaito@kestrelpoint.example,,\n"
            "Ilse Again,,imarrow@kestrelpoint.example,,\n"
            "Mirela Dunmore,30408,mirela@kestrelpoint.example,dean,\n"
            "Wren Halloran,30411,wren@kestrelpoint.example,TA,50\n"
            "Petra Lindholm,30419,petra@kestrelpoint.example,teacher,\n"
        )
        self.assertEqual([(one.email, one.role) for one in roster.people], [
            ("imarrow@kestrelpoint.example", "student"), ("petra@kestrelpoint.example", "instructor"),
        ])  # fmt: skip
        self.assertEqual(roster.people[0].extra_factor, 1.25)
        self.assertEqual([row.line for row in roster.bad], [3, 4, 5, 6, 7, 8])
        reasons = " ".join(row.reason for row in roster.bad)
        for word in ("no mail address", "name is missing", "on line 2", "no role", "×50"):
            self.assertIn(word, reasons)

    def test_what_is_not_a_column_is_not_said(self) -> None:
        person = read("name,mail\nIlse Marrow,ilse@kestrelpoint.example").people[0]
        self.assertEqual((person.section, person.extra_factor, person.extra_minutes), (None, None, None))

    def test_extra_time_in_many_words(self) -> None:
        for text, expected in {
            "": (1, 0), "1.5": (1.5, 0), "× 1,25": (1.25, 0), "25 %": (1.25, 0), "15 min": (1, 15),
            "×2 + 10 min": (2, 10),
        }.items():  # fmt: skip
            self.assertEqual(read_extra_time(text), expected, text)
        for text in ("50", "0.5", "yes", "-10 min", "900 min", "nan", "inf"):
            with self.assertRaises(ValueError, msg=text):
                read_extra_time(text)

    @given(st.integers(4, 16).map(lambda quarters: quarters / 4), st.integers(0, 600))
    def test_extra_time_is_read_as_it_is_written(self, factor: float, minutes: int) -> None:
        self.assertEqual(read_extra_time(write_extra_time(factor, minutes)), (factor, minutes))

    def test_two_thousand_names_of_many_scripts_come_back_as_they_were_written(self) -> None:
        names = [
            ("Søren", "Ångström"),
            ("Ngọc", "Nguyễn"),
            ("Ирина", "Волкова"),
            ("Δάφνη", "Παππά"),
            ("美咲", "高橋"),
            ("عمر", "خليل"),
        ]
        people = [
            Person(
                0,
                *names[number % 6],
                str(30000 + number),
                f"p{number}@kestrelpoint.example",
                f"S{number % 4}",
                "student",
                1.25 if number % 9 == 0 else 1.0,
                0,
            )
            for number in range(2000)
        ]
        again = read(write_roster(people))
        self.assertEqual(again.bad, [])
        said = [
            [(one.given_name, one.family_name, one.number, one.section) for one in row]
            for row in (again.people, people)
        ]
        self.assertEqual(said[0], said[1])
        self.assertEqual([one.extra_factor for one in again.people], [one.extra_factor for one in people])

    def test_no_cell_becomes_a_formula(self) -> None:
        person = Person(1, "=HYPERLINK(1)", "B", "", "a@b.example", None, "student", 1.0, 0)
        self.assertIn(b"'=HYPERLINK", write_roster([person]))


if __name__ == "__main__":
    unittest.main()
