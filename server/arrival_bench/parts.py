"""Each shortcut of arrival by itself: the application without it beside the whole, request by request in turn."""

from __future__ import annotations

import time
from datetime import timedelta
from pathlib import Path

import numpy as np

from ops.places import PYTHON
from ops.postgres import free_port
from ops.running import wait_until_answering

from .photos import photograph
from .sending import Sender
from .stand import Stand, students

SHORTCUTS = (
    "the fast lane",
    "rows in one statement",
    "what is known in one statement",
    "store and announce in one statement",
)
_BYTES = 300_000


def run(stand: Stand, photos: int) -> bool:
    """Prints, for each shortcut, how much longer an acknowledgement takes without it. Nothing here can fail."""
    ways = ["", *SHORTCUTS]
    senders = {}
    for number, (way, student) in enumerate(
        zip(ways, students(len(ways), closes_in=timedelta(hours=5), title="Parts"), strict=True)
    ):
        port = free_port()
        command = [str(PYTHON), "-m", "uvicorn", "arrival_bench.plain:application", "--log-level", "warning"]
        stand.processes.start(
            f"parts-{number}", [*command, "--port", str(port)], environment={"FOLIO_BENCH_PLAIN": way}
        )
        senders[way] = (f"parts-{number}", Sender(port, student))
    for name, sender in senders.values():
        wait_until_answering(f"http://127.0.0.1:{sender.port}/api/me", stand.processes)
        del name
    seconds: dict[str, list[float]] = {way: [] for way in ways}
    spent = {way: -_processor_seconds(stand, senders[way][0]) for way in ways}
    for number in range(photos):
        for way in ways if number % 2 else reversed(ways):
            data = photograph(of_bytes=_BYTES)
            began = time.monotonic()
            senders[way][1].put(data, f"IMG_{number}.jpg")
            seconds[way].append(time.monotonic() - began)
    for way in ways:
        spent[way] += _processor_seconds(stand, senders[way][0])
    whole, whole_spent = float(np.median(seconds[""])), spent[""]
    print(f"{photos} photographs of {_BYTES // 1000} kB by each way, one after another")
    print("| without | median ms | ratio | processor ms | ratio |\n|---|--:|--:|--:|--:|")
    for way in ways:
        median, each = float(np.median(seconds[way])), spent[way] / photos
        ratios = median / whole, spent[way] / whole_spent
        name = way or "nothing: the whole"
        print(f"| {name} | {median * 1000:.1f} | {ratios[0]:.2f} | {each * 1000:.1f} | {ratios[1]:.2f} |")
    return True


def _processor_seconds(stand: Stand, name: str) -> float:
    """User and system time of a process so far (proc(5))."""
    fields = Path(f"/proc/{stand.processes.pid(name)}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / 100  # clock ticks, 100 a second on Linux
