"""The demo data is loaded by the services that people use, and shows what it is meant to show."""

from __future__ import annotations

import io
import json
import re
import shutil
import tempfile
from datetime import timedelta
from pathlib import Path
from unittest import mock
from zoneinfo import ZoneInfo

import pypdf
from django.test import Client, TestCase, override_settings
from django.utils import timezone
from PIL import Image

from assignments.models import Assignment
from demo import loading, marking, photographs, printed_test, sample_people, scenario
from demo.question_paper import question_paper
from editions.models import Edition
from folio_camera import solutions
from folios.models import Folio
from people.models import User


class Scenario(TestCase):
    def test_every_part_of_every_assignment_has_a_worked_answer_and_a_question(self) -> None:
        for work in scenario.WORKS:
            labels = [part.label for part in work.parts]
            with self.subTest(work.key):
                on_paper = [part.label for part in work.parts if part.answering.takes_pages]
                self.assertEqual([answer.label for answer in work.answers()], on_paper)
                text = "".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(question_paper(work))).pages)
                for label in labels:
                    self.assertRegex(text, rf"(?m)^ ?{label}\b")

    def test_every_sheet_holds_answers_of_its_assignment_and_fits_on_paper(self) -> None:
        for work in scenario.WORKS:
            known = {part.label for part in work.parts}
            for one in work.sets:
                labels = [label for sheet in one.sheets for label in sheet.labels]
                self.assertTrue({label.partition("/")[0] for label in labels} <= known)
                self.assertEqual(len(labels), len(set(labels)))

    def test_everybody_has_a_mail_address_that_can_exist_nowhere(self) -> None:
        """RFC 2606, section 2: .example is reserved."""
        people = [*sample_people.ROSTERS["OCN 118"], sample_people.INSTRUCTOR, sample_people.ADMINISTRATOR]
        self.assertEqual(len({person.email for person in people}), len(people))
        self.assertTrue(all(person.email.endswith(".example") for person in people))

    def test_the_numbers_in_the_answers_are_right(self) -> None:
        """Great-circle distance of the haversine formula (R. W. Sinnott, Sky and Telescope 68, 1984; from memory)."""
        from math import asin, cos, degrees, radians, sin, sqrt

        a, b, dlong = radians(-38.5), radians(-33.9), radians(72.4)
        arc = 2 * asin(sqrt(sin((b - a) / 2) ** 2 + cos(a) * cos(b) * sin(dlong / 2) ** 2))
        self.assertAlmostEqual(solutions.great_circle(-38.5, -33.9, 72.4), degrees(arc), places=9)
        written = " ".join(solutions.great_circles()[1].lines)
        self.assertIn(f"{degrees(arc) * 60:.1f} nm", written)

    def test_angles_are_written_as_navigators_write_them(self) -> None:
        self.assertEqual(solutions.angle(38.2066), "38° 12.4'")
        self.assertEqual(solutions.angle(-0.5), "-0° 30.0'")
        self.assertEqual(solutions.angle(12.99999), "13° 00.0'")


class Loading(TestCase):
    def setUp(self) -> None:
        media = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, media)
        self.enterContext(override_settings(MEDIA_ROOT=media))

    def test_people_courses_and_assignments_come_once(self) -> None:
        self.assertFalse(loading.loaded())
        assignments = loading.load_people_and_courses(timezone.now())
        self.assertTrue(loading.loaded())
        self.assertEqual(set(assignments), {work.key for work in scenario.WORKS})
        everybody = {person.email for roster in sample_people.ROSTERS.values() for person in roster}
        self.assertEqual(User.objects.count(), len(everybody) + 3)  # with who teaches, marks and administers
        self.assertEqual([len(roster) for roster in sample_people.ROSTERS.values()], [12, 60])
        for assignment in Assignment.objects.all():
            assignment.full_clean()
            self.assertTrue(assignment.question_map.labels)

    def test_moments_are_neat_in_the_courses_zone(self) -> None:
        assignments = loading.load_people_and_courses(timezone.now())
        due = timezone.localtime(assignments["noon-sight"].due, ZoneInfo(scenario.TIME_ZONE))
        self.assertEqual(f"{due:%H:%M}", "15:00")

    def test_a_set_is_sent_placed_and_handed_in_as_its_student_would(self) -> None:
        """Mirela sends her pages out of order and puts them right; small photographs stand in for hers."""
        mirela = next(one for one in scenario.GREAT_CIRCLES.sets if one.send)
        assignments = loading.load_people_and_courses(timezone.now())
        folder = self.enterContext(tempfile.TemporaryDirectory())
        photos = [self.photo(folder, number, sheet.labels) for number, sheet in enumerate(mirela.sheets)]
        loading._load_set(assignments["great-circles"], mirela, timezone.now() - timedelta(days=1), photos)
        folio = Folio.objects.get()
        arrived = list(folio.originals.order_by("pk").values_list("file_name", flat=True))
        self.assertEqual(arrived, [f"IMG_{number}.jpg" for number in mirela.send])
        names = folio.pages.select_related("original").in_bulk()
        order = [names[pk].original.file_name for pk in folio.arrangement["order"]]
        self.assertEqual(order, [f"IMG_{number}.jpg" for number in range(5)])
        edition = Edition.objects.get()
        self.assertEqual((edition.page_count, edition.open_labels), (5, []))

    def test_some_are_sitting_the_midterm_and_two_need_their_instructor(self) -> None:
        now = timezone.now()
        assignments = loading.load_people_and_courses(now)
        folder = self.enterContext(tempfile.TemporaryDirectory())
        photos = [self.photo(folder, number, ()) for number in range(5)]
        loading.load_sitting(
            assignments["noon-sight"], dict.fromkeys((one.email for one in sample_people.STUDENTS), photos), now
        )
        client = Client()
        client.force_login(
            User.objects.get(email=sample_people.INSTRUCTOR.email), "django.contrib.auth.backends.ModelBackend"
        )
        lines = client.get(f"/api/assignments/{assignments['noon-sight'].pk}/sitting").json()["lines"]
        needs = {line["name"]: line["needs"] for line in lines if line["needs"]}
        self.assertEqual(needs, {"Dacre Whitlow": ["no_page"], "Wren Halloran": ["promised"]})
        self.assertEqual(sum(line["edition"] is not None for line in lines), 1)

    def test_a_printed_test_has_a_space_for_each_question_and_one_answer_left_empty(self) -> None:
        now = timezone.now()
        loading.load_people_and_courses(now)
        test = printed_test.load_printed_test(now, now + timedelta(days=4))
        test.refresh_from_db()
        test.full_clean()
        self.assertTrue(test.on_paper and test.clean_print)
        self.assertEqual(set(test.answer_spaces), {question.id for question in test.question_map.questions})
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        with mock.patch.object(printed_test, "photographed", return_value=b"a photograph") as taken:
            files = printed_test.photograph_printed_test(folder)
            self.assertEqual(printed_test.photograph_printed_test(folder), files)
        asked = {call.args[1]: call.args[2] for call in taken.call_args_list}
        self.assertEqual(asked, {2: ["5"], 0: ["1"], 1: ["2", "3"]})  # once each, all but the one left empty

    def test_marked_work_was_given_back_with_points_notes_and_ink(self) -> None:
        now = timezone.now()
        assignments = loading.load_people_and_courses(now)
        folder = self.enterContext(tempfile.TemporaryDirectory())
        (tides,) = scenario.TIDES.sets
        photos = [self.photo(folder, number, sheet.labels) for number, sheet in enumerate(tides.sheets)]
        loading._load_set(assignments["tides"], tides, now - timedelta(days=1), photos)
        marking.mark(assignments["tides"], marking.TIDES, now)
        marking.return_all(assignments["tides"], now)
        client = Client()
        client.force_login(
            User.objects.get(email=sample_people.ILSE.email), "django.contrib.auth.backends.ModelBackend"
        )
        back = client.get(f"/api/folios/{Folio.objects.get().pk}/returned").json()
        self.assertEqual(back["total"]["points"], "22.00")
        self.assertGreater(sum(len(page["ink"]) for page in back["pages"]), 5)

    def photo(self, folder: str, number: int, labels: tuple[str, ...]) -> photographs.Photo:
        path = Path(folder) / f"IMG_{number}.jpg"
        Image.new("RGB", (80, 112), (200 + number,) * 3).save(path)
        return photographs.Photo(path, dict.fromkeys(labels, 0.25))


class Photographs(TestCase):
    def test_what_was_photographed_once_is_kept(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        roll = scenario.phone_roll()
        for number in range(len(roll.set.sheets)):
            path = photographs._truth_path(folder, roll, number)
            path.parent.mkdir(parents=True, exist_ok=True)
            truth = {"of": photographs._fingerprint(roll, number), "tops": {"1a": 0.1}}
            path.write_text(json.dumps(truth))
        with mock.patch("demo.photographs.ProcessPoolExecutor") as pool:
            taken = photographs.take(folder, [roll])[roll.set.seed]
        pool.assert_not_called()
        self.assertTrue(all(re.fullmatch(r"IMG_41\d\d\.jpg", photo.path.name) for photo in taken))

    def test_one_that_was_kept_from_another_day_is_dated_anew_and_a_new_one_is_not(self) -> None:
        folder, roll = Path(self.enterContext(tempfile.TemporaryDirectory())), scenario.phone_roll()
        path = photographs._path(folder, roll, 0)
        path.parent.mkdir(parents=True, exist_ok=True)
        began = timezone.now()
        for taken, changes in ((began - timedelta(days=3), True), (began - timedelta(minutes=1), False)):
            exif = Image.Exif()
            exif[0x0132] = said = f"{taken:%Y:%m:%d %H:%M:%S}"
            Image.new("RGB", (80, 112)).save(path, exif=exif)
            photographs._date_anew(folder, roll, 0, began)
            now = Image.open(path).getexif()[0x0132]
            self.assertEqual(now, f"{began:%Y:%m:%d %H:%M:%S}" if changes else said)
