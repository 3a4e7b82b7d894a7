"""Files beside the question paper: put there by instructors, given out with the paper, always as downloads."""

from __future__ import annotations

from django.http import FileResponse, HttpRequest
from ninja import Router

from assignments import files_beside
from assignments.models import Assignment, FileBeside
from folios.reach import reach_of
from marking.giving_back import files_given, seen_by_student
from people.models import User
from plumbing.downloads import attachment
from plumbing.errors import Problem, not_yours
from plumbing.requests import body_of, moment

from .permissions import instructor_of, paper_given_out, person
from .setting_up import SettingUpOut, setting_up_of

router = Router(tags=["question paper"])


@router.put(
    "/assignments/{int:assignment_id}/files",
    response={200: SettingUpOut, 404: Problem, 409: Problem, 413: Problem, 422: Problem},
)
def put_file(request: HttpRequest, assignment_id: int, name: str) -> SettingUpOut:
    """As the body's bytes: a PDF or a picture."""
    assignment = instructor_of(person(request), assignment_id)
    files_beside.add_file(assignment, name, body_of(request, files_beside.MOST_BYTES))
    return setting_up_of(request, assignment_id)


@router.delete("/assignments/{int:assignment_id}/files/{int:file_id}", response={200: SettingUpOut, 404: Problem})
def take_away_file(request: HttpRequest, assignment_id: int, file_id: int) -> SettingUpOut:
    instructor_of(person(request), assignment_id).files_beside.filter(pk=file_id).delete()
    return setting_up_of(request, assignment_id)


@router.get("/assignments/{int:assignment_id}/files/{int:file_id}", response={200: None, 403: Problem, 404: Problem})
def get_file(request: HttpRequest, assignment_id: int, file_id: int) -> FileResponse:
    """From the opening, or for a timed sitting from its beginning, as the question paper; what comes with marks when
    these are given back."""
    user = person(request)
    assignment = paper_given_out(user, assignment_id)
    beside = FileBeside.objects.filter(assignment=assignment, pk=file_id).first()
    if beside is None or (beside.with_marks and not _comes_with_marks(beside, user, assignment)):
        raise not_yours()
    return attachment(user.pk, str(beside.stored.name), beside.name, "application/octet-stream")


def _comes_with_marks(beside: FileBeside, user: User, assignment: Assignment) -> bool:
    """To staff who read the work, and to students with whose marks it was given back."""
    if reach_of(user, assignment) is not None:
        return True
    folio = assignment.folios.filter(student=user).first()
    given = None if folio is None else seen_by_student(folio, moment())
    return given is not None and files_given(given).filter(pk=beside.pk).exists()
