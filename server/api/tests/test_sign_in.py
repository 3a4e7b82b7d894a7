from __future__ import annotations

import re

from django.contrib.auth.hashers import identify_hasher
from django.test import Client, TestCase

from people.models import User

MAIL, PASSWORD = "ilse@kestrelpoint.example", "a-long-password"


class SigningIn(TestCase):
    def setUp(self) -> None:
        self.user = User.objects.create_user(MAIL, PASSWORD, first_name="Ilse", number="30417")
        self.client = Client()

    def sign_in(self, password: str = PASSWORD, mail: str = MAIL) -> int:
        body = {"email": mail, "password": password}
        return self.client.post("/api/session", body, content_type="application/json").status_code

    def test_in_who_am_i_and_out(self) -> None:
        self.assertIsNone(self.client.get("/api/me").json())
        self.assertEqual(self.sign_in(), 200)
        self.assertEqual(self.client.get("/api/me").json()["number"], "30417")
        self.assertEqual(self.client.delete("/api/session").status_code, 204)
        self.assertIsNone(self.client.get("/api/me").json())

    def test_another_site_cannot_sign_anybody_in(self) -> None:
        self.client = Client(enforce_csrf_checks=True)
        self.assertEqual(self.sign_in(), 403)
        self.assertIsNone(self.client.get("/api/me").json())

    def test_the_case_of_the_mail_address_does_not_matter(self) -> None:
        self.assertEqual(self.sign_in(mail="  ILSE@Kestrelpoint.example "), 200)

    def test_passwords_are_kept_with_argon2(self) -> None:
        self.assertEqual(identify_hasher(self.user.password).algorithm, "argon2")


class ThePage(TestCase):
    def test_its_policy_lets_nothing_foreign_in(self) -> None:
        policy = Client().get("/")["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertIn("script-src 'self'", policy)
        self.assertIn("frame-ancestors 'none'", policy)
        self.assertNotIn("unsafe", policy)

    def test_only_the_maths_field_may_write_styles_and_only_a_frame_of_ours_may_hold_it(self) -> None:
        page, field = Client().get("/"), Client().get("/maths-field")
        self.assertNotIn("unsafe-inline", page["Content-Security-Policy"])
        self.assertIn("frame-ancestors 'none'", page["Content-Security-Policy"])
        self.assertEqual(page["X-Frame-Options"], "DENY")
        self.assertIn("style-src 'self' 'unsafe-inline'", field["Content-Security-Policy"])
        self.assertIn("frame-ancestors 'self'", field["Content-Security-Policy"])
        self.assertNotIn(
            "unsafe-inline", field["Content-Security-Policy"].replace("style-src 'self' 'unsafe-inline'", "")
        )
        self.assertEqual(field["X-Frame-Options"], "SAMEORIGIN")

    def test_each_answer_has_its_own_nonce_in_the_page(self) -> None:
        first, second = Client().get("/"), Client().get("/")
        self.assertNotEqual(first.content, second.content)
        self.assertNotIn(b"__CSP_NONCE__", first.content)

    def test_a_board_and_my_folios_say_early_what_they_will_ask_for(self) -> None:
        client = Client()

        def links(path: str) -> list[str]:
            page = client.get(path).content.decode()
            return re.findall(
                r'<link crossorigin="anonymous" rel="(?:preload|modulepreload)"[^>]* href="([^"]+)">', page
            )

        self.assertEqual(links("/") + links("/folios/7"), [])  # a refusal would be kept until after the sign-in
        client.force_login(User.objects.create_user(MAIL, PASSWORD))
        early = links("/folios/7")
        self.assertEqual(early[:2], ["/api/me", "/api/folios/7"])
        for name in ("Board.screen-.*[.]js", "Board-.*[.]css"):
            self.assertTrue([link for link in early if re.search(f"^/static/app/assets/{name}$", link)], early)
        work = links("/")
        self.assertEqual(work[:2], ["/api/me", "/api/my-folios"])
        self.assertTrue(any("/MyFolios.screen-" in link for link in work), work)
        self.assertEqual(links("/folios/7/check"), [])
