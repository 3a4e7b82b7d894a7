from __future__ import annotations

import tempfile
from pathlib import Path

from django.http import HttpResponse
from django.test import RequestFactory, SimpleTestCase, override_settings

from inkedfolio.static_files import StaticFiles


class Files(SimpleTestCase):
    def setUp(self) -> None:
        root = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (root / "app").mkdir()
        (root / "app" / "strip.css").write_text(".strip { display: flex }")
        self.enterContext(override_settings(STATIC_ROOT=str(root), DEBUG=False))
        self.files = StaticFiles(lambda request: HttpResponse("nobody", status=404))

    def test_a_file_is_answered_whole_in_part_and_not_at_all_where_it_is_known(self) -> None:
        ask = RequestFactory()
        whole = self.files(ask.get("/static/app/strip.css"))
        self.assertEqual((whole.status_code, whole.content), (200, b".strip { display: flex }"))
        self.assertEqual(whole["content-type"], 'text/css; charset="utf-8"')
        part = self.files(ask.get("/static/app/strip.css", headers={"Range": "bytes=1-5"}))
        self.assertEqual((part.status_code, part.content), (206, b"strip"))
        known = self.files(ask.get("/static/app/strip.css", headers={"If-None-Match": whole["etag"]}))
        self.assertEqual((known.status_code, known.content), (304, b""))
        self.assertEqual(self.files(ask.get("/static/app/none.css")).status_code, 404)
