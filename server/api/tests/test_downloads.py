"""Downloads: few at a time for a person, by the proxy where there is one; and text that no database takes."""

from __future__ import annotations

import asyncio
import io
import json
from typing import Any
from unittest import mock

from django.test import override_settings

from pages.models import Original
from plumbing import downloads
from testing.desk import DeskTestCase, picture


class Downloads(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.send(picture())
        self.path = f"/api/originals/{Original.objects.get().pk}/file"

    def test_a_person_has_few_at_a_time_and_another_is_not_held_up(self) -> None:
        client = self.as_(self.ilse)
        open_ones: list[Any] = [client.get(self.path) for _ in range(downloads._MOST_A_PERSON)]
        refused = client.get(self.path)
        self.assertEqual((refused.status_code, refused.json()["code"]), (429, "too_many_downloads"))
        self.assertEqual(self.as_(self.corin).get(self.path).status_code, 200)
        self.assertEqual(b"".join(open_ones[0].streaming_content), picture())
        self.assertEqual(client.get(self.path).status_code, 200)

    def test_it_is_read_piece_by_piece_as_the_other_side_takes_it(self) -> None:
        answer = downloads.StoredFile(io.BytesIO(picture()))

        async def read() -> list[bytes]:
            return [chunk async for chunk in answer]

        with mock.patch.object(downloads, "_CHUNK", 100):
            chunks = asyncio.run(read())
        self.assertEqual(b"".join(chunks), picture())
        self.assertEqual({len(chunk) for chunk in chunks[:-1]}, {100})

    @override_settings(FOLIO_ACCEL="/stored")
    def test_a_proxy_that_serves_files_is_told_which_and_no_byte_comes_from_here(self) -> None:
        answer = self.as_(self.ilse).get(self.path)
        original = Original.objects.get()
        self.assertEqual(answer["X-Accel-Redirect"], f"/stored/{original.stored_as}")
        self.assertEqual(answer.getvalue(), b"")
        self.assertIn('attachment; filename="IMG_1.jpg"', answer["Content-Disposition"])
        self.assertEqual(self.as_(self.tobin).get(self.path).status_code, 404)

    def test_what_no_database_takes_is_refused_in_words(self) -> None:
        for path, body in (
            ("/api/session", {"email": "\0", "password": "\0"}),
            (
                f"/api/folios/{self.folio.pk}/pledge",
                {"pages": [{"sha256": "0" * 64, "size": 10**30, "file_name": "a"}]},
            ),
        ):
            answer = self.as_(self.ilse).post(path, json.dumps(body), "application/json")
            self.assertEqual(answer.status_code, 422, path)

    def test_every_refusal_has_the_one_form_of_the_api(self) -> None:
        """Found by fuzzing: bodies that are none, fields of another kind, addresses that are none."""
        pledge = f"/api/folios/{self.folio.pk}/pledge"
        client = self.as_(self.ilse)
        for answer in (
            client.post(pledge, "{", "application/json"),
            client.post(pledge, "[]", "application/json"),
            client.post(pledge, "null", "application/json"),
            client.post(pledge, json.dumps({"pages": 7}), "application/json"),
            client.post(pledge, b"\xff\xfe", "application/json"),
            client.post("/api/password-links/use", "{}", "application/json"),
            client.get("/api/folios/not-a-number"),
        ):
            self.assertEqual(set(answer.json()), {"code", "message"}, answer.content)
            self.assertIn(answer.status_code, (400, 404, 422))
