"""`./folio backup` and `./folio restore` on a real cluster of their own, in a state folder of their own."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
_START = "from ops import checkout; c = checkout.cluster(); c.start(); c.ensure_database('inkedfolio')"
_STOP = "from ops import checkout; checkout.cluster().remove()"
_FILL = """
from datetime import timedelta
from django.utils import timezone
from assignments.models import Assignment
from courses.models import Course
from folios.beginning import create_folio
from pages.arrival import receive
from pages.sent import Sent
from people.models import User
import io; from PIL import Image
out = io.BytesIO(); Image.new("RGB", (60, 84), "white").save(out, "PNG")
now = timezone.now()
course = Course.objects.create(code="NAV 231", title="Celestial Navigation")
work = Assignment.objects.create(course=course, title="Set", opens=now, due=now + timedelta(days=1))
ilse = User.objects.create_user("ilse@kestrelpoint.example")
folio = create_folio(work, ilse, now)
receive(folio, [out.getvalue()], Sent("IMG_1.png"), timezone.now)
"""
_COUNT = "from pages.models import Original; print('originals', Original.objects.count())"


class BackupAndRestore(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.folder.chmod(0o755)  # PostgreSQL's own account must be able to enter
        self.environment = {
            name: value for name, value in os.environ.items() if not name.startswith(("FOLIO_", "DJANGO_"))
        } | {"FOLIO_STATE": str(self.folder / "state"), "FOLIO_ROOT": str(ROOT), "PYTHONPATH": str(ROOT)}
        self.python(_START)
        self.addCleanup(self.python, _STOP)
        self.folio("manage", "migrate", "--verbosity", "0")
        self.folio("manage", "shell", "-v", "0", "-c", _FILL)

    def python(self, code: str) -> None:
        subprocess.run([sys.executable, "-c", code], env=self.environment, check=True)

    def folio(self, *arguments: str, good: bool = True) -> str:
        command = [sys.executable, "-m", "ops", *arguments]
        done = subprocess.run(command, env=self.environment, cwd=ROOT, capture_output=True, text=True)
        self.assertEqual(done.returncode == 0, good, done.stdout + done.stderr)
        return done.stdout + done.stderr

    def test_what_was_backed_up_is_there_again_byte_for_byte_and_a_damaged_archive_changes_nothing(self) -> None:
        archive, media = self.folder / "b.tar", self.folder / "state" / "media"
        self.assertIn("Backed up the database and 1 files", self.folio("backup", str(archive)))
        self.assertEqual(archive.stat().st_mode & 0o077, 0, "it holds a key")
        self.assertIn("exists already", self.folio("backup", str(archive), good=False))
        self.assertIn("--replace", self.folio("restore", str(archive), good=False))

        damaged = self.folder / "damaged.tar"
        damaged.write_bytes(archive.read_bytes()[:5000])
        self.assertIn("not a backup", self.folio("restore", "--replace", str(damaged), good=False))
        self.python(_START)
        self.assertIn("1 files are there", self.folio("manage", "verify_files"))

        (original,) = (path for path in media.rglob("originals/*/*") if path.is_file())
        kept = original.read_bytes()
        original.unlink()
        self.assertIn("1 of 1 files are missing", self.folio("manage", "verify_files", good=False))
        self.assertIn("1 files are there", self.folio("restore", "--replace", str(archive)))
        self.assertEqual(original.read_bytes(), kept)
        self.python(_START)
        self.assertIn("originals 1", self.folio("manage", "shell", "-v", "0", "-c", _COUNT))
