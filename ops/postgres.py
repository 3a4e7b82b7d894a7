"""A private PostgreSQL cluster: in the checkout's state folder, loopback only, a free port, never run as root."""

from __future__ import annotations

import os
import pwd
import shutil
import socket
import subprocess
import tempfile
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from .install import POSTGRES_BIN
from .places import LOGS, ROOT, STATE, Stop

_OUTSIDE = Path("/var/tmp")
_OWNER = "postgres"  # Debian's account, made by the package; used only when we are root
OWNER = "folio"  # of the database and all in it; makes and changes tables
APP_ROLE = "folio_app"  # what runs the application: reads and writes rows (`grant_rights`)


@dataclass(frozen=True, slots=True)
class Cluster:
    folder: Path
    port: int
    password: str
    durable: bool = True

    @property
    def running(self) -> bool:
        pg_ctl = POSTGRES_BIN / "pg_ctl"
        return pg_ctl.exists() and _as_owner([str(pg_ctl), "-D", str(self.folder), "status"]).returncode == 0

    def start(self) -> None:
        if self.running:
            return
        if not (self.folder / "PG_VERSION").exists():
            self._make()
        # Tests need no durability; everything else keeps PostgreSQL's defaults, fsync included.
        speed = "" if self.durable else " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
        options = f"-h 127.0.0.1 -p {self.port} -c unix_socket_directories='' -c max_connections=120{speed}"
        log = self.folder / "server.log"
        command = [str(POSTGRES_BIN / "pg_ctl"), "-D", str(self.folder), "-l", str(log), "-o", options, "-w", "start"]
        done = _as_owner(command)
        if done.returncode != 0:
            tail = "\n".join(log.read_text(errors="replace").splitlines()[-8:]) if log.exists() else done.stdout
            raise Stop(f"{tail}\nPostgreSQL did not start on 127.0.0.1:{self.port}. Its log: {log}")

    def stop(self) -> None:
        _as_owner([str(POSTGRES_BIN / "pg_ctl"), "-D", str(self.folder), "-m", "fast", "-w", "stop"])

    def remove(self) -> None:
        if self.folder.exists():
            self.stop()
            shutil.rmtree(self.folder)

    def ensure_database(self, name: str) -> None:
        if not self.has(name):
            self.ask(f'CREATE DATABASE "{name}"')
        if self.ask(f"SELECT 1 FROM pg_roles WHERE rolname = '{APP_ROLE}'") == "":
            self.ask(f"CREATE ROLE {APP_ROLE} LOGIN PASSWORD '{self.password}'")

    def has(self, name: str) -> bool:
        return self.ask(f"SELECT 1 FROM pg_database WHERE datname = '{name}'") != ""

    def drop(self, name: str) -> None:
        self.ask(f'DROP DATABASE IF EXISTS "{name}"')

    def ask(self, statement: str) -> str:
        """One statement outside all the application's databases; its answer as text."""
        return self.client("psql", "--dbname=postgres", "-qAt", "-c", statement)

    def client(self, tool: str, *arguments: str) -> str:
        """Run one of PostgreSQL's client programs on this cluster. Raises Stop with what it said."""
        where = ["--host=127.0.0.1", f"--port={self.port}", f"--username={OWNER}", "--no-password"]
        environment = {**os.environ, "PGPASSWORD": self.password, "PGOPTIONS": "-c client_min_messages=warning"}
        command = [str(POSTGRES_BIN / tool), *where, *arguments]
        done = subprocess.run(command, env=environment, capture_output=True, text=True)
        if done.returncode != 0:
            raise Stop(f"{done.stderr.strip()}\n{tool} did not succeed; its words stand above.")
        return done.stdout.strip()

    def _make(self) -> None:
        before = os.umask(0o022)  # PostgreSQL's account must be able to enter what lies above
        self.folder.mkdir(parents=True, exist_ok=True)
        os.umask(before)
        if self.folder.is_relative_to(_OUTSIDE):
            self.folder.parent.chmod(0o755)
        self.folder.chmod(0o700)
        if os.geteuid() == 0:
            shutil.chown(self.folder, _OWNER, _OWNER)
        with tempfile.NamedTemporaryFile("w", dir="/tmp") as secret:
            secret.write(self.password)
            secret.flush()
            if os.geteuid() == 0:
                shutil.chown(secret.name, _OWNER, _OWNER)
            command = [str(POSTGRES_BIN / "initdb"), "-D", str(self.folder), "-U", OWNER, "-A", "scram-sha-256",
                       "--pwfile", secret.name, "-E", "UTF8", "--locale", "C.UTF-8"]  # fmt: skip
            done = _as_owner(command)
        if done.returncode != 0:
            raise Stop(f"{done.stdout}\nThe database cluster could not be made in {self.folder}.")


def cluster_folder(name: str) -> Path:
    """In the state folder; where PostgreSQL's account cannot enter that (a checkout below /root), in /var/tmp."""
    if os.geteuid() != 0 or _owner_can_enter(STATE):
        return STATE / name
    whose = ROOT if STATE == ROOT / ".folio" else STATE
    return _OUTSIDE / f"inked-folio-{sha256(str(whose).encode()).hexdigest()[:12]}" / name


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _owner_can_enter(folder: Path) -> bool:
    folder.mkdir(parents=True, exist_ok=True)
    return _as_owner(["test", "-x", str(folder)]).returncode == 0


def _as_owner(command: list[str]) -> subprocess.CompletedProcess[str]:
    LOGS.mkdir(parents=True, exist_ok=True)
    if os.geteuid() == 0:
        try:
            pwd.getpwnam(_OWNER)
        except KeyError as error:
            raise Stop("The account “postgres” is missing. Install Debian's package postgresql-15.") from error
        command = ["setpriv", f"--reuid={_OWNER}", f"--regid={_OWNER}", "--init-groups", "--", *command]
    # A file, not a pipe: the server that pg_ctl leaves behind would hold a pipe open for ever.
    with tempfile.TemporaryFile("w+") as out:
        done = subprocess.run(command, stdout=out, stderr=subprocess.STDOUT, cwd="/", stdin=subprocess.DEVNULL)
        out.seek(0)
        return subprocess.CompletedProcess(command, done.returncode, out.read())
