"""A course's roster as a file: `read_table` → `guess_columns` → `read_people`; `write_roster` gives it back."""

from .columns import Column, guess_columns
from .people import BadRow, Person, Roster, read_extra_time, read_people, write_extra_time, write_roster
from .table import RosterError, Table, read_table

__all__ = [
    "BadRow", "Column", "Person", "Roster", "RosterError", "Table", "guess_columns", "read_extra_time", "read_people",
    "read_table", "write_extra_time", "write_roster",
]  # fmt: skip
