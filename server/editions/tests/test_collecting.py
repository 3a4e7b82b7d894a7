"""What was handed in, in one archive: whole, named, and never in memory as a whole."""

from __future__ import annotations

import csv
import hashlib
import io
import tracemalloc
import zipfile
from collections.abc import Iterator
from typing import Any
from unittest import mock

import pypdf

from editions.collecting import Entry, archive
from editions.models import Edition
from folios.beginning import create_folio
from people.models import User
from testing.desk import NOW, DeskTestCase, picture


class Collecting(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        pages = [self.send(picture(shade), f"IMG_{shade}.jpg").json()["page_id"] for shade in (1, 2)]
        self.arrange(2, order=pages, placements={"1a": [{"page": pages[0]}], "2": [{"page": page} for page in pages]})
        self.hand_in()
        other = create_folio(self.work, self.tobin, NOW)
        page = self.send(picture(3), "a/b:c.jpg", by=self.tobin, folio=other).json()["page_id"]
        mine, self.folio = self.folio, other
        self.arrange(1, by=self.tobin, order=[page], placements={"2": [{"page": page}]})
        self.hand_in(by=self.tobin)
        self.folio = mine
        self.work_off_jobs()

    def zip(self, what: str) -> zipfile.ZipFile:
        answer = self.as_(self.corin).get(f"/api/assignments/{self.work.pk}/folios.zip?what={what}")
        self.assertEqual(answer.status_code, 200)
        data = b"".join(answer.streaming_content)  # type: ignore[arg-type]
        if "Content-Length" in answer.headers:
            self.assertEqual(len(data), int(answer["Content-Length"]))
        return zipfile.ZipFile(io.BytesIO(data))

    def test_bound_documents_have_their_proper_names_and_every_byte(self) -> None:
        with self.zip("bound") as files:
            self.assertIsNone(files.testzip())
            names = files.namelist()
            self.assertEqual(sorted(names)[1], "NAV_231_Great_circles_30417_Ilse_edition_1.pdf")
            hashes = {hashlib.sha256(files.read(name)).hexdigest() for name in names}
        self.assertEqual(hashes, set(Edition.objects.values_list("file_sha256", flat=True)))

    def test_how_far_it_is_written_is_told_to_who_fetches_it(self) -> None:
        told: list[dict[str, object]] = []
        with (
            mock.patch("api.folio_archive.announce", side_effect=lambda topic, **news: told.append({topic: news})),
            mock.patch("api.folio_archive.close_old_connections"),
        ):
            answer = self.as_(self.corin).get(
                f"/api/assignments/{self.work.pk}/folios.zip?what=questions&watch={'0a' * 16}"
            )
            pieces = iter(answer.streaming_content)  # type: ignore[arg-type]
            next(pieces)
            self.assertEqual(told, [])
            data = b"".join(pieces)  # type: ignore[arg-type]
        self.assertTrue(data)
        topic = f"archive:{self.corin.pk}:{'0a' * 16}"
        self.assertEqual(told[-1], {topic: {"written": 2, "of": 2}})

    def test_only_the_edition_that_counts_is_in_it(self) -> None:
        self.hand_in(seen_edition=1)
        self.work_off_jobs()
        with self.zip("bound") as files:
            self.assertEqual(len(files.namelist()), 2)
            self.assertIn("NAV_231_Great_circles_30417_Ilse_edition_2.pdf", files.namelist())

    def test_originals_lie_by_student_in_the_order_of_their_pages_under_safe_names(self) -> None:
        with self.zip("originals") as files:
            mine = [name for name in files.namelist() if "Ilse" in name]
            self.assertEqual([name.split("/")[1] for name in mine], ["01_IMG_1.jpg", "02_IMG_2.jpg"])
            self.assertEqual(files.read(mine[0]), picture(1))
            theirs = next(name for name in files.namelist() if "Tobin" in name)
            self.assertEqual(theirs.count("/"), 1)
            self.assertNotIn(":", theirs)

    def test_a_question_s_pdf_has_all_students_pages_of_it_and_an_entry_a_student(self) -> None:
        with self.zip("questions") as files:
            self.assertEqual(len(files.namelist()), 2)  # nobody answered 1b
            two = pypdf.PdfReader(io.BytesIO(files.read("NAV_231_Great_circles_question_2.pdf")))
            one = pypdf.PdfReader(io.BytesIO(files.read("NAV_231_Great_circles_question_1a.pdf")))
        self.assertEqual((len(one.pages), len(two.pages)), (1, 3))
        entries = {str(entry.title): two.get_destination_page_number(entry) for entry in two.outline}  # type: ignore[union-attr,arg-type]
        self.assertEqual(entries, {"Ilse (30417)": 0, "Tobin (30402)": 2})
        self.assertIn("Tobin (30402)", two.pages[2].extract_text())

    def test_an_archive_of_three_hundred_is_never_in_memory(self) -> None:
        """Half a megabyte each, 150 MB in all; what is held at once is measured, not how long it takes."""
        piece = bytes(256 * 1024)

        def read() -> Iterator[bytes]:
            yield from (piece, piece)

        entries = [Entry(f"{number}.pdf", 2 * len(piece), read) for number in range(300)]
        tracemalloc.start()
        try:
            made = archive(entries)
            length = sum(len(part) for part in made)
            peak = tracemalloc.get_traced_memory()[1]
        finally:
            tracemalloc.stop()
        self.assertGreater(length, 150_000_000)
        self.assertLess(peak, 5_000_000)

    def test_two_of_one_name_are_both_in_it(self) -> None:
        made = archive([Entry("a.pdf", 1, lambda: iter([b"x"])), Entry("A.pdf", 1, lambda: iter([b"y"]))])
        with zipfile.ZipFile(io.BytesIO(b"".join(made))) as files:
            self.assertEqual(files.namelist(), ["a.pdf", "A_2.pdf"])

    def test_nothing_handed_in_is_said_and_no_empty_file_given(self) -> None:
        answer = self.as_(self.corin).get(f"/api/assignments/{self.sitting.pk}/folios.zip?what=bound")
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "nothing_yet"))


class TheTable(DeskTestCase):
    def rows(self) -> list[dict[str, Any]]:
        answer = self.as_(self.corin).get(f"/api/assignments/{self.work.pk}/folios.csv")
        text = answer.content.decode("utf-8-sig")
        self.assertTrue(all(line.endswith("\r") for line in text.split("\n")[:-1]))  # RFC 4180, 2.1
        return list(csv.DictReader(io.StringIO(text, newline="")))

    def test_it_has_everybody_and_what_the_list_has(self) -> None:
        User.objects.filter(pk=self.tobin.pk).update(last_name='O"Hara, jr.')
        page = self.send(picture(1)).json()["page_id"]
        self.arrange(1, order=[page], placements={"1a": [{"page": page}]})
        self.hand_in()
        by_number = {row["number"]: row for row in self.rows()}
        mine = by_number["30417"]
        self.assertEqual((mine["edition"], mine["verdict"], mine["open_questions"]), ("1", "in_time", "1b 2"))
        self.assertEqual(mine["handed_in"], "2026-11-24T11:00:00-04:00")
        self.assertEqual(by_number["30402"]["student"], 'Tobin O"Hara, jr.')
        self.assertEqual(by_number["30402"]["edition"], "")

    def test_no_cell_is_a_formula(self) -> None:
        User.objects.filter(pk=self.tobin.pk).update(first_name="=HYPERLINK(1)", number="-3")
        row = next(row for row in self.rows() if "HYPERLINK" in row["student"])
        self.assertEqual((row["student"], row["number"]), ("'=HYPERLINK(1)", "'-3"))
