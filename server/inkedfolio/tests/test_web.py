"""Connections at the web process: how many, and how long one that says nothing is kept."""

from __future__ import annotations

import asyncio
import gc
import importlib
from typing import Any
from unittest import mock

from django.test import SimpleTestCase
from uvicorn import Config
from uvicorn.server import ServerState

from inkedfolio import web

_LONG = 30


class Loaded(SimpleTestCase):
    def test_what_is_loaded_for_good_is_not_looked_through_for_rubbish(self) -> None:
        importlib.import_module("inkedfolio.asgi")
        self.assertGreater(gc.get_freeze_count(), 100_000)


class Limits(SimpleTestCase):
    def test_so_many_in_all_and_an_address_and_who_leaves_makes_room(self) -> None:
        limits = web.Connections(3, 2)
        self.assertEqual([limits.admit(at) for at in ("a", "a", "a", "b", "c")], [True, True, False, True, False])
        limits.leave("a")
        self.assertTrue(limits.admit("c"))


class Connection(SimpleTestCase):
    """A real server on a real socket, with an application that answers at once."""

    async def asyncSetUp(self) -> None:
        async def application(scope: Any, receive: Any, send: Any) -> None:
            await send({"type": "http.response.start", "status": 204, "headers": []})
            await send({"type": "http.response.body", "body": b""})

        config, state = self.config(application), ServerState()
        loop = asyncio.get_running_loop()
        self.server = await loop.create_server(
            lambda: web.PatientProtocol(config, state, {}),
            "127.0.0.1",
            0,  # type: ignore[arg-type]
        )
        self.port = self.server.sockets[0].getsockname()[1]

    def config(self, application: Any = None) -> Config:
        config = Config(application or (lambda: None), http=web.PatientProtocol, lifespan="off", log_config=None)
        config.load()
        return config

    async def ask(self, text: bytes) -> bytes:
        reader, writer = await asyncio.open_connection("127.0.0.1", self.port)
        try:
            writer.write(text)
            return await asyncio.wait_for(reader.read(64), _LONG)
        except ConnectionResetError:
            return b""
        finally:
            writer.close()

    async def test_a_whole_head_is_answered(self) -> None:
        await self.asyncSetUp()
        self.assertIn(b"204", await self.ask(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n"))
        self.server.close()

    async def test_a_connection_that_brings_no_whole_head_is_closed(self) -> None:
        await self.asyncSetUp()
        with mock.patch.object(web, "_HEADERS_SECONDS", 0.02):
            self.assertEqual(await self.ask(b""), b"")
            self.assertEqual(await self.ask(b"GET / HTTP/1.1\r\nHost:"), b"")
        self.server.close()

    async def test_one_too_many_is_turned_away_and_the_next_is_let_in(self) -> None:
        await self.asyncSetUp()
        with mock.patch.object(web, "connections", web.Connections(0, 0)):
            self.assertEqual(await self.ask(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n"), b"")
        self.assertIn(b"204", await self.ask(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n"))
        self.server.close()

    async def test_at_the_end_a_stream_of_news_ends_at_once_and_a_body_under_way_is_finished(self) -> None:
        for path, closes in (("/api/folios/1/news", True), ("/api/folios/1/originals", False)):
            protocol = web.PatientProtocol(self.config(), ServerState(), {}, asyncio.get_running_loop())  # type: ignore[arg-type]
            protocol.transport, protocol.scope = mock.Mock(), {"path": path}  # type: ignore[assignment, typeddict-item]
            protocol.cycle = mock.Mock(response_complete=False)
            protocol.shutdown()
            self.assertEqual(protocol.transport.close.called, closes)  # type: ignore[attr-defined]
            self.assertFalse(protocol.cycle.keep_alive)
