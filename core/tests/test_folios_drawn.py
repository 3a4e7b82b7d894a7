"""Whole folios that the simulated camera draws for measuring: what is told to be true of them is."""

from __future__ import annotations

import unittest

from folio_camera.folios import make_folio
from folio_camera.handwriting import file_of


class Folios(unittest.TestCase):
    def test_answers_are_longer_until_they_fill_so_many_pages(self) -> None:
        as_they_come = make_folio("tidy", file_of("kalam"), 3)
        self.assertLess(len(as_they_come.sheets), 3)
        made = make_folio("tidy", file_of("kalam"), 3, pages=(3, 12))
        self.assertEqual(made.legible, frozenset(made.placements))
        self.assertTrue(3 <= len(made.sheets) <= 12)
        self.assertIn(len(make_folio("tidy", file_of("kalam"), 3, pages=(5, 9)).sheets), range(5, 10))

    def test_every_page_is_in_the_order_once_and_is_loose_or_answers_something(self) -> None:
        for condition in ("shuffled", "a cover", "missing parts"):
            made = make_folio(condition, file_of("caveat"), 5, pages=(3, 12))
            pages = set(range(len(made.sheets)))
            placed = {page for pages in made.placements.values() for page in pages}
            with self.subTest(condition):
                self.assertEqual(sorted(made.order), sorted(pages))
                self.assertEqual(placed, pages - set(made.loose))
                self.assertEqual(set(made.tops), set(made.placements))
                self.assertTrue(all(made.placements[label][0] == page for label, (page, _) in made.tops.items()))
                self.assertFalse(set(made.missing) & set(made.placements))


if __name__ == "__main__":
    unittest.main()
