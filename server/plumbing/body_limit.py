"""A body larger than any file that is taken never reaches the disk."""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable
from typing import Any

from folio_core.page import too_large_message

Message = Any  # an ASGI dictionary; Django and uvicorn type it differently
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Message, Receive, Send], Awaitable[None]]


class BodyLimit:
    """Answers 413 from the announced length, and cuts off a body that grows past the limit unannounced."""

    def __init__(self, inner: Application, most: int) -> None:
        self.inner = inner
        self.most = most

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.inner(scope, receive, send)
        announced = int(dict(scope["headers"]).get(b"content-length", b"0") or 0)
        if announced > self.most:
            return await self._refuse(announced, send)
        seen = 0

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            return {"type": "http.disconnect"} if seen > self.most else message

        await self.inner(scope, counted, send)

    async def _refuse(self, size: int, send: Send) -> None:
        body = json.dumps({"code": "too_large", "message": too_large_message(size, self.most)}).encode()
        headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
        await send({"type": "http.response.start", "status": 413, "headers": headers})
        await send({"type": "http.response.body", "body": body})
