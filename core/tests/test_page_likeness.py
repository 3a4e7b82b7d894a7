"""The same sheet taken twice is known again; other pages are not, and nearly empty ones never."""

from __future__ import annotations

import unittest
import zlib
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folio_core.page import Likeness, Recipe, alike, prepare, same_picture

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

    def test_of_one_file_only_the_very_same_page_is(self) -> None:
        """Two sheets of one printed form: nearly all of their ink is print, and what differs is a few answers."""
        form = np.full((1169, 827), 255, np.uint8)
        for row in range(60, 1120, 46):
            cv2.putText(form, f"{row} Find the great-circle distance ______", (50, row), 0, 0.8, 0, 2)
        pages = []
        for answer in ("= 3424.2 nm", "= 57 04.2'"):
            filled = form.copy()
            cv2.putText(filled, answer, (500, 560), cv2.FONT_HERSHEY_SCRIPT_SIMPLEX, 1.2, 0, 2)
            pages.append(filled)
        first, second = (self.upright(cv2.imencode(".png", page)[1]) for page in pages)
        again = self.upright(cv2.imencode(".jpg", pages[0], [cv2.IMWRITE_JPEG_QUALITY, 80])[1])
        self.assertTrue(alike(first, second))  # why pages of one file are held to more
        self.assertFalse(same_picture(first, second))
        self.assertTrue(same_picture(first, again))

    def upright(self, file: NDArray[np.uint8]) -> Likeness:
        return prepare(file.tobytes(), recipe=Recipe(turn=0)).likeness

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
