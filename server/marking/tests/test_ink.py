"""Ink stays where it was drawn: once, on the same writing, whatever becomes of the page."""

from __future__ import annotations

import uuid
import xml.etree.ElementTree as ET

from editions.models import EditionPage
from folio_core.marking.ink import NAMESPACE
from folio_core.page import Geometry
from marking.models import Ink

from .cases import MarkingTestCase

KEY = "6b3a2d0c-3f3c-4a51-9a51-0c8d8f6a1b11"


class Strokes(MarkingTestCase):
    def test_a_stroke_that_is_sent_twice_is_there_once(self) -> None:
        self.assertEqual(self.draw(KEY).status_code, 200)
        self.assertEqual(self.draw(KEY).status_code, 200)
        self.assertEqual(Ink.objects.count(), 1)

    def test_it_comes_back_where_it_was_drawn(self) -> None:
        drawn = self.draw(KEY).json()
        for got, sent in zip(drawn["points"], [[0.2, 0.3, 0.5], [0.4, 0.35, 0.7]], strict=True):
            for one, other in zip(got, sent, strict=True):
                self.assertAlmostEqual(one, other, places=2)
        self.assertAlmostEqual(drawn["width"], 0.004, places=4)

    def test_ink_lies_on_the_same_writing_when_the_page_is_turned(self) -> None:
        """The page of a newer edition stands on its head: what was at the upper left is at the lower right."""
        self.draw(KEY)
        page = self.edition.pages.get(number=1)
        geometry = page.geometry
        corners = geometry.corners[2:] + geometry.corners[:2]
        turned = Geometry(corners, geometry.width, geometry.height, geometry.lean_deg, None)
        EditionPage.objects.filter(pk=page.pk).update(kept_geometry=turned.as_document())
        (ink,) = self.row("1a")["cuts"][0]["ink"]
        self.assertAlmostEqual(ink["points"][0][0], 0.8, places=2)
        self.assertAlmostEqual(ink["points"][0][1], 0.7, places=2)

    def test_who_reads_page_by_page_sees_ink_and_points_and_its_student_does_not(self) -> None:
        self.draw(KEY, self.thea)
        self.mark("1a", "2.5", self.thea)
        path = f"folios/{self.edition.folio_id}/editions/1/marked"
        told = self.ask("get", path).json()
        self.assertEqual([one["key"] for page in told["pages"] for one in page["ink"]], [KEY])
        self.assertEqual(told["points"], [{"label": "1a", "points": "2.5"}])
        self.assertEqual(self.ask("get", path, by=self.ilse).status_code, 404)
        self.scheme(marks_twice=True)
        independent = self.ask("get", path, by=self.osric).json()
        self.assertEqual(independent, {"pages": [], "points": []})  # nor that there is any
        self.arranged(self.folio)
        self.assertEqual(self.ask("get", path).json(), {"pages": [], "points": []})

    def test_what_was_erased_is_kept_and_can_be_drawn_again(self) -> None:
        self.draw(KEY)
        self.assertEqual(self.ask("delete", f"ink/{KEY}").status_code, 204)
        self.assertEqual(self.row("1a")["cuts"][0]["ink"], [])
        self.draw(KEY)
        self.assertEqual(len(self.row("1a")["cuts"][0]["ink"]), 1)

    def test_a_marker_erases_only_their_own(self) -> None:
        self.draw(KEY, self.thea)
        self.assertEqual(self.ask("delete", f"ink/{KEY}", by=self.osric).status_code, 404)
        self.assertEqual(self.ask("delete", f"ink/{KEY}", by=self.ilse).status_code, 404)
        self.assertEqual(self.ask("delete", f"ink/{KEY}", by=self.thea).status_code, 204)

    def test_nobody_takes_over_the_name_of_anothers_stroke(self) -> None:
        self.draw(KEY, self.thea)
        self.assertEqual(self.draw(KEY, self.osric).status_code, 409)

    def test_what_is_no_ink_is_refused(self) -> None:
        for wrong in (
            {"points": [[5, 0.1, 0.5]]}, {"points": [[0.1, 0.1, 2]]}, {"tool": "text", "text": " "},
            {"tool": "tick", "points": [[0.1, 0.1, 0.5], [0.2, 0.2, 0.5]]}, {"page": 0},
        ):  # fmt: skip
            self.assertEqual(self.draw(str(uuid.uuid4()), **wrong).status_code, 422, wrong)
        self.assertEqual(Ink.objects.count(), 0)

    def test_ink_goes_out_as_inkml_in_pixels_of_the_original(self) -> None:
        self.draw(KEY, self.thea)
        root = ET.fromstring(self.ask("get", f"folios/{self.edition.folio_id}/editions/1/ink.inkml").content)
        trace = root.find(f".//{{{NAMESPACE}}}trace")
        assert trace is not None
        assert trace.text is not None
        x, y, _ = map(float, trace.text.split(",")[0].split())
        self.assertAlmostEqual(x, 0.2 * 60, delta=1)
        self.assertAlmostEqual(y, 0.3 * 84, delta=1)
