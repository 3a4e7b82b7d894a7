"""Marking's rules: cuts, totals, what points say of a question, ink, and marked documents."""

from __future__ import annotations

import io
import unittest
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
import pypdf
import pypdfium2
from bound_samples import bound
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from PIL import Image, ImageDraw

from folio_core.binding import Paper
from folio_core.marking import (
    BadInk,
    Cut,
    LateRule,
    Stroke,
    Tool,
    Worth,
    cuts_of,
    discriminations,
    figures_of,
    inkml,
    may_go_on,
    total_of,
    worth_by_itself,
)
from folio_core.marking.annotating import MarkedPage, Said, annotate
from folio_core.marking.cutting import AFTER, BEFORE
from folio_core.page import Geometry, Recipe, Tone, prepare
from folio_core.page.flatten import Curve, flattened
from folio_core.page.ink_rows import ink_rows
from folio_core.page.straighten import straighten
from folio_core.placing import Arrangement, Placement
from folio_core.question_map import QuestionMap, parse_question_map

import calm  # noqa: F401 isort: skip


def arranged(**placements: list[tuple[int, float | None]]) -> Arrangement:
    """Pages 1 to 4; questions a, b, c by name."""
    rows = {one: tuple(Placement(page, top) for page, top in row) for one, row in placements.items()}
    return Arrangement(order=(1, 2, 3, 4), placements=rows)


class Cutting(unittest.TestCase):
    def test_an_answer_goes_from_its_flag_to_the_next_one(self) -> None:
        laid = arranged(a=[(1, 0.2)], b=[(1, 0.5)], c=[(1, 0.8)])
        self.assertEqual(cuts_of(laid, "b"), [Cut(1, 0.5 - BEFORE, 0.8 + AFTER)])

    def test_the_last_one_on_a_page_goes_to_its_foot(self) -> None:
        self.assertEqual(cuts_of(arranged(a=[(1, 0.2)]), "a"), [Cut(1, 0.2 - BEFORE, 1.0)])

    def test_over_pages_it_goes_on_from_the_top_to_the_first_flag(self) -> None:
        laid = arranged(a=[(1, 0.6), (2, None)], b=[(2, 0.3)])
        self.assertEqual(cuts_of(laid, "a"), [Cut(1, 0.6 - BEFORE, 1.0), Cut(2, 0.0, 0.3 + AFTER)])

    def test_where_it_is_not_said_where_it_begins_the_page_is_shown_whole(self) -> None:
        self.assertEqual(cuts_of(arranged(a=[(1, None)], b=[(1, 0.3)]), "a"), [Cut(1)])

    def test_empty_paper_below_the_writing_is_left_away(self) -> None:
        rows = {1: "0" * 20 + "1" * 20 + "0" * 60}
        (cut,) = cuts_of(arranged(a=[(1, 0.2)]), "a", rows)
        self.assertTrue(0.4 < cut.bottom < 0.45, cut)

    def test_an_answer_too_faint_to_be_found_is_not_cut_short(self) -> None:
        self.assertEqual(cuts_of(arranged(a=[(1, 0.2)]), "a", {1: "0" * 100})[0].bottom, 1.0)

    def test_ink_above_the_next_flag_that_nobody_claims_is_offered(self) -> None:
        rows = {2: "0" * 5 + "1" * 20 + "0" * 75}
        laid = arranged(a=[(1, 0.6)], b=[(2, 0.5)])
        (cut,) = may_go_on(laid, "a", rows)
        self.assertTrue(cut.page == 2 and 0.25 < cut.bottom < 0.35, cut)
        self.assertEqual(may_go_on(laid, "a", {2: "0" * 50 + "1" * 50}), [])

    def test_what_somebody_claims_or_is_loose_is_not_offered(self) -> None:
        rows = {2: "1" * 100}
        self.assertEqual(may_go_on(arranged(a=[(1, 0.6)], b=[(2, None)]), "a", rows), [])
        loose = Arrangement(order=(1, 2), placements={"a": (Placement(1, 0.6),)}, loose=frozenset({2}))
        self.assertEqual(may_go_on(loose, "a", rows), [])

    @given(st.dictionaries(st.integers(1, 4), st.none() | st.floats(0, 1)), st.lists(st.floats(0, 1), max_size=4))
    def test_every_cut_lies_on_its_page_and_shows_where_the_answer_begins(
        self, spots: dict[int, float | None], others: list[float]
    ) -> None:
        laid = arranged(a=list(spots.items()), **{f"b{at}": [(1, top)] for at, top in enumerate(others)})
        for cut, spot in zip(cuts_of(laid, "a"), laid.pages_of("a"), strict=True):
            self.assertTrue(0 <= cut.top < cut.bottom <= 1)
            self.assertEqual(cut.page, spot.page)
            self.assertTrue(cut.top <= (spot.top or 0) <= cut.bottom)


def worth(**points: float | None) -> dict[str, Worth]:
    return {one: Worth(None if given is None else Decimal(str(given))) for one, given in points.items()}


def with_points(text: str, points: dict[str, float]) -> QuestionMap:
    found = parse_question_map(text)
    return replace(found, questions=tuple(replace(one, points=points[one.label]) for one in found.questions))


class Totals(unittest.TestCase):
    MAP = with_points("1, any 2 of (2-4), bonus (5)", {"1": 4, "2": 5, "3": 5, "4": 5, "5": 2})

    def test_of_any_n_of_the_best_count_and_a_bonus_comes_on_top(self) -> None:
        total = total_of(self.MAP, worth(**{"1": 4, "2": 1, "3": 5, "4": 3, "5": 2}))
        self.assertEqual((total.points, total.most, total.dropped), (Decimal(14), Decimal(14), frozenset({"2"})))

    def test_a_bonus_takes_nothing_off(self) -> None:
        self.assertEqual(total_of(self.MAP, worth(**{"1": 4, "5": -2})).points, Decimal(4))

    def test_the_lowest_are_dropped_by_their_share(self) -> None:
        """2 of 4 is less than 6 of 10, though fewer points are lost by it."""
        three = with_points("1-3", {"1": 4, "2": 10, "3": 2})
        total = total_of(three, worth(**{"1": 2, "2": 6, "3": 2}), drop_lowest=1)
        self.assertEqual((total.points, total.most, total.dropped), (Decimal(8), Decimal(12), frozenset({"1"})))

    def test_something_always_counts(self) -> None:
        one = with_points("1-2", {"1": 4, "2": 4})
        self.assertEqual(total_of(one, worth(**{"1": 2, "2": 4}), drop_lowest=5).most, Decimal(4))

    def test_late_work_loses_by_each_day_begun_after_the_grace(self) -> None:
        """10 % a day begun, 15 minutes of grace, at most 30 %: common practice, no source."""
        rule = LateRule(Decimal(10), timedelta(days=1), timedelta(minutes=15), Decimal(30))
        lost = {minutes: rule.lost_percent(timedelta(minutes=minutes)) for minutes in (15, 16, 1455, 1456, 9999)}
        self.assertEqual(lost, {15: 0, 16: 10, 1455: 10, 1456: 20, 9999: 30})
        total = total_of(self.MAP, worth(**{"1": 4}), late=rule, late_by=timedelta(hours=2))
        self.assertEqual((total.lost, total.points), (Decimal("0.40"), Decimal("3.60")))

    def test_what_is_not_marked_is_named_and_no_total_is_below_nought(self) -> None:
        total = total_of(self.MAP, worth(**{"1": -3, "2": None}))
        self.assertEqual((total.points, total.unmarked), (Decimal(0), ("2", "3", "4", "5")))

    def test_what_an_answer_is_worth_by_itself(self) -> None:
        self.assertEqual(worth_by_itself(4, None, left_blank=True), Worth(Decimal(0), True, True))
        self.assertEqual(worth_by_itself(2.5, True, left_blank=False).points, Decimal("2.5"))
        self.assertEqual(worth_by_itself(4, False, left_blank=False).points, Decimal(0))
        self.assertIsNone(worth_by_itself(4, None, left_blank=False).points)

    @given(st.lists(st.decimals(0, 10, places=2), min_size=5, max_size=5))
    def test_the_total_is_what_counts_added_up(self, points: list[Decimal]) -> None:
        given_points = {label: Worth(one) for label, one in zip("12345", points, strict=True)}
        total = total_of(self.MAP, given_points)
        best = sorted(points[1:4], reverse=True)[:2]
        self.assertEqual(total.points, points[0] + sum(best) + points[4])


LSAT = (
    "3 00000 6 00001 2 00010 11 00011 1 00100 1 00101 3 00110 4 00111 1 01000 8 01001 16 01011 3 01101 2 "
    "01110 15 01111 10 10000 29 10001 14 10010 81 10011 3 10100 28 10101 15 10110 80 10111 16 11000 56 "
    "11001 21 11010 173 11011 11 11100 61 11101 28 11110 298 11111 "
)
"""How often, and which of the five items were right."""


class Statistics(unittest.TestCase):
    def test_facility_and_discrimination_of_a_published_test(self) -> None:
        """The five items of LSAT section 6, 1,000 persons: patterns of Bock and Lieberman (Psychometrika 35, 1970), and
        proportions and point-biserials without the item of Rizopoulos (Journal of Statistical Software 17(5), 2006);
        both from memory."""
        persons = [
            pattern
            for times, pattern in zip(LSAT.split()[::2], LSAT.split()[1::2], strict=True)
            for _ in range(int(times))
        ]
        self.assertEqual(len(persons), 1000)
        points = {str(item): {who: float(one[item]) for who, one in enumerate(persons)} for item in range(5)}
        found = discriminations(points)
        for item, (facility, biserial) in enumerate(
            [(0.924, 0.1128), (0.709, 0.1531), (0.553, 0.1727), (0.763, 0.1444), (0.870, 0.1215)]
        ):
            figures = figures_of(1, list(points[str(item)].values()), found[str(item)])
            self.assertAlmostEqual(figures.facility or 0, facility, places=3)
            self.assertAlmostEqual(figures.discrimination or 0, biserial, delta=0.0001)

    def test_against_numpy(self) -> None:
        random = np.random.default_rng(5)
        table = random.integers(0, 9, (40, 4)) / 2
        found = discriminations({str(at): dict(enumerate(map(float, table[:, at]))) for at in range(4)})
        for at in range(4):
            rest = table.sum(axis=1) - table[:, at]
            self.assertAlmostEqual(found[str(at)] or 0, float(np.corrcoef(table[:, at], rest)[0, 1]), places=9)
        figures = figures_of(4, [float(one) for one in table[:, 0]])
        self.assertAlmostEqual(figures.deviation or 0, float(table[:, 0].std(ddof=1)), places=9)
        self.assertEqual(figures.median, float(np.median(table[:, 0])))

    def test_what_cannot_be_told_is_not_told(self) -> None:
        self.assertEqual(discriminations({"1": {1: 2.0, 2: 3.0}, "2": {1: 1.0, 2: 2.0}}), {"1": None, "2": None})
        same = {"1": {1: 2.0, 2: 2.0, 3: 2.0}, "2": {1: 1.0, 2: 2.0, 3: 3.0}}
        self.assertIsNone(discriminations(same)["1"])
        self.assertIsNone(figures_of(4, []).mean)

    def test_every_answer_is_in_one_bar(self) -> None:
        self.assertEqual(figures_of(4, [0, -1, 0.4, 2, 3.9, 4, 5]).bars, (2, 1, 0, 0, 0, 1, 0, 0, 0, 3))


CURVE = Curve((0.01, -0.02, 0.004, *[0.0] * 6), (0.002, 0.003, -0.001, *[0.0] * 6), 3.0, True)
GEOMETRIES = st.builds(
    lambda x, y, lean, bent: Geometry(
        ((100 + x, 80 + y), (900, 120 + x), (950 - y, 1300), (60, 1250)), 600, 850, lean, CURVE if bent else None
    ),
    st.floats(-50, 50), st.floats(-50, 50), st.floats(-4, 4), st.booleans(),
)  # fmt: skip


class PageGeometry(unittest.TestCase):
    @given(GEOMETRIES, st.floats(0.02, 0.98), st.floats(0.05, 0.95))
    def test_there_and_back_is_the_same_spot(self, geometry: Geometry, x: float, y: float) -> None:
        there = geometry.to_source(np.array([[x, y]]))
        back = geometry.from_source(there)[0]
        self.assertAlmostEqual(back[0], x, delta=0.002)
        self.assertAlmostEqual(back[1], y, delta=0.002)
        kept = Geometry.from_document(geometry.as_document())
        self.assertEqual(kept, geometry)

    @given(st.sampled_from([0, 90, 180, 270]), st.booleans(), st.sampled_from([Tone.PHOTO, Tone.CLEAN]))
    def test_ink_stays_on_the_same_writing_under_any_recipe(self, turn: int, cut: bool, tone: Tone) -> None:
        """A dot is drawn into the picture; wherever it lies on the prepared page, its geometry says so."""
        spot = (330, 500)
        data = _dotted(spot)
        corners = ((40.0, 30.0), (660.0, 60.0), (640.0, 950.0), (20.0, 930.0)) if cut else None
        prepared = prepare(data, 0, Recipe(corners=corners, turn=turn, tone=tone))
        x, y = prepared.geometry.from_source(np.array([spot], np.float64))[0]
        shown = np.asarray(Image.open(io.BytesIO(prepared.image)).convert("RGB")).astype(int)
        red = (shown[..., 0] - shown[..., 2]) > 60
        rows, columns = np.nonzero(red)
        self.assertGreater(len(rows), 20)
        self.assertAlmostEqual(columns.mean() / shown.shape[1], x, delta=0.01)
        self.assertAlmostEqual(rows.mean() / shown.shape[0], y, delta=0.01)

    def test_bent_paper(self) -> None:
        """The same check against the pixels that flattening moves."""
        spot = (330, 500)
        picture = np.asarray(Image.open(io.BytesIO(_dotted(spot))).convert("RGB"))
        corners = ((40.0, 30.0), (660.0, 60.0), (640.0, 950.0), (20.0, 930.0))
        flat = flattened(picture, corners, (600, 850), CURVE).astype(int)
        rows, columns = np.nonzero((flat[..., 0] - flat[..., 2]) > 60)
        x, y = Geometry(corners, 600, 850, 0.0, CURVE).from_source(np.array([spot], np.float64))[0]
        self.assertAlmostEqual(columns.mean() / 600, x, delta=0.005)
        self.assertAlmostEqual(rows.mean() / 850, y, delta=0.005)

    def test_a_page_that_leans(self) -> None:
        """Against the pixels that straightening turns, far from the middle, where a turn the other way shows."""
        spot = (140, 180)
        picture = np.asarray(Image.open(io.BytesIO(_dotted(spot))).convert("RGB"))
        corners = ((0.0, 0.0), (700.0, 0.0), (700.0, 1000.0), (0.0, 1000.0))
        shown = straighten(picture, corners, (600, 850), 4.0).astype(int)
        rows, columns = np.nonzero((shown[..., 0] - shown[..., 2]) > 60)
        x, y = Geometry(corners, 600, 850, 4.0).from_source(np.array([spot], np.float64))[0]
        self.assertAlmostEqual(columns.mean() / 600, x, delta=0.004)
        self.assertAlmostEqual(rows.mean() / 850, y, delta=0.004)

    def test_rows_with_writing(self) -> None:
        ink = np.zeros((1000, 700), np.uint8)
        cv2.putText(ink, "3424.2 nm", (100, 520), cv2.FONT_HERSHEY_SIMPLEX, 1.2, 255, 3)
        cv2.circle(ink, (300, 900), 1, 255, -1)  # a speck
        rows = ink_rows(ink)
        self.assertEqual(len(rows), 100)
        self.assertIn("111", rows[48:53])
        self.assertNotIn("1", rows[:45] + rows[55:])


def _dotted(spot: tuple[int, int]) -> bytes:
    picture = Image.new("RGB", (700, 1000), (244, 244, 240))
    draw = ImageDraw.Draw(picture)
    for y in range(140, 900, 60):
        draw.line([(90, y), (480, y)], fill=(30, 30, 60), width=4)
    draw.ellipse([spot[0] - 9, spot[1] - 9, spot[0] + 9, spot[1] + 9], fill=(210, 20, 20))
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()


STROKES = [
    Stroke(Tool.PEN, ((10.0, 20.0, 0.4), (60.0, 40.0, 0.9)), 3.0),
    Stroke(Tool.HIGHLIGHTER, ((10.0, 90.0, 0.5), (200.0, 90.0, 0.5)), 14.0),
    Stroke(Tool.TICK, ((120.0, 60.0, 0.5),), 30.0),
    Stroke(Tool.TEXT, ((30.0, 200.0, 0.5),), 20.0, "units? <m/s> & \x0b√2"),
]


class InkOut(unittest.TestCase):
    def test_what_is_no_stroke_is_refused(self) -> None:
        dot = ((1.0, 1.0, 0.5),)
        for wrong in (
            lambda: Stroke(Tool.PEN, (), 3.0), lambda: Stroke(Tool.TICK, dot * 2, 3.0),
            lambda: Stroke(Tool.PEN, ((1.0, 1.0, 2.0),), 3.0), lambda: Stroke(Tool.PEN, dot, 0.0),
            lambda: Stroke(Tool.TEXT, dot, 9.0), lambda: Stroke(Tool.PEN, dot, 3.0, "words"),
            lambda: Stroke(Tool.PEN, dot * 5001, 3.0),
        ):  # fmt: skip
            with self.assertRaises(BadInk):
                wrong()

    def test_inkml_is_valid_and_holds_every_stroke(self) -> None:
        data = inkml([("page 1", 600.0, 850.0, [(one, "Thea Quayle") for one in STROKES]), ("page 2", 10.0, 10.0, [])])
        document = etree.fromstring(data)
        schema = etree.XMLSchema(etree.parse(str(Path(__file__).with_name("inkml.xsd"))))
        schema.assertValid(document)
        space = {"i": "http://www.w3.org/2003/InkML"}
        traces = document.findall(".//i:trace", space)
        self.assertEqual([one.get("contextRef") for one in traces], ["#page1"] * 4)
        self.assertEqual(len({one.get("brushRef") for one in traces}), 4)
        self.assertIn("units? <m/s> & √2", [one.text for one in document.findall(".//i:annotation", space)])
        self.assertEqual(document.find(".//i:trace", space).text, "10.00 20.00 0.400, 60.00 40.00 0.900")

    def test_marked_documents_are_read_by_two_readers(self) -> None:
        """Ink, free text and notes as ISO 32000-2 has them; pypdf reads them, PDFium draws them."""
        with TemporaryDirectory() as folder:
            source, out = Path(folder) / "bound.pdf", Path(folder) / "marked.pdf"
            source.write_bytes(bound())
            page = MarkedPage(
                600, 850, [(one, "Thea") for one in STROKES], [Said(0.5, "2b: 3 of 4", "Why? Σ over (all) parts \\ ok")]
            )
            annotate(source, [page], Paper.A4, "17 of 20 points", out)
            before = pypdfium2.PdfDocument(source.read_bytes())[0].render(scale=1).to_numpy().astype(int)
            document = pypdfium2.PdfDocument(out.read_bytes())
            document.init_forms()
            after = document[0].render(scale=1, may_draw_forms=True).to_numpy().astype(int)
            self.assertGreater(int((np.abs(after - before).max(axis=2) > 60).sum()), 300)
            annotations = [one.get_object() for one in pypdf.PdfReader(out).pages[0]["/Annots"]]
        kinds = sorted(one["/Subtype"] for one in annotations)
        self.assertEqual(kinds, ["/FreeText", "/FreeText", "/Ink", "/Ink", "/Ink", "/Text", "/Text"])
        words = {one["/Contents"] for one in annotations}
        self.assertLessEqual({"17 of 20 points", "2b: 3 of 4", "Why? Σ over (all) parts \\ ok"}, words)
        pen = next(one for one in annotations if one["/Subtype"] == "/Ink")
        x, y = (float(one) for one in pen["/InkList"][0][:2])
        left, bottom, right, top = (float(one) for one in pen["/Rect"])
        self.assertTrue(left < x < right and bottom < y < top)
