"""Log lines as JSON, one a line, with nothing in them about a person: no name, no address, no secret of a link."""

from __future__ import annotations

import json
import logging
import re
import traceback
from datetime import UTC, datetime

_MAIL = re.compile(r"[\w.+-]+@[\w-]+(\.[\w-]+)+")
_NETWORK = re.compile(r"\b\d{1,3}(\.\d{1,3}){3}\b|\b(?:[0-9a-f]{1,4}:){3,7}[0-9a-f]{0,4}\b", re.IGNORECASE)
_SECRET = re.compile(r"\b[A-Za-z0-9_-]{30,}\b")  # tokens in an address; a hash is 64 hexadecimal digits and stays
_QUERY = re.compile(r"\?\S*")  # names of files
_HASH = re.compile(r"[0-9a-f]{64}")


class JsonLines(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        line: dict[str, object] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "logger": record.name,
            "process": record.process,
            "message": impersonal(record.getMessage()),
        }
        if record.exc_info and record.exc_info[0] is not None:
            # Where it happened, not with which values: a message of the database repeats what a row holds.
            line["error"] = record.exc_info[0].__name__
            frames = traceback.extract_tb(record.exc_info[2])
            line["trace"] = [f"{frame.filename}:{frame.lineno} {frame.name}" for frame in frames]
        return json.dumps(line, ensure_ascii=False)


def impersonal(text: str) -> str:
    text = _NETWORK.sub("[address]", _MAIL.sub("[mail]", _QUERY.sub("?…", text)))
    return _SECRET.sub(lambda found: found[0] if _HASH.fullmatch(found[0]) else "[secret]", text)
