"""A line between the browser and the server that can be slow, be cut in the middle of a transfer, and be mended."""

from __future__ import annotations

import contextlib
import socket
import threading
import time

_CHUNK = 8 * 1024


class Line:
    """Listens on a port of its own and passes bytes on. ``bytes_per_second`` None: as fast as the machine."""

    def __init__(self, server_port: int) -> None:
        self._server_port = server_port
        self.bytes_per_second: int | None = None
        self._up = True
        self._open: set[socket.socket] = set()
        self._lock = threading.Lock()
        self._door = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._door.getsockname()[1])
        self.carried = 0  # bytes from the browser to the server
        threading.Thread(target=self._listen, daemon=True).start()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def cut(self) -> None:
        """Everything in flight breaks off; nothing new gets through."""
        self._up = False
        with self._lock:
            broken, self._open = self._open, set()
        for end in broken:
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()

    def mend(self) -> None:
        self._up = True

    def close(self) -> None:
        self.cut()
        self._door.close()

    def _listen(self) -> None:
        while True:
            try:
                browser, _ = self._door.accept()
            except OSError:
                return
            if not self._up:
                browser.close()
                continue
            server = socket.create_connection(("127.0.0.1", self._server_port))
            with self._lock:
                self._open |= {browser, server}
            threading.Thread(target=self._carry, args=(browser, server, True), daemon=True).start()
            threading.Thread(target=self._carry, args=(server, browser, False), daemon=True).start()

    def _carry(self, source: socket.socket, target: socket.socket, upwards: bool) -> None:
        with contextlib.suppress(OSError):
            while data := source.recv(_CHUNK):
                target.sendall(data)
                if upwards:
                    self.carried += len(data)
                    if self.bytes_per_second:
                        time.sleep(len(data) / self.bytes_per_second)
        for end in (source, target):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
