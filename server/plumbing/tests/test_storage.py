"""Where bytes lie: whole or not at all, on a disk or in an object storage."""

from __future__ import annotations

import hashlib
import tempfile
from pathlib import Path

from django.test import SimpleTestCase, override_settings

from folios import files


class OnDisk(SimpleTestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(override_settings(MEDIA_ROOT=self.folder))

    def test_an_image_is_named_by_its_hash(self) -> None:
        name = files.put_image(7, b"jpeg bytes")
        self.assertEqual(name, hashlib.sha256(b"jpeg bytes").hexdigest())
        self.assertEqual(files.get(files.image_name(7, name)), b"jpeg bytes")

    def test_writing_again_replaces_whole_and_leaves_no_parts(self) -> None:
        files.put("bound/1/edition-1.pdf", b"first")
        files.put("bound/1/edition-1.pdf", b"second")
        self.assertEqual(files.get("bound/1/edition-1.pdf"), b"second")
        self.assertEqual([path.name for path in (self.folder / "bound" / "1").iterdir()], ["edition-1.pdf"])

    def test_a_landed_file_is_moved_not_copied(self) -> None:
        part = self.folder / "part"
        part.write_bytes(b"bytes")
        inode = part.stat().st_ino
        files.move_into_place(part, "originals/1/abc")
        self.assertFalse(part.exists())
        self.assertEqual((self.folder / "originals/1/abc").stat().st_ino, inode)


class InAnObjectStorage(SimpleTestCase):
    """Django's in-memory storage stands for any that is no folder (django-storages in production)."""

    def setUp(self) -> None:
        storage = {"BACKEND": "django.core.files.storage.InMemoryStorage"}
        static = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
        self.enterContext(override_settings(STORAGES={"default": storage, "staticfiles": static}))

    def test_the_same_calls_work(self) -> None:
        name = files.put_image(7, b"jpeg bytes")
        self.assertEqual(files.get(files.image_name(7, name)), b"jpeg bytes")

    def test_a_landed_file_is_sent_there_and_taken_off_the_disk(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            part = Path(folder) / "part"
            part.write_bytes(b"bytes")
            files.move_into_place(part, "originals/1/abc")
            self.assertFalse(part.exists())
        self.assertEqual(files.get("originals/1/abc"), b"bytes")
