"""Test pictures: before the sitting a student sees that a device can send, and how what it takes is judged."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from datetime import datetime, timedelta

from assignments.models import Assignment
from folio_core.page import PageError, Recipe, Tone, prepare, run_limited
from people.models import User
from plumbing import storage
from plumbing.decoding import limits
from plumbing.errors import Refused

from .arrival import Receiving
from .models import CameraLink, TestPicture
from .preparing import TryAgain
from .queueing import enqueue_judging

FOLDER = "test-pictures"
MOST_AN_HOUR = 20
KEPT = 3  # newest ones of a student for an assignment: of older ones nothing is shown
LAST = timedelta(days=1)


def receive(
    student: User, assignment: Assignment, camera: CameraLink | None, chunks: Iterable[bytes], now: datetime
) -> TestPicture:
    """Raises PageError (empty, wrong kind, too large), Refused (429) where too many came."""
    mine = TestPicture.objects.filter(student=student, assignment=assignment)
    if mine.filter(made_at__gt=now - timedelta(hours=1)).count() >= MOST_AN_HOUR:
        raise Refused(429, "wait", "That are many test pictures. Wait an hour, or photograph when the sitting begins.")
    receiving = Receiving()
    try:
        for chunk in chunks:
            receiving.add(chunk)
        received = receiving.finish()
        name = f"{FOLDER}/{uuid.uuid4().hex}"
        storage.put(name, received.part.read_bytes())
    finally:
        receiving.give_up()
    picture = TestPicture.objects.create(
        student=student, assignment=assignment, camera=camera, stored_as=name, made_at=now
    )
    enqueue_judging(picture.pk)
    return picture


def shown(student: User, assignment: Assignment) -> list[TestPicture]:
    """The newest first."""
    return list(TestPicture.objects.filter(student=student, assignment=assignment).order_by("-pk")[:KEPT])


def judge(picture_id: int, *, last_try: bool) -> None:
    """As a page of work would be judged, in a limited child; then its bytes are let go. Raises TryAgain."""
    picture = TestPicture.objects.filter(pk=picture_id, state=TestPicture.State.WAITING).first()
    if picture is None:
        return
    try:
        made = run_limited(
            prepare, storage.get(picture.stored_as), 0, Recipe(tone=Tone.CLEAN), limits(), limits=limits()
        )
    except PageError as error:
        if not last_try and (error.trouble.is_the_machines or error.trouble.may_pass):
            raise TryAgain(error.message) from error
        picture.state, picture.message = TestPicture.State.FAILED, error.message
    else:
        picture.state, picture.preview = TestPicture.State.JUDGED, made.preview
        picture.width, picture.height = made.image_width, made.image_height
        picture.advice = [one.code.value for one in made.advice]
    picture.save()
    storage.remove(picture.stored_as)


def forget_old(now: datetime) -> None:
    TestPicture.objects.filter(made_at__lt=now - LAST).delete()  # the files go with what no row names
