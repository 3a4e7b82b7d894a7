"""A disk that fails at each step in turn: what was acknowledged is whole, what was not leaves nothing that counts."""

from __future__ import annotations

import base64
import errno
import hashlib
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any
from unittest import mock

from django.test import Client

from pages.models import Original, Page
from plumbing import storage
from testing.desk import DeskTestCase, picture

_STEPS = ("os.fsync", "os.replace", "pages.arrival.move_into_place", "plumbing.storage._flush_folder")
_KIND = "application/offset+octet-stream"


@contextmanager
def failing(step: str, at: int) -> Iterator[list[int]]:
    """The ``at``-th call of a step fails as a broken disk does. What is yielded counts the calls."""
    module, _, name = step.rpartition(".")
    inner: Callable[..., Any] = {"os": os, "pages.arrival": storage, "plumbing.storage": storage}[module].__dict__[name]
    calls: list[int] = []

    def fails(*arguments: Any) -> Any:
        calls.append(1)
        if len(calls) == at:
            raise OSError(errno.EIO, "Input/output error")
        return inner(*arguments)

    with mock.patch(step, fails):
        yield calls


class DiskFaults(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.ilse, backend="django.contrib.auth.backends.ModelBackend")
        self.folder = f"/api/folios/{self.folio.pk}"

    def require_whole(self, data: bytes) -> None:
        """Exactly one original of these bytes, as they were sent."""
        original = Original.objects.get(folio=self.folio, sha256=hashlib.sha256(data).hexdigest())
        self.assertEqual(storage.get(original.stored_as), data)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["order"].count(original.pages.get().pk), 1)

    def put(self, data: bytes) -> int:
        return self.client.put(f"{self.folder}/originals?name=a.jpg", data, "application/octet-stream").status_code

    def test_a_file_in_one_request(self) -> None:
        for number, step in enumerate(_STEPS):
            for at in (1, 2):
                data = picture(10 * number + at)
                with self.subTest(step=step, at=at):
                    pages = Page.objects.count()
                    with failing(step, at) as calls, self.assertLogs(level="ERROR"):
                        status = self.put(data)
                        if len(calls) < at:
                            self.skip_logs()
                    if len(calls) >= at:
                        self.assertGreaterEqual(status, 500)
                        self.assertEqual(Page.objects.count(), pages)
                    self.assertEqual(self.put(data), 200)
                    self.require_whole(data)

    def skip_logs(self) -> None:
        """`assertLogs` wants one: the step was not reached so often."""
        import logging

        logging.getLogger("nothing").error("not reached")

    def test_a_file_in_pieces_is_whole_in_the_end(self) -> None:
        for number, step in enumerate(_STEPS):
            for at in (1, 2, 3):
                data = picture(100 + 10 * number + at)
                with self.subTest(step=step, at=at):
                    with failing(step, at), self.assertLogs(level="ERROR"):
                        self.in_pieces(data)
                        self.skip_logs()
                    self.in_pieces(data)
                    self.require_whole(data)

    def in_pieces(self, data: bytes) -> None:
        sha256 = hashlib.sha256(data).hexdigest()
        metadata = f"filename {base64.b64encode(b'a.jpg').decode()},sha256 {base64.b64encode(sha256.encode()).decode()}"
        tus = {"Tus-Resumable": "1.0.0"}
        told = {**tus, "Upload-Length": str(len(data)), "Upload-Metadata": metadata}
        answer = self.client.post(f"{self.folder}/uploads", headers=told)
        if answer.status_code != 201:
            return
        at, address = 0, answer["Location"]
        for _ in range(20):
            piece = data[at : at + 700]
            answer = self.client.patch(address, piece, _KIND, headers={**tus, "Upload-Offset": str(at)})
            where = self.client.head(address, headers=tus)
            if where.status_code != 200:
                continue
            at = int(where["Upload-Offset"])
            if at == len(data) and "Folio-Acknowledged" in where:
                return

    def test_an_acknowledged_original_is_never_written_to_again(self) -> None:
        data = picture(77)
        self.in_pieces(data)
        upload = self.folio.uploads.get()
        address = f"{self.folder}/uploads/{upload.key}"
        for offset in (0, 700, len(data)):
            headers = {"Tus-Resumable": "1.0.0", "Upload-Offset": str(offset)}
            self.client.patch(address, b"other bytes", _KIND, headers=headers)
        self.client.delete(address, headers={"Tus-Resumable": "1.0.0"})
        self.require_whole(data)
