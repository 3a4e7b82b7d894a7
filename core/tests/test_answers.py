"""Answers on the screen: how they are asked for, what they hold, what they are worth by themselves, their sheets."""

from __future__ import annotations

import io
import subprocess
import tempfile
import unittest
from datetime import UTC, datetime
from pathlib import Path

import pikepdf
import pypdf
from hypothesis import given, settings
from hypothesis import strategies as st

from folio_core.answers import (
    ANSWERED_ON_PAGES,
    NOTHING,
    WRITTEN_MOST,
    AnswerContent,
    Answering,
    AnswerKind,
    BadAnswer,
    BadAnswering,
    Choice,
    ShortAnswer,
    ShortKind,
    choices_for,
)
from folio_core.answers.automatic import Comparison, are_same, judge, judge_number
from folio_core.answers.typesetting import ScreenAnswer, typeset
from folio_core.placing import Arrangement, Placement, is_answered, readiness
from folio_core.question_map import Group, Question, QuestionMap

import calm  # noqa: F401 isort: skip

A4 = (595.28, 841.89)
MADE = datetime(2026, 11, 28, 9, 0, tzinfo=UTC)
FOUR = tuple(Choice(letter, f"choice {letter}") for letter in "abcd")
CHOSEN = Answering((AnswerKind.CHOSEN,), "Which?", FOUR, right=("b",))


class Asked(unittest.TestCase):
    def test_what_makes_no_sense_is_refused_with_a_word(self) -> None:
        for wrong, word in (
            ({"kinds": ()}, "at least one way"),
            ({"kinds": (AnswerKind.CHOSEN,)}, "between 2"),
            ({"kinds": (AnswerKind.CHOSEN,), "choices": (Choice("a", "x"), Choice("b", " x "))}, "the same"),
            ({"kinds": (AnswerKind.CHOSEN,), "choices": (Choice("a", "x"), Choice("b", " "))}, "some text"),
            ({"kinds": (AnswerKind.CHOSEN,), "choices": FOUR, "right": ("e",)}, "not among"),
            ({"kinds": (AnswerKind.CHOSEN,), "choices": FOUR, "right": ("a", "b")}, "only one"),
        ):
            with self.subTest(word), self.assertRaisesRegex(BadAnswering, word):
                Answering(**wrong)

    def test_it_comes_back_from_its_document_as_it_was(self) -> None:
        asked = Answering(
            (AnswerKind.CHOSEN, AnswerKind.SHORT), "$x$", FOUR, True, True, ("a", "b"),
            ShortAnswer(ShortKind.NUMBER, "3.2", "m/s", 0.02),
        )  # fmt: skip
        self.assertEqual(Answering.from_document(asked.as_document()), asked)
        self.assertEqual(Answering.from_document({}), ANSWERED_ON_PAGES)

    def test_a_map_kept_before_there_was_another_way_than_pages_is_read_and_written_as_it_was(self) -> None:
        kept = {"questions": [{"id": "7", "label": "1", "title": "", "points": 2.0, "group": ""}], "groups": []}
        self.assertEqual(QuestionMap.from_document(kept).as_document(), kept)
        typed = QuestionMap((Question("1", "7", answering=CHOSEN),))
        self.assertEqual(QuestionMap.from_document(typed.as_document()), typed)


class Order(unittest.TestCase):
    def test_choices_stand_as_written_unless_they_are_mixed(self) -> None:
        self.assertEqual(choices_for(CHOSEN, "7", "1/2"), FOUR)

    def test_mixed_each_student_sees_all_of_them_in_an_order_of_their_own_that_stays(self) -> None:
        mixed = Answering((AnswerKind.CHOSEN,), "", FOUR, mixed=True)
        orders = [choices_for(mixed, "7", f"1/{student}") for student in range(200)]
        self.assertTrue(all(set(order) == set(FOUR) for order in orders))
        self.assertEqual(orders, [choices_for(mixed, "7", f"1/{student}") for student in range(200)])
        first = [order[0].id for order in orders]
        self.assertTrue(all(30 <= first.count(letter) <= 72 for letter in "abcd"), "each is first about as often")
        self.assertNotEqual(orders, [choices_for(mixed, "8", f"1/{student}") for student in range(200)])


class Content(unittest.TestCase):
    def test_only_what_holds_something_is_given(self) -> None:
        self.assertEqual(NOTHING.given, frozenset())
        self.assertEqual(AnswerContent(short="  ", written="\n").given, frozenset())
        self.assertEqual(AnswerContent(("a",), "1", "x").given, {"chosen", "short", "written"})

    def test_what_is_too_long_is_refused_and_says_how_long_it_is(self) -> None:
        with self.assertRaisesRegex(BadAnswer, "30,000 characters, and this one has 30,001"):
            AnswerContent(written="x" * (WRITTEN_MOST + 1))
        with self.assertRaises(BadAnswer):
            AnswerContent(chosen=("a", "a"))
        with self.assertRaises(BadAnswer):
            AnswerContent.from_document({"written": 7})

    def test_what_no_keyboard_writes_and_no_database_takes_is_left_out(self) -> None:
        read = AnswerContent.from_document({"written": "a\x00b\ud800\n\tc", "short": "\x07d"})
        self.assertEqual((read.written, read.short), ("ab\n\tc", "d"))

    @given(st.text(max_size=60), st.text(max_size=60), st.lists(st.text(max_size=4), unique=True, max_size=4))
    def test_two_answers_have_the_same_hash_only_where_they_are_the_same(
        self, short: str, written: str, chosen: list[str]
    ) -> None:
        document = {"short": short, "written": written, "chosen": chosen}
        one = AnswerContent.from_document(document)
        self.assertEqual(AnswerContent.from_document(one.as_document()).sha256, one.sha256)
        self.assertNotEqual(AnswerContent(one.chosen, one.short, one.written + "x").sha256, one.sha256)


class Settled(unittest.TestCase):
    """Also by the table that the browser is held to (`test_placing`, for pages)."""

    def test_all_that_is_asked_for_must_be_there(self) -> None:
        both = Question("1", answering=Answering((AnswerKind.CHOSEN, AnswerKind.PAGES), "", FOUR))
        on_page = Arrangement(order=(10,), placements={"1": (Placement(10),)})
        chosen = {"1": [AnswerKind.CHOSEN]}
        self.assertFalse(is_answered(on_page, both))
        self.assertFalse(is_answered(Arrangement(order=(10,)), both, chosen))
        self.assertTrue(is_answered(on_page, both, chosen))
        self.assertTrue(is_answered(Arrangement(left_blank=frozenset({"1"})), both))

    def test_a_page_does_not_answer_what_is_asked_on_the_screen(self) -> None:
        chosen = Question("1", answering=CHOSEN)
        self.assertFalse(is_answered(Arrangement(order=(10,), placements={"1": (Placement(10),)}), chosen))

    def test_of_any_two_of_three_answers_on_the_screen_count(self) -> None:
        members = tuple(Question(str(at), group="g", answering=CHOSEN) for at in (1, 2, 3))
        wanted = QuestionMap(members, (Group("g", 2),))
        one, two = ({str(at): [AnswerKind.CHOSEN] for at in some} for some in ((1,), (1, 2)))
        self.assertEqual(readiness(Arrangement(), wanted, one).open_questions, ("2", "3"))
        ready = readiness(Arrangement(), wanted, two)
        self.assertEqual((ready.open_questions, ready.answered, ready.questions), ((), 2, 2))


class Automatic(unittest.TestCase):
    def test_a_choice_is_right_where_exactly_the_right_ones_are_chosen(self) -> None:
        many = Answering((AnswerKind.CHOSEN,), "", FOUR, many=True, right=("a", "c"))
        for chosen, right in ((("c", "a"), True), (("a",), False), (("a", "b", "c"), False), ((), False)):
            self.assertIs(judge(many, AnswerContent(chosen)).is_right, right, chosen)

    def test_without_a_right_one_a_marker_decides(self) -> None:
        self.assertIsNone(judge(Answering((AnswerKind.CHOSEN,), "", FOUR), AnswerContent(("a",))).is_right)
        self.assertIsNone(judge(Answering((AnswerKind.WRITTEN,)), AnswerContent(written="x")).is_right)

    def test_in_two_ways_one_wrong_makes_it_wrong(self) -> None:
        both = Answering((AnswerKind.CHOSEN, AnswerKind.SHORT), "", FOUR, right=("b",), short=ShortAnswer(expected="2"))
        self.assertIs(judge(both, AnswerContent(("b",), "2")).is_right, True)
        self.assertIs(judge(both, AnswerContent(("b",), "3")).is_right, False)
        self.assertIsNone(judge(both, AnswerContent(("b",), "two")).is_right)

    def test_words_are_right_whatever_their_case_and_spaces(self) -> None:
        asked = Answering((AnswerKind.SHORT,), short=ShortAnswer(ShortKind.WORD, "spring tide\nspringtide"))
        for typed, right in (("Spring  Tide.", True), ("SPRINGTIDE", True), ("neap tide", False)):
            self.assertIs(judge(asked, AnswerContent(short=typed)).is_right, right, typed)

    def test_numbers_with_units(self) -> None:
        """Conversions: exact by definition (BIPM, SI Brochure, 9th edition: hour, minute of arc, degree Celsius; the
        international nautical mile is 1852 m, tables 8)."""
        for typed, expected, unit, tolerance, right in (
            ("3.2 m/s", "3.2", "m/s", 0.02, True),
            ("320 cm/s", "3.2", "m/s", 0.0, True),
            ("3,2 m s-1", "3.2", "m/s", 0.0, True),
            ("3.2 m·s⁻¹", "3.2", "m/s", 0.0, True),
            ("11.52 km/h", "3.2", "m/s", 0.0, True),
            ("3.27 m/s", "3.2", "m/s", 0.02, False),
            ("3.26 m/s", "3.2", "m/s", 0.02, True),
            ("3.2", "3.2", "m/s", 0.02, None),
            ("3.2 kg", "3.2", "m/s", 0.02, None),
            ("2.5 nmi", "4.63", "km", 0.0, True),
            ("25 °C", "298.15", "K", 0.0, True),
            ("60'", "1", "°", 0.0, True),
            ("6.02e23", "6.022×10^23", "", 0.01, True),
            ("−5.0", "-5", "", 0.0, True),
            ("5 400", "5400", "", 0.0, True),
            ("0.004", "0", "", 0.01, True),
            ("five", "5", "", 0.0, None),
            ("5; import os", "5", "m", 0.0, None),
        ):
            self.assertIs(judge_number(typed, expected, unit, tolerance).is_right, right, typed)

    def test_expressions_of_the_same_value(self) -> None:
        """Identities of trigonometry and algebra (DLMF 4.21, 4.35 and 1.2; SymPy decides)."""
        cases = {
            ("12x²", "12·x^2"): True,
            ("2(x+1)", "2x+2"): True,
            ("(x+1)^2", "x^2 + 2x + 1"): True,
            ("sin^2 x + cos^2 x", "1"): True,
            ("sin 2x", "2 sin x cos x"): True,
            ("tan x", "sin x / cos x"): True,
            ("1/2 m v²", "mv^2/2"): True,
            ("√(2gh)", "sqrt(2*g*h)"): True,
            ("gT²/2π", "g T^2 / (2 pi)"): None,  # read from the left it is another value: a marker sees what is meant
            ("gT²/2π", "g T^2 / 2 pi"): True,
            ("x/2y", "x y / 2"): None,
            ("1/2x", "x / 2"): None,
            ("x/2 + y", "y + x/2"): True,
            ("a/(bc) d", "a d/(bc)"): None,
            ("1/x^2", "x^(-2)"): True,
            ("e^(-x^2)", "exp(-x²)"): True,
            ("sqrt(x^2)", "abs(x)"): True,
            ("3,5x", "3.5x"): True,
            ("a/b/c", "a/(bc)"): True,
            ("x^2", "x^3"): False,
            ("-x", "x"): False,
            ("ln(x^2)", "2 ln x"): None,  # for positive x only
            ("__import__('os')", "1"): None,
            ("9^9^9^9", "1"): None,
            ("x" * 200, "x"): None,
            ("x = 3", "3"): None,
            ("(", "1"): None,
        }
        told = are_same([Comparison(*pair) for pair in cases])
        wrong = {pair: got for (pair, wanted), got in zip(cases.items(), told, strict=True) if got is not wanted}
        self.assertEqual(wrong, {})


TEXT = r"""Let $v^2 = 2gh$ and $\frac{a}{b}$.

$$\int_0^1 x\,dx = \tfrac12, \quad \begin{cases} a & x>0 \\ b & x<0\end{cases}, \begin{pmatrix}1&2\\3&4\end{pmatrix}$$

*So it is*, since x <y and y> z, 5 € and 中文.
"""


def answer(**more: object) -> ScreenAnswer:
    told = {"id": "7", "label": "2b", "title": "speed", "text": "", "choices": (), "content": NOTHING, **more}
    return ScreenAnswer(**told)  # type: ignore[arg-type]


class Typeset(unittest.TestCase):
    def texts(self, *answers: ScreenAnswer) -> tuple[str, str]:
        """As two readers see it: pypdf and poppler."""
        made = typeset(answers, A4, MADE)
        one, other = [], []
        with tempfile.TemporaryDirectory() as folder:
            for sheet in made.sheets:
                one.append(pypdf.PdfReader(io.BytesIO(sheet)).pages[0].extract_text())
                path = Path(folder) / "sheet.pdf"
                path.write_bytes(sheet)
                other.append(subprocess.run(["pdftotext", path, "-"], capture_output=True, check=True).stdout.decode())
        return "\n".join(one), "\n".join(other)

    def test_text_and_maths_can_be_read_back_by_two_readers(self) -> None:
        for said in self.texts(answer(content=AnswerContent(written=TEXT), asks_written=True)):
            for piece in ("2b", "speed", "So it is", "<y and y>", "€", "中文", "∫", "𝑣"):
                self.assertIn(piece, said)

    def test_the_same_answers_give_the_same_bytes_with_embedded_fonts(self) -> None:
        told = [answer(content=AnswerContent(written=TEXT), asks_written=True)]
        made = typeset(told, A4, MADE)
        self.assertEqual(made, typeset(told, A4, MADE))
        with pikepdf.open(io.BytesIO(made.sheets[0])) as pdf:
            fonts = [font.DescendantFonts[0].FontDescriptor for font in pdf.pages[0].Resources.Font.values()]
            self.assertTrue(fonts)
            self.assertTrue(all("/FontFile3" in one or "/FontFile2" in one for one in fonts))

    def test_all_choices_stand_there_and_which_was_chosen_is_said_in_words(self) -> None:
        _, said = self.texts(answer(choices=FOUR, content=AnswerContent(chosen=("c",))))
        for choice in FOUR:
            self.assertIn(choice.text, said)
        self.assertEqual(said.count("chosen"), 1)

    def test_what_was_asked_for_and_not_answered_says_so(self) -> None:
        _, said = self.texts(answer(asks_short=True, asks_written=True))
        self.assertEqual(said.count("no answer"), 2)

    def test_each_question_says_on_which_sheet_and_how_far_down_it_begins(self) -> None:
        long = answer(id="1", label="1", content=AnswerContent(written="line\n" * 150), asks_written=True)
        made = typeset([long, answer(id="2", label="2", asks_short=True)], A4, MADE)
        self.assertGreater(len(made.sheets), 2)
        self.assertEqual(made.spots["1"].sheet, 0)
        self.assertEqual(made.spots["2"].sheet, len(made.sheets) - 1)
        self.assertTrue(0 < made.spots["1"].top < made.spots["2"].top < 1)
        self.assertIn("typed answers to 2: ", made.words[-1])
        self.assertIn("line line", made.words[0])  # for those who cannot see it, the text itself

    def test_hostile_text_stands_as_it_was_typed_and_reads_no_file(self) -> None:
        for typed, stays in (
            ('#read("/etc/passwd") #set page(fill: red)', "#read"),
            ("![secret](/etc/passwd)", "[picture: secret /etc/passwd]"),
            ("<script>alert(1)</script>", "<script>alert(1)</script>"),
            ("$\\def\\a{\\a\\a}\\a$", "\\def"),
            ("$\\undefined{x}{$ \\end{document} $$", "undefined"),
            ("```{=typst}\n#panic()\n```", "panic"),
            ("$" * 500, "$"),
            ("[" * 400 + "]" * 400, "[["),
            ("`#[`]*_$", "#["),
            ("| a |\n|---|\n" * 40, "a"),
        ):
            with self.subTest(typed[:30]):
                _, said = self.texts(
                    answer(title=typed[:100], content=AnswerContent(written=typed, short=typed[:90]),
                           asks_written=True, asks_short=True)
                )  # fmt: skip
                self.assertIn(stays, said)
                self.assertNotIn("root:", said)

    @settings(max_examples=15, deadline=None)
    @given(
        st.text(
            st.characters(min_codepoint=32, max_codepoint=0x2FFF, exclude_categories=("Cs", "Cn", "Co")), max_size=80
        )
    )
    def test_whatever_is_typed_can_be_set(self, text: str) -> None:
        made = typeset(
            [answer(content=AnswerContent(written=text, short=text), asks_written=True, asks_short=True)], A4, MADE
        )
        self.assertEqual(len(made.sheets), 1)

    def test_a_character_that_no_font_has_is_named_by_its_number(self) -> None:
        """The Unicode Standard: U+0080 is a control, U+12000 a cuneiform sign."""
        made = typeset(
            [answer(content=AnswerContent(written="so \x80 and \U00012000 it is $x$"), asks_written=True)], A4, MADE
        )
        said = pypdf.PdfReader(io.BytesIO(made.sheets[0])).pages[0].extract_text()
        for piece in ("so (U+0080)", "(U+12000)", "it is"):
            self.assertIn(piece, said)

    def test_marks_and_joined_signs_that_no_font_has_keep_nothing_from_being_set(self) -> None:
        """A combining mark, a family joined of emoji (Unicode Technical Standard 51), a keycap."""
        for typed in (
            "0\u1cd0",
            "e\u0301\u1cd0",
            "\U0001f468\u200d\U0001f469\u200d\U0001f467 ok",
            "1\ufe0f\u20e3",
            "שלום नमस्ते",
        ):
            with self.subTest(typed):
                made = typeset([answer(content=AnswerContent(written=typed, short=typed), asks_written=True)], A4, MADE)
                self.assertEqual(len(made.sheets), 1)

    def test_nothing_answered_is_no_sheet(self) -> None:
        self.assertEqual(typeset([], A4, MADE).sheets, ())
