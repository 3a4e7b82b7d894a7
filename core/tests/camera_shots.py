"""Photographs for the tests, taken once a run."""

from __future__ import annotations

from functools import cache

from folio_camera.handwriting import BLUE_PEN, FAINT_PENCIL, Style, WrittenSheet, write_sheet
from folio_camera.photograph import Photograph, photograph
from folio_camera.scene import Scene
from folio_camera.solutions import rule_of_twelfths

SMALL = (1512, 2016)  # three megapixels: quick, and every rule but resolution holds as at twelve
TWELVE = (3024, 4032)


@cache
def sheet(faint: bool = False) -> WrittenSheet:
    return write_sheet(rule_of_twelfths()[:3], Style(pen=FAINT_PENCIL if faint else BLUE_PEN), 5)


@cache
def shot(scene: Scene, seed: int = 9, faint: bool = False) -> Photograph:
    return photograph(sheet(faint), scene, seed)
