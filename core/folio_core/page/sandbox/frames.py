"""What passes between a worker and its sandbox: plain JSON with the bytes behind it, never an object that runs code.

A frame is the length of its head (4 bytes, big-endian), the head (JSON: ``kind``, ``value``, ``blobs``: the length of
each), then the blobs. In ``value`` a blob is {"blob": its number}.
"""

from __future__ import annotations

import json
import socket
import struct
import time
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from functools import cache
from typing import Any, get_args, get_type_hints

from pydantic import TypeAdapter

_HEAD_MOST, _BLOBS_MOST = 16_000_000, 600_000_000  # bytes; beyond them the other side is not what it should be
_RECEIVE_BYTES = 1 << 20


def send(to: socket.socket, kind: str, value: Any) -> None:
    blobs: list[bytes] = []
    plain = _plain(value, blobs)
    head = json.dumps({"kind": kind, "value": plain, "blobs": [len(blob) for blob in blobs]}, default=float).encode()
    to.sendall(struct.pack(">I", len(head)) + head)
    for blob in blobs:
        to.sendall(blob)


def receive(of: socket.socket, until: float | None = None) -> tuple[str, Any]:
    """Kind and plain value of the next frame. Raises EOFError where there is none, TimeoutError after ``until`` (of
    the monotonic clock), ValueError for what is no frame."""
    (length,) = struct.unpack(">I", _exactly(of, 4, until))
    if length > _HEAD_MOST:
        raise ValueError("A frame's head is too long.")
    head = json.loads(_exactly(of, length, until))
    kind, lengths = head["kind"], head["blobs"]
    if not isinstance(kind, str) or not all(type(each) is int and each >= 0 for each in lengths):
        raise ValueError("A frame's head is none.")
    if sum(lengths) > _BLOBS_MOST:
        raise ValueError("A frame is too long.")
    return kind, _with_blobs(head["value"], [_exactly(of, each, until) for each in lengths])


def as_type(wanted: Any, value: Any) -> Any:
    """A plain value as the type it is said to have. Raises ValueError (pydantic's) where it is not."""
    return _adapter(wanted).validate_python(value)


@cache
def _adapter(wanted: Any) -> TypeAdapter[Any]:
    return TypeAdapter(wanted)


@cache
def types_of(function: Callable[..., Any]) -> dict[str, Any]:
    """Of each parameter and of ``return``; of ``early``, what it is called with."""
    hints = get_type_hints(function)
    if "early" in hints:
        (called,) = (each for each in get_args(hints["early"]) if each is not type(None))
        hints["early"] = get_args(called)[0][0]
    return hints


def _plain(value: Any, blobs: list[bytes]) -> Any:
    if isinstance(value, bytes):
        blobs.append(value)
        return {"blob": len(blobs) - 1}
    if is_dataclass(value) and not isinstance(value, type):
        return {field.name: _plain(getattr(value, field.name), blobs) for field in fields(value)}
    if isinstance(value, dict):
        return {str(name): _plain(one, blobs) for name, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one, blobs) for one in value]
    return value


def _with_blobs(value: Any, blobs: list[bytes]) -> Any:
    if isinstance(value, dict):
        if set(value) == {"blob"}:
            return blobs[int(value["blob"])]
        return {name: _with_blobs(one, blobs) for name, one in value.items()}
    if isinstance(value, list):
        return [_with_blobs(one, blobs) for one in value]
    return value


def _exactly(of: socket.socket, count: int, until: float | None) -> bytes:
    data = bytearray()
    while len(data) < count:
        if until is not None:
            left = until - time.monotonic()
            if left <= 0:
                raise TimeoutError
            of.settimeout(left)
        chunk = of.recv(min(_RECEIVE_BYTES, count - len(data)))
        if not chunk:
            raise EOFError
        data += chunk
    return bytes(data)
