"""The typed API: one router a screen. The OpenAPI document of it makes the front end's types."""

from __future__ import annotations

from ninja import NinjaAPI
from ninja.security import SessionAuth

from api import (
    account,
    answer_paper,
    answers,
    asking,
    board,
    brief,
    calendar_feed,
    camera,
    camera_links,
    college,
    compared,
    contacts,
    courses,
    departments,
    files_beside,
    folio_archive,
    folio_list,
    giving_back,
    giving_marks,
    joining,
    live_frames,
    markers,
    marking,
    my_folios,
    news,
    notices,
    printed_sheets,
    proposals,
    question_paper,
    reading,
    receipt,
    receipt_checks,
    receipt_keys,
    returned,
    roster,
    setting_up,
    sign_in,
    sitting,
    staff,
    taking_in,
    uploads,
)
from plumbing import errors

_SCREENS = (
    sign_in, college, account, contacts, my_folios, brief, question_paper, files_beside, board, answers, proposals,
    uploads, receipt, receipt_checks, receipt_keys, compared, reading, asking, folio_list, folio_archive, staff,
    taking_in, markers, marking, giving_marks, giving_back, returned, courses, departments, roster, joining, setting_up,
    printed_sheets, sitting, notices, answer_paper, calendar_feed, camera, camera_links, live_frames, news,
)  # fmt: skip


class SignedIn(SessionAuth):
    """Django's session. Its cookie may be called otherwise (FOLIO_SESSION_COOKIE); the document names the usual one."""

    param_name = "folio_session"


api = NinjaAPI(title="Inked Folio", version="1", auth=SignedIn(), docs_url=None, urls_namespace="api")
errors.install(api)
for screen in _SCREENS:
    api.add_router("", screen.router)
