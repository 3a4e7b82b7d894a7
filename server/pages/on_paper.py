"""Where a page lies on the printed paper of its assignment: looked for once, though reading and binding both ask."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from assignments.telling_papers import Told, papers_of, told, told_before
from folio_core.page import Recipe

from .models import LaidPage, Page


def is_sheet(page: Page, recipe: Recipe) -> bool:
    """Whether an image made by this recipe is the sheet and nothing else."""
    return bool(page.findings.get("sheet_found")) or recipe.corners is not None


def told_on(pixels: NDArray[np.uint8], page: Page, image: str, recipe: Recipe) -> Told | None:
    """``pixels``: of the ``image`` of this page that was made by ``recipe``. None where it is no page of a paper that
    the assignment has or had. Raises `PageError` where the paper cannot be opened."""
    assignment, is_cut = page.folio.assignment, is_sheet(page, recipe)
    asked = {
        "image": image,
        "is_sheet": is_cut,
        "papers": [paper for paper, _ in papers_of(assignment)],
    }
    kept = LaidPage.objects.filter(page=page, **asked).first()
    if kept is None:
        best = told(pixels, assignment, is_sheet=is_cut)
        document = best.as_document() if best else None
        kept, _ = LaidPage.objects.update_or_create(page=page, defaults={**asked, "kept_told": document})
    return told_before(kept.kept_told, assignment) if kept.kept_told else None
