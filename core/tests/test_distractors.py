"""What the simulated student draws and numbers that names no question."""

from __future__ import annotations

import random
import unittest

from PIL import Image, ImageDraw

from folio_camera.distractors import distract
from folio_camera.handwriting import SHEET_DPI

_MM = SHEET_DPI / 25.4


class Hand:
    size, pitch = 4.0, 8.0

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.layer = Image.new("L", (round(210 * _MM), round(297 * _MM)), 0)
        self.written: list[tuple[str, float, float]] = []

    @property
    def drawing(self) -> ImageDraw.ImageDraw:
        return ImageDraw.Draw(self.layer)

    def write(self, text: str, x: float, y: float, size: float) -> float:
        self.written.append((text, x, y))
        return x + 0.7 * size * len(text)

    def work(self) -> str:
        return "x = 2"


class Distractors(unittest.TestCase):
    LEFT, TOP = 30.0, 100.0

    def test_what_is_drawn_and_written_stays_in_the_room_it_says_to_take(self) -> None:
        for seed in range(60):
            hand = Hand(seed)
            high = distract(hand, self.LEFT, self.TOP, 150.0)
            self.assertGreater(high, 8)
            self.assertLess(high, 150)
            drawn = hand.layer.getbbox()
            if drawn:
                self.assertGreater(drawn[1] / _MM, self.TOP - 4)
                self.assertLess(drawn[3] / _MM, self.TOP + high)
                self.assertLess(drawn[2] / _MM, 200)
            for text, x, y in hand.written:
                self.assertTrue(self.TOP - 8 < y < self.TOP + high and 10 < x < 200, (text, x, y))

    def test_all_kinds_come_and_only_those_for_which_there_is_room(self) -> None:
        def firsts(room: float) -> set[str]:
            made = set()
            for seed in range(80):
                hand = Hand(seed)
                distract(hand, self.LEFT, self.TOP, room)
                text = hand.written[0][0]
                kind = "steps" if text == "1. x = 2" else "example" if ":" in text else "corner" if text == "A" else ""
                table = [one for one, _, _ in hand.written if one in "xy"] and "table"
                made.add(kind or table or ("answer" if len(hand.written) == 1 else "graph"))
            return made

        self.assertEqual(firsts(90), {"steps", "example", "corner", "table", "answer", "graph"})
        self.assertEqual(firsts(45), {"steps", "example", "table", "answer"})
        self.assertEqual(firsts(20), {"answer"})
        self.assertEqual(distract(Hand(1), self.LEFT, self.TOP, 10), 0)

    def test_numbers_along_an_axis_count_up_from_its_foot(self) -> None:
        graphs = 0
        for seed in range(60):
            hand = Hand(seed)
            distract(hand, self.LEFT, self.TOP, 150.0)
            texts = [text for text, _, _ in hand.written]
            try:
                values = [float(text) for text in texts]
            except ValueError:
                continue
            if len(values) > 1:
                graphs += 1
                rows = [y for _, _, y in hand.written]
                upper = [value for value, y in zip(values, rows, strict=True) if y < max(rows)]
                self.assertEqual(upper, sorted(upper))
        self.assertGreater(graphs, 4)


if __name__ == "__main__":
    unittest.main()
