"""The floor of arrival: a handler that only streams a body to disk, hashes it on the way and flushes it."""

from __future__ import annotations

import hashlib
import json
import os
import uuid
from pathlib import Path
from typing import Any

from asgiref.sync import sync_to_async

FOLDER = Path(os.environ.get("FOLIO_STATE", "/tmp")) / "bare"


async def application(scope: Any, receive: Any, send: Any) -> None:
    if scope["type"] != "http":
        return
    FOLDER.mkdir(parents=True, exist_ok=True)
    path = FOLDER / uuid.uuid4().hex
    digest, size, more = hashlib.sha256(), 0, True
    with path.open("wb") as file:
        while more:
            message = await receive()
            body, more = message.get("body", b""), message.get("more_body", False)
            digest.update(body)
            file.write(body)
            size += len(body)
        file.flush()
        await sync_to_async(os.fsync, thread_sensitive=False)(file.fileno())
    answer = json.dumps({"page_id": 0, "sha256": digest.hexdigest(), "size": size, "already": False}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(answer)).encode())]
    await send({"type": "http.response.start", "status": 200, "headers": headers})
    await send({"type": "http.response.body", "body": answer})
