"""What the network that reads labels is trained to read."""

from __future__ import annotations

import random
import re
import unittest

from folio_core.reading.crops import ALPHABET
from label_training.sayings import Saying, saying

_CONTINUED = re.compile(r" \(?(cont\.?|cont'd|continued|ctd)\)?$")


def _signs(text: str) -> str:
    return "".join(sign for sign in text.lower() if sign.isalnum())


class Sayings(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        chance = random.Random(11)
        cls.made: list[Saying] = [saying(chance) for _ in range(6000)]

    def test_all_that_is_to_be_read_is_in_the_alphabet(self) -> None:
        self.assertLessEqual({sign for one in self.made for sign in one.target}, set(ALPHABET))

    def test_a_label_is_to_be_read_as_its_levels_joined_without_the_words_before_it(self) -> None:
        labels = [one for one in self.made if one.target and "/" not in one.target]
        self.assertGreater(len(labels), 2000)
        for one in labels:
            written = _signs(_CONTINUED.sub("", one.label))
            self.assertTrue(written.endswith(_signs(one.target)), one)
            self.assertEqual(one.target.endswith("~"), _CONTINUED.search(one.label) is not None, one)

    def test_a_page_number_is_to_be_read_with_a_stroke(self) -> None:
        numbers = [one for one in self.made if "/" in one.target]
        self.assertGreater(len(numbers), 100)
        for one in numbers:
            self.assertEqual(re.findall(r"\d+", one.label), re.findall(r"\d+", one.target), one)

    def test_of_what_is_crossed_out_nothing_is_to_be_read(self) -> None:
        crossed = [one for one in self.made if one.mark == "crossed"]
        self.assertGreater(len(crossed), 50)
        self.assertEqual({one.target for one in crossed}, {""})

    def test_homework_6_and_step_2_are_no_labels(self) -> None:
        numbered = [one for one in self.made if re.match(r"(homework|step|week|table) ?#?\d", one.rest, re.I)]
        self.assertGreater(len(numbered), 5)
        self.assertEqual({(one.label, one.target) for one in numbered}, {("", "")})


if __name__ == "__main__":
    unittest.main()
