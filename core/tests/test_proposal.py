"""The order, the places and what is missing, from labels as a reader would give them."""

from __future__ import annotations

import itertools
import random
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from folio_core.placing.label_evidence import by_column, page_numbers
from folio_core.placing.page_evidence import PageEvidence
from folio_core.placing.page_looks import alike_pages
from folio_core.placing.proposal import MISSING_SAID, SAID, propose
from folio_core.placing.sent_orders import sent_orders
from folio_core.question_map import parse_question_map
from folio_core.reading import Candidate, Mark, PageReading
from folio_core.reading.page_reading import PageLook

from marks import ProposalTest, mark, page  # isort: skip


class SentOrders(unittest.TestCase):
    """Besides the order they were laid in: as they were photographed, and as their files count."""

    def orders(self, *sent: tuple[str, str]) -> dict[tuple[int, ...], float]:
        return sent_orders([replace(page(), taken=taken, file_name=name) for taken, name in sent])

    def test_times_and_names_that_agree_weigh_more_than_the_order_things_came_in(self) -> None:
        told = self.orders(("2026:11:03 14:02:40", "IMG_12.jpg"), ("2026:11:03 14:02:11", "IMG_9.jpg"))
        self.assertEqual(told, {(0, 1): 0.25, (1, 0): 0.75})

    def test_what_not_all_pages_have_or_two_share_says_nothing(self) -> None:
        for sent in (
            (("2026:11:03 14:02:40", "a.jpg"), ("", "b.jpg")),
            (("yesterday", "IMG_2.jpg"), ("", "scan_1.jpg")),
            (("", "day 3 page 2.jpg"), ("", "day 2 page 3.jpg")),
        ):
            with self.subTest(sent):
                self.assertEqual(self.orders(*sent), {(0, 1): 1.0})
        late, early = "2026:11:03 14:02:40", "2026:11:03 14:02:11"
        self.assertEqual(self.orders((late, "a"), (early, "b"), (late, "c")), {(0, 1, 2): 1.0})

    def test_the_pages_of_one_file_stay_in_its_order(self) -> None:
        told = self.orders(("", "part 2.pdf"), ("", "part 2.pdf"), ("", "part 1.pdf"))
        self.assertEqual(told, {(0, 1, 2): 0.5, (2, 0, 1): 0.5})

    def test_labels_that_are_plain_win_over_times(self) -> None:
        pages = [
            replace(page(label), taken=f"2026:11:03 14:02:{59 - at}", file_name=f"IMG_{9 - at}.jpg")
            for at, label in enumerate(("1", "2", "3"))
        ]
        self.assertEqual(propose(pages, parse_question_map("1, 2, 3")).order, (0, 1, 2))

    def test_times_count_more_than_the_order_of_sending(self) -> None:
        pages = [
            replace(one, taken=f"2026:11:03 14:02:{second}")
            for one, second in zip([page("1"), page(lines=24), page(lines=24)], (10, 30, 20), strict=True)
        ]
        made = propose(pages, parse_question_map("1, 2"))
        self.assertEqual(made.order, (0, 2, 1))
        self.assertGreater(made.order_confidence, 0.55)

    def test_where_labels_do_not_tell_the_times_do(self) -> None:
        running_on = [page(lines=24), page("1"), page(lines=24)]
        pages = [
            replace(one, taken=f"2026:11:03 14:02:{second}")
            for one, second in zip(running_on, (30, 10, 20), strict=True)
        ]
        self.assertEqual(propose(pages, parse_question_map("1, 2")).order, (1, 2, 0))


def looking(one: PageEvidence, *ink: float, ruling: str = "plain") -> PageEvidence:
    red, green, blue = ink
    return replace(one, reading=replace(one.reading, look=PageLook((red, green, blue), ruling)))


class PagesThatLookAlike(unittest.TestCase):
    """The colour of the ink and the ruling of the paper, where labels leave the order open."""

    black, blue, red = (1.0, 1.0, 0.98), (1.0, 0.8, 0.6), (0.3, 0.95, 1.0)

    def kinds(self, *looks: PageLook | None) -> tuple[tuple[int, ...], ...]:
        return alike_pages([PageReading(look=look) for look in looks])

    def test_pages_of_one_ink_and_one_paper_tell_nothing(self) -> None:
        nearly = tuple(one - 0.1 for one in self.black)
        self.assertEqual(self.kinds(PageLook(self.black, "ruled"), PageLook(nearly, ""), None), ())

    def test_two_inks_and_two_papers_are_told_apart_each_for_itself(self) -> None:
        told = self.kinds(
            PageLook(self.black, "ruled"), PageLook(self.blue, "ruled"), PageLook(self.black, "squared"), None
        )
        self.assertEqual(told, ((0b010, 0b101), (0b011, 0b100)))

    def test_inks_are_one_where_each_is_near_the_next(self) -> None:
        between = tuple((one + other) / 2 for one, other in zip(self.black, (1.0, 0.9, 0.72), strict=True))
        told = self.kinds(
            PageLook(self.black, ""), PageLook((1.0, 0.9, 0.72), ""), PageLook(self.red, ""), PageLook(between, "")
        )
        self.assertEqual(told, ((0b0100, 0b1011),))

    def test_pages_without_a_label_lie_beside_those_of_their_ink(self) -> None:
        begun_blue, begun_black = looking(page("1"), *self.blue), looking(page("2"), *self.black)
        on_black, on_blue = looking(page(), *self.black), looking(page(), *self.blue)
        for pages, order in (
            ((begun_blue, begun_black, on_blue, on_black), (0, 2, 1, 3)),
            ((on_blue, begun_black, on_black, begun_blue), (3, 0, 1, 2)),
        ):
            made = propose(pages, parse_question_map("1, 2"))
            self.assertEqual(made.order, order)

    def test_papers_tell_the_same_and_plain_labels_win(self) -> None:
        ruled = [looking(one, *self.black, ruling="ruled") for one in (page("1"), page())]
        squared = [looking(one, *self.black, ruling="squared") for one in (page("2"), page())]
        sent = (ruled[0], squared[0], ruled[1], squared[1])
        self.assertEqual(propose(sent, parse_question_map("1, 2")).order, (0, 2, 1, 3))
        mixed = [looking(page(str(at + 1)), *(self.blue if at % 2 else self.black)) for at in range(5)]
        self.assertEqual(propose(mixed, parse_question_map("1, 2, 3, 4, 5")).order, (0, 1, 2, 3, 4))


class Proposals(ProposalTest):
    def test_labels_are_placed_where_they_stand_and_nothing_is_missing(self) -> None:
        made = self.proposal("1a-b, 2, 3", page("1a", "1b"), page("2", "3"))
        self.assertEqual(made.order, (0, 1))
        self.assertEqual(self.placed(made), {"1a": [0], "1b": [0], "2": [1], "3": [1]})
        self.assertEqual(made.missing, {})
        self.assertTrue(all(one.confidence > 0.9 for one in made.places))

    def test_what_stands_above_the_first_label_runs_on_from_the_page_before(self) -> None:
        made = self.proposal("1, 2, 3", page("1"), page("2", "3", begins=6))
        self.assertEqual(self.placed(made), {"1": [0, 1], "2": [1], "3": [1]})
        tops = {(one.question, one.page): one.top for one in made.places}
        self.assertIsNone(tops["1", 1])
        self.assertIsNotNone(tops["2", 1])

    def test_a_name_at_the_head_of_a_page_is_no_answer_that_runs_on(self) -> None:
        named = page("2", "3", begins=6).reading.marks
        for top in (0.02, 0.07):
            head = Mark(0.5, top, 0.2, 0.02, 0.999, (), -8.0, 3.0, 0)
            second = PageEvidence(PageReading((head, *named[1:]), 24, "by hand"))
            made = self.proposal("1, 2, 3", page("1"), second)
            self.assertEqual(self.placed(made), {"1": [0], "2": [1], "3": [1]})

    def test_a_single_line_near_the_head_runs_on_where_it_reads_like_work(self) -> None:
        named = page("2", "3", begins=6).reading.marks
        first = Mark(0.12, 0.07, 0.3, 0.02, 0.999, (), 0.0, 3.0, 0)
        for opening, pages in (
            ("so that x = 34", [0, 1]), ("by the rule", [0, 1]), ("T = 2 L / 6", [0, 1]), ("= 1560 s", [0, 1]),
            ("Ilse Marrow 30417", [0]), ("NAV 231 Problem set 4", [0]), ("", [0]),
        ):  # fmt: skip
            second = PageEvidence(PageReading((first, *named[1:]), 24, "by hand", opening=opening))
            made = self.proposal("1, 2, 3", page("1"), second)
            self.assertEqual(self.placed(made), {"1": pages, "2": [1], "3": [1]}, opening)

    def test_a_page_without_a_label_continues_the_one_before(self) -> None:
        made = self.proposal("1, 2", page("1"), page(), page("2"), known=True)
        self.assertEqual(self.placed(made), {"1": [0, 1], "2": [2]})

    def test_part_letters_belong_to_the_question_above_them_over_the_edge_of_a_page_too(self) -> None:
        made = self.proposal("1a-c, 2a-c", page("1a", "b"), page("c", "2a", "b"), page("c"))
        self.assertEqual(self.placed(made), {"1a": [0], "1b": [0], "1c": [1], "2a": [1], "2b": [1], "2c": [2]})

    def test_shuffled_pages_are_put_in_the_order_of_their_labels(self) -> None:
        pages = [page("1a", "1b"), page("2a", "2b"), page("3a", "3b"), page("4")]
        for sent in itertools.permutations(range(4)):
            made = self.proposal("1a-b, 2a-b, 3a-b, 4", *(pages[at] for at in sent))
            self.assertEqual([sent[at] for at in made.order], [0, 1, 2, 3])
            self.assertGreater(made.order_confidence, 0.5)

    def test_a_label_read_two_ways_is_settled_by_those_around_it(self) -> None:
        made = self.proposal("1, 2, 3, 4, 5, 6, 7, 8", page("1", "2", "8|3", "4"), page("5", "6", "7", "8"))
        self.assertEqual(self.placed(made)["3"], [0])
        self.assertEqual(self.placed(made)["8"], [1])

    def test_what_is_not_there_is_said_to_be_missing_and_nothing_else_is(self) -> None:
        made = self.proposal("1a-d, 2", page("1a", "1b"), page("1d", "2"))
        self.assertEqual(set(made.missing), {"1c"})
        self.assertGreater(made.missing["1c"], 0.9)

    def test_where_most_questions_seem_to_be_passed_over_their_labels_were_not_read(self) -> None:
        def missing(*labels: str) -> set[str]:
            made = self.proposal("1-9", page(*labels[:2]), page(*labels[2:]), known=True)
            return {question for question, share in made.missing.items() if share >= MISSING_SAID}

        self.assertEqual(missing("1", "2", "8", "9"), set())
        self.assertEqual(missing("1", "2", "3", "4", "7", "8", "9"), {"5", "6"})
        self.assertEqual(missing("1", "2", "3"), {"4", "5", "6", "7", "8", "9"})  # those were not begun yet

    def test_numbers_in_the_working_are_no_labels(self) -> None:
        working = [mark("2", 3, hang=-2.0, sure=0.6), mark("3", 5, hang=-2.5, sure=0.6)]
        first = PageEvidence(PageReading((mark("1", 0), *working), 20, "by hand"))
        made = self.proposal("1, 2, 3", first, page("2", "3"))
        self.assertEqual(self.placed(made), {"1": [0], "2": [1], "3": [1]})

    def test_a_label_outside_the_map_is_told_and_places_nothing(self) -> None:
        made = self.proposal("1, 2", page("1", "9", "2"))
        self.assertEqual(self.placed(made), {"1": [0], "2": [0]})
        self.assertEqual([(one[0], one[2]) for one in made.outside], [(0, "9")])

    def test_a_cover_is_loose_and_stays_in_front(self) -> None:
        made = self.proposal("1, 2", page(lines=3), page("1", "2"))
        self.assertEqual(self.placed(made), {"1": [1], "2": [1]})
        self.assertEqual(made.order, (0, 1))
        self.assertGreater(made.loose[0], 0.5)

    def test_a_cover_that_says_so_comes_first_though_the_last_page_is_full(self) -> None:
        cover = PageReading((mark("6", 2),), 3, "by hand", opening="Ilse Marrow\nHomework6", room=14.6)
        full = page("1", "2", "3", room=3.0)
        made = self.proposal("1-9", PageEvidence(cover), full)
        self.assertEqual(made.order, (0, 1))
        self.assertEqual(self.placed(made), {"1": [1], "2": [1], "3": [1]})
        self.assertGreater(made.loose[0], 0.8)
        likely = self.proposal("1-9", PageEvidence(replace(cover, marks=(), opening="so that it is")), full)
        self.assertEqual(likely.order, (1, 0))  # a few lines that run on
        sent_last = self.proposal("1-9", full, page("4", "5"), PageEvidence(replace(cover, room=20.0)))
        self.assertEqual(sent_last.order, (2, 0, 1))

    def test_digits_on_a_cover_make_no_work_of_it(self) -> None:
        """ "Problem set 1", the date, a number: read as labels with some doubt, none of them in the margin."""
        digits = tuple(mark("1|7", line, sure=sure, hang=0.2) for line, sure in ((0, 0.2), (1, 0.5), (3, 0.7)))
        cover = PageEvidence(PageReading(digits, 5, "by hand"))
        made = self.proposal("1a-b, 2a-b", cover, page("1a", "b"), page("2a", "b"))
        self.assertEqual(self.placed(made), {"1a": [1], "1b": [1], "2a": [2], "2b": [2]})
        self.assertGreater(made.loose[0], 0.6)

    def test_a_short_page_that_reads_like_work_is_no_cover(self) -> None:
        """Sent first though it is the last: the answer that runs on, and not the name of the course."""
        rest = PageEvidence(PageReading(page(lines=4).reading.marks, 4, "by hand", opening="so that x = 34"))
        made = self.proposal("1, 2", rest, page("1", "2"))
        self.assertEqual(made.order, (1, 0))
        self.assertEqual(self.placed(made), {"1": [1], "2": [1, 0]})

    def test_two_columns_of_labels_are_taken_one_after_the_other(self) -> None:
        left = [replace(mark(label, 2 + 6 * at), left=0.06) for at, label in enumerate(("1a", "1b", "1c"))]
        right = [replace(mark(label, 3 + 6 * at), left=0.55) for at, label in enumerate(("2a", "2b", "2c"))]
        both = sorted([*left, *right], key=lambda one: one.top)
        self.assertEqual(by_column(both), [0, 2, 4, 1, 3, 5])
        made = self.proposal("1a-c, 2a-c", PageEvidence(PageReading(tuple(both), 24, "by hand")))
        self.assertEqual(len(made.places), 6)
        self.assertTrue(all(one.confidence > 0.9 for one in made.places))

    def test_a_single_label_is_a_second_column_where_lines_stand_below_it(self) -> None:
        left = [replace(mark(label, 2 + 6 * at), left=0.06) for at, label in enumerate(("1a", "1b", "1c"))]
        right = replace(mark("2", 2), left=0.55)
        lines = [Mark(0.62, line / 30, 0.1, 0.02, 0.999, (), 0.0, 1.0, line) for line in (3, 4)]
        for below, order in ((lines, [0, 4, 5, 1, 2, 3]), (lines[:1], [0, 1, 2, 3, 4])):
            marks = sorted([*left, right, *below], key=lambda one: (one.top, one.left))
            self.assertEqual(by_column(marks), order)

    def test_of_a_label_that_is_read_twice_on_a_page_the_plain_one_says_where_the_answer_begins(self) -> None:
        """A page of another printed test: its heading is read as 4 with doubt, and then come 3, 4 and 5."""
        labels = (mark("4", 0, sure=0.22), *(mark(text, 3 + 8 * at) for at, text in enumerate("345")))
        made = self.proposal("1, 2, 3, 4, 5", page("3"), PageEvidence(PageReading(labels, 24, "by hand")))
        [four] = [one for one in made.places if one.question == "4"]
        self.assertEqual((four.page, four.mark), (1, 2))

    def test_numbers_of_equations_at_the_right_edge_are_no_second_column(self) -> None:
        numbered = [replace(mark(text, 4 + 5 * at), left=0.9, hang=-9.0) for at, text in enumerate(("1", "2"))]
        labels = [replace(mark(text, 2 + 8 * at), left=0.06) for at, text in enumerate(("1", "2", "3"))]
        marks = tuple(sorted([*numbered, *labels], key=lambda one: one.top))
        self.assertEqual(by_column(marks), list(range(5)))

    def test_numbers_of_equations_at_the_right_edge_are_no_labels(self) -> None:
        numbered = [replace(mark(text, 4 + 5 * at), left=0.78, hang=-20.0) for at, text in enumerate(("4", "3"))]
        labels = [replace(mark(text, 2 + 8 * at), left=0.06) for at, text in enumerate(("1", "2"))]
        first = PageEvidence(PageReading(tuple(sorted([*numbered, *labels], key=lambda one: one.top)), 24, "by hand"))
        made = self.proposal("1, 2, 3, 4", first, page("3", "4"))
        self.assertEqual(self.placed(made), {"1": [0], "2": [0], "3": [1], "4": [1]})

    def test_page_numbers_order_pages_whose_labels_do_not(self) -> None:
        def numbered(number: int) -> PageEvidence:
            corner = Mark(0.8, 0.03, 0.03, 0.02, 0.02, (Candidate(f"{number}/3", 0.97),), -8, 1.0, 0)
            return PageEvidence(PageReading((corner,), 20, "by hand"))

        made = self.proposal("1", numbered(3), numbered(1), numbered(2))
        self.assertEqual(made.order, (1, 2, 0))

    def test_the_first_digit_of_the_students_number_is_no_page_number(self) -> None:
        digit = Mark(0.5, 0.03, 0.03, 0.02, 0.02, (Candidate("1", 0.97),), -18, 1.0, 0)
        headed = PageEvidence(PageReading((digit,), 20, "by hand", header="Ilse Marrow 1O417"))
        self.assertEqual(page_numbers(headed.reading), {})
        self.assertEqual(page_numbers(replace(headed.reading, header="Ilse Marrow 1")), {1: 0.97})
        made = self.proposal("1", page("1"), headed, page(lines=24))
        self.assertEqual(made.order, (0, 1, 2))

    def test_what_a_person_placed_is_kept_and_sharpens_the_rest(self) -> None:
        """A part letter is of the question that a person placed on the page before."""
        short = "1a-b, 2a-c, 3a-c"
        for number in ("2", "3"):
            held = PageEvidence(page().reading, held=(f"{number}a", f"{number}b"))
            made = self.proposal(short, page("1a", "b"), held, page("c"), known=True)
            wanted = {"1a": [0], "1b": [0], f"{number}a": [1], f"{number}b": [1], f"{number}c": [2]}
            self.assertEqual(self.placed(made), wanted)

    def test_part_letters_that_begin_anew_are_those_of_the_next_question(self) -> None:
        made = self.proposal("1a-b, 2a-b", page("1a", "b"), page("a", "b"), known=True)
        self.assertEqual(self.placed(made), {"1a": [0], "1b": [0], "2a": [1], "2b": [1]})

    def test_without_any_label_nothing_is_said_to_be_missing_surely_and_the_order_stays(self) -> None:
        made = self.proposal("1, 2, 3", page(), page(), page())
        self.assertEqual(made.order, (0, 1, 2))
        self.assertEqual([one for one in made.places if one.confidence > 0.5], [])

    def test_one_doubtful_digit_in_a_folio_without_labels_places_nothing(self) -> None:
        doubtful = PageEvidence(PageReading((mark("1", 6, sure=0.3, hang=0.5),), 24, "by hand"))
        made = self.proposal("1, 2, 3", doubtful, page(), page(), page())
        self.assertEqual(self.placed(made), {})

    def test_a_few_labels_on_many_pages_are_believed_where_each_is_plain(self) -> None:
        def placed(*sure: float, pages: int, of: str = "1-9") -> set[str]:
            marks = [mark(str(at), 0, sure=share) for at, share in enumerate(sure, 1)]
            labelled = [PageEvidence(PageReading((one,), 24, "by hand")) for one in marks]
            made = self.proposal(of, *labelled, *(page() for _ in range(pages - len(marks))), known=True)
            return {one.question for one in made.places if one.confidence >= SAID}

        self.assertEqual(placed(0.7, pages=2), set())
        self.assertEqual(placed(0.7, 0.999, pages=4), set())
        self.assertEqual(placed(0.999, 0.999, pages=4), {"1", "2"})  # each is plain
        self.assertEqual(placed(0.8, 0.999, pages=3), {"1", "2"})  # they are not so few a page
        self.assertEqual(placed(0.8, 0.999, pages=4, of="1-4"), {"1", "2"})  # nor of the questions

    def test_several_doubtful_digits_are_together_no_surer_than_each(self) -> None:
        digits = tuple(mark("1", line, sure=0.45, hang=0.2) for line in (2, 7, 12, 17, 21))
        made = self.proposal("1, 2, 3", PageEvidence(PageReading(digits, 24, "by hand")), page(), page())
        self.assertTrue(all(one.confidence <= 0.5 for one in made.places), made.places)

    def test_many_doubtful_labels_of_most_questions_are_labels(self) -> None:
        def said(*labels: str) -> int:
            marks = tuple(mark(says, 4 * at, sure=0.4, hang=0.5) for at, says in enumerate(labels))
            made = self.proposal("1-8", PageEvidence(PageReading(marks, 24, "by hand")), known=True)
            return sum(one.confidence >= SAID for one in made.places)

        self.assertEqual(said("1", "2", "3", "4"), 4)
        self.assertEqual(said("1", "2", "3"), 0)

    def test_where_no_place_of_several_pages_is_sure_none_is_proposed(self) -> None:
        def said(*labels: str, held: bool = False) -> list[str]:
            pages = [page(label) for label in labels] + [replace(page(), held=("9",))] * held
            places = self.proposal("1-9", *pages, known=True).places
            return [one.question for one in places if one.confidence >= SAID and one.mark is not None]

        self.assertEqual(said("3|2", "5|4"), [])
        self.assertEqual(said("3|2", "5|4", "6"), ["3", "5", "6"])
        self.assertEqual(said("3|2", "5|4", held=True), ["3", "4"])  # a person's word is sure
        self.assertEqual(said("2|3"), ["2"])  # a page alone says what it can

    def test_an_order_that_is_known_is_not_touched(self) -> None:
        made = self.proposal("1, 2", page("2"), page("1"), known=True)
        self.assertEqual(made.order, (0, 1))
        self.assertEqual(self.placed(made), {"2": [0], "1": [1]})

    def test_many_pages_are_put_in_the_order_of_their_labels(self) -> None:
        """More than all orders are summed of; a page of which little fits is not left to the end."""
        sent = random.Random(16).sample(range(16), 16)
        pages = [page(f"{2 * at + 1}", *(["90", "99", "95"] if at in (0, 5) else []), f"{2 * at + 2}") for at in sent]
        made = self.proposal("1-32", *pages)
        self.assertEqual([sent[at] for at in made.order], list(range(16)))
        self.assertEqual({label: sent[at] for label, [at] in self.placed(made).items()}["31"], 15)

    def test_more_pages_than_that_are_taken_as_they_lie(self) -> None:
        labels = [str(number) for number in range(1, 41)]
        made = self.proposal(", ".join(labels), *(page(label) for label in labels))
        self.assertEqual(made.order, tuple(range(40)))
        self.assertEqual(self.placed(made), {label: [at] for at, label in enumerate(labels)})
        shuffled = [*labels[1:21], labels[0]]
        self.assertEqual(self.proposal(", ".join(labels), *map(page, shuffled)).order, tuple(range(21)))

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.sampled_from(["1a", "1b", "2", "b", "a", "7", "3/4", "2~", ""]), max_size=12), st.integers(0, 3))
    def test_whatever_is_read_every_page_is_in_the_order_once_and_confidences_are_shares(
        self, labels: list[str], more: int
    ) -> None:
        pages = [page(*(one for one in labels[at::2] if one)) for at in range(2)] + [page() for _ in range(more)]
        made = self.proposal("1a-b, 2, 3", *pages)
        self.assertEqual(sorted(made.order), list(range(len(pages))))
        shares = [one.confidence for one in made.places] + list(made.missing.values()) + [made.order_confidence]
        self.assertTrue(all(0 <= share <= 1 for share in shares))


if __name__ == "__main__":
    unittest.main()
