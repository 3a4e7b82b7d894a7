from __future__ import annotations

import os
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.core.files.base import ContentFile
from procrastinate.contrib.django.models import ProcrastinateJob

from pages.models import Upload
from testing.desk import NOW, DeskTestCase, picture
from upkeep.sweeping import Swept, sweep


class Sweeping(DeskTestCase):
    def file(self, name: str, age: timedelta) -> Path:
        path = Path(settings.MEDIA_ROOT) / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x")
        then = (NOW - age).timestamp()
        os.utime(path, (then, then))
        return path

    def test_what_belongs_to_nobody_goes_after_a_day_and_not_before(self) -> None:
        day, hour = timedelta(days=1, minutes=1), timedelta(hours=1)
        mine = self.folio.pk
        names = (f"originals/{mine}/{'a' * 64}", "arriving/x", "pieces/x", f"prepared/{mine}/.p.1")
        old = [self.file(name, day) for name in names]
        young = [self.file(name, hour) for name in (f"originals/{mine}/{'b' * 64}", "arriving/y", "pieces/y")]
        Upload.objects.create(folio=self.folio, size=1, set_out_at=NOW - day)
        self.assertEqual(sweep(NOW).files_removed, 4)
        self.assertFalse(any(path.exists() for path in old))
        self.assertTrue(all(path.exists() for path in young))
        self.assertFalse(Upload.objects.exists())

    def test_no_page_image_or_document_of_anybodys_is_ever_removed(self) -> None:
        self.send(picture())
        self.work_off_jobs()
        self.hand_in()
        self.work_off_jobs()
        root = Path(settings.MEDIA_ROOT)
        there = {path for path in root.rglob("*") if path.is_file()}
        self.assertGreaterEqual(len(there), 4)
        self.assertEqual(sweep(NOW + timedelta(days=400)).files_removed, 0)
        self.assertEqual({path for path in root.rglob("*") if path.is_file()}, there)

    def test_what_was_left_undone_is_begun_again_once(self) -> None:
        self.send(picture())
        self.hand_in()
        self.work.question_paper.save("paper.jpg", ContentFile(picture()))
        self.assertEqual(sweep(NOW), Swept(0, 0))
        ProcrastinateJob.objects.all().delete()
        self.assertEqual(sweep(NOW).jobs_enqueued, 3)  # a page, a document, a question paper
        self.assertEqual(sweep(NOW).jobs_enqueued, 0)
