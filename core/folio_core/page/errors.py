"""What can be wrong with a file, as one typed error."""

from __future__ import annotations

from enum import StrEnum


class Trouble(StrEnum):
    EMPTY = "empty"  # no bytes
    WRONG_KIND = "wrong_kind"  # no picture or PDF that is read here
    KIND_NOT_TAKEN = "kind_not_taken"  # a kind that is read here, and not wanted for this
    TOO_LARGE = "too_large"  # more bytes than allowed
    TOO_MANY_PIXELS = "too_many_pixels"
    TOO_MANY_PAGES = "too_many_pages"
    TRUNCATED = "truncated"  # the file ends before its picture does, or is damaged
    ENCRYPTED = "encrypted"  # PDF with a password
    TOOK_TOO_LONG = "took_too_long"
    TOO_MUCH_MEMORY = "too_much_memory"
    DECODER_DIED = "decoder_died"
    MACHINE_BUSY = "machine_busy"  # the machine had no time or memory for it: says nothing of the file

    @property
    def may_pass(self) -> bool:
        """It may not lie with the file: try again first."""
        return self in (Trouble.DECODER_DIED, Trouble.MACHINE_BUSY)

    @property
    def may_pass_later(self) -> bool:
        """On another day, or another machine, the same bytes may be opened: when they are sent again, it is tried."""
        return self.may_pass or self in (Trouble.TOOK_TOO_LONG, Trouble.TOO_MUCH_MEMORY)

    @property
    def is_the_machines(self) -> bool:
        """It lies with the machine: never held against a file, however often it comes."""
        return self is Trouble.MACHINE_BUSY


class PageError(Exception):
    """One file or page that cannot be opened; the message is for the person who sent it."""

    def __init__(self, trouble: Trouble, message: str) -> None:
        super().__init__(trouble, message)
        self.trouble = trouble
        self.message = message

    def __str__(self) -> str:
        return self.message
