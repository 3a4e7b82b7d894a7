"""Guessing is slowed down, and whom it is done to is not held up by it."""

from __future__ import annotations

from datetime import timedelta
from unittest import mock

from django.test import Client
from django.urls import reverse

from people import guessing, signing_in
from people.models import SignInFailure, User
from testing.desk import NOW, PASSWORD, DeskTestCase


class Guessing(DeskTestCase):
    def try_it(self, password: str, client: Client | None = None, *, address: str = "10.0.0.1", mail: str = "") -> int:
        body = {"email": mail or self.ilse.email, "password": password}
        answer = (client or Client()).post("/api/session", body, "application/json", REMOTE_ADDR=address)
        self.said = answer.json()
        return answer.status_code

    def guess(self, times: int, **how: str) -> list[int]:
        return [self.try_it("wrong", **how) for _ in range(times)]  # type: ignore[arg-type]

    def test_each_further_guess_waits_longer_and_never_more_than_a_minute(self) -> None:
        self.assertEqual(self.guess(7), [401] * 6 + [429])
        waits = []
        for _ in range(8):
            waits.append(guessing.seconds_to_wait(self.ilse.email, guessing.Device("new"), "10.9.9.9", self.now))
            self.assertEqual(self.try_it(PASSWORD), 429)  # the right one must wait as well
            self.at(seconds=(self.now - NOW).total_seconds() + waits[-1])
            self.assertEqual(self.try_it("wrong"), 401)
        self.assertEqual(waits, [2, 4, 8, 16, 32, 60, 60, 60])
        self.assertIn("Try again in", self.said["message"] if self.try_it("wrong") == 429 else "")

    @property
    def now(self):  # type: ignore[no-untyped-def]
        return self.clock.return_value

    def test_a_device_that_signed_in_before_is_not_held_up_by_strangers(self) -> None:
        hers = Client()
        self.assertEqual(self.try_it(PASSWORD, hers), 200)
        hers.delete("/api/session")
        self.assertEqual(self.guess(8)[-1], 429)
        self.assertEqual(self.try_it(PASSWORD), 429)
        self.assertEqual(self.try_it(PASSWORD, hers), 200)

    def test_that_device_is_slowed_down_by_its_own_guesses(self) -> None:
        hers = Client()
        self.try_it(PASSWORD, hers)
        hers.delete("/api/session")
        self.assertEqual([self.try_it("wrong", hers) for _ in range(7)], [401] * 6 + [429])

    def test_a_cookie_that_was_made_up_or_is_somebody_elses_opens_nothing(self) -> None:
        tobins = Client()
        self.try_it(PASSWORD, tobins, mail=self.tobin.email)
        tobins.delete("/api/session")
        self.guess(8)
        self.assertEqual(self.try_it(PASSWORD, tobins), 429)
        tobins.cookies[guessing.DEVICE_COOKIE] = '{"people": [1]}'
        self.assertEqual(self.try_it(PASSWORD, tobins), 429)

    def test_trying_one_password_on_many_accounts_from_one_address_is_slowed_down_too(self) -> None:
        for number in range(101):
            SignInFailure.objects.create(account=f"{number}@x.example", source="address 10.0.0.1", at=NOW)
        self.assertEqual(self.try_it(PASSWORD), 429)
        self.assertEqual(self.try_it(PASSWORD, address="10.0.0.2"), 200)

    def test_staff_see_who_is_held_up_and_let_them_in(self) -> None:
        self.guess(8)
        self.assertEqual(guessing.held_up([self.ilse.email, self.tobin.email], NOW), {self.ilse.email: 6})
        staff, path = self.as_(self.corin), f"/api/assignments/{self.work.pk}"
        (told,) = staff.get(f"{path}/folios").json()["held_up"]
        self.assertEqual((told["student"], told["tries"]), ("Ilse", 6))
        let_in = f"{path}/people/{told['person_id']}/let-in"
        self.assertEqual(self.as_(self.tobin).post(let_in).status_code, 404)
        self.assertEqual(staff.post(f"{path}/people/{self.stranger.pk}/let-in").status_code, 404)
        self.assertEqual(staff.post(let_in).status_code, 204)
        self.assertEqual(self.try_it(PASSWORD), 200)
        self.assertEqual(self.guess(8, mail=self.tobin.email)[-1], 429)  # not the others
        self.at(minutes=16)
        guessing.forget_old(self.now + timedelta(hours=1))
        self.assertFalse(SignInFailure.objects.exists())

    def test_the_administrations_door_is_the_same_one(self) -> None:
        at = reverse("admin:login")
        answer = Client().post(at, {"username": self.corin.email, "password": PASSWORD})
        self.assertRedirects(answer, "/?next=%2Fadmin%2F", fetch_redirect_response=False)
        elsewhere = Client().get(f"{at}?next=https://elsewhere.example/")
        self.assertRedirects(elsewhere, "/?next=%2Fadmin%2F", fetch_redirect_response=False)

    def test_only_few_passwords_are_hashed_at_once(self) -> None:
        with (
            mock.patch.object(signing_in, "_HASHING_SECONDS", 0.01),
            signing_in._one_of_few(),
            signing_in._one_of_few(),
        ):
            self.assertEqual(self.try_it(PASSWORD), 503)
        self.assertEqual(self.try_it(PASSWORD), 200)

    def test_signing_out_everywhere_ends_all_sessions(self) -> None:
        one, other = Client(), Client()
        self.try_it(PASSWORD, one)
        self.try_it(PASSWORD, other)
        signing_in.sign_out_everywhere(User.objects.get(pk=self.ilse.pk))
        self.assertEqual([client.get("/api/me").json() for client in (one, other)], [None, None])
