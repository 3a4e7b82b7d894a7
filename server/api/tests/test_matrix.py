"""Who may call what: every route of the API against every role. A route that is not in the table fails."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from asking.models import Asking
from assignments.files_beside import add_file
from assignments.models import Assignment, FileBeside
from courses.models import Department, Enrolment
from editions.models import Edition, ReaderPlacement
from folios.models import Folio
from inkedfolio.api import api
from marking.giving_back import What, give_back
from marking.models import AtWork, GivenBack, Ink, Mark, MarkingScheme, MarkWord
from marking.work import work_of
from pages.models import Original, Page, TakenIn
from people.models import User
from testing.desk import NOW, DeskTestCase, picture

ANYBODY, SIGNED_IN = "anybody", "signed in"
OWNER = "the folio's student"
READER = "the folio's student, and the course's instructors"
MEMBER = "everybody of the course"
STUDENT = "students of the course"
REHEARSES = "students of the course, and its instructors"
STAFF = "the course's instructors"
COURSE = "the course's instructors and its department's administrators"
BY_SECRET = "whoever holds the secret of the address or of the phone's link"
DEPARTMENT = "the department's administrators"
TEACHES = "who teaches somewhere, or administers"

WHO = {
    "GET /api/me": ANYBODY,
    "POST /api/session": ANYBODY,
    "DELETE /api/session": SIGNED_IN,
    "GET /api/session/passkey": ANYBODY,
    "GET /api/sign-in-ways": ANYBODY,
    "GET /api/account": SIGNED_IN,
    "POST /api/account/password": SIGNED_IN,
    "DELETE /api/account/sessions": SIGNED_IN,
    "POST /api/account/second-factor": SIGNED_IN,
    "POST /api/account/second-factor/confirm": SIGNED_IN,
    "POST /api/account/second-factor/remove": SIGNED_IN,
    "POST /api/account/passkeys/begin": SIGNED_IN,
    "POST /api/account/passkeys": SIGNED_IN,
    "POST /api/account/passkeys/{passkey}/remove": SIGNED_IN,
    "POST /api/password-links": ANYBODY,
    "POST /api/password-links/use": ANYBODY,
    "GET /api/assignments/{assignment_id}/folios.csv": STAFF,
    "GET /api/assignments/{assignment_id}/folios.zip": STAFF,
    "GET /api/assignments/{assignment_id}/folios.zip/news": STAFF,
    "POST /api/folios/{folio_id}/take-back": OWNER,
    "GET /api/folios/{folio_id}/editions/{number}/compared/{other}": READER,
    "POST /api/folios/{folio_id}/editions/{number}/askings": STAFF,
    "POST /api/askings/{asking_id}/withdraw": STAFF,
    "POST /api/folios/{folio_id}/words": READER,
    "POST /api/folios/{folio_id}/editions/{number}/reader-placements": STAFF,
    "POST /api/folios/{folio_id}/editions/{number}/reader-placements/take-off": STAFF,
    "POST /api/assignments/{assignment_id}/people/{person_id}/taking-in": STAFF,
    "PUT /api/taking-in/{taken_id}/originals": STAFF,
    "POST /api/taking-in/{taken_id}/hand-in": STAFF,
    "GET /api/assignments/{assignment_id}/printed-sheets": STAFF,
    "PUT /api/assignments/{assignment_id}/printed-sheets": STAFF,
    "GET /api/assignments/{assignment_id}/paper/with-codes.pdf": STAFF,
    "POST /api/receipt-checks": ANYBODY,
    "GET /api/notices": SIGNED_IN,
    "GET /api/notices/unread": SIGNED_IN,
    "POST /api/notices/read": SIGNED_IN,
    "GET /api/notice-choices": SIGNED_IN,
    "PUT /api/notice-choices": SIGNED_IN,
    "GET /api/no-more-mail/{token}": ANYBODY,  # who holds the mail's address
    "POST /api/no-more-mail/{token}": ANYBODY,
    "GET /api/post-box": ANYBODY,  # only where an installation shows all mail, for trying out
    "GET /api/departments/{department_id}": DEPARTMENT,
    "GET /api/departments/{department_id}/people": DEPARTMENT,
    "POST /api/departments/{department_id}/administrators": DEPARTMENT,
    "DELETE /api/departments/{department_id}/administrators/{person_id}": DEPARTMENT,
    "GET /api/contacts": SIGNED_IN,
    "GET /api/my-folios": SIGNED_IN,
    "GET /api/assignments/{assignment_id}/answer-paper.pdf": MEMBER,
    "GET /api/assignments/{assignment_id}/brief": MEMBER,
    "POST /api/assignments/{assignment_id}/rehearse": REHEARSES,
    "POST /api/assignments/{assignment_id}/begin": STUDENT,
    "GET /api/assignments/{assignment_id}/question-paper": MEMBER,
    "GET /api/assignments/{assignment_id}/question-paper/pages": MEMBER,
    "GET /api/assignments/{assignment_id}/question-paper/pages/{image}": MEMBER,
    "GET /api/folios/{folio_id}": OWNER,
    "PUT /api/folios/{folio_id}/originals": OWNER,
    "POST /api/folios/{folio_id}/pledge": OWNER,
    "PUT /api/folios/{folio_id}/arrangement": OWNER,
    "PUT /api/folios/{folio_id}/heard": OWNER,
    "PUT /api/folios/{folio_id}/answers/{question_id}": OWNER,
    "DELETE /api/folios/{folio_id}/set-aside/{aside_id}": OWNER,
    "POST /api/folios/{folio_id}/hand-in": OWNER,
    "GET /api/folios/{folio_id}/suggestion": OWNER,
    "PUT /api/account/proposals": SIGNED_IN,
    "GET /api/folios/{folio_id}/images/{name}": READER,
    "GET /api/originals/{original_id}/file": READER,
    "OPTIONS /api/folios/{folio_id}/uploads": ANYBODY,  # what the protocol offers
    "POST /api/folios/{folio_id}/uploads": OWNER,
    "HEAD /api/folios/{folio_id}/uploads/{key}": OWNER,
    "PATCH /api/folios/{folio_id}/uploads/{key}": OWNER,
    "DELETE /api/folios/{folio_id}/uploads/{key}": OWNER,
    "GET /api/folios/{folio_id}/editions/{number}": READER,
    "GET /api/folios/{folio_id}/editions/{number}/bound.pdf": READER,
    "GET /api/folios/{folio_id}/editions/{number}/receipt.json": READER,
    "GET /api/folios/{folio_id}/editions/{number}/receipt.pdf": READER,
    "GET /api/assignments/{assignment_id}/marking": STAFF,
    "PUT /api/assignments/{assignment_id}/marking/scheme": STAFF,
    "GET /api/assignments/{assignment_id}/marking/answers": STAFF,
    "GET /api/folios/{folio_id}/editions/{number}/marked": STAFF,
    "GET /api/assignments/{assignment_id}/marking/folios/{folio_id}": STAFF,
    "PUT /api/assignments/{assignment_id}/marking/at-work": STAFF,
    "PUT /api/marks": STAFF,
    "PUT /api/ink/{key}": STAFF,
    "DELETE /api/ink/{key}": STAFF,
    "GET /api/assignments/{assignment_id}/giving-back": STAFF,
    "POST /api/assignments/{assignment_id}/giving-back": STAFF,
    "POST /api/folios/{folio_id}/giving-back/take-back": STAFF,
    "GET /api/assignments/{assignment_id}/marks.csv": STAFF,
    "GET /api/assignments/{assignment_id}/marks-oneroster.zip": STAFF,
    "GET /api/assignments/{assignment_id}/marked.zip": STAFF,
    "PUT /api/assignments/{assignment_id}/marks-files": STAFF,
    "GET /api/folios/{folio_id}/editions/{number}/ink.inkml": STAFF,
    "GET /api/folios/{folio_id}/returned": OWNER,
    "GET /api/folios/{folio_id}/returned.pdf": OWNER,
    "POST /api/folios/{folio_id}/mark-words": READER,
    "GET /api/receipt-keys": ANYBODY,
    "GET /api/folios/{folio_id}/draft": OWNER,
    "GET /api/folios/{folio_id}/editions/{number}/reading": READER,
    "GET /api/assignments/{assignment_id}/folios": STAFF,
    "POST /api/assignments/{assignment_id}/lengthen": STAFF,
    "POST /api/assignments/{assignment_id}/word": STAFF,
    "POST /api/assignments/{assignment_id}/people/{person_id}/let-in": STAFF,
    "GET /api/folios/{folio_id}/record": STAFF,
    "GET /api/assignments/{assignment_id}/question-map": STAFF,
    "PUT /api/assignments/{assignment_id}/question-map": STAFF,
    "POST /api/assignments/{assignment_id}/question-map/consequences": STAFF,
    "GET /api/assignments/{assignment_id}/markers": STAFF,
    "PUT /api/assignments/{assignment_id}/markers/{line_id}": STAFF,
    "GET /api/courses": SIGNED_IN,
    "POST /api/courses": TEACHES,
    "GET /api/courses/{course_id}": COURSE,
    "PUT /api/courses/{course_id}": COURSE,
    "POST /api/courses/{course_id}/join-code": COURSE,
    "DELETE /api/courses/{course_id}/join-code": COURSE,
    "GET /api/courses/{course_id}/people": COURSE,
    "POST /api/courses/{course_id}/people": COURSE,
    "PUT /api/courses/{course_id}/people/{line_id}": COURSE,
    "DELETE /api/courses/{course_id}/people/{line_id}": COURSE,
    "POST /api/courses/{course_id}/roster/read": COURSE,
    "POST /api/courses/{course_id}/roster": COURSE,
    "POST /api/courses/{course_id}/people/{line_id}/invite": COURSE,
    "GET /api/courses/{course_id}/roster.csv": COURSE,
    "GET /api/courses/{course_id}/roster.zip": COURSE,
    "POST /api/courses/{course_id}/join-requests/{request_id}": COURSE,
    "GET /api/join/{code}": BY_SECRET,
    "POST /api/join/{code}": BY_SECRET,
    "POST /api/courses/{course_id}/assignments": STAFF,
    "GET /api/assignments/{assignment_id}/setting-up": STAFF,
    "PUT /api/assignments/{assignment_id}/setting-up": STAFF,
    "PUT /api/assignments/{assignment_id}/paper": STAFF,
    "PUT /api/assignments/{assignment_id}/files": STAFF,
    "DELETE /api/assignments/{assignment_id}/files/{file_id}": STAFF,
    "GET /api/assignments/{assignment_id}/files/{file_id}": MEMBER,
    "GET /api/assignments/{assignment_id}/paper/proposal": STAFF,
    "POST /api/typed-maps": SIGNED_IN,  # what a line of text means; of nobody's data
    "POST /api/assignments/{assignment_id}/give-out": STAFF,
    "POST /api/assignments/{assignment_id}/take-back": STAFF,
    "DELETE /api/assignments/{assignment_id}": STAFF,
    "GET /api/assignments/{assignment_id}/sitting": STAFF,
    "GET /api/assignments/{assignment_id}/sitting/news": STAFF,
    "POST /api/assignments/{assignment_id}/personal-terms": STAFF,
    "GET /api/calendar": SIGNED_IN,
    "POST /api/calendar": SIGNED_IN,
    "GET /api/calendar/{token}.ics": BY_SECRET,
    "GET /api/folios/{folio_id}/camera-links": OWNER,
    "POST /api/folios/{folio_id}/camera-links": OWNER,
    "DELETE /api/folios/{folio_id}/camera-links/{link_id}": OWNER,
    "GET /api/assignments/{assignment_id}/get-ready": STUDENT,
    "POST /api/assignments/{assignment_id}/camera-links": STUDENT,
    "DELETE /api/assignments/{assignment_id}/camera-links/{link_id}": STUDENT,
    "PUT /api/assignments/{assignment_id}/test-picture": STUDENT,
    "PUT /api/assignments/{assignment_id}/sending-sample": STUDENT,
    "GET /api/assignments/{assignment_id}/test-pictures/{picture_id}": STUDENT,
    "POST /api/camera/typed": BY_SECRET,
    "GET /api/camera": BY_SECRET,
    "PUT /api/camera/test-picture": BY_SECRET,
    "PUT /api/camera/pages/{page_id}": BY_SECRET,
    "PUT /api/camera/originals": BY_SECRET,
    "POST /api/camera/uploads": BY_SECRET,
    "HEAD /api/camera/uploads/{key}": BY_SECRET,
    "PATCH /api/camera/uploads/{key}": BY_SECRET,
    "POST /api/camera/pledge": BY_SECRET,
    "PUT /api/camera/frame": BY_SECRET,
    "PUT /api/folios/{folio_id}/frame": OWNER,
    "GET /api/folios/{folio_id}/news": OWNER,
}
MARKING = ("PUT /api/marks", "PUT /api/ink/{key}", "POST /api/folios/{folio_id}/mark-words")
INK = "12345678-1234-1234-1234-123456789012"
STREAMS = ("/news",)  # tested where they are listened to
INSIDE = {
    OWNER: {"ilse"},
    READER: {"ilse", "corin"},
    MEMBER: {"ilse", "tobin", "corin", "marker"},
    STUDENT: {"ilse", "tobin"},
    REHEARSES: {"ilse", "tobin", "corin"},
    STAFF: {"corin"},
    COURSE: {"corin", "administrator"},
    DEPARTMENT: {"administrator"},
    TEACHES: {"corin", "administrator"},
    SIGNED_IN: {"ilse", "tobin", "corin", "marker", "administrator", "stranger"},
}


class Matrix(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.send(picture())
        self.work_off_jobs()
        self.hand_in()
        self.work_off_jobs()
        self.department = department = Department.objects.create(code="SEA", title="Seamanship")
        type(self.course).objects.filter(pk=self.course.pk).update(department=department)
        administrator = User.objects.create_user("boss@kestrelpoint.example", "a-long-password")
        department.administrators.add(administrator)
        marker = self.person("marker@kestrelpoint.example", "Maud", role=Enrolment.Role.MARKER)
        self.people: dict[str, User | None] = {
            "ilse": self.ilse, "tobin": self.tobin, "corin": self.corin, "marker": marker,
            "administrator": administrator, "stranger": self.stranger, "signed out": None,
        }  # fmt: skip
        self.known_page, self.known_line = Page.objects.get(), Enrolment.objects.get(person=self.tobin)
        self.beside = add_file(self.work, "formulas.png", picture(kind="PNG"))
        self.taken = TakenIn.objects.create(
            folio=self.folio, by=self.corin, reason="by post", counts_at=NOW, begun_at=NOW
        )
        self.asking = Asking.objects.create(
            folio=self.folio, kind="all", reason="dark", until=NOW + timedelta(days=1), by=self.corin, asked_at=NOW
        )
        give_back(work_of(self.work), What(), opens_at=NOW, asks_until=NOW + timedelta(days=1), by=self.corin, now=NOW)
        Ink.objects.create(
            key=INK, page=self.known_page, question=self.id_of("1a"), tool="tick", points=[[1, 1, 0.5]], width=9,
            by=self.corin, at=NOW,
        )  # fmt: skip
        self.marked = {"folio_id": self.folio.pk, "question": self.id_of("1a"), "page": self.known_page.pk}
        self.clients = {name: self.as_(user) for name, user in self.people.items()}
        self.schema = api.get_openapi_schema(path_prefix="/api/")
        self.how = self.routes()

    def routes(self) -> dict[str, Any]:
        paths = self.schema["paths"]
        return {f"{method.upper()} {path}": how for path, methods in paths.items() for method, how in methods.items()}

    def test_every_route_says_who_may_call_it(self) -> None:
        self.assertEqual(set(self.how), set(WHO))

    def test_nobody_from_outside_gets_in_or_changes_anything(self) -> None:
        """The same answer for what is somebody else's and for what does not exist: 404; 403 where the course is one's
        own; 401 for who is signed out."""
        before = self.seen()
        for route, who in WHO.items():
            if who in (ANYBODY, BY_SECRET) or route.endswith(STREAMS):
                continue
            for name in self.people.keys() - INSIDE[who]:
                status = self.call(route, name)
                allowed = {401} if name == "signed out" else {403, 404}
                allowed |= {412} if "/uploads" in route else set()  # the protocol's own header is asked for first
                self.assertIn(status, allowed, f"{route} by {name}")
        self.assertEqual(self.seen(), before)

    def test_whom_it_is_for_gets_in(self) -> None:
        for route, who in WHO.items():
            if who in (ANYBODY, BY_SECRET) or route.endswith(STREAMS) or not route.startswith("GET"):
                continue
            if "paper" in route or "printed" in route or "test-pictures" in route:
                continue  # there is none here; tested with one in test_drawing and test_get_ready
            for name in INSIDE[who]:
                self.assertEqual(self.call(route, name), 200, f"{route} by {name}")

    def call(self, route: str, name: str) -> int:
        method, path = route.split(" ", 1)
        page, line = self.known_page, self.known_line
        values = {
            "assignment_id": self.work.pk, "folio_id": self.folio.pk, "course_id": self.course.pk, "line_id": line.pk,
            "person_id": self.tobin.pk, "number": 1, "name": page.image, "original_id": page.original_id,
            "image": page.image, "key": INK,
            "department_id": self.department.pk, "request_id": 1, "link_id": 1, "passkey": 1, "picture_id": 1,
            "other": 1, "file_id": self.beside.pk, "taken_id": self.taken.pk, "asking_id": self.asking.pk,
            "question_id": self.id_of("1a"), "aside_id": 1,
        }  # fmt: skip
        how = self.how[route]
        body = how.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
        least = self.least(body) if body else {}
        if route in MARKING:
            least = {**least, **{name: value for name, value in self.marked.items() if name in least}}
        data = json.dumps(least) if body else ""
        query = (
            "?name=a.png"
            if path.endswith(("/originals", "/paper", "/files", "/marks-files"))
            else "?what=bound"
            if path.endswith("/folios.zip")
            else f"?viewer={INK}"
            if path.endswith("/frame")
            else f"?watch={'0' * 32}"
            if path.endswith(".zip/news")
            else ""
        )
        answer = self.clients[name].generic(
            method, path.format(**values) + query, data, content_type="application/json"
        )
        return int(answer.status_code)

    def least(self, schema: dict[str, Any]) -> Any:
        """The smallest value that fits a schema, so that only who asks can be what is wrong."""
        if "$ref" in schema:
            return self.least(self.schema["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]])
        if "default" in schema:
            return schema["default"]
        if "enum" in schema:
            return schema["enum"][0]
        if "anyOf" in schema:
            return self.least(schema["anyOf"][-1])
        if schema.get("type") == "object":
            required = schema.get("required", [])
            return {name: self.least(schema["properties"][name]) for name in required}
        if schema.get("type") == "array":
            return [self.least(schema["items"])] * schema.get("minItems", 0)
        least = {"string": "a" * max(1, schema.get("minLength", 0)), "integer": schema.get("minimum", 1)}
        return {"number": 1, "boolean": False, "null": None, **least}.get(schema.get("type", "null"))

    def seen(self) -> list[Any]:
        return [
            list(Assignment.objects.order_by("pk").values()),
            list(Enrolment.objects.order_by("pk").values()),
            list(Folio.objects.order_by("pk").values()),
            list(type(self.course).objects.values()),
            list(Department.administrators.through.objects.values()),
            Original.objects.count(),
            list(Asking.objects.values()),
            list(TakenIn.objects.values()),
            ReaderPlacement.objects.count(),
            Edition.objects.count(),
            FileBeside.objects.count(),
            [MarkingScheme.objects.count(), Mark.objects.count(), AtWork.objects.count(), MarkWord.objects.count()],
            list(Ink.objects.values()),
            list(GivenBack.objects.values()),
        ]
