"""Kill loops: processes and the database die under load; what was acknowledged must be there, once, whole."""

from __future__ import annotations

import hashlib
import random
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from datetime import timedelta

from .photos import photograph
from .sending import Broken, Denied, Sender
from .stand import Stand, Student, students

_SENDERS = 4
_SMALL = (504, 672)


@dataclass(slots=True)
class Load:
    """What the senders saw: every acknowledgement, by folio and hash."""

    acknowledged: dict[tuple[int, str], int] = field(default_factory=dict)
    told_twice: int = 0
    denied: list[str] = field(default_factory=list)
    broken: int = 0
    stop: threading.Event = field(default_factory=threading.Event)
    lock: threading.Lock = field(default_factory=threading.Lock)


def run(stand: Stand, kills: int, seed: int) -> bool:
    """Prints what was counted; returns whether nothing was lost, doubled or half."""
    chance = random.Random(seed)
    folios = students(_SENDERS, closes_in=timedelta(hours=6), title="Kills")
    photograph(_SMALL)  # the camera's own time comes before
    stand.start_all()
    load = Load()
    threads = [
        threading.Thread(target=_send, args=(stand, student, load, chance.random()), daemon=True) for student in folios
    ]
    for thread in threads:
        thread.start()
    killed: Counter[str] = Counter()
    for number in range(kills):
        time.sleep(chance.uniform(*stand.seconds_between))
        victim = stand.victims[number % len(stand.victims)]
        stand.revive()  # only what lives can be killed
        stand.kill(victim)
        killed[victim] += 1
        stand.revive()
    load.stop.set()
    for thread in threads:
        while thread.is_alive():
            stand.revive()
            thread.join(0.5)
    print(f"kills: {dict(killed)}; {len(load.acknowledged)} pages acknowledged, {load.broken} requests broken off")
    _wait_until_prepared(stand)
    return _count(load)


def _send(stand: Stand, student: Student, load: Load, seed: float) -> None:
    """Send one new photograph after another, each until it is acknowledged, every second one in pieces."""
    sender = Sender(stand.port, student)
    number = 0
    while not load.stop.is_set():
        data, number = photograph(_SMALL), number + 1
        key = (student.folio_id, hashlib.sha256(data).hexdigest())
        while key not in load.acknowledged:
            try:
                name = f"IMG_{number}.jpg"
                told = sender.in_pieces(data, name, 3) if number % 2 else sender.put(data, name)
                with load.lock:
                    load.acknowledged[key] = told["page_id"]
                    load.told_twice += told["already"]
            except Broken:
                load.broken += 1
                time.sleep(0.1 + 0.2 * seed)
            except Denied as error:
                load.denied.append(str(error))
                break
        if number >= 90:  # a folio holds a hundred pages
            return


def _wait_until_prepared(stand: Stand, seconds: float = 300) -> None:
    from pages.models import Page

    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline and _alive(Page.objects.filter(state=Page.State.WAITING).exists):
        stand.revive()
        time.sleep(1)


def _alive(ask):  # type: ignore[no-untyped-def]
    """A question to the database over a connection that may have died with it."""
    from django.db import OperationalError, connection

    try:
        return ask()
    except OperationalError:
        connection.close()
        return True


def _count(load: Load) -> bool:
    from django.db import connection

    from folios.models import Folio
    from pages.models import Original, Page

    connection.close()
    kept = list(Original.objects.values_list("folio_id", "sha256", "stored_as", "size"))
    rows = Counter((folio, sha256) for folio, sha256, _, _ in kept)
    lost = [key for key in load.acknowledged if rows[key] == 0]
    doubled = [key for key, count in rows.items() if count > 1]
    half = [name for _, sha256, name, size in kept if not _whole(name, sha256, size)]
    laid: Counter[int] = Counter()
    for folio in Folio.objects.all():
        laid.update(folio.arrangement.get("order", []))
    doubled_pages = [page for page, count in laid.items() if count > 1]
    out_of_order = set(Page.objects.exclude(state=Page.State.FAILED).values_list("pk", flat=True)) ^ set(laid)
    waiting = Page.objects.filter(state=Page.State.WAITING).count()
    failed = Page.objects.filter(state=Page.State.FAILED).count()
    print(
        f"lost {len(lost)}, doubled {len(doubled) + len(doubled_pages)}, half {len(half)}; "
        f"not laid down {len(out_of_order)}, not prepared {waiting}, failed {failed}, refused {len(load.denied)}; "
        f"acknowledged again after a lost answer {load.told_twice}"
    )
    for words in load.denied[:3]:
        print(f"  refused: {words}")
    return not (lost or doubled or doubled_pages or half or out_of_order or waiting or failed or load.denied)


def _whole(name: str, sha256: str, size: int) -> bool:
    from plumbing import storage

    try:
        data = storage.get(name)
    except FileNotFoundError:
        return False
    return len(data) == size and hashlib.sha256(data).hexdigest() == sha256
