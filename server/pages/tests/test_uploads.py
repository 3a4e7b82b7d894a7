"""Files in pieces, as tus 1.0.0 (https://tus.io/protocols/resumable-upload) asks of a server."""

from __future__ import annotations

import base64
import errno
import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from unittest import mock
from uuid import uuid4

from django.conf import settings
from django.test import override_settings

from folios.beginning import create_folio
from pages import uploads
from pages.models import Original, Page, Upload
from testing.desk import NOW, DeskTestCase, picture

TUS = {"Tus-Resumable": "1.0.0"}


class InPieces(DeskTestCase):
    def uploads(self, method: str, address: str = "", body: bytes = b"", by: Any = None, **headers: Any) -> Any:
        client = self.as_(by or self.ilse)
        path = address or f"/api/folios/{self.folio.pk}/uploads"
        kind = "application/offset+octet-stream" if body else "application/octet-stream"
        said = TUS | {name.replace("_", "-"): str(value) for name, value in headers.items()}
        return client.generic(method, path, body, content_type=kind, headers=said)

    def announce(self, data: bytes, first: bytes = b"", **about: str) -> Any:
        said = {"filename": "IMG 1.jpg", **about}
        metadata = ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in said.items())
        return self.uploads("POST", body=first, Upload_Length=len(data), Upload_Metadata=metadata)

    def bytes_on_their_way(self) -> list[Path]:
        folders = [Path(settings.MEDIA_ROOT) / name for name in ("arriving", "pieces")]
        return [path for folder in folders for path in folder.rglob("*") if path.is_file()]

    def test_what_the_server_can_do(self) -> None:
        answer = self.as_(None).options(f"/api/folios/{self.folio.pk}/uploads")
        self.assertEqual((answer.status_code, answer["Tus-Version"]), (204, "1.0.0"))
        self.assertIn("creation-with-upload", answer["Tus-Extension"])

    def test_a_file_in_three_pieces_is_a_page_when_the_last_one_is_here(self) -> None:
        data = picture()
        address = self.announce(data)["Location"]
        for start in range(0, len(data), len(data) // 3 + 1):
            end = min(start + len(data) // 3 + 1, len(data))
            answer = self.uploads("PATCH", address, data[start:end], Upload_Offset=start)
            self.assertEqual((answer.status_code, answer["Upload-Offset"]), (204, str(end)))
        acknowledged = json.loads(answer["Folio-Acknowledged"])
        self.assertEqual(Page.objects.get().pk, acknowledged["page_id"])
        self.assertEqual(Original.objects.get().file_name, "IMG 1.jpg")
        self.assertEqual(self.bytes_on_their_way(), [])

    def test_a_small_file_comes_with_its_announcement(self) -> None:
        data = picture()
        answer = self.announce(data, first=data)
        self.assertEqual(answer.status_code, 201)
        self.assertEqual(json.loads(answer["Folio-Acknowledged"])["size"], len(data))

    def test_after_a_break_the_server_says_how_far_it_came_and_a_wrong_offset_is_refused(self) -> None:
        data = picture()
        address = self.announce(data, first=data[:100])["Location"]
        answer = self.uploads("HEAD", address)
        self.assertEqual((answer["Upload-Offset"], answer["Upload-Length"]), ("100", str(len(data))))
        self.assertEqual(answer["Cache-Control"], "no-store")
        self.assertEqual(self.uploads("PATCH", address, data[50:], Upload_Offset=50).status_code, 409)
        self.assertEqual(self.uploads("PATCH", address, data[100:], Upload_Offset=100).status_code, 204)
        with (Path(settings.MEDIA_ROOT) / Original.objects.get().stored_as).open("rb") as stored:
            self.assertEqual(stored.read(), data)

    def test_a_lost_acknowledgement_is_told_again(self) -> None:
        data = picture()
        address = self.announce(data, first=data)["Location"]
        again = json.loads(self.uploads("HEAD", address)["Folio-Acknowledged"])
        self.assertEqual((again["page_id"], again["already"]), (Page.objects.get().pk, False))

    def test_all_bytes_here_but_the_server_died_before_the_page_was_made(self) -> None:
        data = picture()
        with mock.patch("pages.uploads.take_in", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            self.announce(data, first=data)
        upload = Upload.objects.get()
        self.at(days=2)  # the sitting has closed meanwhile; its last byte had come in time
        answer = self.uploads("HEAD", f"/api/folios/{self.folio.pk}/uploads/{upload.pk}")
        self.assertIn("Folio-Acknowledged", answer)
        self.assertEqual(Page.objects.count(), 1)

    def test_of_two_that_send_the_same_bytes_one_is_heard(self) -> None:
        """A piece that was begun before another connection brought all of it, and ends after it."""
        data = picture()
        address = self.announce(data, first=data[:100])["Location"]
        slow = Upload.objects.get()

        def overtaken() -> Iterator[bytes]:
            yield data[100:150]
            self.assertEqual(self.uploads("PATCH", address, data[100:], Upload_Offset=100).status_code, 204)
            yield b"x" * (len(data) - 150)

        with self.assertRaises(uploads.WrongOffset):
            uploads.add(slow, 100, overtaken(), lambda: NOW)
        stored = Path(settings.MEDIA_ROOT) / Original.objects.get().stored_as
        self.assertEqual(stored.read_bytes(), data)
        self.assertEqual(self.bytes_on_their_way(), [])
        slow.refresh_from_db()
        with self.assertRaises(uploads.WrongOffset):
            uploads.add(slow, 100, iter([b"more"]), lambda: NOW)

    def test_two_that_take_it_in_at_once_make_one_page(self) -> None:
        self.taken_in_twice(overtaken_when_joined=False)

    def test_of_two_that_have_joined_the_pieces_one_takes_the_file_in(self) -> None:
        self.taken_in_twice(overtaken_when_joined=True)

    def taken_in_twice(self, *, overtaken_when_joined: bool) -> None:
        data = picture()
        with mock.patch("pages.uploads.take_in", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            self.announce(data, first=data)
        upload, joined = Upload.objects.get(), uploads._joined

        @contextmanager
        def overtaken(*arguments: Any) -> Iterator[Any]:
            def other() -> None:
                with mock.patch("pages.uploads._joined", joined):
                    uploads.complete(upload.pk, NOW)

            if not overtaken_when_joined:
                other()
            with joined(*arguments) as received:
                if overtaken_when_joined:
                    other()
                yield received

        with mock.patch("pages.uploads._joined", overtaken):
            taken = uploads.complete(upload.pk, NOW)
        self.assertEqual((taken.original, taken.already), (Original.objects.get(), False))
        self.assertEqual(Page.objects.count(), 1)

    def test_pieces_that_are_not_all_of_it_are_no_file(self) -> None:
        data = picture()
        self.announce(data, first=data[:100])
        upload = Upload.objects.get()
        with self.assertRaises(uploads.WrongOffset):
            uploads.complete(upload.pk, NOW)
        Upload.objects.update(here=len(data))
        with self.assertRaises(OSError):
            uploads.complete(upload.pk, NOW)
        self.assertEqual(Page.objects.count(), 0)

    def test_a_wrong_kind_is_refused_with_its_first_piece_and_leaves_nothing(self) -> None:
        data = b"PK\x03\x04" + bytes(5000)
        answer = self.announce(data, first=data[:2000])
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "wrong_kind"))
        self.assertFalse(Upload.objects.exists())
        self.assertEqual(self.bytes_on_their_way(), [])

    def test_a_kind_that_this_assignment_does_not_take_is_refused_with_its_first_piece(self) -> None:
        type(self.work).objects.filter(pk=self.work.pk).update(page_kinds="pdf")
        data = picture() + bytes(5000)
        answer = self.announce(data, first=data[:2000])
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "kind_not_taken"))

    def test_more_bytes_than_announced_are_refused(self) -> None:
        answer = self.announce(picture()[:50], first=picture())
        self.assertEqual((answer.status_code, answer.json()["code"]), (413, "too_long"))
        self.assertFalse(Upload.objects.exists())

    @override_settings(FOLIO_MAX_FILE_MB=0)
    def test_too_large_a_file_is_refused_before_a_byte_is_sent(self) -> None:
        self.assertEqual(self.announce(picture()).json()["code"], "too_large")

    def test_a_full_disk_is_said_and_what_was_there_stays_whole(self) -> None:
        data = picture()
        address = self.announce(data, first=data[:100])["Location"]
        with (
            self.assertLogs("plumbing.errors", "CRITICAL"),
            mock.patch("os.fsync", side_effect=OSError(errno.ENOSPC, "No space left on device")),
        ):
            answer = self.uploads("PATCH", address, data[100:], Upload_Offset=100)
        self.assertEqual((answer.status_code, answer.json()["code"]), (507, "no_room"))
        self.assertEqual(self.uploads("HEAD", address)["Upload-Offset"], "100")
        self.assertEqual(self.uploads("PATCH", address, data[100:], Upload_Offset=100).status_code, 204)
        self.assertEqual(Page.objects.count(), 1)

    def test_giving_up_forgets_the_bytes(self) -> None:
        address = self.announce(picture(), first=picture()[:100])["Location"]
        self.assertEqual(self.uploads("DELETE", address).status_code, 204)
        self.assertEqual(self.uploads("HEAD", address).status_code, 404)

    def test_another_version_of_the_protocol_is_refused_with_ours(self) -> None:
        client = self.as_(self.ilse)
        answer = client.head(f"/api/folios/{self.folio.pk}/uploads/{uuid4()}", headers={"Tus-Resumable": "0.2"})
        self.assertEqual((answer.status_code, answer["Tus-Version"]), (412, "1.0.0"))

    def test_an_upload_is_its_students_alone(self) -> None:
        address = self.announce(picture())["Location"]
        self.assertEqual(self.uploads("HEAD", address, by=self.tobin).status_code, 404)
        self.assertEqual(self.uploads("PATCH", address, b"x", by=self.corin, Upload_Offset=0).status_code, 404)

    def test_a_sitting_that_has_closed_takes_no_announcement(self) -> None:
        self.folio = create_folio(self.sitting, self.ilse, NOW)
        self.at(minutes=111)
        self.assertEqual(self.announce(picture()).json()["code"], "closed")


class ChosenTogether(DeskTestCase):
    def test_files_that_land_in_any_order_lie_in_the_order_they_were_chosen(self) -> None:
        batch = uuid4()
        first = self.send(picture(9)).json()["page_id"]
        pages = {}
        for number in (2, 0, 3, 1):
            path = f"/api/folios/{self.folio.pk}/originals?name=IMG_{number}.jpg&batch={batch}&number={number}"
            answer = self.as_(self.ilse).put(path, picture(number), content_type="application/octet-stream")
            pages[number] = answer.json()["page_id"]
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.arrangement["order"], [first, *(pages[number] for number in range(4))])
