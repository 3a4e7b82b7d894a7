"""`./folio backup FILE` and `./folio restore FILE`: the database and all files of folios in one archive, consistent.

The database is dumped first. A file is written before the row that names it is committed and is never changed, so every
file the dump names is on disk when the files are copied after it. What came later is copied too and belongs to nobody.
"""

from __future__ import annotations

import io
import json
import os
import shutil
import subprocess
import tarfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, BinaryIO

from . import checkout
from .places import PYTHON, SERVER, STATE, Stop
from .postgres import Cluster
from .running import manage, migrate

DATABASE = "inkedfolio"
_FORM = 1
_RESTORING, _BEFORE = f"{DATABASE}_restoring", f"{DATABASE}_before"


def backup(to: Path) -> None:
    """Raises Stop where the file exists already or the disk is full; then nothing is left behind."""
    if to.exists():
        raise Stop(f"{to} exists already. Choose another name, or remove it first.")
    cluster = checkout.cluster()
    running_before = cluster.running
    part = to.with_name(f"{to.name}.part")
    dump = STATE / "backup.dump"
    try:
        cluster.start()
        if not cluster.has(DATABASE):
            raise Stop("There is no data in this checkout yet, so there is nothing to back up.")
        print("  dumping the database …", flush=True)
        cluster.client("pg_dump", "--format=custom", f"--file={dump}", DATABASE)
        with _private(part) as file, tarfile.open(fileobj=file, mode="w", format=tarfile.PAX_FORMAT) as archive:
            about = {"form": _FORM, "made": datetime.now(UTC).isoformat(timespec="seconds"), "keys": checkout.keys()}
            _add_text(archive, "about.json", json.dumps(about, indent=1))
            archive.add(dump, "database.dump")
            count = sum(_add_folder(archive, STATE / "media" / name) for name in _folders(cluster))
        part.replace(to)
    except OSError as error:
        raise Stop(
            f"{error.strerror}: {error.filename or to}. The backup was not made; nothing else changed."
        ) from error
    finally:
        dump.unlink(missing_ok=True)
        part.unlink(missing_ok=True)
        if not running_before:
            cluster.stop()
    print(f"Backed up the database and {count} files to {to} ({to.stat().st_size / 1e6:.0f} MB).")
    print("It holds everybody's work and the key that signs receipts. Keep it as you would keep the originals.")


def _private(file: Path) -> BinaryIO:
    """Readable by its owner alone from its first byte: it holds the key that signs receipts."""
    return os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb")


def _folders(cluster: Cluster) -> list[str]:
    """The folders of the storage that the applications say belong in a backup."""
    asked = subprocess.run(
        [str(PYTHON), "manage.py", "storage_folders"], cwd=SERVER, env=checkout.environment(cluster),
        capture_output=True, text=True,
    )  # fmt: skip
    if asked.returncode != 0:
        raise Stop(f"{asked.stderr}\nWhat belongs in a backup could not be asked; nothing was backed up.")
    return asked.stdout.split()


def _add_text(archive: tarfile.TarFile, name: str, text: str) -> None:
    member = tarfile.TarInfo(name)
    member.size, member.mtime = len(text.encode()), int(time.time())
    archive.addfile(member, io.BytesIO(text.encode()))


def _add_folder(archive: tarfile.TarFile, folder: Path) -> int:
    print(f"  copying {folder.name} …", flush=True)
    count = 0
    for path in sorted(folder.rglob("*")) if folder.exists() else ():
        if path.is_file() and not path.name.startswith("."):
            archive.add(path, f"media/{path.relative_to(folder.parent)}")
            count += 1
    return count


def restore(source: Path, *, replace: bool) -> None:
    """Put a backup in the place of this checkout's data, which is only given up when the new one is whole.

    Raises Stop for an archive that is none, where data is in the way and ``replace`` was not said, and while the
    application runs.
    """
    about = _about(source)
    cluster = checkout.cluster()
    running_before = cluster.running
    incoming = STATE / "restoring"
    shutil.rmtree(incoming, ignore_errors=True)
    try:
        cluster.start()
        _require_way_clear(cluster, replace=replace)
        print("  unpacking …", flush=True)
        with tarfile.open(source) as archive:
            archive.extractall(incoming, filter="data")
        print("  loading the database …", flush=True)
        cluster.drop(_RESTORING)
        cluster.ensure_database(_RESTORING)
        cluster.client("pg_restore", "--exit-on-error", f"--dbname={_RESTORING}", str(incoming / "database.dump"))
        _swap(cluster, incoming)
        checkout.keep_keys(about["keys"])
        environment = checkout.environment(cluster)
        migrate(cluster)
        manage(environment, "verify_files")
        manage(environment, "sweep")
    except (OSError, tarfile.TarError) as error:
        raise Stop(f"{error}\nThe backup was not restored; the data is as it was.") from error
    finally:
        shutil.rmtree(incoming, ignore_errors=True)
        if not running_before:
            cluster.stop()
    print(f"Restored the state of {about['made']} from {source}.")


def _about(source: Path) -> dict[str, Any]:
    try:
        with tarfile.open(source) as archive:
            member = archive.extractfile("about.json")
            about: dict[str, Any] = json.load(member) if member else {}
            archive.getmember("database.dump")
    except (OSError, KeyError, ValueError, tarfile.TarError) as error:
        raise Stop(
            f"{source} is not a backup of Inked Folio, or it is damaged. Give the file that ./folio backup made."
        ) from error
    if about.get("form") != _FORM:
        raise Stop(f"{source} was made by another version of Inked Folio. Restore it with that version.")
    return about


def _require_way_clear(cluster: Cluster, *, replace: bool) -> None:
    if not cluster.has(DATABASE):
        return
    if not replace:
        raise Stop("There is data in this checkout. To give it up for the backup, say: ./folio restore --replace FILE")
    busy = f"SELECT count(*) FROM pg_stat_activity WHERE datname = '{DATABASE}'"
    if cluster.ask(busy) != "0":
        raise Stop("Inked Folio is running on this data. Stop it (Ctrl-C at ./folio demo), then restore.")


def _swap(cluster: Cluster, incoming: Path) -> None:
    media, before = STATE / "media", STATE / "media-before"
    shutil.rmtree(before, ignore_errors=True)
    (incoming / "media").mkdir(exist_ok=True)
    cluster.drop(_BEFORE)
    if cluster.has(DATABASE):
        cluster.ask(f'ALTER DATABASE "{DATABASE}" RENAME TO "{_BEFORE}"')
    cluster.ask(f'ALTER DATABASE "{_RESTORING}" RENAME TO "{DATABASE}"')
    if media.exists():
        media.rename(before)
    (incoming / "media").rename(media)
    cluster.drop(_BEFORE)
    shutil.rmtree(before, ignore_errors=True)
