"""With an object storage (S3) no machine needs another's disk: two of them share nothing but it and the database."""

from __future__ import annotations

import base64
import hashlib
import logging
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest import mock

import boto3
from django.core.files.storage import default_storage
from django.test import override_settings
from moto.server import ThreadedMotoServer

from pages.models import Original, Upload
from plumbing import storage
from testing.desk import DeskTestCase, picture
from upkeep.sweeping import sweep

_KEYS = {"access_key": "test", "secret_key": "test", "region_name": "us-east-1"}  # the server takes any


class ObjectStorage(DeskTestCase):
    server: ThreadedMotoServer

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
        cls.server.start()
        logging.getLogger("werkzeug").setLevel(logging.ERROR)  # the server's own lines
        cls.addClassCleanup(cls.server.stop)

    def setUp(self) -> None:
        super().setUp()
        host, port = self.server.get_host_and_port()
        address = f"http://{host}:{port}"
        client = boto3.client(
            "s3",
            endpoint_url=address,
            aws_access_key_id="test",
            aws_secret_access_key="test",
            region_name="eu-central-1",
        )
        client.create_bucket(Bucket="folios", CreateBucketConfiguration={"LocationConstraint": "eu-central-1"})
        self.addCleanup(self.forget_bucket, client)
        options = {"bucket_name": "folios", "endpoint_url": address, **_KEYS}
        s3 = {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}
        self.enterContext(self.settings(STORAGES={"default": s3, "staticfiles": {"BACKEND": _STATIC}}))

    def forget_bucket(self, client: Any) -> None:
        for one in client.list_objects_v2(Bucket="folios").get("Contents", []):
            client.delete_object(Bucket="folios", Key=one["Key"])
        client.delete_bucket(Bucket="folios")

    @contextmanager
    def machine(self) -> Iterator[None]:
        """Another machine: nothing on its disk."""
        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            yield
            self.assertEqual([path for path in Path(folder).rglob("*") if path.is_file()], [])

    def piece(self, address: str, data: bytes, at: int) -> Any:
        headers = {"Tus-Resumable": "1.0.0", "Upload-Offset": str(at)}
        kind = "application/offset+octet-stream"
        return self.as_(self.ilse).patch(address, data, kind, headers=headers)

    def announce(self, size: int) -> str:
        metadata = f"filename {base64.b64encode(b'a.jpg').decode()}"
        headers = {"Tus-Resumable": "1.0.0", "Upload-Length": str(size), "Upload-Metadata": metadata}
        answer = self.as_(self.ilse).post(f"/api/folios/{self.folio.pk}/uploads", headers=headers)
        return str(answer["Location"])

    def test_each_piece_may_come_to_another_machine(self) -> None:
        data = picture()
        half = len(data) // 2
        with self.machine():
            address = self.announce(len(data))
        with self.machine():
            self.assertEqual(self.piece(address, data[:half], 0)["Upload-Offset"], str(half))
        self.assertEqual(len(list(storage.names_in("pieces"))), 1)
        with self.machine():
            answer = self.piece(address, data[half:], half)
        self.assertIn("Folio-Acknowledged", answer)
        original = Original.objects.get()
        self.assertEqual(hashlib.sha256(storage.get(original.stored_as)).hexdigest(), original.sha256)
        self.assertEqual(list(storage.names_in("pieces")), [])

    def test_a_file_in_one_request_is_sent_before_a_row_is_locked(self) -> None:
        order: list[str] = []
        with (
            mock.patch("pages.arrival.locked", side_effect=lambda *_: order.append("locked") or 1 / 0),
            mock.patch("plumbing.storage.default_storage.save", side_effect=lambda *_: order.append("sent")),
            self.machine(),
            self.assertRaises(ZeroDivisionError),
        ):
            self.send(picture())
        self.assertEqual(order, ["sent", "locked"])

    def test_a_page_is_prepared_bound_and_read_without_a_shared_disk(self) -> None:
        with self.machine():
            self.send(picture())
        with self.machine():
            self.work_off_jobs()
        with self.machine():
            self.hand_in()
        with self.machine():
            self.work_off_jobs()
        with self.machine():
            edition = self.folio.editions.get()
            self.assertEqual(edition.state, "bound")
            self.assertTrue(default_storage.exists(Original.objects.get().stored_as))

    def test_what_belongs_to_nobody_is_swept_there_too(self) -> None:
        self.send(picture())
        address = self.announce(5000)
        self.piece(address, picture()[:100], 0)
        storage.put("originals/1/nobodys", b"x")
        kept = Original.objects.get().stored_as
        now = datetime.now(UTC)  # the object storage has a clock of its own
        self.assertEqual(sweep(now).files_removed, 0)
        self.assertEqual(sweep(now + timedelta(days=2)).files_removed, 2)
        self.assertEqual(list(storage.names_in("originals")), [kept])
        self.assertFalse(Upload.objects.exists())


_STATIC = "django.contrib.staticfiles.storage.StaticFilesStorage"
