"""Errors as the browser gets them: a code for the program, a sentence for the person."""

from __future__ import annotations

import errno
import logging

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError
from psycopg.errors import DiskFull

from folio_core.clock import SittingClosed
from folio_core.page import PageError
from folio_core.placing import BadArrangement

logger = logging.getLogger(__name__)
_NO_ROOM = "The server has no room just now, so this was not taken. Keep it: it is tried again. Tell your instructor."


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


def install(api: NinjaAPI) -> None:
    def answer(request: HttpRequest, status: int, code: str, message: str) -> HttpResponse:
        return api.create_response(request, Problem(code=code, message=message), status=status)

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Refused) -> HttpResponse:
        return answer(request, error.status, error.code, error.message)

    @api.exception_handler(SittingClosed)
    def closed(request: HttpRequest, error: SittingClosed) -> HttpResponse:
        return answer(request, 403, "closed", str(error))

    @api.exception_handler(PageError)
    def bad_page(request: HttpRequest, error: PageError) -> HttpResponse:
        return answer(request, 422, error.trouble, error.message)

    @api.exception_handler(BadArrangement)
    def bad_arrangement(request: HttpRequest, error: BadArrangement) -> HttpResponse:
        return answer(request, 422, "bad_arrangement", str(error))

    @api.exception_handler(OSError)
    def no_room(request: HttpRequest, error: OSError) -> HttpResponse:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise error
        logger.critical("The disk of the files is full: %s", error)
        return answer(request, 507, "no_room", _NO_ROOM)

    @api.exception_handler(OperationalError)
    def database_trouble(request: HttpRequest, error: OperationalError) -> HttpResponse:
        if not isinstance(error.__cause__, DiskFull):
            raise error
        logger.critical("The disk of the database is full: %s", error)
        return answer(request, 507, "no_room", _NO_ROOM)

    @api.exception_handler(AuthenticationError)
    def signed_out(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(request, 401, "signed_out", "You are signed out. Sign in again; nothing was lost.")
