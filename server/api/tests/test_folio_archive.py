"""How far the writing of an archive is: told to who fetches it, and to nobody else."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Any

from asgiref.sync import sync_to_async
from django.test import AsyncClient, TransactionTestCase

from folios.beginning import create_folio
from people.models import User
from testing.desk import NOW, DeskTestCase, picture

WORD, ANOTHER = "0a" * 16, "0b" * 16


class ArchiveNews(TransactionTestCase):
    """Committed rows: what is announced is heard at the commit."""

    person, assignment, as_, send, ask = (
        DeskTestCase.person, DeskTestCase.assignment, DeskTestCase.as_, DeskTestCase.send, DeskTestCase.ask,
    )  # fmt: skip
    hand_in, work_off_jobs = DeskTestCase.hand_in, DeskTestCase.work_off_jobs

    def setUp(self) -> None:
        DeskTestCase.setUp(self)  # type: ignore[arg-type]
        self.send(picture(1), "one.jpg")
        self.hand_in()
        other = create_folio(self.work, self.tobin, NOW)
        self.send(picture(2), "two.jpg", by=self.tobin, folio=other)
        mine, self.folio = self.folio, other
        self.hand_in(by=self.tobin)
        self.folio = mine
        self.work_off_jobs()

    async def test_what_is_written_is_told_by_the_same_word_and_the_stream_ends_with_the_last_file(self) -> None:
        client = await self.client_of(self.corin)
        mine, others = await self.listen(client, WORD), await self.listen(client, ANOTHER)
        await self.fetch(client, WORD)
        self.assertEqual(await self.last_of(mine), {"written": 2, "of": 2})
        await self.fetch(client, ANOTHER)  # the first thing the other stream hears of is its own archive
        self.assertEqual(await self.last_of(others), {"written": 2, "of": 2})

    async def test_a_word_that_is_none_is_refused(self) -> None:
        client = await self.client_of(self.corin)
        for word in ("", "0a", "x" * 32, "0A" * 16):
            answer = await client.get(f"/api/assignments/{self.work.pk}/folios.zip/news?watch={word}")
            self.assertEqual(answer.status_code, 422, word)

    async def client_of(self, user: User) -> AsyncClient:
        client = AsyncClient()
        await sync_to_async(client.force_login)(user, backend="django.contrib.auth.backends.ModelBackend")
        return client

    async def listen(self, client: AsyncClient, word: str) -> AsyncIterator[Any]:
        answer = await client.get(f"/api/assignments/{self.work.pk}/folios.zip/news?watch={word}")
        stream = self.news(aiter(answer.streaming_content))
        self.assertEqual(await anext(stream), {"listening": True})
        return stream

    async def fetch(self, client: AsyncClient, word: str) -> None:
        answer = await client.get(f"/api/assignments/{self.work.pk}/folios.zip?what=bound&watch={word}")
        pieces = [piece async for piece in answer]  # as the server does: in threads of its own
        self.assertTrue(b"".join(pieces).startswith(b"PK"))

    async def last_of(self, stream: AsyncIterator[Any]) -> Any:
        """What is told last, when the stream has ended."""
        async with asyncio.timeout(120):
            return [news async for news in stream][-1]

    async def news(self, stream: AsyncIterator[bytes]) -> AsyncIterator[Any]:
        async for text in stream:
            for line in text.decode().splitlines():
                if line.startswith("data: "):
                    yield json.loads(line.removeprefix("data: "))
