"""What the network that reads labels is shown in training: lines that begin with no label, and crops that show one."""

from __future__ import annotations

import random
import re
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from folio_camera.handwriting import file_of
from folio_core.reading.crops import CROP_HEIGHT, CROP_WIDTH
from label_training.content import content
from label_training.drawing import crop_of
from label_training.hands import MEASURED, SECOND, Use, fonts_for
from label_training.sayings import Saying

# A number, a part or both, set off from what follows as a label is.
_LABEL = re.compile(r"\(?\d{1,2}\)?[).:]?\s*\(?([a-h]|[ivx]+)?[).:](\s|$)|\(?([a-h]|[ivx]+)[).:]{1,2}(\s|$)")


def _drawn(said: Saying, seed: int) -> np.ndarray:
    return crop_of(said, [file_of("kalam")], None, random.Random(seed), np.random.default_rng(seed))


class Content(unittest.TestCase):
    def test_no_line_begins_as_a_label_does(self) -> None:
        chance = random.Random(2)
        lines = [content(chance) for _ in range(4000)]
        self.assertEqual([line for line in lines if _LABEL.match(line)], [])
        self.assertGreater(len(set(lines)), 3500)


class Hands(unittest.TestCase):
    def test_each_hand_is_for_one_use_only(self) -> None:
        names = {"kalam": Use.TRAINING, "rock-salt": Use.MEASURING, "kings": Use.SECOND_WRITER}
        with TemporaryDirectory() as folder:
            for name in names:
                file = Path(folder, "node_modules", "@fontsource", name, "files", f"{name}-latin-400-normal.woff")
                file.parent.mkdir(parents=True)
                file.touch()
            for name, use in names.items():
                self.assertEqual(list(fonts_for(Path(folder), use)), [name])
        self.assertFalse(MEASURED & SECOND)


class Crops(unittest.TestCase):
    def test_a_crop_has_the_size_that_is_read_and_shows_its_label_at_the_left(self) -> None:
        for seed in range(30):
            pixels = _drawn(Saying("2b)", "", "2b", 0), seed)
            self.assertEqual(pixels.shape, (CROP_HEIGHT, CROP_WIDTH))
            self.assertGreater((pixels[:, : CROP_WIDTH // 3] > 120).sum(), 25, seed)

    def test_what_follows_a_label_stands_to_its_right(self) -> None:
        alone = sum((_drawn(Saying("2b)", "", "2b", 0), seed)[:, 110:] > 120).sum() for seed in range(30))
        followed = sum(
            (_drawn(Saying("2b)", "the mass is kept", "2b", 1), seed)[:, 110:] > 120).sum() for seed in range(30)
        )
        self.assertGreater(followed, 2 * alone)

    def test_a_ring_stands_around_its_label(self) -> None:
        plain, ringed = (
            [_drawn(Saying("8", "", "8", 0, mark), seed) for seed in range(40)] for mark in ("", "circled")
        )
        self.assertGreater(sum((one > 120).sum() for one in ringed), 1.3 * sum((one > 120).sum() for one in plain))


if __name__ == "__main__":
    unittest.main()
