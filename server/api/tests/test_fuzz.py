"""A short run of `./folio bench fuzz` over the API: no 500, no answer outside the schema."""

from __future__ import annotations

import json
import re
from functools import partial
from typing import Any
from urllib.parse import urlencode

import requests
from django.conf import settings
from django.db import transaction
from django.test import Client
from fuzz_bench.api import fuzz
from schemathesis import Response

from people.models import User
from testing.desk import DeskTestCase, picture

# What those who teach ask for; the rest a student does. Everybody else is refused: test_matrix.
_STAFF = re.compile(
    r"/courses|/typed-maps|/record|/reading|"
    r"/(?:setting-up|sitting|paper|lengthen|word|question-map|give-out|take-back|let-in|folios)(?:/|$)(?!\{folio_id)"
)


class Fuzz(DeskTestCase):
    def carried_out(self, user: User, case: Any) -> Response | None:
        client = Client(raise_request_exception=False)
        client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        body, kind = case.body, "application/json"
        if isinstance(body, bytes | str):
            kind = "application/octet-stream"
        else:
            body = b"" if type(body).__name__ == "NotSet" else json.dumps(body)
        path = case.formatted_path + (f"?{urlencode(case.query, doseq=True)}" if case.query else "")
        headers = {str(name): str(value) for name, value in (case.headers or {}).items()}
        try:
            with transaction.atomic():
                answer = client.generic(case.method.upper(), path, body, kind, headers=headers)
                content = answer.getvalue()
                transaction.set_rollback(True)
        except (ValueError, UnicodeError):
            return None  # it cannot be said in HTTP
        told = {name.lower(): [value] for name, value in answer.headers.items()}
        request = requests.Request("GET", f"http://testserver{path}").prepare()
        return Response(answer.status_code, told, content, request, elapsed=0.0, verify=False)

    def test_no_operation_breaks_or_answers_otherwise_than_it_says(self) -> None:
        self.send(picture())
        document = json.loads((settings.ROOT / "web" / "openapi.json").read_text())
        for user, is_staff in ((self.ilse, False), (self.corin, True)):
            with self.subTest(user.name):
                paths = {path: how for path, how in document["paths"].items() if bool(_STAFF.search(path)) == is_staff}
                send = partial(self.carried_out, user)
                sent, wrong = fuzz({**document, "paths": paths}, send, 1, always_the_same=True)
                self.assertEqual(wrong, [])
                self.assertGreater(sent, 30)
