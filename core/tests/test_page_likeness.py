"""The same sheet taken twice is known again; other pages are not, and nearly empty ones never."""

from __future__ import annotations

import unittest
import zlib
from functools import cache

import numpy as np

from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folio_core.page import Likeness, alike, prepare

from camera_shots import SMALL, sheet, shot  # isort: skip


@cache
def likeness(scene: Scene, seed: int) -> Likeness:
    return prepare(shot(scene, seed).jpeg).likeness


class SeenBefore(unittest.TestCase):
    def test_a_second_picture_of_a_sheet_from_another_side_in_another_light_is_known(self) -> None:
        first = likeness(Scene(size=SMALL), 1)
        again = likeness(Scene(size=SMALL, desk="slate", tilt=0.3, rotation_deg=8, light=0.6, hand_shadow=True), 2)
        turned = likeness(Scene(size=SMALL, desk="dark", quarter_turns=1), 3)
        self.assertTrue(alike(first, again))
        self.assertTrue(alike(first, turned))

    def test_other_answers_in_the_same_hand_are_another_page(self) -> None:
        for start in (0, 2, 4):
            other = write_sheet(great_circles()[start : start + 3], Style(), 5)
            page = prepare(photograph(other, Scene(size=SMALL), 4).jpeg)
            self.assertFalse(alike(likeness(Scene(size=SMALL), 1), page.likeness))

    def test_the_start_of_a_page_is_not_the_page(self) -> None:
        """The same sheet, photographed before and after more was written on it, is known; a third of it is not."""
        shorter = write_sheet(great_circles()[:1], Style(), 5)
        page = prepare(photograph(shorter, Scene(size=SMALL), 4).jpeg)
        longer = prepare(photograph(write_sheet(great_circles()[:4], Style(), 5), Scene(size=SMALL), 4).jpeg)
        self.assertFalse(alike(page.likeness, longer.likeness))

    def test_nearly_empty_pages_are_never_called_the_same(self) -> None:
        empty = Likeness(zlib.compress(np.zeros(192 * 256, np.uint8).tobytes()))
        self.assertFalse(alike(empty, empty))
        self.assertTrue(sheet().ink.any())
