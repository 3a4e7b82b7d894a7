"""A course's roster as a file: `read_table` or `read_oneroster` → `guess_columns` → `read_people`, and back."""

from .columns import Column, guess_columns
from .oneroster import ZIP_HEAD, read_oneroster, write_oneroster
from .oneroster_results import LineItem, Result, write_results
from .people import BadRow, Person, Roster, read_extra_time, read_people, write_extra_time, write_roster
from .table import RosterError, Table, read_table

__all__ = [
    "ZIP_HEAD", "BadRow", "Column", "LineItem", "Person", "Result", "Roster", "RosterError", "Table", "guess_columns",
    "read_extra_time", "read_oneroster", "read_people", "read_table", "write_extra_time", "write_oneroster",
    "write_results", "write_roster",
]  # fmt: skip
