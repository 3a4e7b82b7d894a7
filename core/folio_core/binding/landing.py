"""Where the outline entries of a bound document land."""

from __future__ import annotations

from ..outline import Outline
from ..placing import Arrangement
from .bound import Landing


def landings_of(arrangement: Arrangement, outline: Outline) -> list[Landing]:
    """An entry a label, in the order of the map: placed ones land on their first spot, blank ones say so."""
    position = {page: number for number, page in enumerate(arrangement.pages)}
    landings = []
    for item in outline.items:
        text = f"{item.label} · {item.title}" if item.title else item.label
        spots = arrangement.pages_of(item.label)
        if spots:
            landings.append(Landing(text, position[spots[0].page], spots[0].top or 0.0))
        elif item.label in arrangement.left_blank:
            landings.append(Landing(f"{text} (left blank)", None))
    return landings
