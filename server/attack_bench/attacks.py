"""The attacks, one function each: it returns whether the server held, and what was seen."""

from __future__ import annotations

import hashlib
import json
import time
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

from arrival_bench.photos import photograph
from arrival_bench.sending import Broken, Denied, Sender
from arrival_bench.stand import Stand, Student, students

from .lines import Stalled, answer_to, head

Seen = tuple[bool, str]
_PROMPT_SECONDS = 1.0
_BODY = 5_000_000


class Hall:
    """Who takes part: an attacker among the students, and a victim who only wants to hand in."""

    def __init__(self, stand: Stand) -> None:
        self.stand, self.port = stand, stand.port
        self.attacker, self.victim = students(2, closes_in=timedelta(hours=3), title="Hall")

    def acknowledged_in(self, who: Student | None = None) -> float:
        """Seconds until a page of the victim's is safe, on a new connection."""
        sender = Sender(self.port, who or self.victim)
        began = time.monotonic()
        sender.put(photograph((600, 800)), "IMG.jpg")
        sender.hang_up()
        return time.monotonic() - began

    def bytes_that_came(self) -> int:
        from django.conf import settings

        folders = (Path(settings.MEDIA_ROOT) / name for name in ("arriving", "originals"))
        return sum(path.stat().st_size for folder in folders for path in folder.rglob("*") if path.is_file())


def stalled_downloads(hall: Hall) -> Seen:
    """200 downloads by one student, none of them read."""
    original = Sender(hall.port, hall.attacker).put(photograph(of_bytes=3_000_000), "big.jpg")["original_id"]
    text = head("GET", f"/api/originals/{original}/file", hall.attacker)
    with Stalled(hall.port, [text] * 200):
        time.sleep(1)  # so that all of them are under way
        seconds = hall.acknowledged_in()
    return seconds < _PROMPT_SECONDS, f"a page of another student's safe after {seconds:.2f} s"


def bodies_without_sign_in(hall: Hall) -> Seen:
    """Forty bodies of 5 MB at once from nobody, to each door for files."""
    before, statuses = hall.bytes_that_came(), []
    paths = [f"/api/folios/{hall.victim.folio_id}/originals?name=a.jpg", "/api/camera/originals?name=a.jpg"]
    for _ in range(20):
        for path in paths:
            text = head("PUT", path, Content_Length=str(_BODY), Folio_Camera="guess", Connection="close")
            text += bytes(_BODY)
            statuses.append(answer_to(hall.port, text)[0])
    grown = hall.bytes_that_came() - before
    return grown == 0 and set(statuses) <= {401, 403}, f"answers {sorted(set(statuses))}, {grown} bytes kept"


def stalled_bodies(hall: Hall) -> Seen:
    """200 bodies that stop half-way, of a signed-in student."""
    path = f"/api/folios/{hall.attacker.folio_id}/originals?name=a.jpg"
    text = head("PUT", path, hall.attacker, Content_Length="200000") + bytes(1000)
    with Stalled(hall.port, [text] * 200):
        time.sleep(1)
        seconds = hall.acknowledged_in()
    return seconds < _PROMPT_SECONDS, f"another's page safe after {seconds:.2f} s"


def heads_that_never_end(hall: Hall) -> Seen:
    """300 connections that begin a request and say no more."""
    with Stalled(hall.port, [b"GET / HTTP/1.1\r\nHost: x\r\n"] * 150 + [b""] * 150) as lines:
        seconds = hall.acknowledged_in()
        until = time.monotonic() + 40
        while lines.still_open() and time.monotonic() < until:
            time.sleep(1)
        left = lines.still_open()
    return seconds < _PROMPT_SECONDS and left == 0, f"safe after {seconds:.2f} s; {left} of 300 still open after 40 s"


def filling_the_disk(hall: Hall) -> Seen:
    """As many files as one student can send, until refused."""
    from django.conf import settings

    sender, sent, refused = Sender(hall.port, hall.attacker), 0, ""
    for number in range(settings.FOLIO_MAX_PAGES + 20):
        try:
            sender.put(photograph((300, 400), of_bytes=20_000), f"{number}.jpg")
            sent += 1
        except Denied as error:
            refused = str(error)
            break
    return "no_more_room" in refused or "too_many_pages" in refused, f"refused after {sent} files: {refused[:60]}"


def starving_the_worker(hall: Hall) -> Seen:
    """Twenty saves of corrections to all pages: another student's page must not wait behind them."""
    from procrastinate.contrib.django.models import ProcrastinateJob

    from pages.models import Page

    (attacker,) = students(1, closes_in=timedelta(hours=3), title="Saves")
    sender = Sender(hall.port, attacker)
    pages = [sender.put(photograph((900, 1200)), f"{number}.jpg")["page_id"] for number in range(5)]
    for number in range(20):
        told = json.loads(sender.request("GET", f"/api/folios/{attacker.folio_id}", b"")[1])
        turn = (90, 180, 270)[number % 3]
        arrangement = {
            "order": pages,
            "recipes": {str(p): {"corners": None, "turn": turn, "tone": "clean"} for p in pages},
        }
        body = json.dumps({"version": told["version"], "arrangement": arrangement}).encode()
        sender.request(
            "PUT", f"/api/folios/{attacker.folio_id}/arrangement", body, {"Content-Type": "application/json"}
        )
    waiting = ProcrastinateJob.objects.filter(queue_name="pages", status="todo").count()
    began = time.monotonic()
    page = Sender(hall.port, hall.victim).put(photograph((900, 1200)), "mine.jpg")["page_id"]
    while Page.objects.get(pk=page).state == Page.State.WAITING and time.monotonic() - began < 60:
        time.sleep(0.05)
    seconds = time.monotonic() - began
    return (
        waiting <= 10 and seconds < 10,
        f"{waiting} jobs waited after 20 saves; the other's page ready in {seconds:.1f} s",
    )


def guessing_passwords(hall: Hall) -> Seen:
    """At both doors: guesses are slowed down, and whom they are made of still gets in from a device of hers."""
    from people.models import User

    user = User.objects.create_user("victim@kestrelpoint.example", "her own password")
    import http.client

    def post(password: str, cookie: str = "") -> tuple[int, str]:
        line = http.client.HTTPConnection("127.0.0.1", hall.port, timeout=20)
        body = json.dumps({"email": user.email, "password": password})
        token = "b" * 32
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Cookie": f"csrftoken={token}; {cookie}"}
        line.request("POST", "/api/session", body, headers)
        answer = line.getresponse()
        cookies = "; ".join(one.split(";")[0] for one in answer.headers.get_all("Set-Cookie") or [])
        answer.read()
        line.close()
        return answer.status, cookies

    status, hers = post("her own password")
    device = next((one for one in hers.split("; ") if one.startswith("folio_device")), "")
    guesses = [post(f"guess {number}")[0] for number in range(30)]
    held_up, again = guesses.count(429), post("her own password", device)[0]
    admin = answer_to(hall.port, head("GET", "/admin/login/?next=/admin/", Connection="close"))[0]
    holds = status == 200 and held_up >= 20 and again == 200 and admin == 302
    return holds, f"{held_up} of 30 guesses held up; she signs in: {again}; the administration's own door: {admin}"


def many_streams(hall: Hall) -> Seen:
    """100 streams of news by one student."""
    text = head("GET", f"/api/folios/{hall.attacker.folio_id}/news", hall.attacker)
    with Stalled(hall.port, [text] * 100) as lines:
        until = time.monotonic() + 40
        while lines.still_open() > 24 and time.monotonic() < until:
            for line in lines.sockets:
                line.setblocking(False)
                try:
                    line.recv(65536)
                except OSError:
                    continue
            time.sleep(0.5)
        left = lines.still_open()
        seconds = hall.acknowledged_in()
    return left <= 24 and seconds < _PROMPT_SECONDS, f"{left} of 100 left; another's page safe after {seconds:.2f} s"


def control_characters(hall: Hall) -> Seen:
    """NUL and its like in names, words and notes; numbers that are none."""
    statuses = []
    sender = Sender(hall.port, hall.attacker)
    folio = f"/api/folios/{hall.attacker.folio_id}"
    json_type = {"Content-Type": "application/json"}
    nul = json.dumps({"version": 0, "arrangement": {"comment": "a\x00b"}}).encode()
    pledge = json.dumps({"pages": [{"sha256": "0" * 64, "size": 10**30, "file_name": "\x00"}]}).encode()
    for method, path, body, headers in (
        ("PUT", f"{folio}/originals?name=%00a.jpg&number=99999999999999999999", photograph((300, 400)), {}),
        ("PUT", f"{folio}/originals?name=a%00b.jpg&batch=x", photograph((300, 400)), {}),
        ("PUT", f"{folio}/arrangement", nul, json_type),
        ("POST", f"{folio}/pledge", pledge, json_type),
        ("POST", "/api/session", b'{"email": "\\u0000", "password": "\\u0000"}', json_type),
        ("POST", f"{folio}/uploads", b"", {"Upload-Length": "9" * 40, "Upload-Metadata": "filename AAAA"}),
        ("GET", "/api/folios/99999999999999999999999", b"", {}),
    ):
        try:
            statuses.append(sender.request(method, path, body, headers)[0])
        except Broken:
            statuses.append(0)
    return all(200 <= one < 500 for one in statuses), f"answers {statuses}"


def a_decoder_taken_over(hall: Hall) -> Seen:
    """What code in a decoder gets of settings, files, network, programs, other processes."""
    from folio_core.page.sandbox import isolation

    missing = isolation().missing
    return not missing, f"not held: {', '.join(missing)}" if missing else "nothing of all it tried"


def rewriting_the_record(hall: Hall) -> Seen:
    """With the application's own database password: change, empty or untrigger the record, change a time."""
    from django.db import DatabaseError, connection, transaction

    tried, done = 0, []
    for statement in (
        "UPDATE folios_event SET kind = 'begun'", "DELETE FROM folios_event", "TRUNCATE folios_event CASCADE",
        "ALTER TABLE folios_event DISABLE TRIGGER ALL", "SET session_replication_role = replica",
        "UPDATE pages_original SET arrived_at = now() - interval '1 day'", "DELETE FROM pages_original",
        "DROP TABLE editions_edition CASCADE", "COPY (SELECT 1) TO PROGRAM 'id'",
    ):  # fmt: skip
        tried += 1
        try:
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.execute(statement)
                done.append(statement)
                transaction.set_rollback(True)
        except DatabaseError:
            continue
    return not done, f"{tried - len(done)} of {tried} refused by the database {done or ''}"


def more_promises_than_sides(hall: Hall) -> Seen:
    """A hundred promised alternatives, of which some would be delivered at will."""
    (attacker,) = students(1, closes_in=timedelta(minutes=30), title="Promises")
    pages = [{"sha256": hashlib.sha256(bytes([n])).hexdigest(), "size": 1000, "file_name": "a"} for n in range(100)]
    body = json.dumps({"pages": pages}).encode()
    path = f"/api/folios/{attacker.folio_id}/pledge"
    told = json.loads(Sender(hall.port, attacker).request("POST", path, body, {"Content-Type": "application/json"})[1])
    count = len(told.get("promised", ()))
    return count <= 3 or told.get("code") == "no_pledges", f"{count} of 100 noted, where no number of sides was said"


def other_peoples_things(hall: Hall) -> Seen:
    """Folio, originals and documents of another student; a camera link that was made up; another host's name."""
    mine = Sender(hall.port, hall.victim).put(photograph((400, 500)), "secret.jpg")
    sender = Sender(hall.port, hall.attacker)
    folio = f"/api/folios/{hall.victim.folio_id}"
    statuses = [
        sender.request("GET", path, b"")[0]
        for path in (
            folio,
            f"/api/originals/{mine['original_id']}/file",
            f"{folio}/editions/1/bound.pdf",
            f"{folio}/news",
        )
    ]
    statuses.append(sender.request("PUT", f"{folio}/originals?name=a.jpg", photograph((300, 400)))[0])
    statuses.append(sender.request("GET", "/api/camera", b"", {"Folio-Camera": "guess"})[0])
    statuses.append(sender.request("GET", "/api/me", b"", {"X-CSRFToken": "forged"})[0])
    forged = sender.request("POST", f"{folio}/hand-in", b"{}", {"X-CSRFToken": "f" * 32})[0]
    holds = statuses[:6] == [404, 404, 404, 404, 404, 403] and forged == 403
    return holds, f"answers {statuses[:6]}, without our token {forged}"


ATTACKS: dict[str, Callable[[Hall], Seen]] = {
    attack.__name__.replace("_", " "): attack
    for attack in (
        stalled_downloads, bodies_without_sign_in, stalled_bodies, heads_that_never_end, starving_the_worker,
        filling_the_disk, guessing_passwords, many_streams, control_characters, a_decoder_taken_over,
        rewriting_the_record, more_promises_than_sides, other_peoples_things,
    )
}  # fmt: skip
