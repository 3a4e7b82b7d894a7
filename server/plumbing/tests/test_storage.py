"""Where bytes lie: whole or not at all, on a disk or in an object storage."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django.test import SimpleTestCase, override_settings

from plumbing import storage


class OnDisk(SimpleTestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(override_settings(MEDIA_ROOT=self.folder))

    def test_writing_again_replaces_whole_and_leaves_no_parts(self) -> None:
        storage.put("bound/1/edition-1.pdf", b"first")
        storage.put("bound/1/edition-1.pdf", b"second")
        self.assertEqual(storage.get("bound/1/edition-1.pdf"), b"second")
        self.assertEqual([path.name for path in (self.folder / "bound" / "1").iterdir()], ["edition-1.pdf"])

    def test_a_landed_file_is_moved_not_copied(self) -> None:
        part = self.folder / "part"
        part.write_bytes(b"bytes")
        inode = part.stat().st_ino
        storage.move_into_place(part, "originals/1/abc")
        self.assertFalse(part.exists())
        self.assertEqual((self.folder / "originals/1/abc").stat().st_ino, inode)


class InAnObjectStorage(SimpleTestCase):
    """Django's in-memory storage stands for any that is no folder (django-storages in production)."""

    def setUp(self) -> None:
        storage = {"BACKEND": "django.core.files.storage.InMemoryStorage"}
        static = {"BACKEND": "django.contrib.staticstorage.storage.StaticFilesStorage"}
        self.enterContext(override_settings(STORAGES={"default": storage, "staticfiles": static}))

    def test_the_same_calls_work(self) -> None:
        storage.put("prepared/7/image", b"jpeg bytes")
        self.assertEqual(storage.get("prepared/7/image"), b"jpeg bytes")

    def test_a_landed_file_is_sent_there_and_taken_off_the_disk(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            part = Path(folder) / "part"
            part.write_bytes(b"bytes")
            storage.send_ahead(part, "originals/1/abc")
            self.assertTrue(part.exists())
            storage.move_into_place(part, "originals/1/abc")
            self.assertFalse(part.exists())
        self.assertEqual(storage.get("originals/1/abc"), b"bytes")
