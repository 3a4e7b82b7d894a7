"""The stream of news ends with the session, and a person has few of them."""

from __future__ import annotations

import asyncio
import json
from typing import Any

from asgiref.sync import sync_to_async
from django.test import AsyncClient, TransactionTestCase
from django.utils import timezone

from api import streams
from assignments.models import Assignment, Question
from courses.models import Course, Enrolment
from folios.beginning import create_folio
from live.announcing import announce
from people.models import User

_LONG = 30


class Streams(TransactionTestCase):
    def setUp(self) -> None:
        now = timezone.now()
        course = Course.objects.create(code="NAV 231", title="Celestial Navigation")
        work = Assignment.objects.create(course=course, title="Set", opens=now, due=now + timezone.timedelta(days=1))
        Question.objects.create(assignment=work, label="1")
        self.ilse = User.objects.create_user("ilse@kestrelpoint.example", "a-long-password")
        Enrolment.objects.create(course=course, person=self.ilse)
        self.folio = create_folio(work, self.ilse, now)

    async def listen(self, client: AsyncClient) -> Any:
        answer = await client.get(f"/api/folios/{self.folio.pk}/news")
        stream = aiter(answer.streaming_content)
        self.assertIn(b"listening", await asyncio.wait_for(anext(stream), _LONG))
        return stream

    async def heard(self, stream: Any) -> list[dict[str, Any]]:
        """The next news, past lines that only say that it still listens."""
        while True:
            lines = (await asyncio.wait_for(anext(stream), _LONG)).split(b"\n\n")
            news = [json.loads(line.removeprefix(b"data: ")) for line in lines if line.startswith(b"data: ")]
            if news:
                return news

    async def signed_in(self) -> AsyncClient:
        client = AsyncClient()
        await client.aforce_login(self.ilse)
        return client

    async def test_it_ends_when_its_session_is_signed_out_and_no_other(self) -> None:
        one, other = await self.signed_in(), await self.signed_in()
        ending, staying = await self.listen(one), await self.listen(other)
        self.assertEqual((await one.delete("/api/session")).status_code, 204)
        with self.assertRaises(StopAsyncIteration):
            await asyncio.wait_for(anext(ending), _LONG)
        await sync_to_async(announce)(self.folio.topic, version=3)
        self.assertEqual((await self.heard(staying))[-1]["version"], 3)
        await staying.aclose()

    async def test_a_person_has_few_of_them_and_the_oldest_goes(self) -> None:
        client = await self.signed_in()
        opened = [await self.listen(client) for _ in range(streams.MOST_A_PERSON + 1)]
        ended = set()
        for version in (1, 2):
            await sync_to_async(announce)(self.folio.topic, version=version)
            for number, stream in enumerate(opened):
                try:
                    await asyncio.wait_for(anext(stream), _LONG)
                except StopAsyncIteration:
                    ended.add(number)
        self.assertEqual(ended, {0})  # the others hear both
