"""A class that has handed in, for what begins there."""

from __future__ import annotations

from datetime import timedelta

from arrival_bench.stand import students


def handed_in(title: str, *, people: int, pages: int) -> tuple[int, int, str]:
    """So many folios with eight questions spread over their pages. Returns the ids of the assignment and of its first
    folio, and the cookie of one who teaches the course."""
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore

    from assignments.models import Question
    from board_bench.prepared import lay_prepared
    from courses.models import Enrolment
    from editions.handing_in import hand_in
    from folio_core.placing import Placement, read_arrangement, write_arrangement
    from folios.models import Folio
    from people.models import User
    from plumbing.requests import moment

    folios = [Folio.objects.get(pk=one.folio_id) for one in students(people, closes_in=timedelta(hours=2), title=title)]
    work = folios[0].assignment
    for number in range(2, 9):
        Question.objects.create(assignment=work, label=str(number), points=4, position=number)
    ids = [str(one.pk) for one in work.questions.order_by("position", "pk")]
    for number, folio in enumerate(folios):
        User.objects.filter(pk=folio.student_id).update(first_name=f"Student {number:03}")
        lay_prepared(folio, pages)
        laid = read_arrangement(folio.arrangement)
        each = pages / len(ids)  # a question every so many pages; several on one stand below one another
        placed = {
            one: (Placement(laid.order[int(at * each)], round(0.1 + 0.8 * (at * each % 1), 3)),)
            for at, one in enumerate(ids)
        }
        folio.arrangement = write_arrangement(type(laid)(order=laid.order, placements=placed))
        folio.save()
        hand_in(Folio.objects.get(pk=folio.pk), seen_edition=0, now=moment())
    teacher = User.objects.create_user(f"{title}-teaches@kestrelpoint.example")
    Enrolment.objects.create(course=work.course, person=teacher, role=Enrolment.Role.INSTRUCTOR)
    session = SessionStore()
    session[SESSION_KEY] = str(teacher.pk)
    session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
    session[HASH_SESSION_KEY] = teacher.get_session_auth_hash()
    session.save()
    return work.pk, folios[0].pk, str(session.session_key)
