"""The question map that a question paper proposes. The papers are made up (folio_bench.papers) or set here."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path

import pikepdf
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from reportlab.pdfgen.canvas import Canvas

from folio_bench.papers import make_paper
from folio_core.__main__ import main
from folio_core.page import DEFAULT_LIMITS, PageError, Trouble, run_limited
from folio_core.question_map import in_short, parse_question_map
from folio_core.question_paper import Proposal, propose_map, read_paper
from folio_core.question_paper.marks import marks_at_start, points_in


def paper(*lines: str | tuple[float, str], rotate: int = 0) -> bytes:
    """A page of lines, each at the left edge or so many points to the right of it."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(595, 842), invariant=True)
    for row, line in enumerate(lines):
        indent, text = (0.0, line) if isinstance(line, str) else line
        canvas.setFont("Times-Roman", 11)
        canvas.drawString(70 + indent, 740 - 16 * row, text)
    canvas.showPage()
    canvas.save()
    if not rotate:
        return out.getvalue()
    turned = io.BytesIO()
    with pikepdf.open(out) as document:
        document.pages[0].rotate(rotate, relative=False)
        document.save(turned)
    return turned.getvalue()


def proposed(*lines: str | tuple[float, str]) -> Proposal:
    return propose_map(read_paper(paper(*lines), DEFAULT_LIMITS))


class Marks(unittest.TestCase):
    def levels(self, text: str) -> list[tuple[str, ...]]:
        return [mark.levels for mark in marks_at_start(text)]

    def test_what_a_line_begins_with(self) -> None:
        for text, levels in {
            "1. Find x": [("1",)], "Question 12": [("12",)], "Q3.": [("3",)], "(4) Show": [("4",)],
            "5) Prove": [("5",)],
            "2. (a) (i) Find": [("2",), ("a",), ("i",)], "3b Sketch": [("3",), ("b",)], "1.1 Solve": [("1", "1")],
            "(iv) State": [("iv",)], "c. Hence": [("c",)], "2(b)(ii) Show": [("2",), ("b",), ("ii",)],
        }.items():  # fmt: skip
            self.assertEqual(self.levels(text), levels, text)

    def test_what_is_none(self) -> None:
        for text in (
            "Find x",
            "0. Nothing",
            "3.5 metres",
            "(A) 12",
            "and (a) again",
            "a sample",
            "(about) half",
            "12x + 1",
        ):
            self.assertEqual(self.levels(text), [], text)

    def test_points_as_they_are_printed(self) -> None:
        for text, value in {
            "[4 marks]": 4, "(5 points)": 5, "Find x. [3]": 3, "(2.5 pts)": 2.5, "Prove it. 6 marks": 6, "____/8": 8,
        }.items():  # fmt: skip
            self.assertEqual([one.value for one in points_in(text)], [value], text)
        for text in ("equation (3)", "f(3 p + 1)", "in 4 steps", "x/4 + 1", "a rope (5 m)"):
            self.assertEqual(list(points_in(text)), [], text)
        self.assertTrue(
            next(points_in("[Total: 12 marks]"), None) is None or next(points_in("Total [12 marks]")).is_total
        )


class Maps(unittest.TestCase):
    def test_parts_with_their_titles_points_and_places(self) -> None:
        read = proposed(
            "1. A vessel sails from A to B.",
            (20, "(a) Find the distance. [4 marks]"),
            (20, "(b) Find the course. [3 marks]"),
            "2. Compare both ways. [5 marks]",
        )
        self.assertEqual(read.short, "1a-b, 2")
        self.assertEqual([(item.label, item.title, item.points) for item in read.items], [
            ("1a", "Find the distance", 4), ("1b", "Find the course", 3), ("2", "Compare both ways", 5),
        ])  # fmt: skip
        self.assertTrue(0.1 < read.items[0].top < read.items[1].top < read.items[2].top < 0.25)
        self.assertEqual({item.page for item in read.items}, {0})

    def test_numbered_instructions_are_no_questions(self) -> None:
        read = proposed(
            "Instructions", "1. Write in ink.", "2. Show all work.", "1. Find x.", "2. Find y.", "3. Find z."
        )
        self.assertEqual(read.short, "1-3")
        self.assertEqual(read.items[0].title, "Find x")

    def test_lines_that_go_on_with_a_number_or_a_letter_are_text(self) -> None:
        read = proposed(
            "1. Take the first", (20, "3. terms and the result of"), (20, "(a) which was shown before."),
            (20, "(i) Add them."), (20, "(ii) Divide by two."), "2. Done.", "3. The end.",
        )  # fmt: skip
        self.assertEqual([item.label for item in read.items], ["1i", "1ii", "2", "3"])

    def test_i_after_h_is_a_letter_and_under_a_letter_a_numeral(self) -> None:
        letters = proposed("1. All of these.", *[(20, f"({letter}) Find it.") for letter in "abcdefghij"])
        self.assertEqual(letters.short, "1a-j")
        below = proposed(
            "1. Some.", (20, "(a) First."), (40, "(i) One."), (40, "(ii) Two."), (20, "(b) Second."), "2. On."
        )
        self.assertEqual([item.label for item in below.items], ["1ai", "1aii", "1b", "2"])

    def test_a_proposed_map_is_always_one_that_can_be(self) -> None:
        """Found by fuzzing: numerals that begin anew below numerals gave a part of a part beside it."""
        read = proposed(
            "1. Find x.", (20, "(i) it"), (20, "(ii) more"), "1. Show", (20, "(i) it"), (20, "(ii) the rest")
        )
        self.assertEqual(parse_question_map(read.short).labels, tuple(item.label for item in read.items))
        self.assertEqual(read.short, "1i-ii")

    def test_points_for_each_part_are_said_once(self) -> None:
        read = proposed("1. Find (3 points each):", (20, "(a) the mean."), (20, "(b) the mode."), "2. Prove it. [9]")
        self.assertEqual([item.points for item in read.items], [3, 3, 9])

    def test_exercises_of_a_book_may_begin_anywhere_and_leave_some_out(self) -> None:
        self.assertEqual(proposed("12. Find x.", "15. Find y.", "23. Find z.").short, "12, 15, 23")

    def test_dotted_numbers_stand_beside_eleven(self) -> None:
        read = proposed("1.1 Find x.", (20, "(a) First."), (20, "(b) Second."), "1.2 Find y.", "2.1 Find z.")
        self.assertEqual([item.label for item in read.items], ["1.1a", "1.1b", "1.2", "2.1"])

    def test_text_without_questions_and_no_text_at_all(self) -> None:
        self.assertEqual(proposed("The weather was fine.", "We sailed at noon."), Proposal((), has_text=True))
        self.assertFalse(proposed().has_text)

    def test_a_page_turned_by_its_own_entry_is_read_as_it_is_seen(self) -> None:
        pages = read_paper(paper("1. Find x.", "2. Find y.", rotate=180), DEFAULT_LIMITS)
        texts = [piece.text for piece in pages[0].pieces]
        self.assertEqual(len(texts), 2)
        self.assertGreater(pages[0].pieces[0].top, 700)  # upside down: the first line lies at the foot

    def test_papers_of_every_kind_of_setting(self) -> None:
        """Few: `./folio bench map` counts over many. One and two columns, words, bare numbers."""
        for seed in (0, 2, 5, 9, 13, 26, 31, 46):
            made = make_paper(seed)
            read = propose_map(run_limited(read_paper, made.pdf, DEFAULT_LIMITS))
            self.assertEqual([item.label for item in read.items], made.labels, made.look)

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.sampled_from(
                ["1", "2a", "2b", "2c", "3h", "3i", "3j", "4i", "4ii", "4iii", "5.1", "5.2", "6", "7", "8"]
            ),
            min_size=1,
            unique=True,
        )
    )
    def test_a_map_in_short_reads_back_as_itself(self, labels: list[str]) -> None:
        self.assertEqual(parse_question_map(in_short(labels)).labels, tuple(labels))


class Refusals(unittest.TestCase):
    def test_a_locked_or_damaged_paper_says_so(self) -> None:
        locked = io.BytesIO()
        with pikepdf.open(io.BytesIO(paper("1. Find x."))) as document:
            document.save(locked, encryption=pikepdf.Encryption(user="secret", owner="secret"))
        for data, trouble in ((locked.getvalue(), Trouble.ENCRYPTED), (b"%PDF-1.7 nothing", Trouble.TRUNCATED)):
            with self.assertRaises(PageError) as raised:
                run_limited(read_paper, data, DEFAULT_LIMITS)
            self.assertIs(raised.exception.trouble, trouble)

    def test_the_command_says_the_map_or_why_not(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            good, photo, gone = Path(folder) / "good.pdf", Path(folder) / "photo.pdf", Path(folder) / "gone.pdf"
            good.write_bytes(paper("1. Find x. [4]", "2. Find y."))
            Image.new("RGB", (400, 600), "white").save(photo)
            out = io.StringIO()
            with redirect_stdout(out):
                status = main(["map", str(good), str(photo), str(gone)])
        lines = [json.loads(line) for line in out.getvalue().splitlines()]
        self.assertEqual(status, 1)
        self.assertEqual(lines[0]["map"], "1, 2")
        self.assertEqual(lines[0]["items"][0], {
            "label": "1", "title": "Find x", "points": 4.0, "page": 0, "top": lines[0]["items"][0]["top"],
        })  # fmt: skip
        self.assertIsNone(lines[0]["items"][1]["points"])
        self.assertEqual([line["error"]["code"] for line in lines[1:]], ["no_text", "unreadable"])


if __name__ == "__main__":
    unittest.main()
