"""The two addresses of the college's sign-in, which the browser goes to itself; and whether there is one."""

from __future__ import annotations

from urllib.parse import urlencode

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_GET
from ninja import Router, Schema

from people import college, signing_in
from plumbing.errors import Refused
from plumbing.requests import address_of

router = Router(tags=["sign-in"])
_WANTED = "college_next"


class SignInWays(Schema):
    """``college``: how the college whose accounts sign in here is called; empty where there is none."""

    college: str


@router.get("/sign-in-ways", auth=None, response=SignInWays)
def sign_in_ways(request: HttpRequest) -> SignInWays:
    return SignInWays(college=settings.FOLIO_COLLEGE_NAME if college.is_on() else "")


@require_GET
def begin(request: HttpRequest) -> HttpResponse:
    """Off to the college; ``next``: where to be afterwards, an address of ours."""
    if not college.is_on():
        raise Http404
    wanted = request.GET.get("next", "/")
    request.session[_WANTED] = wanted if url_has_allowed_host_and_scheme(wanted, allowed_hosts=None) else "/"
    try:
        return college.leave_for_college(request, f"{address_of(request)}/sign-in/college/done")
    except Refused as error:
        return _refused(error)


@require_GET
def done(request: HttpRequest) -> HttpResponse:
    """Back from the college. What went wrong is said on the screen of signing in."""
    if not college.is_on():
        raise Http404
    wanted = request.session.pop(_WANTED, "/")
    try:
        person = signing_in.sign_in_from_college(request)
    except Refused as error:
        return _refused(error)
    answer = redirect(wanted)
    signing_in.remember_device(request, answer, person)
    return answer


def _refused(error: Refused) -> HttpResponse:
    return redirect(f"/?{urlencode({'college': error.code})}")
