"""Running for real: settings, units, and the proxy guide tried with nginx."""

from __future__ import annotations

import os
import shutil
import socket
import ssl
import subprocess
import sys
import tempfile
import threading
import time
import unittest
import urllib.error
import urllib.request
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

os.environ.setdefault("FOLIO_ROOT", str(Path(__file__).resolve().parents[2]))
sys.path.insert(0, os.environ["FOLIO_ROOT"])

from ops import serving
from ops.places import Stop
from ops.postgres import free_port

_LONG = 30


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)

    def settings(self, text: str, mode: int = 0o600) -> Path:
        file = self.folder / "settings"
        file.write_text(text)
        file.chmod(mode)
        return file


class Settings(Folder):
    def test_lines_are_read_and_what_is_none_is_named(self) -> None:
        text = '# ours\n\nFOLIO_HOSTS=folio.example\nFOLIO_ISSUER="Kestrel Point = College"\n'
        kept = serving.settings_of(self.settings(text))
        self.assertEqual(kept, {"FOLIO_HOSTS": "folio.example", "FOLIO_ISSUER": "Kestrel Point = College"})
        with self.assertRaisesRegex(Stop, "line 2: “HOSTS” is no setting"):
            serving.settings_of(self.settings("FOLIO_HOSTS=a\nHOSTS\n"))
        with self.assertRaisesRegex(Stop, "chmod 600"):
            serving.settings_of(self.settings(text, 0o644))
        with self.assertRaisesRegex(Stop, "docs/configure.md"):
            serving.settings_of(self.folder / "none")

    def test_nothing_of_the_checkouts_own_settings_comes_along(self) -> None:
        os.environ["FOLIO_POST_BOX"] = "1"
        self.addCleanup(os.environ.pop, "FOLIO_POST_BOX")
        environment = serving.environment_of({"FOLIO_HOSTS": "folio.example"})
        ours = {name: value for name, value in environment.items() if name.startswith("FOLIO_")}
        self.assertEqual(ours, {"FOLIO_HOSTS": "folio.example", "FOLIO_SANDBOX": "full"})

    def test_units_for_systemd_start_the_same(self) -> None:
        units = serving.units(self.settings(""), 8300)
        self.assertEqual(units.count("[Service]"), 3)
        self.assertIn("inkedfolio.web 8300 --grace 60", units)
        self.assertIn("manage.py work pages", units)
        self.assertIn("FOLIO_SANDBOX=full", units)


class _Upstream(BaseHTTPRequestHandler):
    """Stands for the application: says what it was sent, and names a stored file."""

    def do_GET(self) -> None:
        self.send_response(200)
        if self.path == "/download":
            self.send_header("X-Accel-Redirect", "/stored/bound/1/a.pdf")
        self.end_headers()
        told = {name: self.headers.get(name, "") for name in ("Host", "X-Forwarded-For", "X-Forwarded-Proto")}
        self.wfile.write(str(told).encode())

    def do_PUT(self) -> None:
        size = int(self.headers["Content-Length"])
        while size > 0:
            size -= len(self.rfile.read(min(size, 1 << 20)))
        self.send_response(200)
        self.end_headers()
        self.wfile.write(b"taken")

    def log_message(self, *_: Any) -> None:
        pass


class Proxy(Folder):
    """The guide's configuration, run by Debian's nginx with a certificate made here."""

    def setUp(self) -> None:
        super().setUp()
        upstream = ThreadingHTTPServer(("127.0.0.1", 0), _Upstream)
        threading.Thread(target=upstream.serve_forever, daemon=True).start()
        self.addCleanup(upstream.server_close)
        self.addCleanup(upstream.shutdown)
        media = self.folder / "media" / "bound" / "1"
        media.mkdir(parents=True)
        (media / "a.pdf").write_bytes(b"%PDF stored")
        for folder in (self.folder, *self.folder.rglob("*")):
            folder.chmod(0o755)
        self._certificate()
        self.port = free_port()
        text = serving.nginx(
            {"FOLIO_HOSTS": "localhost", "FOLIO_STATE": str(self.folder), "FOLIO_MAX_FILE_MB": "3"},
            upstream.server_address[1], certificate=str(self.folder / "cert.pem"), key=str(self.folder / "key.pem"),
            listen=self.port,
        )  # fmt: skip
        self.assertNotIn("@", text.replace("@…@", ""))
        configuration = self.folder / "nginx.conf"
        configuration.write_text(
            f"pid {self.folder}/nginx.pid;\nerror_log {self.folder}/error.log;\ndaemon off;\n{text}"
        )
        nginx = subprocess.Popen(["/usr/sbin/nginx", "-c", str(configuration), "-e", f"{self.folder}/error.log"])
        self.addCleanup(nginx.wait)
        self.addCleanup(nginx.terminate)
        self._wait()

    def _certificate(self) -> None:
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "1", "-subj", "/CN=localhost",
             "-addext", "subjectAltName=DNS:localhost", "-keyout", str(self.folder / "key.pem"),
             "-out", str(self.folder / "cert.pem")],
            check=True, capture_output=True,
        )  # fmt: skip
        self.context = ssl.create_default_context(cafile=str(self.folder / "cert.pem"))

    def _wait(self) -> None:
        deadline = time.monotonic() + _LONG
        while True:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            self.assertLess(time.monotonic(), deadline, "nginx did not start; its words are in error.log")
            time.sleep(0.05)

    def ask(self, path: str, data: bytes | None = None) -> tuple[int, bytes, Any]:
        request = urllib.request.Request(f"https://localhost:{self.port}{path}", data, method="PUT" if data else "GET")
        try:
            with urllib.request.urlopen(request, context=self.context, timeout=_LONG) as answer:
                return answer.status, answer.read(), answer.headers
        except urllib.error.HTTPError as error:
            return error.code, error.read(), error.headers

    def test_the_guide_holds(self) -> None:
        status, told, _ = self.ask("/")
        self.assertEqual(status, 200)
        self.assertIn("'X-Forwarded-Proto': 'https'", told.decode())
        self.assertIn(f"'Host': 'localhost:{self.port}'", told.decode())  # as browsers name it in Origin
        self.assertIn("'X-Forwarded-For': '127.0.0.1'", told.decode())
        self.assertEqual(self.ask("/api/folios/1/originals", bytes(2_900_000))[:2], (200, b"taken"))
        self.assertEqual(self.ask("/api/folios/1/originals", bytes(3_500_000))[0], 413)
        status, body, headers = self.ask("/download")
        self.assertEqual((status, body), (200, b"%PDF stored"))
        self.assertEqual(headers["X-Content-Type-Options"], "nosniff")
        self.assertEqual([self.ask(path)[0] for path in ("/metrics", "/stored/bound/1/a.pdf")], [404, 404])


if __name__ == "__main__":
    unittest.main()
