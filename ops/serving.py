"""`./folio serve SETTINGS`: the application for real, with settings of one's own, under one supervisor or systemd.

SETTINGS is a file of lines NAME=VALUE (docs/configure.md); nothing of the demo's is used.
"""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from . import install
from .places import CORE, LOGS, ROOT, SERVER, Stop
from .running import WORKERS, Processes, manage, wait_until_answering, web_command, worker_command

_GRACE_SECONDS = 60  # for bodies under way, when it is stopped


def settings_of(file: Path) -> dict[str, str]:
    """Raises Stop, with the line, for what is no setting."""
    try:
        text = file.read_text()
    except OSError as error:
        raise Stop(
            f"{file}: {error.strerror}. Give a file of lines NAME=VALUE; docs/configure.md lists them."
        ) from error
    if file.stat().st_mode & 0o077:
        raise Stop(f"{file} holds secrets and others may read it. Say: chmod 600 {file}")
    kept = {}
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        name, equals, value = line.partition("=")
        if not equals or not name.strip().startswith("FOLIO_"):
            raise Stop(f"{file}, line {number}: “{line}” is no setting. Lines are FOLIO_…=VALUE.")
        kept[name.strip()] = value.strip().strip('"')
    return kept


def environment_of(kept: dict[str, str]) -> dict[str, str]:
    inherited = {name: value for name, value in os.environ.items() if not name.startswith("FOLIO_")}
    return {
        **inherited, "PYTHONPATH": f"{CORE}:{SERVER}", "DJANGO_SETTINGS_MODULE": "inkedfolio.settings",
        "OPENBLAS_NUM_THREADS": "1", "ORT_DISABLE_TELEMETRY": "1", "FOLIO_SANDBOX": "full", **kept,
    }  # fmt: skip


def by_owner(environment: dict[str, str]) -> dict[str, str]:
    """With the database's owner, who makes tables: FOLIO_DB_OWNER and FOLIO_DB_OWNER_PASSWORD."""
    return {
        **environment,
        "FOLIO_DB_USER": environment["FOLIO_DB_OWNER"],
        "FOLIO_DB_PASSWORD": environment.get("FOLIO_DB_OWNER_PASSWORD", ""),
    }


def serve(file: Path, *, port: int, only_check: bool, administrator: str | None) -> None:
    install.everything(testing=False)
    environment = environment_of(settings_of(file))
    if "FOLIO_DB_OWNER" in environment:
        manage(by_owner(environment), "migrate", "--verbosity", "0")
        manage(by_owner(environment), "grant_rights", environment["FOLIO_DB_USER"])
        for name in ("FOLIO_DB_OWNER", "FOLIO_DB_OWNER_PASSWORD"):
            environment.pop(name, None)  # what runs does not know them
    manage(environment, "collectstatic", "--noinput", "--verbosity", "0")
    manage(environment, "preflight")
    if administrator:
        manage(environment, "administrator", administrator)
        return
    if only_check:
        return
    metrics = Path(environment.get("FOLIO_STATE", ROOT / ".folio")) / "metrics"
    shutil.rmtree(metrics, ignore_errors=True)
    metrics.mkdir(parents=True)
    environment["PROMETHEUS_MULTIPROC_DIR"] = str(metrics)
    with Processes(environment, grace_seconds=_GRACE_SECONDS + 5) as processes:
        for name in WORKERS:
            processes.start(f"worker-{name}", worker_command(name))
        processes.start("web", web_command(port, "--grace", str(_GRACE_SECONDS)))
        wait_until_answering(f"http://127.0.0.1:{port}/healthz", processes)
        print(f"Inked Folio answers at http://127.0.0.1:{port}/. Logs: {LOGS}. Ctrl-C stops it.", flush=True)
        processes.wait()


def units(file: Path, port: int) -> str:
    """The same as systemd units, for who would rather have that supervise."""
    commands = {"web": web_command(port, "--grace", str(_GRACE_SECONDS))}
    commands |= {f"worker-{name}": worker_command(name) for name in WORKERS}
    texts = []
    for name, command in commands.items():
        texts.append(
            f"# /etc/systemd/system/inked-folio-{name}.service\n[Unit]\nDescription=Inked Folio, {name}\n"
            "After=network-online.target postgresql.service\n\n[Service]\nUser=folio\n"
            f"EnvironmentFile={file.resolve()}\nEnvironment=PYTHONPATH={CORE}:{SERVER}\n"
            "Environment=DJANGO_SETTINGS_MODULE=inkedfolio.settings OPENBLAS_NUM_THREADS=1 ORT_DISABLE_TELEMETRY=1\n"
            "Environment=FOLIO_SANDBOX=full\n"
            f"WorkingDirectory={SERVER}\nExecStart={' '.join(_absolute(command))}\nRestart=always\nRestartSec=1\n"
            f"TimeoutStopSec={_GRACE_SECONDS + 10}\nUMask=0077\nNoNewPrivileges=no\nPrivateTmp=yes\n"
            "ProtectSystem=full\nProtectHome=read-only\n\n[Install]\nWantedBy=multi-user.target\n"
        )
    return "\n".join(texts)


def _absolute(command: list[str]) -> list[str]:
    found = shutil.which(command[0])
    return [found or command[0], *command[1:]]


def nginx(kept: dict[str, str], port: int, *, certificate: str, key: str, listen: int = 443) -> str:
    """The proxy in front: TLS, limits of bodies, time-outs; stored files do not pass through the application."""
    template = (ROOT / "ops" / "nginx.conf").read_text()
    hosts = " ".join(one for one in kept.get("FOLIO_HOSTS", "localhost").split(",") if one)
    values = {
        "HOSTS": hosts, "PORT": str(port), "LISTEN": str(listen), "CERTIFICATE": certificate, "KEY": key,
        "MEDIA": f"{kept.get('FOLIO_STATE', ROOT / '.folio')}/media/", "MEGABYTES": kept.get("FOLIO_MAX_FILE_MB", "60"),
        "ACCEL": kept.get("FOLIO_ACCEL", "/stored").rstrip("/"),
    }  # fmt: skip
    for name, value in values.items():
        template = template.replace(f"@{name}@", value)
    return template
