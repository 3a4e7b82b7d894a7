"""Every file in the storage lies in a folder that backup, sweep and verify know, and is one that a row names."""

from __future__ import annotations

import io
from pathlib import Path

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.management import CommandError, call_command

from plumbing.storage import registered_folders
from testing.desk import DeskTestCase, picture


class Folders(DeskTestCase):
    def files(self) -> set[str]:
        root = Path(settings.MEDIA_ROOT)
        return {path.relative_to(root).as_posix() for path in root.rglob("*") if path.is_file()}

    def test_after_all_that_keeps_files_each_of_them_is_known(self) -> None:
        self.work.question_paper.save("paper.pdf", ContentFile(b"%PDF-1.7"))
        self.send(picture(1))
        self.send(picture(2))
        self.hand_in()
        self.work_off_jobs()
        known = {name for folder in registered_folders() for name in folder.named_files()}
        self.assertEqual(self.files(), known)
        self.assertEqual({name.split("/")[0] for name in known}, {"question-papers", "originals", "prepared", "bound"})
        call_command("verify_files", stdout=io.StringIO())

    def test_a_file_that_is_missing_or_changed_is_told(self) -> None:
        self.send(picture(1))
        (name,) = self.files()
        (Path(settings.MEDIA_ROOT) / name).write_bytes(b"other bytes")
        with self.assertRaisesMessage(CommandError, "1 of 1 files are missing or changed"):
            call_command("verify_files")
