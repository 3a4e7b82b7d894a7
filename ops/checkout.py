"""What this checkout decided once and keeps: ports, passwords, keys. Readable by its owner alone."""

from __future__ import annotations

import base64
import json
import os
import secrets
import socket
from dataclasses import replace
from hashlib import sha256
from pathlib import Path
from typing import Any

from .places import CORE, SERVER, STATE
from .postgres import APP_ROLE, OWNER, Cluster, cluster_folder, free_port

_FILE = STATE / "checkout.json"
_FIRST_WEB_PORT = 8310
_KEYS = ("receipt_key", "secret_key")


def settings() -> dict[str, Any]:
    if not _FILE.exists():
        _keep({
            "database_port": free_port(),
            "database_password": secrets.token_urlsafe(24),
            "secret_key": secrets.token_urlsafe(50),
            "receipt_key": base64.b64encode(secrets.token_bytes(32)).decode(),
        })  # fmt: skip
    chosen: dict[str, Any] = json.loads(_FILE.read_text())
    return chosen


def _keep(kept: dict[str, Any]) -> None:
    _write(_FILE, json.dumps(kept, indent=1))


def _write(file: Path, text: str) -> None:
    """Readable by its owner alone from its first byte."""
    STATE.mkdir(parents=True, exist_ok=True)
    part = file.with_suffix(f".{os.getpid()}.part")
    descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w") as out:
        out.write(text)
    part.replace(file)


def keys() -> dict[str, str]:
    """What a backup must hold beside the data: without it no receipt of before could be made again or checked."""
    kept = settings()
    return {name: kept[name] for name in _KEYS}


def keep_keys(of_backup: dict[str, str]) -> None:
    _keep(settings() | {name: of_backup[name] for name in _KEYS})


def cluster() -> Cluster:
    """This checkout's cluster; on another port than the last time where something else has taken that one since."""
    kept = settings()
    known = Cluster(cluster_folder("postgres"), kept["database_port"], kept["database_password"])
    if known.running or not _taken(known.port):
        return known
    kept["database_port"] = free_port()
    _keep(kept)
    return replace(known, port=kept["database_port"])


def web_port() -> int:
    """The first free port from a friendly number, so that two checkouts run side by side."""
    for port in range(_FIRST_WEB_PORT, _FIRST_WEB_PORT + 50):
        if not _taken(port):
            return port
    return free_port()


def _taken(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def _receipt_key_file(key: str) -> Path:
    """In no process's environment, which its children and its crash reports would have too."""
    file = STATE / "receipt.key"
    if not file.exists() or file.read_text() != key:
        _write(file, key)
    return file


def environment(of: Cluster, owner: bool = False, **more: str) -> dict[str, str]:
    """``owner``: with the right to change tables, for migrations and tests."""
    kept = settings()
    return {
        **os.environ,
        "PYTHONPATH": f"{CORE}:{SERVER}",
        "DJANGO_SETTINGS_MODULE": "inkedfolio.settings",
        "FOLIO_STATE": str(STATE),
        "FOLIO_SECRET_KEY": kept["secret_key"],
        # A browser keeps cookies by host, not by port: two checkouts on one machine must not sign each other out.
        "FOLIO_SESSION_COOKIE": f"folio_session_{sha256(str(STATE).encode()).hexdigest()[:8]}",
        "FOLIO_RECEIPT_KEY_FILE": str(_receipt_key_file(kept["receipt_key"])),
        "FOLIO_DB_USER": OWNER if owner else APP_ROLE,
        "FOLIO_DB_PORT": str(of.port),
        "FOLIO_DB_PASSWORD": of.password,
        "FOLIO_POST_BOX": "1",
        "ORT_DISABLE_TELEMETRY": "1",
        "OPENBLAS_NUM_THREADS": "1",  # many small children; threads of their own only cost memory
        **more,
    }
