"""`./folio bench fuzz`: the API, and what reads files, labels, receipts and arrangements. Status 1 where one broke."""

from __future__ import annotations

import argparse
import http.client
import json
import os
import subprocess
import sys
from datetime import timedelta
from typing import Any
from urllib.parse import urlencode

import requests
from arrival_bench.sending import _TOKEN
from arrival_bench.stand import Stand, Student, stand, students
from schemathesis import Response

from ops.places import CORE, WEB


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio bench fuzz", description=__doc__)
    parser.add_argument("--examples", type=int, default=30, help="requests of each kind an operation; 0: not the API")
    parser.add_argument("--minutes", type=float, default=5, help="for each reader; 0: none of them")
    chosen = parser.parse_args()
    good = True
    if chosen.minutes:
        good &= _readers(chosen.minutes)
    if chosen.examples:
        good &= _api(chosen.examples)
    return 0 if good else 1


def _readers(minutes: float) -> bool:
    """Each in a process of its own: a crash of the fuzzed code is one of the fuzzer too."""
    good = True
    for name in ("kinds", "pictures", "documents", "labels", "receipts", "arrangements", "rosters", "papers"):
        command = [sys.executable, "-m", "folio_bench.fuzz", name, str(minutes)]
        done = subprocess.run(command, cwd=CORE, capture_output=True, text=True)
        tail = (done.stdout + done.stderr).strip().splitlines()
        print(
            f"| {name} | {'held' if done.returncode == 0 else '**broke**'} | {tail[-1] if tail else ''} |", flush=True
        )
        if done.returncode != 0:
            print("\n".join(tail[-25:]))
        good &= done.returncode == 0
    return good


def _api(examples: int) -> bool:
    document = json.loads((WEB / "openapi.json").read_text())
    with stand(Stand) as ready:
        ready.start("web")
        ready.wait_until_answering()
        from .api import fuzz

        (student,) = students(1, closes_in=timedelta(hours=2), title="Fuzz")
        sent, wrong = fuzz(document, Sender(ready.port, student), examples)
    print(f"API: {sent} requests, {len(wrong)} kinds of trouble")
    for words in wrong:
        print(f"  {words}")
    return not wrong


class Sender:
    """Carries a case out as a signed-in student. What cannot be said in HTTP at all is left out."""

    def __init__(self, port: int, student: Student) -> None:
        self.port, self.student = port, student

    def __call__(self, case: Any) -> Response | None:
        headers = {str(name): str(value) for name, value in (case.headers or {}).items()}
        headers |= {
            "Cookie": f"{os.environ['FOLIO_SESSION_COOKIE']}={self.student.cookie}; csrftoken={_TOKEN}",
            "X-CSRFToken": _TOKEN,
        }
        body: Any = case.body
        if not isinstance(body, bytes | str) and type(body).__name__ != "NotSet":
            body, headers["Content-Type"] = json.dumps(body).encode(), "application/json"
        elif type(body).__name__ == "NotSet":
            body = b""
        path = case.formatted_path + (f"?{urlencode(case.query, doseq=True)}" if case.query else "")
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        try:
            line.request(case.method.upper(), path, body, headers)
            answer = line.getresponse()
            return _as_response(answer, answer.read(), path)
        except (ValueError, UnicodeError, http.client.HTTPException):
            return None
        finally:
            line.close()


def _as_response(answer: http.client.HTTPResponse, body: bytes, path: str) -> Response:
    headers = {name.lower(): [value] for name, value in answer.headers.items()}
    request = requests.Request("GET", f"http://127.0.0.1{path}").prepare()
    return Response(answer.status, headers, body, request, elapsed=0.0, verify=False)


if __name__ == "__main__":
    sys.exit(main())
