from __future__ import annotations

import asyncio

from asgiref.sync import sync_to_async
from django.db import connection, transaction
from django.test import TransactionTestCase

from live.announcing import CHANNEL, announce
from live.listener import Listener


class News(TransactionTestCase):
    """PostgreSQL's own NOTIFY, heard on a second connection."""

    async def heard(self, queue: asyncio.Queue[dict[str, object]]) -> dict[str, object]:
        return await asyncio.wait_for(queue.get(), 5)

    async def test_who_looks_at_a_folio_hears_of_it_and_nobody_else(self) -> None:
        listener = Listener()
        async with listener.news_of("folio:1") as one, listener.news_of("folio:2") as two:
            await sync_to_async(announce)("folio:1", page=7)
            self.assertEqual(await self.heard(one), {"topic": "folio:1", "page": 7})
            self.assertTrue(two.empty())

    async def test_everybody_who_looks_hears(self) -> None:
        listener = Listener()
        async with listener.news_of("folio:1") as one, listener.news_of("folio:1") as other:
            await sync_to_async(announce)("folio:1", version=2)
            self.assertEqual(await self.heard(one), await self.heard(other))

    async def test_nothing_is_heard_before_the_commit_nor_of_what_was_rolled_back(self) -> None:
        listener = Listener()

        def rolled_back() -> None:
            with transaction.atomic():
                announce("folio:1", version=1)
                transaction.set_rollback(True)

        def committed(queue: asyncio.Queue[dict[str, object]]) -> bool:
            with transaction.atomic():
                announce("folio:1", version=2)
                return queue.empty()

        async with listener.news_of("folio:1") as queue:
            await sync_to_async(rolled_back)()
            self.assertTrue(await sync_to_async(committed)(queue))
            self.assertEqual((await self.heard(queue))["version"], 2)

    async def test_the_listening_connection_ends_with_the_last_who_listens(self) -> None:
        listener = Listener()
        async with listener.news_of("folio:1"):
            task = listener._task
            assert task is not None
        await asyncio.gather(task, return_exceptions=True)
        self.assertTrue(task.cancelled())

    async def test_a_lost_connection_is_made_again_and_everybody_is_told_to_ask(self) -> None:
        listener = Listener()

        def cut() -> None:
            with connection.cursor() as cursor:
                cursor.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query = %s", [f"LISTEN {CHANNEL}"]
                )

        async with listener.news_of("folio:1") as queue:
            with self.assertLogs("live.listener", "WARNING"):
                await sync_to_async(cut)()
                self.assertEqual(await self.heard(queue), {"topic": "folio:1", "missed": True})
            await asyncio.sleep(2.5)  # it waits two seconds before it tries again
            await sync_to_async(announce)("folio:1", version=3)
            self.assertEqual((await self.heard(queue))["version"], 3)

    async def test_a_reader_who_is_slow_loses_old_items_is_told_so_and_never_loses_the_newest(self) -> None:
        listener = Listener()
        async with listener.news_of("folio:1") as queue:
            for number in range(150):
                listener._pass_on({"topic": "folio:1", "version": number})
            items = [queue.get_nowait() for _ in range(queue.qsize())]
        self.assertEqual(items[0], {"topic": "folio:1", "version": 100, "missed": True})
        self.assertEqual(items[1:], [{"topic": "folio:1", "version": number} for number in range(101, 150)])

    async def test_a_topic_that_is_added_later_is_heard_and_left_with_the_others(self) -> None:
        listener = Listener()
        async with listener.news_of("folio:1") as queue:
            listener.hear_too(queue, "folio:2")
            await sync_to_async(announce)("folio:2", version=1)
            self.assertEqual((await self.heard(queue))["topic"], "folio:2")
        self.assertEqual(listener._queues, {})
