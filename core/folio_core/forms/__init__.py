"""Printed sheets that are filled in by hand: the blank form → which page a photograph shows, where every point of it
lies, and which answers are empty."""

from .answers import InkFound, Space, Spaces, Written, empty_answers, ink_in, is_empty, written_on
from .blank import BlankPage, Form, blank_page
from .registering import KNOWN, Registered, register
from .spaces import propose_spaces

__all__ = [
    "KNOWN", "BlankPage", "Form", "InkFound", "Registered", "Space", "Spaces", "Written", "blank_page", "empty_answers",
    "ink_in", "is_empty", "propose_spaces", "register", "written_on",
]  # fmt: skip
