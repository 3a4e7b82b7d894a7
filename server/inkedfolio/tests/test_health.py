"""What a supervisor and a monitor are told, and that no log line names a person."""

from __future__ import annotations

import json
import logging
import sys
from unittest import mock

from django.test import Client, SimpleTestCase
from prometheus_client.parser import text_string_to_metric_families

from inkedfolio.logs import JsonLines, impersonal
from testing.desk import DeskTestCase, picture


class Health(DeskTestCase):
    def test_alive_and_ready(self) -> None:
        self.assertEqual(Client().get("/healthz").content, b"alive")
        self.assertEqual(Client().get("/readyz").json(), {"ready": True, "wrong": {}})

    def test_who_asks_a_machine_by_its_address_is_answered(self) -> None:
        """A supervisor does; `./folio serve` itself would give up what it has started."""
        for path in ("/healthz", "/readyz", "/metrics"):
            self.assertEqual(Client().get(path, headers={"host": "10.0.0.7:8300"}).status_code, 200)
        with self.assertLogs("django.security.DisallowedHost"):
            self.assertEqual(Client().get("/", headers={"host": "10.0.0.7:8300"}).status_code, 400)

    def test_a_machine_that_cannot_work_is_not_sent_requests_and_says_why(self) -> None:
        with mock.patch("inkedfolio.health.Path.write_bytes", side_effect=OSError("full")):
            answer = Client().get("/readyz")
        self.assertEqual((answer.status_code, answer.json()["wrong"]), (503, {"storage": "OSError"}))
        self.assertEqual(Client().get("/healthz").status_code, 200)

    def test_metrics_are_prometheus_text_and_for_this_machine_alone(self) -> None:
        self.send(picture())
        text = Client().get("/metrics").content.decode()
        values = {one.name: one.samples[0].value for one in text_string_to_metric_families(text) if one.samples}
        self.assertEqual((values["folio_pages_waiting"], values["folio_jobs_waiting"]), (1, 1))
        self.assertGreater(values["folio_disk_free_bytes"], 0)
        self.assertIn("folio_requests", values)
        self.assertEqual(Client().get("/metrics", REMOTE_ADDR="10.0.0.7").status_code, 404)


class Logs(SimpleTestCase):
    def test_no_mail_address_network_address_file_name_or_secret_of_a_link(self) -> None:
        said = impersonal(
            "GET /api/folios/1/originals?name=Ilse%20Marrow.jpg by ilse@kestrelpoint.example from 10.1.2.3, "
            f"2001:db8:0:0:1:2:3:4, /api/calendar/AbCdEfGhIjKlMnOpQrStUvWxYz012345.ics, original {'a' * 64}"
        )
        for personal in ("Ilse", "kestrel", "10.1", "2001", "AbCd"):
            self.assertNotIn(personal, said)
        self.assertIn("a" * 64, said)

    def test_an_error_says_where_and_not_with_which_values(self) -> None:
        try:
            raise ValueError("Key (email)=(ilse@kestrelpoint.example) already exists.")
        except ValueError:
            record = logging.LogRecord("x", logging.ERROR, __file__, 1, "It failed", (), sys.exc_info())
        line = JsonLines().format(record)
        self.assertNotIn("ilse", line)
        self.assertEqual(json.loads(line)["error"], "ValueError")
        self.assertIn("test_health.py", json.loads(line)["trace"][0])
