"""The people of the sample data; all of them are invented."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Person:
    first: str
    last: str
    number: str = ""
    extra_factor: float = 1.0

    @property
    def email(self) -> str:
        return f"{self.first[0]}{self.last}@kestrelpoint.example".lower()


ILSE = Person("Ilse", "Marrow", "30417", extra_factor=1.25)
INSTRUCTOR = Person("Corin", "Vale")
MARKER = Person("Thea", "Quayle")
ADMINISTRATOR = Person("Brisa", "Tallow")
TOBIN = Person("Tobin", "Ashgrove", "30402")
WREN = Person("Wren", "Halloran", "30411")
PETRA = Person("Petra", "Lindholm", "30419")
JOSS = Person("Joss", "Penhale", "30423")
MIRELA = Person("Mirela", "Dunmore", "30408")
KAITO = Person("Kaito", "Brandreth", "30405")
SUNNIVA = Person("Sunniva", "Okeby", "30428")
DACRE = Person("Dacre", "Whitlow", "30433")
STUDENTS = (ILSE, TOBIN, WREN, PETRA, JOSS, MIRELA, KAITO, SUNNIVA, DACRE)
# Three more are on the roster of NAV 231, and as many as make sixty on that of OCN 118; they have sent nothing yet.
_FIRST = (
    "Aldis", "Bronwen", "Caspar", "Delphine", "Edda", "Fenwick", "Greta", "Hollis", "Ines", "Jorun", "Kerensa", "Leif",
    "Maren", "Nestor", "Odile", "Piran", "Quilla", "Runa", "Severin", "Tamsin", "Ulric", "Vesna", "Wystan", "Ylva",
    "Zora",
)  # fmt: skip
_LAST = ("Anscombe", "Bracken", "Coverdale", "Drummle", "Eastwell", "Farrier", "Gannet", "Haverstock", "Inskip")


def _more(count: int) -> tuple[Person, ...]:
    names = ((_FIRST[at % len(_FIRST)], _LAST[(at + at // len(_FIRST)) % len(_LAST)]) for at in range(count))
    return tuple(Person(first, last, str(30500 + 7 * at)) for at, (first, last) in enumerate(names))


ROSTERS = {"NAV 231": (*STUDENTS, *_more(3)), "OCN 118": (*STUDENTS, *_more(51))}
