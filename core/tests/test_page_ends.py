"""The room at the foot of pages: what runs on to another page stands below a full one."""

from __future__ import annotations

import itertools
import math
import unittest
from collections import Counter
from dataclasses import replace

import numpy as np

from folio_core.placing.nodes import Nodes
from folio_core.placing.page_ends import Following, by_room
from folio_core.placing.page_model import PageModel
from folio_core.placing.page_orders import INVERSION, Orders
from folio_core.question_map import parse_question_map
from folio_core.reading import PageReading

from marks import ProposalTest, page  # isort: skip


class RoomAtTheFoot(ProposalTest):
    def odds(self, *rooms: float | None, then: Following = Following.RUNS_ON) -> list[float]:
        return [float(one) for one in by_room([PageReading(room=room) for room in rooms])[then]]

    def test_a_full_page_runs_on_sooner_than_one_with_room(self) -> None:
        full, nearly, some, much = self.odds(2.0, 3.5, 4.5, 20.0)
        self.assertGreater(full, 0)
        self.assertTrue(0 > nearly > some > much)

    def test_the_last_page_is_seldom_full(self) -> None:
        full, *_, much = self.odds(2.0, 3.5, 4.5, 20.0, then=Following.ENDS)
        self.assertTrue(full < 0 < much)
        self.assertEqual(self.odds(2.0, 20.0, then=Following.BEGINS), [0.0, 0.0])

    def test_of_two_full_pages_the_one_that_would_be_the_last_runs_on(self) -> None:
        first, rest, last = page("1", "2", room=1.0), page(room=20.0), page("3", "4", room=1.0)
        for sent, order in (((rest, first, last), (1, 2, 0)), ((rest, last, first), (2, 1, 0))):
            self.assertEqual(self.proposal("1-4", *sent).order, order)

    def test_what_is_not_known_says_nothing(self) -> None:
        self.assertEqual(self.odds(None, 3.0), [0.0, 0.0])
        self.assertEqual(self.odds(None, 3.0, 3.0)[0], 0.0)

    def test_pages_that_are_all_half_empty_are_not_full(self) -> None:
        self.assertTrue(all(one < 0 for one in self.odds(15.0, 14.0)))

    def test_a_page_without_a_label_follows_the_one_that_is_full(self) -> None:
        for rooms, order, question in (((12.0, 1.0), (0, 2, 1), "4"), ((1.0, 12.0), (0, 1, 2), "2")):
            first, rest, last = page("1", "2", room=rooms[0]), page(room=20.0), page("3", "4", room=rooms[1])
            made = self.proposal("1-4", first, rest, last)
            self.assertEqual(made.order, order)
            self.assertEqual(self.placed(made)[question], [0, 1] if question == "2" else [2, 1])

    def test_in_a_known_order_a_label_outweighs_the_room(self) -> None:
        made = self.proposal("1, 2", page("1", room=20.0), page("2", begins=6, room=1.0), known=True)
        self.assertEqual(self.placed(made), {"1": [0, 1], "2": [1]})

    def test_of_pages_without_a_label_the_full_one_comes_first(self) -> None:
        made = self.proposal("1", page("1", room=1.0), page(room=20.0), page(room=1.0))
        self.assertEqual(made.order, (0, 2, 1))

    def test_a_scrap_of_paper_between_does_not_change_what_was_full(self) -> None:
        """A page of few lines runs on where the last page of work was full, and else is rather scrap too."""
        scrap, few, last = replace(page(room=28.0), loose=True), page(lines=4, room=26.0), page("3", room=1.0)
        for room, runs_on in ((1.0, True), (12.0, False)):
            made = self.proposal("1-3", page("1", "2", room=room), scrap, few, last, known=True)
            self.assertEqual(self.placed(made)["2"], [0, 2] if runs_on else [0])
            self.assertEqual(2 in made.loose, not runs_on)

    def test_orders_are_drawn_as_often_as_they_are_probable(self) -> None:
        """Against the sums of each order taken alone, with the Mallows distribution's cost of what came the other way
        round."""
        nodes = Nodes(parse_question_map("1, 2"))
        pages = [page("1", room=1.0), page("1~", room=9.0), page(room=20.0), page("2", begins=6, room=1.0)]
        models = [PageModel(one, nodes) for one in pages]
        weights = {}
        for order in itertools.permutations(range(4)):
            inversions = sum(first > then for first, then in itertools.combinations(order, 2))
            weights[order] = math.exp(Orders(models, nodes, order).weight - INVERSION * inversions)
        chance, ways = np.random.default_rng(5), Orders(models, nodes, None)
        drawn = Counter(tuple(ways.sample(chance)[0]) for _ in range(2000))
        for order, weight in weights.items():
            self.assertAlmostEqual(drawn[order] / 2000, weight / sum(weights.values()), delta=0.04, msg=str(order))


if __name__ == "__main__":
    unittest.main()
