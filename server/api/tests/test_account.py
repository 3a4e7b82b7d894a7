"""One's own account: passwords, links by mail, a second factor."""

from __future__ import annotations

import re
from typing import Any

import pyotp
from django.test import Client, override_settings

from notices.models import Mail
from people.models import User
from testing.desk import PASSWORD, DeskTestCase

NEW = "quadrantal correction"


class Account(DeskTestCase):
    def sign_in(self, password: str = PASSWORD, *, code: str = "", who: User | None = None) -> tuple[Client, Any]:
        client = Client()
        body = {"email": (who or self.ilse).email, "password": password, "code": code}
        return client, client.post("/api/session", body, "application/json")

    def post(self, client: Client, path: str, **body: str) -> Any:
        return client.post(f"/api/{path}", body, "application/json")

    def test_a_new_password_ends_all_other_sessions_and_this_one_goes_on(self) -> None:
        here, _ = self.sign_in()
        there, _ = self.sign_in()
        self.assertEqual(self.post(here, "account/password", old="wrong", new=NEW).json()["code"], "wrong_password")
        for weak in ("short", "password1234", self.ilse.email):
            self.assertEqual(
                self.post(here, "account/password", old=PASSWORD, new=weak).json()["code"], "weak_password"
            )
        self.assertEqual(self.post(here, "account/password", old=PASSWORD, new=NEW).status_code, 204)
        self.assertEqual(here.get("/api/me").json()["name"], "Ilse")
        self.assertIsNone(there.get("/api/me").json())
        self.assertEqual([self.sign_in(one)[1].status_code for one in (PASSWORD, NEW)], [401, 200])

    def test_signing_out_everywhere(self) -> None:
        here, _ = self.sign_in()
        there, _ = self.sign_in()
        self.assertEqual(here.delete("/api/account/sessions").status_code, 204)
        self.assertEqual([one.get("/api/me").json() for one in (here, there)], [None, None])

    def link(self) -> tuple[str, str]:
        found = re.search(r"/password/([^/]+)/(\S+)", Mail.objects.latest("pk").text)
        assert found
        return found[1], found[2]

    def test_a_link_by_mail_sets_a_new_password_once(self) -> None:
        there, _ = self.sign_in()
        self.assertEqual(self.post(Client(), "password-links", email=f" {self.ilse.email.upper()}").status_code, 204)
        person, token = self.link()
        self.assertEqual(
            self.post(Client(), "password-links/use", person=person, token=token, new="x").status_code, 422
        )
        self.assertEqual(
            self.post(Client(), "password-links/use", person=person, token=token, new=NEW).status_code, 204
        )
        self.assertIsNone(there.get("/api/me").json())
        again = self.post(Client(), "password-links/use", person=person, token=token, new=NEW + "2")
        self.assertEqual(again.json()["code"], "link_ended")
        self.assertEqual(self.sign_in(NEW)[1].status_code, 200)
        for made_up in (("", ""), ("MQ", token), ("!!", "x"), ("9" * 40, "x")):
            person, token = made_up
            answer = self.post(Client(), "password-links/use", person=person, token=token, new=NEW)
            self.assertEqual(answer.json()["code"], "link_ended")

    def test_nobody_learns_by_it_who_has_an_account_and_no_post_box_is_filled(self) -> None:
        for email in (self.ilse.email, self.ilse.email, "nobody@kestrelpoint.example"):
            self.assertEqual(self.post(Client(), "password-links", email=email).status_code, 204)
        self.assertEqual(Mail.objects.count(), 1)
        self.at(minutes=3)
        self.post(Client(), "password-links", email=self.ilse.email)
        self.assertEqual(Mail.objects.count(), 2)

    def code(self, secret: str) -> str:
        return pyotp.TOTP(secret).at(self.clock.return_value)

    def test_a_second_factor_is_asked_for_once_it_was_shown_to_work(self) -> None:
        client, _ = self.sign_in()
        secret = self.post(client, "account/second-factor").json()["secret"]
        self.assertEqual(self.sign_in()[1].status_code, 200)  # begun is not set up
        for wrong in ("000000", "", "١٢٣٤٥٦"):
            self.assertEqual(self.post(client, "account/second-factor/confirm", code=wrong).status_code, 422)
        spare = self.post(client, "account/second-factor/confirm", code=self.code(secret)).json()["codes"]
        self.assertEqual(self.sign_in()[1].json()["code"], "second_factor")
        self.assertEqual(self.sign_in(code=self.code(secret))[1].json()["code"], "wrong_code")  # good once
        self.at(minutes=1)
        self.assertEqual(self.sign_in("wrong", code=self.code(secret))[1].json()["code"], "wrong_credentials")
        self.assertEqual(self.sign_in(code=self.code(secret))[1].status_code, 200)
        self.assertEqual(self.sign_in(code=self.code(secret))[1].json()["code"], "wrong_code")
        self.assertEqual([self.sign_in(code=spare[0])[1].status_code for _ in range(2)], [200, 401])
        self.assertEqual(client.get("/api/account").json()["spare_codes"], 7)
        self.assertEqual(self.post(client, "account/second-factor").status_code, 409)
        self.assertEqual(self.post(client, "account/second-factor/remove", password="wrong").status_code, 422)
        self.assertEqual(self.post(client, "account/second-factor/remove", password=PASSWORD).status_code, 204)
        self.assertEqual(self.sign_in()[1].status_code, 200)

    def test_codes_are_those_of_rfc_6238(self) -> None:
        """Appendix B, SHA-1, the last six of eight digits; the secret is the text 12345678901234567890."""
        secret = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"
        self.assertEqual(
            [pyotp.TOTP(secret).at(at) for at in (59, 1111111109, 20000000000)], ["287082", "081804", "353130"]
        )

    def test_guessing_codes_is_slowed_down_like_guessing_passwords(self) -> None:
        client, _ = self.sign_in()
        secret = self.post(client, "account/second-factor").json()["secret"]
        self.post(client, "account/second-factor/confirm", code=self.code(secret))
        codes = [self.sign_in(code="123456")[1].status_code for _ in range(7)]
        self.assertEqual(codes, [401] * 6 + [429])

    @override_settings(FOLIO_STAFF_SESSION_HOURS=12)
    def test_an_administrators_session_is_short(self) -> None:
        self.corin.is_staff = True
        self.corin.save()
        client, _ = self.sign_in(who=self.corin)
        self.assertEqual(client.session.get_expiry_age(), 12 * 3600)
        self.assertGreater(self.sign_in()[0].session.get_expiry_age(), 7 * 24 * 3600)
