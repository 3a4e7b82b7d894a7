"""The sitting as staff see it: lines, who needs them, and the stream."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from datetime import datetime, timedelta
from typing import Any

from asgiref.sync import sync_to_async
from django.test import AsyncClient, TransactionTestCase

from api import streams
from courses.models import Enrolment
from folios.beginning import begin, create_folio
from folios.models import folio_topic
from live.announcing import announce
from pages.models import Pledge
from testing.desk import NOW, DeskTestCase, picture


class Lines(DeskTestCase):
    def lines(self, pk: int | None = None) -> dict[str, dict[str, Any]]:
        told = self.as_(self.corin).get(f"/api/assignments/{pk or self.sitting.pk}/sitting").json()
        return {line["name"]: line for line in told["lines"]}

    def test_a_line_a_student_with_what_the_server_has(self) -> None:
        Enrolment.objects.filter(person=self.tobin).update(extra_factor=1.5)
        folio = create_folio(self.sitting, self.ilse, NOW - timedelta(minutes=100))
        self.send(picture(), folio=folio)
        Pledge.objects.create(
            folio=folio, sha256="0" * 64, size=9, file_name="b.jpg", promised_at=NOW - timedelta(minutes=3)
        )
        lines = self.lines()
        self.assertEqual(set(lines), {"Ilse", "Tobin"})
        ilse = lines["Ilse"]
        self.assertEqual((len(ilse["arrived"]), ilse["promised"], ilse["phase"]), (1, 1, "handover"))
        self.assertEqual(ilse["needs"], ["promised"])
        self.assertEqual((lines["Tobin"]["extra_time"], lines["Tobin"]["folio_id"]), ("×1.5", None))

    def test_who_was_taken_off_the_roster_after_beginning_is_still_there(self) -> None:
        create_folio(self.sitting, self.ilse, NOW)
        Enrolment.objects.filter(person=self.ilse).delete()
        self.assertEqual(self.lines()["Ilse"]["on_roster"], False)

    def give_due(self, people: list[int], due: str | None) -> Any:
        return self.give(self.work.pk, people=people, due=due)

    def give(self, assignment_id: int, **terms: Any) -> Any:
        path = f"/api/assignments/{assignment_id}/personal-terms"
        return self.as_(self.corin).post(path, json.dumps(terms), content_type="application/json")

    def test_extra_time_for_one_assignment_takes_the_place_of_the_courses_and_says_what_it_comes_to(self) -> None:
        Enrolment.objects.filter(person=self.ilse).update(extra_factor=1.25)
        people, reason = [self.ilse.pk], "a broken wrist"
        given = self.give(self.sitting.pk, people=people, extra_time="×2", extra_on_handover=True, reason=reason).json()
        minutes = (
            datetime.fromisoformat(given["closes"]) - datetime.fromisoformat(given["begins"])
        ).total_seconds() / 60
        self.assertEqual(minutes, 2 * (95 + 15))
        lines = self.lines()
        self.assertEqual((lines["Ilse"]["extra_time"], lines["Ilse"]["own_extra_time"]), ("×2", "×2"))
        self.assertEqual((lines["Tobin"]["own_extra_time"], lines["Ilse"]["own_reason"]), ("", reason))
        folio = create_folio(self.sitting, self.ilse, NOW)
        self.assertEqual(folio.window().closes, NOW + timedelta(minutes=220))
        self.assertEqual(create_folio(self.work, self.ilse, NOW, attempt=2).terms.extra.factor, 1.25)
        brief = self.as_(self.ilse).get(f"/api/assignments/{self.sitting.pk}/brief")
        self.assertEqual(brief.json()["extra_time"], "×2")
        self.assertNotIn(reason, brief.content.decode())
        self.give(self.sitting.pk, people=people)
        self.assertEqual(self.lines()["Ilse"]["own_extra_time"], "")
        folio.refresh_from_db()
        self.assertEqual(folio.window().closes, NOW + timedelta(minutes=220))  # begun: it stays hers

    def test_extra_time_that_is_none_is_refused_at_its_field(self) -> None:
        for wrong in ("×50", "much", "900 min"):
            answer = self.give(self.sitting.pk, people=[self.ilse.pk], extra_time=wrong)
            self.assertEqual((answer.status_code, answer.json()["code"]), (422, "field:extra_time"))
        self.assertEqual(self.lines()["Ilse"]["own_extra_time"], "")

    def test_a_due_moment_of_ones_own_holds_begun_or_not_and_takes_nothing_away(self) -> None:
        both = [self.ilse.pk, self.tobin.pk]
        self.assertEqual(self.give_due(both, "2026-11-27T18:00").json()["people"], 2)  # 22:00 UTC
        lines = self.lines(self.work.pk)
        self.assertEqual({line["own_due"] for line in lines.values()}, {"2026-11-27T22:00:00Z"})
        self.assertEqual(lines["Ilse"]["closes"], "2026-11-27T22:00:00Z")
        self.give_due(both, None)
        lines = self.lines(self.work.pk)
        self.assertEqual(lines["Ilse"]["closes"], "2026-11-27T22:00:00Z")  # begun: it stays hers
        self.assertEqual(lines["Tobin"]["closes"], "2026-11-25T15:00:00Z")

    def test_a_due_moment_before_the_opening_and_people_from_elsewhere_are_refused(self) -> None:
        self.assertEqual(self.give_due([self.ilse.pk], "2026-11-20T09:00").json()["code"], "field:due")
        self.assertEqual(self.give_due([self.ilse.pk], "soon").json()["code"], "field:due")
        for people in ([], [self.stranger.pk], [self.ilse.pk, self.corin.pk]):
            self.assertEqual(self.give_due(people, "2026-11-27T18:00").status_code, 404)
        self.assertIsNone(self.lines(self.work.pk)["Ilse"]["own_due"])

    def test_a_word_is_told_apart_until_the_board_has_shown_it(self) -> None:
        ilse, tobin = create_folio(self.sitting, self.ilse, NOW), create_folio(self.sitting, self.tobin, NOW)
        say = lambda text: self.as_(self.corin).post(  # noqa: E731
            f"/api/assignments/{self.sitting.pk}/word", json.dumps({"text": text}), content_type="application/json"
        )
        heard = lambda words, by=self.ilse: self.as_(by).put(  # noqa: E731
            f"/api/folios/{ilse.pk}/heard", json.dumps({"words": words}), content_type="application/json"
        )
        self.assertEqual(say("Read 52 for 25.").json(), {"folios": 2})
        self.assertEqual([line["unheard"] for line in self.lines().values()], [1, 1])
        self.at(minutes=1)
        for _ in range(2):
            self.assertEqual(heard(1).status_code, 204)
        self.assertEqual(heard(1, by=self.tobin).status_code, 404)
        self.assertEqual({name: line["unheard"] for name, line in self.lines().items()}, {"Ilse": 0, "Tobin": 1})
        say("Ten minutes left.")
        self.assertEqual(self.lines()["Ilse"]["unheard"], 1)
        heard(99)
        self.assertEqual(self.lines()["Ilse"]["unheard"], 0)
        kept = [(event.detail["words"], event.at) for event in ilse.events.filter(kind="heard")]
        self.assertEqual(kept, [(1, NOW + timedelta(minutes=1)), (2, NOW + timedelta(minutes=1))])
        self.assertEqual(tobin.events.filter(kind="heard").count(), 0)

    def test_it_takes_as_many_queries_for_many_as_for_two(self) -> None:
        for number in range(30):
            user = self.person(f"p{number}@kestrelpoint.example", f"P{number}")
            create_folio(self.sitting, user, NOW)
        client = self.as_(self.corin)
        with self.assertNumQueries(14):
            client.get(f"/api/assignments/{self.sitting.pk}/sitting")


class News(TransactionTestCase):
    """Over a real connection's notifications: nothing is heard before its commit."""

    def setUp(self) -> None:
        DeskTestCase.setUp(self)  # type: ignore[arg-type]

    person = DeskTestCase.person
    assignment = DeskTestCase.assignment
    as_ = DeskTestCase.as_

    async def test_what_changes_comes_in_one_stream_also_of_who_begins_later(self) -> None:
        folio = await sync_to_async(create_folio)(self.sitting, self.ilse, NOW)
        client = AsyncClient()
        await sync_to_async(client.force_login)(self.corin, backend="django.contrib.auth.backends.ModelBackend")
        answer = await client.get(f"/api/assignments/{self.sitting.pk}/sitting/news")
        stream = aiter(answer.streaming_content)
        await anext(stream)
        await sync_to_async(announce)(folio_topic(folio.pk), event="arrived")
        self.assertEqual(await self.told(stream), [folio.pk])
        line = await Enrolment.objects.select_related("person").aget(person=self.tobin)
        later = await sync_to_async(begin)(self.sitting, line, NOW)
        self.assertEqual(await self.told(stream), [later.pk])
        await sync_to_async(announce)(folio_topic(self.folio.pk), event="arrived")  # of another assignment
        await sync_to_async(announce)(folio_topic(later.pk), event="arrived")
        self.assertEqual(await self.told(stream), [later.pk])
        # Whoever does not teach the course any more hears no more of it.
        await Enrolment.objects.filter(person=self.corin).adelete()
        await sync_to_async(announce)(folio_topic(later.pk), event="arrived")
        with self.assertRaises(StopAsyncIteration):
            await self.told(stream)

    async def test_it_counts_among_the_few_streams_of_a_person_and_ends_with_the_session(self) -> None:
        client = AsyncClient()
        await sync_to_async(client.force_login)(self.corin, backend="django.contrib.auth.backends.ModelBackend")
        path = f"/api/assignments/{self.sitting.pk}/sitting/news"
        opened = []
        for _ in range(streams.MOST_A_PERSON + 1):
            answer = await client.get(path)
            opened.append(aiter(answer.streaming_content))
            await anext(opened[-1])
        folio = await sync_to_async(create_folio)(self.sitting, self.ilse, NOW)
        with self.assertRaises(StopAsyncIteration):
            await self.told(opened[0])
        for stream in opened[1:]:
            self.assertEqual(await self.told(stream), [folio.pk])
        self.assertEqual((await client.delete("/api/session")).status_code, 204)
        for stream in opened[1:]:
            with self.assertRaises(StopAsyncIteration):
                await self.told(stream)

    async def told(self, stream: AsyncIterator[bytes]) -> list[int]:
        """The folios of the next news."""
        while True:
            text = (await asyncio.wait_for(anext(stream), 30)).decode()
            if text.startswith("data: "):
                return [line["folio_id"] for line in json.loads(text[6:])["lines"]]
