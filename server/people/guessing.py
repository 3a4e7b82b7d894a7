"""Guessing passwords is slowed down, and nobody is locked out by it.

After some wrong passwords each further try must wait, longer and longer, at most a minute. Whose device has signed in
before is not held up by what strangers guess from elsewhere; staff can let a person in at once.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.core import signing
from django.db.models import Count, Max, Q

from .models import SignInFailure, User

DEVICE_COOKIE = "folio_device"
DEVICE_SECONDS = 400 * 24 * 3600  # about as long as browsers keep any cookie
_SALT = "people.device"
_MOST_PEOPLE = 8  # whose device one is: a family's, a lab's
_REMEMBERED = timedelta(hours=1)
_FREE, _FREE_OF_ADDRESS = 5, 100  # wrong passwords an account, an address (a whole hall may share one)
_MOST_SECONDS = 60
LET_IN_FOR = timedelta(minutes=15)


@dataclass(frozen=True, slots=True)
class Device:
    """A browser, by its signed cookie: who has signed in there before."""

    id: str
    people: tuple[int, ...] = ()

    @classmethod
    def from_cookie(cls, cookie: str | None, new_id: str) -> Device:
        try:
            kept = signing.loads(cookie or "", salt=_SALT, max_age=DEVICE_SECONDS)
            return cls(str(kept["id"]), tuple(int(one) for one in kept["people"]))
        except (signing.BadSignature, KeyError, TypeError, ValueError):
            return cls(new_id)

    def cookie_with(self, person: int) -> str:
        people = (person, *(one for one in self.people if one != person))[:_MOST_PEOPLE]
        return signing.dumps({"id": self.id, "people": people}, salt=_SALT)


def seconds_to_wait(account: str, device: Device, address: str, now: datetime) -> int:
    """Until this account may be tried again from there; 0 is at once."""
    person = User.objects.filter(email=account).only("pk", "let_in_until").first()
    if person is not None and person.let_in_until is not None and now < person.let_in_until:
        return 0
    recent = SignInFailure.objects.filter(at__gt=now - _REMEMBERED)
    if person is not None and person.pk in device.people:
        own = recent.filter(account=account, source=_of_device(device)).aggregate(count=Count("pk"), last=Max("at"))
        return _left(own["count"], _FREE, own["last"], now)
    here = _of_address(address)
    counted = recent.filter(Q(account=account) | Q(source=here)).aggregate(
        of_account=Count("pk", filter=Q(account=account) & ~Q(source__startswith="device ")),
        last_of_account=Max("at", filter=Q(account=account) & ~Q(source__startswith="device ")),
        of_address=Count("pk", filter=Q(source=here)),
        last_of_address=Max("at", filter=Q(source=here)),
    )
    return max(
        _left(counted["of_account"], _FREE, counted["last_of_account"], now),
        _left(counted["of_address"], _FREE_OF_ADDRESS, counted["last_of_address"], now),
    )


def remember_failure(account: str, device: Device, address: str, now: datetime) -> None:
    known = User.objects.filter(email=account, pk__in=device.people).exists()
    source = _of_device(device) if known else _of_address(address)
    SignInFailure.objects.create(account=account, source=source, at=now)


def forget_failures(account: str, device: Device, address: str) -> None:
    """After the right password, from there; what strangers guess elsewhere goes on counting for them."""
    SignInFailure.objects.filter(account=account, source__in=[_of_device(device), _of_address(address)]).delete()


def let_in(person: User, now: datetime) -> None:
    """By staff: this person may try at once, whatever was guessed."""
    SignInFailure.objects.filter(account=person.email).delete()
    person.let_in_until = now + LET_IN_FOR
    person.save(update_fields=["let_in_until"])


def held_up(accounts: list[str], now: datetime) -> dict[str, int]:
    """Of these accounts those that must wait from a new device just now, and how many wrong passwords there were."""
    recent = SignInFailure.objects.filter(account__in=accounts, at__gt=now - _REMEMBERED)
    rows = recent.values_list("account").annotate(count=Count("pk"))
    return {account: count for account, count in rows if count > _FREE}


def forget_old(now: datetime) -> None:
    SignInFailure.objects.filter(at__lt=now - _REMEMBERED).delete()


def _left(count: int, free: int, last: datetime | None, now: datetime) -> int:
    if last is None or count <= free:
        return 0
    pause = timedelta(seconds=min(2 ** (count - free), _MOST_SECONDS))
    return max(0, -(-(last + pause - now) // timedelta(seconds=1)))


def _of_device(device: Device) -> str:
    return f"device {device.id}"


def _of_address(address: str) -> str:
    return f"address {address}"


FREE_CODES = 10  # wrong join codes an hour


def tries_of(account: str, now: datetime) -> int:
    """What was guessed wrongly by, or of, ``account`` within the hour; for codes that are typed by who is signed in."""
    return SignInFailure.objects.filter(account=account, at__gt=now - _REMEMBERED).count()


def note_try(account: str, now: datetime) -> None:
    SignInFailure.objects.create(account=account, source="signed in", at=now)
