"""How the bench counts what was said with so much confidence, and draws it."""

from __future__ import annotations

import unittest
from xml.etree import ElementTree

from folio_bench.reliability import bins, picture, wilson

SVG = "{http://www.w3.org/2000/svg}"


class Reliability(unittest.TestCase):
    def test_bins_hold_what_was_said_and_how_much_of_it_is_right(self) -> None:
        low, sure = bins([(0.62, True), (0.66, False), (1.0, True)])
        self.assertEqual((low.low, low.count, low.right, round(low.said, 2)), (0.6, 2, 0.5, 0.64))
        self.assertEqual((sure.low, sure.high, sure.count, sure.right), (0.99, 1.0, 1, 1.0))

    def test_the_interval_is_wilsons(self) -> None:
        """R. G. Newcombe, Statistics in Medicine 17 (1998), Table I, method 3; from memory."""
        for right, count, expected in ((81, 263, (0.2553, 0.3662)), (15, 148, (0.0624, 0.1605)), (0, 20, (0, 0.1611))):
            with self.subTest(right=right, count=count):
                for found, told in zip(wilson(right, count), expected, strict=True):
                    self.assertAlmostEqual(found, told, 4)

    def test_the_picture_has_a_point_for_each_bin_at_its_share(self) -> None:
        drawn = ElementTree.fromstring(picture(bins([(0.7, True), (0.7, False), (1.0, True), (1.0, True)])))
        half, whole = drawn.iter(SVG + "circle")
        self.assertLess(float(half.attrib["cx"]), float(whole.attrib["cx"]))
        self.assertGreater(float(half.attrib["cy"]), float(whole.attrib["cy"]))  # less is right: lower
        self.assertEqual([text.text for text in drawn.iter(SVG + "text") if text.get("fill")], ["2", "2"])


if __name__ == "__main__":
    unittest.main()
