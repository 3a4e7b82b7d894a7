"""The second writer's folios and the second camera, for measuring: what is told to be true of them is."""

from __future__ import annotations

import unittest
from io import BytesIO

import numpy as np
from PIL import Image

from folio_camera import second_camera
from folio_camera.folios import Folio
from folio_camera.handwriting import file_of
from folio_camera.second_writer import HEIGHT_PX, WIDTH_PX, second_folio
from folio_core.question_map import parse_question_map

_HAND = file_of("kalam")


class SecondWriter(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.made: list[tuple[Folio, list[Image.Image]]] = [second_folio(_HAND, seed) for seed in range(40)]

    def test_every_question_of_the_map_is_answered_or_missing(self) -> None:
        for folio, _ in self.made:
            labels = {one.label for one in parse_question_map(folio.map).questions}
            self.assertEqual(set(folio.placements) | set(folio.missing), labels)
            self.assertFalse(set(folio.placements) & set(folio.missing))
        self.assertGreater(sum(len(folio.missing) for folio, _ in self.made), 3)

    def test_every_page_is_in_the_order_once_and_is_loose_or_answers_something(self) -> None:
        shuffled = covers = 0
        for folio, pages in self.made:
            self.assertEqual(sorted(folio.order), list(range(len(pages))))
            placed = {page for several in folio.placements.values() for page in several}
            self.assertEqual(placed, set(range(len(pages))) - set(folio.loose))
            shuffled += folio.order != tuple(range(len(pages)))
            covers += bool(folio.loose)
        self.assertGreater(shuffled, 3)
        self.assertGreater(covers, 0)

    def test_an_answer_begins_on_its_first_page_where_ink_is(self) -> None:
        for folio, pages in self.made:
            self.assertEqual(set(folio.tops), set(folio.placements))
            for label, (page, top) in folio.tops.items():
                self.assertEqual(page, folio.placements[label][0])
                grey = np.asarray(pages[page].convert("L"))
                row = round(top * HEIGHT_PX)
                self.assertGreater((grey[row : row + 60, 20 : WIDTH_PX // 2] < 110).sum(), 30, label)

    def test_the_same_hand_and_seed_write_the_same_folio(self) -> None:
        folio, pages = second_folio(_HAND, 7)
        self.assertEqual(folio, self.made[7][0])
        self.assertTrue(
            all(one.tobytes() == other.tobytes() for one, other in zip(pages, self.made[7][1], strict=True))
        )


class SecondCamera(unittest.TestCase):
    def test_a_photograph_shows_the_page_darker_and_on_a_desk(self) -> None:
        page = Image.new("RGB", (WIDTH_PX, HEIGHT_PX), (255, 255, 255))
        middles = {}
        for way in ("scan", "phone", "dim"):
            with Image.open(BytesIO(second_camera.taken(page, way, np.random.default_rng(4)))) as picture:
                grey = np.asarray(picture.convert("L")).astype(float)
            high, wide = grey.shape
            middles[way] = grey[high // 2 - 40 : high // 2 + 40, wide // 2 - 40 : wide // 2 + 40].mean()
            edge = grey[:30].mean()
            self.assertEqual(edge < 0.85 * middles[way], way != "scan", way)
        self.assertGreater(middles["scan"], middles["phone"])
        self.assertGreater(middles["phone"], middles["dim"])


if __name__ == "__main__":
    unittest.main()
