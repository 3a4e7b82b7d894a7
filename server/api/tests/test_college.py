"""Signing in by the college: what OpenID Connect Core 1.0 (3.1.3.7, ID Token Validation) has a client check, and who is
let in. The college is the stand-in that ships with the project."""

from __future__ import annotations

import time
from typing import Any, ClassVar
from urllib.parse import parse_qs, urlsplit

import requests
from django.test import Client, override_settings
from joserfc.jwk import RSAKey

from demo.college import CLIENT, SECRET, College
from people import college as signing_in_there
from people.models import CollegeAccount, User
from testing.desk import DeskTestCase

BACK = "http://testserver/sign-in/college/done"
_OTHER_KEY = RSAKey.generate_key(2048, {"kid": "one", "use": "sig", "alg": "RS256"})


class ByTheCollege(DeskTestCase):
    college: ClassVar[College]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.college = College(BACK)
        cls.college.start()
        cls.addClassCleanup(cls.college.stop)

    def setUp(self) -> None:
        super().setUp()
        college = self.college
        college.claims, college.verified = {}, True
        self.addCleanup(setattr, college, "key", college.key)
        self.enterContext(
            override_settings(
                FOLIO_COLLEGE_ISSUER=college.issuer, FOLIO_COLLEGE_CLIENT=CLIENT, FOLIO_COLLEGE_SECRET=SECRET,
                FOLIO_COLLEGE_NAME="Kestrel Point",
            )
        )  # fmt: skip
        signing_in_there._client_of.cache_clear()
        self.browser = Client()

    def there(self, wanted: str = "/") -> str:
        """The college's page of signing in, for this browser."""
        return str(self.browser.get("/sign-in/college", {"next": wanted})["Location"])

    def back_from(self, page: str, **form: str) -> Any:
        sent = requests.post(page, data=form, allow_redirects=False, timeout=20)
        self.assertEqual(sent.status_code, 303, sent.text)
        address = urlsplit(sent.headers["Location"])
        return self.browser.get(f"{address.path}?{address.query}")

    def sign_in(self, email: str = "ilse@kestrelpoint.example", wanted: str = "/") -> str:
        """Where one is afterwards."""
        return str(self.back_from(self.there(wanted), email=email)["Location"])

    def who(self) -> str:
        me = self.browser.get("/api/me").json()
        return me["email"] if me else ""

    def test_somebody_who_is_known_is_in_where_they_wanted_to_be(self) -> None:
        self.assertEqual(self.sign_in("Ilse@kestrelpoint.example", wanted="/join/ABC"), "/join/ABC")
        self.assertEqual(self.who(), self.ilse.email)
        self.assertEqual(CollegeAccount.objects.get().person, self.ilse)
        self.browser = Client()
        self.sign_in("Ilse@kestrelpoint.example")
        self.assertEqual((self.who(), CollegeAccount.objects.count()), (self.ilse.email, 1))

    def test_the_request_carries_state_nonce_and_challenge_and_no_secret(self) -> None:
        asked = parse_qs(urlsplit(self.there()).query)
        self.assertTrue({"state", "nonce", "code_challenge"} <= asked.keys())
        self.assertEqual((asked["code_challenge_method"], asked["redirect_uri"]), (["S256"], [BACK]))
        self.assertNotIn("client_secret", asked)

    def test_a_foreign_address_to_go_on_to_is_not_gone_to(self) -> None:
        for wanted in ("https://elsewhere.example/", "//elsewhere.example/", "javascript:alert(1)"):
            self.assertEqual(self.sign_in(wanted=wanted), "/")

    def test_a_token_that_does_not_hold_signs_nobody_in(self) -> None:
        now = int(time.time())
        for name, claims in {
            "another issuer": {"iss": "http://127.0.0.1:1"}, "no issuer": {"iss": None},
            "for another client": {"aud": "another"}, "for nobody": {"aud": None},
            "for several, another authorized": {"aud": [CLIENT, "b"], "azp": "b"},
            "expired": {"exp": now - 600}, "without an end": {"exp": None}, "issued later": {"iat": now + 3600},
            "another nonce": {"nonce": "x"}, "no nonce": {"nonce": None}, "nobody": {"sub": None},
        }.items():  # fmt: skip
            with self.subTest(name):
                self.college.claims = claims
                self.assertEqual(self.sign_in(), "/?college=college_failed")
                self.assertEqual(self.who(), "")
        self.college.claims, self.college.key = {}, _OTHER_KEY
        self.assertEqual(self.sign_in(), "/?college=college_failed")
        self.assertEqual((self.who(), CollegeAccount.objects.count()), ("", 0))

    def test_an_answer_that_was_not_asked_for_or_comes_twice_signs_nobody_in(self) -> None:
        page = self.there()
        stolen = requests.post(page, data={"email": self.ilse.email}, allow_redirects=False, timeout=20)
        address = urlsplit(stolen.headers["Location"])
        victim = Client()
        answer = victim.get(f"{address.path}?{address.query}")
        self.assertEqual(answer["Location"], "/?college=college_failed")
        self.assertIsNone(victim.get("/api/me").json())
        self.assertEqual(self.browser.get(f"{address.path}?{address.query}")["Location"], "/")
        again = self.browser.get(f"{address.path}?{address.query}")
        self.assertEqual(again["Location"], "/?college=college_failed")

    def test_an_answer_of_another_issuer_signs_nobody_in(self) -> None:
        """RFC 9207, against mixing up two providers."""
        sent = requests.post(self.there(), data={"email": self.ilse.email}, allow_redirects=False, timeout=20)
        address = urlsplit(sent.headers["Location"])
        mixed = self.browser.get(f"{address.path}?{address.query}&iss=http://elsewhere.example")
        self.assertEqual((mixed["Location"], self.who()), ("/?college=college_failed", ""))

    def test_who_is_unknown_or_not_verified_or_breaks_it_off_is_told_why(self) -> None:
        self.assertEqual(self.sign_in("nobody@kestrelpoint.example"), "/?college=college_unknown")
        answer = self.back_from(self.there(), deny="1")
        self.assertEqual(answer["Location"], "/?college=college_denied")
        self.college.verified = False
        self.assertEqual(self.sign_in(), "/?college=college_unverified")
        User.objects.filter(pk=self.ilse.pk).update(is_active=False)
        self.college.verified = True
        self.assertEqual(self.sign_in(), "/?college=college_unknown")
        self.assertEqual(self.who(), "")

    def test_an_address_that_was_given_to_somebody_else_opens_no_ones_account(self) -> None:
        self.sign_in()
        self.browser = Client()
        self.college.claims = {"sub": "somebody-else"}
        self.assertEqual(self.sign_in(), "/?college=college_failed")
        self.assertEqual(self.who(), "")

    def test_the_college_may_change_an_address_and_the_account_stays(self) -> None:
        self.sign_in()
        subject = CollegeAccount.objects.get().subject
        self.browser = Client()
        self.college.claims = {"sub": subject}
        self.assertEqual(self.sign_in("ilse.marrow@kestrelpoint.example"), "/")
        self.assertEqual(self.who(), self.ilse.email)

    def test_administrators_and_whoever_has_a_second_factor_sign_in_here(self) -> None:
        User.objects.create_superuser("boss@kestrelpoint.example", "a-long-password")
        self.assertEqual(self.sign_in("boss@kestrelpoint.example"), "/?college=college_factor")
        User.objects.filter(pk=self.ilse.pk).update(totp_since=self.folio.begun_at)
        self.assertEqual(self.sign_in(), "/?college=college_factor")
        self.assertEqual(self.who(), "")

    def test_a_college_that_does_not_answer_leaves_the_password(self) -> None:
        with override_settings(FOLIO_COLLEGE_ISSUER="http://127.0.0.1:9"):
            signing_in_there._client_of.cache_clear()
            self.assertEqual(self.browser.get("/sign-in/college")["Location"], "/?college=college_away")

    def test_without_a_college_there_is_no_such_door(self) -> None:
        self.assertEqual(self.browser.get("/api/sign-in-ways").json(), {"college": "Kestrel Point"})
        with override_settings(FOLIO_COLLEGE_ISSUER=""):
            self.assertEqual(self.browser.get("/sign-in/college").status_code, 404)
            self.assertEqual(self.browser.get("/sign-in/college/done").status_code, 404)
            self.assertEqual(self.browser.get("/api/sign-in-ways").json(), {"college": ""})
