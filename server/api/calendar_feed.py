"""Due moments as a calendar feed (RFC 5545), for the calendar a student already looks at."""

from __future__ import annotations

from datetime import timedelta

from django.http import HttpRequest, HttpResponse
from icalendar import Alarm, Calendar, Event
from ninja import Router, Schema

from assignments.models import Assignment
from courses.models import Enrolment
from folios.beginning import window_of
from people.models import User, new_token
from plumbing.errors import not_yours
from plumbing.requests import moment

from .permissions import person

router = Router(tags=["calendar"])
_REMIND = timedelta(days=1)


class FeedOut(Schema):
    address: str


@router.get("/calendar", response=FeedOut)
def feed_address(request: HttpRequest) -> FeedOut:
    """The secret address of the signed-in person's feed: calendar programs do not sign in."""
    return _address(request, person(request))


@router.post("/calendar", response=FeedOut)
def new_feed_address(request: HttpRequest) -> FeedOut:
    """Another address in the place of the one that somebody else may know; that one ends."""
    user = person(request)
    user.calendar_token = new_token()
    user.save(update_fields=["calendar_token"])
    return _address(request, user)


def _address(request: HttpRequest, user: User) -> FeedOut:
    return FeedOut(address=request.build_absolute_uri(f"/api/calendar/{user.calendar_token}.ics"))


@router.get("/calendar/{token}.ics", auth=None, response={200: None})
def feed(request: HttpRequest, token: str) -> HttpResponse:
    user = User.objects.filter(calendar_token=token, is_active=True).first()
    if user is None:
        raise not_yours()
    response = HttpResponse(calendar_of(user).to_ical(), content_type="text/calendar; charset=utf-8")
    response["Cache-Control"] = "private, max-age=900"
    return response


def calendar_of(user: User) -> Calendar:
    """Each assignment the person studies: the due moment, and for a sitting the latest beginning with full time."""
    calendar = Calendar()
    calendar.add("prodid", "-//Inked Folio//due moments//EN")
    calendar.add("version", "2.0")
    calendar.add("name", "Inked Folio")
    lines = {line.course_id: line for line in user.enrolments.filter(role=Enrolment.Role.STUDENT)}
    studied = Assignment.objects.filter(course__in=lines, rehearsal_of=None, given_out_at__lte=moment()).select_related(
        "course"
    )
    for assignment in studied.prefetch_related("personal_terms"):
        folio = assignment.folios.filter(student=user).first()
        window = window_of(assignment, user.pk, folio, lines[assignment.course_id])
        name = f"{assignment.course.code} {assignment.title}"
        calendar.add_component(_event(f"due-{assignment.pk}", f"Due: {name}", window.rules.due, assignment))
        if window.latest_full_begin is not None and folio is None:
            title = f"Begin by now for full time: {name}"
            calendar.add_component(_event(f"begin-{assignment.pk}", title, window.latest_full_begin, assignment))
    return calendar


def _event(uid: str, summary: str, at: object, assignment: Assignment) -> Event:
    event = Event()
    event.add("uid", f"{uid}@inked-folio")
    event.add("dtstamp", moment())
    event.add("dtstart", at)
    event.add("summary", summary)
    event.add("transp", "TRANSPARENT")
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", summary)
    alarm.add("trigger", -_REMIND)
    event.add_component(alarm)
    return event
