"""The deadline rush: everybody sends at once, and each waits for the acknowledgement."""

from __future__ import annotations

import random
import threading
import time
from dataclasses import dataclass, field
from datetime import timedelta

import numpy as np

from ops.places import PYTHON
from ops.postgres import free_port

from .photos import photograph
from .sending import Broken, Denied, Sender
from .stand import Stand, Student, students

_PHOTO_BYTES = 2_000_000


@dataclass(slots=True)
class Seen:
    seconds: list[float] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    again: int = 0


def run(stand: Stand, count: int, photos: int, within_seconds: float, seed: int) -> bool:
    """Prints a table; returns whether nothing was refused and the nearest close went first."""
    near = students(count // 2, closes_in=timedelta(minutes=30), title="Near")
    far = students(count - count // 2, closes_in=timedelta(hours=30), title="Far")
    everybody = near + far
    photograph(of_bytes=_PHOTO_BYTES)  # the camera's own time stays out of the figures
    bare_port = free_port()
    bare_command = [str(PYTHON), "-m", "uvicorn", "arrival_bench.bare:application", "--log-level", "warning"]
    stand.processes.start("bare", [*bare_command, "--host", "127.0.0.1", "--port", str(bare_port)])
    stand.start("web")
    stand.start_workers()
    stand.wait_until_answering()
    bare = _rush(everybody, bare_port, photos, within_seconds, seed)
    ours = _rush(everybody, stand.port, photos, within_seconds, seed)
    stand.processes.kill("bare")
    print(f"{count} students × {photos} photographs of 2 MB within {within_seconds:.0f} s; times to acknowledgement")
    print("| | median ms | 99th percentile ms | refused | tried again |\n|---|--:|--:|--:|--:|")
    for name, seen in (("streams, hashes, flushes", bare), ("Inked Folio", ours)):
        median, last = np.percentile(seen.seconds, [50, 99]) * 1000
        print(f"| {name} | {median:.0f} | {last:.0f} | {len(seen.refused)} | {seen.again} |")
    ratios = np.percentile(ours.seconds, [50, 99]) / np.percentile(bare.seconds, [50, 99])
    print(f"ratio: median {ratios[0]:.2f}, 99th percentile {ratios[1]:.2f} (aim: 2)")
    for words in ours.refused[:3]:
        print(f"  refused: {words}")
    return _prepared_in_order([one.folio_id for one in near]) and not ours.refused


def _rush(everybody: list[Student], port: int, photos: int, within_seconds: float, seed: int) -> Seen:
    chance = random.Random(seed)
    seen, lock = Seen(), threading.Lock()
    begun = time.monotonic()
    threads = [
        threading.Thread(
            target=_student,
            args=(Sender(port, one), begun + chance.uniform(0, within_seconds), photos, seen, lock),
            daemon=True,
        )
        for one in everybody
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return seen


def _student(sender: Sender, begins: float, photos: int, seen: Seen, lock: threading.Lock) -> None:
    time.sleep(max(0.0, begins - time.monotonic()))
    for number in range(photos):
        data = photograph(of_bytes=_PHOTO_BYTES)
        sent = time.monotonic()
        while True:
            try:
                sender.put(data, f"IMG_{number}.jpg")
                break
            except Broken:
                with lock:
                    seen.again += 1
                time.sleep(0.5)
            except Denied as error:
                with lock:
                    seen.refused.append(str(error))
                break
        with lock:
            seen.seconds.append(time.monotonic() - sent)
    sender.hang_up()


def _prepared_in_order(near: list[int], seconds: float = 1500) -> bool:
    """Wait for the worker; whether the pages with the nearer close were done before the others went on."""
    from pages.models import Page

    def left() -> tuple[int, int]:
        waiting = Page.objects.filter(state=Page.State.WAITING)
        return waiting.filter(folio__in=near).count(), waiting.exclude(folio__in=near).count()

    began, deadline = left(), time.monotonic() + seconds
    print(
        f"waiting for preparation when the rush was over: {began[0]} with the near close, {began[1]} with the far one"
    )
    while left()[0] and time.monotonic() < deadline:
        time.sleep(0.5)
    between = began[1] - left()[1]
    while left()[1] and time.monotonic() < deadline:
        time.sleep(1)
    failed = Page.objects.filter(state=Page.State.FAILED).count()
    print(f"far ones prepared before the last near one: {between}; left at the end {sum(left())}, failed {failed}")
    return between <= 4 and sum(left()) == 0 and failed == 0  # two are in the worker's hands at any moment
