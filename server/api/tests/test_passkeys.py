"""Passkeys as a second factor, with an authenticator in software."""

from __future__ import annotations

from typing import Any

from django.test import Client

from people.models import User
from testing.authenticator import Authenticator
from testing.desk import PASSWORD, DeskTestCase


class Passkeys(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.phone = Authenticator("testserver", "http://testserver")
        self.client = Client()
        self.sign_in(self.client)

    def sign_in(self, client: Client, who: User | None = None, **more: str) -> Any:
        body = {"email": (who or self.ilse).email, "password": PASSWORD, **more}
        return client.post("/api/session", body, "application/json")

    def post(self, path: str, **body: str) -> Any:
        return self.client.post(f"/api/account/passkeys{path}", body, "application/json")

    def added(self, phone: Authenticator | None = None) -> Any:
        made = (phone or self.phone).create(self.post("/begin").json())
        return self.post("", name="my phone", credential=made)

    def asked(self, client: Client, who: User | None = None) -> dict[str, Any]:
        self.assertEqual(self.sign_in(client, who).json()["code"], "second_factor")
        options: dict[str, Any] = client.get("/api/session/passkey").json()
        return options

    def test_signing_in_asks_for_it_once_it_is_there(self) -> None:
        self.assertEqual(len(self.added().json()["codes"]), 8)
        other = Client()
        self.assertIsNone(other.get("/api/session/passkey").json())
        self.assertIsNone(other.get("/api/me").json())
        self.assertEqual(self.sign_in(other, passkey=self.phone.get(self.asked(other))).status_code, 200)
        self.assertIsNone(other.get("/api/session/passkey").json())
        [known] = other.get("/api/account").json()["passkeys"]
        self.assertEqual(known["name"], "my phone")
        self.assertIsNotNone(known["used_at"])

    def test_what_was_signed_is_good_once(self) -> None:
        self.added()
        other = Client()
        signed = self.phone.get(self.asked(other))
        self.assertEqual(self.sign_in(other, passkey=signed).status_code, 200)
        self.assertEqual(self.sign_in(other, passkey=signed).json()["code"], "second_factor")
        self.asked(other)
        self.assertEqual(self.sign_in(other, passkey=signed).json()["code"], "wrong_code")

    def test_other_keys_other_pages_and_other_people_are_refused(self) -> None:
        self.added()
        other = Client()
        stranger = Authenticator("testserver", "http://testserver")
        stranger.id = self.phone.id
        elsewhere = Authenticator("testserver", "http://testserver.example")
        elsewhere.id, elsewhere._key = self.phone.id, self.phone._key
        for wrong in (stranger, elsewhere):
            self.assertEqual(self.sign_in(other, passkey=wrong.get(self.asked(other))).json()["code"], "wrong_code")
        for number, nonsense in enumerate(("{}", "no json", '{"id": 5}', "[]", '"x"'), 1):
            self.at(minutes=2 * number)  # each wrong one makes the next wait longer
            self.asked(other)
            self.assertEqual(self.sign_in(other, passkey=nonsense).json()["code"], "wrong_code")
        self.at(minutes=15)
        signed = self.phone.get(self.asked(other))
        self.client = Client()
        self.sign_in(self.client, self.tobin)
        self.added(Authenticator("testserver", "http://testserver"))
        self.assertEqual(self.sign_in(other, self.tobin, passkey=signed).json()["code"], "second_factor")
        self.assertEqual(self.post("", name="", credential=signed).status_code, 401)

    def test_a_copied_key_is_seen_by_its_counter(self) -> None:
        self.added()
        other = Client()
        self.sign_in(other, passkey=self.phone.get(self.asked(other)))
        self.phone.count = 0
        self.assertEqual(self.sign_in(other, passkey=self.phone.get(self.asked(other))).json()["code"], "wrong_code")

    def test_a_spare_code_does_as_well_and_the_last_factor_takes_them_along(self) -> None:
        spare = self.added().json()["codes"]
        other = Client()
        self.asked(other)
        self.assertEqual(self.sign_in(other, code=spare[0]).status_code, 200)
        [known] = self.client.get("/api/account").json()["passkeys"]
        self.assertEqual(self.post(f"/{known['id']}/remove", password="wrong").json()["code"], "wrong_password")
        self.assertEqual(self.post(f"/{known['id']}/remove", password=PASSWORD).status_code, 204)
        self.assertEqual(self.post(f"/{known['id']}/remove", password=PASSWORD).status_code, 404)
        self.assertEqual(self.sign_in(Client()).status_code, 200)
        self.ilse.refresh_from_db()
        self.assertEqual(self.ilse.spare_codes, [])

    def test_the_same_key_twice_and_too_many_are_refused(self) -> None:
        self.added()
        self.assertEqual(self.added().json()["code"], "wrong_passkey")
        for _ in range(9):
            self.assertEqual(self.added(Authenticator("testserver", "http://testserver")).json()["codes"], [])
        self.assertEqual(self.post("/begin").json()["code"], "too_many")
