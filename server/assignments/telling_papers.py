"""Which page of an assignment's printed paper a picture shows: of the paper as it is, or of one it replaced."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbing import storage

from .models import Assignment

SURE = 0.95  # from which a page is placed by itself; less sure it is left to its student


@dataclass(frozen=True, slots=True)
class Told:
    """``paper``: its name in the storage. ``form``, ``found``: as `folio_core.forms` has them. ``spaces``: of that
    paper, by question id. ``copy``: whose, by our own print; 0 where that does not say."""

    paper: str
    form: Any
    found: Any
    spaces: dict[str, list[list[float]]]
    copy: int
    is_marked: bool

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping; `told_before` reads it."""
        return {
            "paper": self.paper, "found": self.found.as_document(), "copy": self.copy, "is_marked": self.is_marked,
        }  # fmt: skip


def told(pixels: NDArray[np.uint8], assignment: Assignment, *, is_sheet: bool) -> Told | None:
    """``is_sheet``: the picture is the sheet and nothing else. A copy of a paper that was replaced since is told by
    that one, with its spaces; of two that fit alike the newer one holds. None where it is no page of them."""
    from folio_core.forms import register  # its libraries are large, and only the worker needs them
    from folio_core.forms.marks import marks_in

    marks = [mark for mark in marks_in(pixels) if mark.assignment == assignment.pk]
    best: Told | None = None
    for paper, spaces in papers_of(assignment):
        form = _form_of(paper)
        found = register(pixels, form, marks[0].page if marks else None, is_sheet=is_sheet)
        if found is not None and found.is_known and (best is None or found.confidence > best.found.confidence):
            best = Told(paper, form, found, spaces, marks[0].copy if marks else 0, bool(marks))
    return best


def told_before(kept: dict[str, Any], assignment: Assignment) -> Told:
    """``kept``: of one of its papers; with the spaces of that as they are now."""
    from folio_core.forms.registering import Registered

    paper = kept["paper"]
    found = Registered.from_document(kept["found"])
    return Told(paper, _form_of(paper), found, dict(papers_of(assignment))[paper], kept["copy"], kept["is_marked"])


def papers_of(assignment: Assignment) -> list[tuple[str, dict[str, list[list[float]]]]]:
    """The paper and its spaces, and those that were printed before it, by their names in the storage."""
    former = [(one["paper"], one["spaces"]) for one in assignment.former_papers]
    return [(str(assignment.question_paper.name), assignment.answer_spaces), *former]


@lru_cache(4)
def _form_of(stored_as: str) -> Any:
    """A paper's name in the storage never comes to mean another file."""
    from folio_core.forms.from_files import form_from

    return form_from(storage.get(stored_as))
