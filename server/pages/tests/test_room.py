"""How much one student's files may take, and that nothing is kept of what may not come."""

from __future__ import annotations

import base64
from collections import namedtuple
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.test import override_settings

from assignments.rehearsal import rehearsal_of
from folio_core import clock
from folios.beginning import create_folio
from pages import doors, room
from pages.arrival import require_may_arrive
from pages.models import Original, Page, Pledge
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture
from testing.doors import by_fast_lane, through_gate

Disk = namedtuple("Disk", "total used free")


class Room(DeskTestCase):
    def announce(self, size: int) -> Any:
        headers = {
            "Tus-Resumable": "1.0.0", "Upload-Length": str(size),
            "Upload-Metadata": f"filename {base64.b64encode(b'a.jpg').decode()}",
        }  # fmt: skip
        return self.as_(self.ilse).post(f"/api/folios/{self.folio.pk}/uploads", headers=headers)

    def fill(self, size: int, **fields: Any) -> Original:
        return Original.objects.create(
            folio=self.folio, file_name="a.jpg", kind="jpeg", sha256=f"{size}", size=size, stored_as="", arrived_at=NOW,
            verdict="in_time", **fields,
        )  # fmt: skip

    @override_settings(FOLIO_MOST_MB_A_FOLIO=1)
    def test_all_bytes_of_a_folio_count_failed_pages_and_files_on_their_way_too(self) -> None:
        failed = self.fill(400_000)
        Page.objects.create(folio=self.folio, original=failed, state=Page.State.FAILED)
        self.assertEqual(self.announce(500_000).status_code, 201)
        refused = self.announce(200_000)
        self.assertEqual((refused.status_code, refused.json()["code"]), (422, "no_more_room"))
        big = self.fast(b"x" * 150_000)
        self.assertEqual((big.status_code, big.json()["code"]), (422, "no_more_room"))
        self.assertEqual(self.fast(picture()).status_code, 200)

    def fast(self, data: bytes) -> Any:
        return by_fast_lane(self.as_(self.ilse), f"/api/folios/{self.folio.pk}/originals", "name=a.jpg", data)

    @override_settings(FOLIO_MOST_FILES_A_FOLIO=2)
    def test_the_number_of_files_is_limited_too(self) -> None:
        self.fill(1)
        self.fill(2)
        self.assertEqual(self.fast(picture()).json()["code"], "no_more_room")
        self.assertEqual(self.send(picture()).json()["code"], "no_more_room")

    @override_settings(FOLIO_MOST_MB_A_FOLIO=1)
    def test_what_comes_at_the_same_time_counts_and_is_let_go_of_at_its_end(self) -> None:
        room.enter(self.folio, 900_000)
        self.assertEqual(self.fast(b"x" * 200_000).json()["code"], "no_more_room")
        room.leave(self.folio.pk, 900_000)
        self.assertEqual(self.fast(picture()).status_code, 200)
        self.assertEqual(room._passing[self.folio.pk], 0)

    @override_settings(FOLIO_MOST_MB_A_FOLIO=1)
    def test_rehearsals_share_their_room_and_leave_that_of_real_work(self) -> None:
        rehearsal = rehearsal_of(self.work, NOW)
        first = create_folio(rehearsal, self.ilse, NOW)
        self.folio = first
        self.fill(900_000)
        first.attempt = 2
        first.pk = None
        first.save()
        self.assertEqual(self.fast(b"x" * 200_000).json()["code"], "no_more_room")

    @override_settings(FOLIO_MOST_MB_A_FOLIO=1, FOLIO_DISK_RESERVE_MB=1)
    def test_the_disks_last_room_is_kept_for_those_who_have_sent_little(self) -> None:
        with mock.patch("shutil.disk_usage", return_value=Disk(0, 0, 900_000)):
            self.assertEqual(self.fast(picture(230)).status_code, 200)
            self.fill(200_000)
            refused = self.fast(picture(231))
        self.assertEqual((refused.status_code, refused.json()["code"]), (507, "no_room"))
        self.assertEqual(self.fast(picture(231)).status_code, 200)  # and goes on when there is room again

    @override_settings(FOLIO_MOST_MB_A_FOLIO=1)
    def test_the_board_says_so_before_it_hurts(self) -> None:
        board = f"/api/folios/{self.folio.pk}"
        self.assertIsNone(self.as_(self.ilse).get(board).json()["room"])
        self.fill(850_000)
        said = self.as_(self.ilse).get(board).json()["room"]
        self.assertEqual((said["megabytes"], said["most_megabytes"], said["files"]), (0, 1, 1))


def judged_sha256(headers: list[tuple[bytes, bytes]]) -> str:
    return doors._sha256_in({"query_string": b"", "headers": headers})


class BeforeTheFirstByte(DeskTestCase):
    """No session, another's folio, a closed one, a camera link that ended: nothing of the body is kept."""

    def refused(self, method: str, path: str, *headers: tuple[bytes, bytes], query: bytes = b"") -> tuple[int, str]:
        scope = {
            "type": "http", "method": method, "path": path, "root_path": "", "query_string": query, "scheme": "http",
            "server": ("testserver", 80), "headers": [(b"host", b"testserver"), (b"content-length", b"9000"), *headers],
        }  # fmt: skip
        half = {"type": "http.request", "body": b"x" * 4500, "more_body": True}
        with mock.patch("pages.arrival.Receiving.add", side_effect=AssertionError("a byte was kept")):
            answer = through_gate(scope, [half, {**half, "more_body": False}])
        return answer.status_code, answer.json()["code"]

    def test_each_door_asks_who_is_there(self) -> None:
        upload = "0" * 8 + "-0000-0000-0000-" + "0" * 12
        for method, path in (
            ("PUT", f"/api/folios/{self.folio.pk}/originals"),
            ("POST", f"/api/folios/{self.folio.pk}/uploads"),
            ("PATCH", f"/api/folios/{self.folio.pk}/uploads/{upload}"),
            ("POST", "/admin/assignments/assignment/add/"),
        ):
            with self.subTest(path):
                self.assertIn(self.refused(method, path), [(401, "signed_out"), (403, "stale_page")])
        self.assertEqual(self.refused("PUT", "/api/camera/originals", (b"folio-camera", b"guess")), (403, "link_ended"))
        self.assertFalse(any(Path(settings.MEDIA_ROOT).rglob("*.*")))

    def test_a_promised_file_is_announced_and_comes_in_pieces_after_the_close(self) -> None:
        """What it is, an announcement says among its metadata and a piece by the announced file."""
        folio = create_folio(self.sitting, self.ilse, NOW)
        sha256 = "a" * 64
        Pledge.objects.create(folio=folio, sha256=sha256, size=9, file_name="a.jpg", promised_at=NOW)
        self.at(minutes=111)
        metadata = b"filename YQ==,sha256 " + base64.b64encode(sha256.encode())
        self.assertEqual(judged_sha256([(b"upload-metadata", metadata)]), sha256)
        require_may_arrive(folio, judged_sha256([(b"upload-metadata", metadata)]), moment())
        with self.assertRaises(clock.SittingClosed):
            require_may_arrive(folio, judged_sha256([(b"upload-metadata", b"filename YQ==")]), moment())

    def test_a_closed_folio_takes_no_byte_but_knows_what_it_has(self) -> None:
        page = picture()
        path = f"/api/folios/{self.folio.pk}/originals"
        first = by_fast_lane(self.as_(self.ilse), path, "name=a.jpg", page)
        sha256 = first.json()["sha256"]
        self.at(days=2)
        client = self.as_(self.ilse)
        with mock.patch("pages.arrival.Receiving.add", side_effect=AssertionError("a byte was kept")):
            late = by_fast_lane(client, path, f"name=b.jpg&sha256={'0' * 64}", picture(200))
        self.assertEqual((late.status_code, late.json()["code"]), (403, "closed"))
        again = by_fast_lane(client, path, f"name=a.jpg&sha256={sha256}", page)
        self.assertEqual((again.status_code, again.json()["already"]), (200, True))
