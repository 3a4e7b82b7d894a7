"""Errors as the browser gets them: a code for the program, a sentence for the person."""

from __future__ import annotations

import errno
import logging

from django.db import DataError, OperationalError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError
from psycopg.errors import DiskFull

from folio_core.answers import BadAnswer
from folio_core.clock import SittingClosed
from folio_core.page import PageError
from folio_core.placing import BadArrangement

logger = logging.getLogger(__name__)
_NO_ROOM = "The server has no room just now, so this was not taken. Keep it: it is tried again. Tell your instructor."

STALE_PAGE = "This page is out of date. Reload it and do that again; nothing was lost."


class Problem(Schema):
    code: str
    message: str


class Refused(Exception):
    """A request that is understood and not carried out."""

    def __init__(self, status: int, code: str, message: str) -> None:
        super().__init__(message)
        self.status, self.code, self.message = status, code, message


def not_yours() -> Refused:
    """The same answer for what does not exist and for what is somebody else's."""
    return Refused(404, "not_found", "There is nothing here for this account. Check who is signed in.")


def error_response(error: Exception) -> tuple[int, Problem] | None:
    """The status and the words for an error that has some; None for one that nobody foresaw."""
    match error:
        case Refused():
            return error.status, Problem(code=error.code, message=error.message)
        case SittingClosed():
            return 403, Problem(code="closed", message=str(error))
        case PageError():
            return 422, Problem(code=error.trouble, message=error.message)
        case BadArrangement():
            return 422, Problem(code="bad_arrangement", message=str(error))
        case BadAnswer():
            return 422, Problem(code="bad_answer", message=str(error))
        case AuthenticationError():
            return 401, Problem(code="signed_out", message="You are signed out. Sign in again; nothing was lost.")
        case ValidationError():
            return 422, Problem(code="bad_request", message=_unreadable(error))
        case HttpError():  # the framework's own, of a body that is no JSON
            return error.status_code, Problem(
                code="bad_request", message="This request cannot be read. Reload the page."
            )
        case DataError():
            return 422, Problem(code="bad_request", message="Something in this cannot be kept as text or number.")
        case OSError(errno=errno.ENOSPC | errno.EDQUOT) | OperationalError(__cause__=DiskFull()):
            logger.critical("A disk is full: %s", error)
            return 507, Problem(code="no_room", message=_NO_ROOM)
    return None


def answer_to(error: Exception) -> tuple[int, Problem]:
    """The same for any error; that of one nobody foresaw is written to the log."""
    known = error_response(error)
    if known is None:
        logger.error("Something went wrong", exc_info=error)
        return 500, Problem(code="trouble", message="Something went wrong on the server. It is tried again.")
    return known


def _unreadable(error: ValidationError) -> str:
    """The fields, as the description of the API names them."""
    fields = {".".join(str(step) for step in one["loc"][1:]) for one in error.errors if one.get("loc")}
    where = f": {', '.join(sorted(fields)[:5])}" if fields - {""} else ""
    return f"Something in this request cannot be read{where}. Reload the page and try again."


def no_such_address(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Django's answer to an address that is none, in the API's form."""
    problem = Problem(code="not_found", message="There is nothing at this address.")
    return HttpResponse(problem.model_dump_json(), status=404, content_type="application/json")


def install(api: NinjaAPI) -> None:
    """Have the API answer the errors that have words of ours."""

    def answer(request: HttpRequest, error: Exception | type[Exception]) -> HttpResponse:
        known = error_response(error) if isinstance(error, Exception) else None
        if known is None:
            raise error
        return api.create_response(request, known[1], status=known[0])

    ours = (Refused, SittingClosed, PageError, BadArrangement, BadAnswer)
    frameworks = (AuthenticationError, ValidationError, HttpError, OSError, OperationalError, DataError)
    for kind in (*ours, *frameworks):
        api.add_exception_handler(kind, answer)
