"""Two machines without a common folder: an object storage and one database between them, a proxy before them."""

from __future__ import annotations

import sys
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from ops.places import STATE
from ops.postgres import free_port
from ops.running import WORKERS, wait_until_answering, web_command

from .stand import Stand

_BUCKET = "folios"
_MACHINES = ("east", "west")
_NGINX = """daemon off; pid {folder}/pid; error_log stderr crit;
events {{ worker_connections 512; }}
http {{
    access_log off;
    client_body_temp_path {folder}/body; proxy_temp_path {folder}/proxy; fastcgi_temp_path {folder}/fastcgi;
    uwsgi_temp_path {folder}/uwsgi; scgi_temp_path {folder}/scgi;
    upstream machines {{ {servers} }}
    server {{
        listen 127.0.0.1:{port};
        client_max_body_size 60m;
        proxy_http_version 1.1;
        proxy_set_header Connection "";
        proxy_set_header Host 127.0.0.1;
        proxy_request_buffering off;
        location / {{ proxy_pass http://machines; }}
    }}
}}
"""


def object_storage() -> dict[str, str]:
    """Settings for an S3-compatible server on this machine, which `Spread` starts. Its keys are no secret."""
    return {
        "FOLIO_S3_BUCKET": _BUCKET, "FOLIO_S3_ENDPOINT": f"http://127.0.0.1:{free_port()}",
        "AWS_ACCESS_KEY_ID": "bench", "AWS_SECRET_ACCESS_KEY": "bench", "AWS_DEFAULT_REGION": "us-east-1",
    }  # fmt: skip


@dataclass(slots=True)
class Spread(Stand):
    """Each machine has a web process, a worker and a folder of its own."""

    ports: Mapping[str, int] = field(default_factory=lambda: {name: free_port() for name in _MACHINES})

    @property
    def victims(self) -> tuple[str, ...]:
        return "web-east", "worker-west", "machine-west", "database", "web-west", "worker-east", "machine-east"

    @property
    def seconds_between(self) -> tuple[float, float]:
        """Twice as many processes begin here as with one machine."""
        return 1.0, 8.0

    def start_all(self) -> None:
        self._start_storage()
        for name in _MACHINES:
            self.start(f"web-{name}")
            self.start(f"worker-{name}")
        self._start_proxy()
        for port in self.ports.values():
            wait_until_answering(f"http://127.0.0.1:{port}/api/me", self.processes)
        self.wait_until_answering()

    def start(self, name: str) -> None:
        kind, _, machine = name.partition("-")
        if kind not in ("web", "worker"):
            return self.processes.start(name, self._others[name])
        own = {"FOLIO_STATE": str(STATE / "bench" / machine)}
        queues = ",".join(queues for queues, _ in WORKERS.values())
        worker = [sys.executable, "manage.py", "work", queues, "--jobs", "2"]
        command = web_command(self.ports[machine], "--workers", "1") if kind == "web" else worker
        self.processes.start(name, command, environment=own)

    def kill(self, victim: str) -> None:
        if victim.startswith("machine-"):
            for kind in ("web", "worker"):
                self.processes.kill(victim.replace("machine", kind))
        else:
            Stand.kill(self, victim)

    @property
    def _others(self) -> dict[str, list[str]]:
        port = self.environment["FOLIO_S3_ENDPOINT"].rpartition(":")[2]
        return {
            "storage": [str(Path(sys.executable).with_name("moto_server")), "-H", "127.0.0.1", "-p", port],
            "proxy": ["/usr/sbin/nginx", "-c", str(STATE / "bench" / "nginx.conf")],
        }

    def _start_storage(self) -> None:
        import boto3

        self.start("storage")
        endpoint = self.environment["FOLIO_S3_ENDPOINT"]
        wait_until_answering(f"{endpoint}/moto-api/", self.processes)
        boto3.client("s3", endpoint_url=endpoint).create_bucket(Bucket=_BUCKET)

    def _start_proxy(self) -> None:
        folder = STATE / "bench"
        folder.mkdir(parents=True, exist_ok=True)
        servers = " ".join(f"server 127.0.0.1:{port} max_fails=1 fail_timeout=1s;" for port in self.ports.values())
        (folder / "nginx.conf").write_text(_NGINX.format(folder=folder, servers=servers, port=self.port))
        self.start("proxy")
