"""A folio that is handed in and can be marked, with an instructor and two markers."""

from __future__ import annotations

from typing import Any

from assignments.markers import Share, give_share
from courses.models import Enrolment
from editions.models import Edition
from folios.beginning import create_folio
from folios.models import Folio
from people.models import User
from testing.desk import NOW, DeskTestCase, picture


class MarkingTestCase(DeskTestCase):
    """Ilse has handed in: 1a and 1b on page 1, 2 on page 2. ``binds``: with the bound document, which takes a while."""

    binds = False

    def setUp(self) -> None:
        super().setUp()
        self.thea = self.marker("thea@kestrelpoint.example", "Thea")
        self.osric = self.marker("osric@kestrelpoint.example", "Osric")
        self.edition = self.handed_in(self.folio)

    def marker(self, email: str, name: str, **share: Any) -> User:
        user = self.person(email, name, role=Enrolment.Role.MARKER)
        give_share(self.work, Enrolment.objects.get(person=user), Share(reads=True, **share))
        return user

    def handed_in(self, folio: Folio, **fields: Any) -> Edition:
        """With two new pages."""
        known = set(folio.pages.values_list("pk", flat=True))
        for shade in (250, 240):
            sent = self.send(picture(shade - len(known)), by=folio.student, folio=folio)
            self.assertEqual(sent.status_code, 200, sent.content)
        self.work_off_jobs()
        return self.arranged(folio, **fields)

    def arranged(self, folio: Folio, **fields: Any) -> Edition:
        """Hands in with 1a at a tenth of the first page, 1b at its half, and 2 on the second."""
        folio.refresh_from_db()
        pages = list(folio.arrangement["order"])
        first, second = pages[-2:]
        placements = {
            "1a": [{"page": first, "top": 0.1}],
            "1b": [{"page": first, "top": 0.5}],
            "2": [{"page": second, "top": None}],
        }
        self.folio, before = folio, self.folio
        arranged = self.arrange(folio.version, by=folio.student, **{"order": pages, "placements": placements, **fields})
        self.assertEqual(arranged.status_code, 200, arranged.content)
        newest = folio.editions.first()
        handed = self.hand_in(by=folio.student, seen_edition=newest.number if newest else 0)
        self.assertEqual(handed.status_code, 200, handed.content)
        self.folio = before
        if self.binds:
            self.work_off_jobs()
        edition = folio.editions.first()
        assert edition is not None
        return edition

    def of_tobin(self) -> Edition:
        return self.handed_in(create_folio(self.work, self.tobin, NOW))

    def mark(self, label: str, points: str | None, by: User | None = None, **more: Any) -> Any:
        edition = more.pop("edition", self.edition)
        body = {
            "folio_id": edition.folio_id, "edition": edition.number, "question": self.id_of(label), "points": points,
            "version": 0, **more,
        }  # fmt: skip
        return self.ask("put", "marks", body, by=by)

    def draw(self, key: str, by: User | None = None, **more: Any) -> Any:
        page = self.edition.pages.get(number=1).page_id
        body = {
            "folio_id": self.edition.folio_id, "edition": self.edition.number, "question": self.id_of("1a"),
            "page": page, "tool": "pen", "points": [[0.2, 0.3, 0.5], [0.4, 0.35, 0.7]], "width": 0.004, **more,
        }  # fmt: skip
        return self.ask("put", f"ink/{key}", body, by=by)

    def row(self, label: str, by: User | None = None, folio: int | None = None) -> dict[str, Any]:
        path = f"assignments/{self.work.pk}/marking/answers?label={label}"
        rows: list[dict[str, Any]] = self.ask("get", path, by=by).json()["rows"]
        return next(one for one in rows if one["folio_id"] == (folio or self.edition.folio_id))

    def scheme(self, **fields: Any) -> Any:
        path = f"assignments/{self.work.pk}/marking"
        version = self.ask("get", path).json()["scheme"]["version"]
        return self.ask("put", f"{path}/scheme", {"version": version, **fields})

    def give_back(self, by: User | None = None, **fields: Any) -> Any:
        body = {"folios": [self.edition.folio_id], **fields}
        return self.ask("post", f"assignments/{self.work.pk}/giving-back", body, by=by)

    def returned(self, by: User | None = None) -> Any:
        return self.ask("get", f"folios/{self.edition.folio_id}/returned", by=by or self.ilse)
