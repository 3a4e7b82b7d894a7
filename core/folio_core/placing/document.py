"""The stored and sent form of the arrangement: plain data, read strictly and written in one spelling."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..page.recipe import Recipe, Tone
from .arrangement import Arrangement, BadArrangement, Placement


def read_arrangement(document: Mapping[str, Any]) -> Arrangement:
    """Raises BadArrangement for a document that is none."""
    try:
        return Arrangement(
            order=tuple(document.get("order", ())),
            removed=frozenset(document.get("removed", ())),
            loose=frozenset(document.get("loose", ())),
            placements={
                question: tuple(Placement(spot["page"], spot.get("top")) for spot in row)
                for question, row in document.get("placements", {}).items()
                if row
            },
            left_blank=frozenset(document.get("left_blank", ())),
            recipes={int(page): read_recipe(kept) for page, kept in document.get("recipes", {}).items()},
            dismissed={int(page): frozenset(codes) for page, codes in document.get("dismissed", {}).items() if codes},
            sides=document.get("sides"),
            comment=_words(document.get("comment", "")),
            notes=_words_by_page(document.get("notes", {})),
            descriptions=_words_by_page(document.get("descriptions", {})),
            scales={int(page): scale for page, scale in document.get("scales", {}).items() if scale != 1},
        )
    except (KeyError, TypeError, AttributeError) as error:
        raise BadArrangement("This arrangement cannot be read. Reload the board.") from error


def _words_by_page(kept: Mapping[str, str]) -> dict[int, str]:
    return {int(page): _words(text) for page, text in kept.items() if text}


def _words(text: str) -> str:
    """Without the control characters that no keyboard writes; PostgreSQL takes none of them."""
    return "".join(one for one in text if one >= " " or one in "\n\t")


def read_recipe(kept: Mapping[str, Any]) -> Recipe:
    """Raises BadArrangement for corners that are no outline."""
    corners = kept.get("corners")
    if corners is not None and [len(corner) for corner in corners] != [2, 2, 2, 2]:
        raise BadArrangement("A sheet has four corners, each an x and a y. Nothing was changed.")
    try:
        return Recipe(
            corners=None if corners is None else tuple((float(x), float(y)) for x, y in corners),  # type: ignore[arg-type]
            turn=kept.get("turn"),
            tone=Tone(kept.get("tone", Tone.CLEAN)),
        )
    except ValueError as error:
        raise BadArrangement(f"{error} Nothing was changed.") from error


def write_arrangement(arrangement: Arrangement) -> dict[str, Any]:
    return {
        "order": list(arrangement.order),
        "removed": sorted(arrangement.removed),
        "loose": sorted(arrangement.loose),
        "placements": {
            question: [{"page": spot.page, "top": spot.top} for spot in row]
            for question, row in arrangement.placements.items()
        },
        "left_blank": sorted(arrangement.left_blank),
        "recipes": {str(page): write_recipe(recipe) for page, recipe in arrangement.recipes.items()},
        "dismissed": {str(page): sorted(codes) for page, codes in arrangement.dismissed.items()},
        "sides": arrangement.sides,
        "comment": arrangement.comment,
        "notes": {str(page): note for page, note in arrangement.notes.items()},
        "descriptions": {str(page): words for page, words in arrangement.descriptions.items()},
        "scales": {str(page): scale for page, scale in arrangement.scales.items()},
    }


def write_recipe(recipe: Recipe) -> dict[str, Any]:
    return {"corners": recipe.corners, "turn": recipe.turn, "tone": recipe.tone.value}
