"""Editions are frozen: whatever is edited afterwards, they go on saying the same, to the byte."""

from __future__ import annotations

import hashlib
import json
import tempfile
from collections.abc import Callable
from contextlib import suppress
from decimal import Decimal
from pathlib import Path
from typing import Any

from django.db import transaction
from hypothesis import given, settings
from hypothesis import strategies as st

from assignments.models import Assignment
from editions import binding
from editions.manifest import file_stem
from editions.models import Edition
from folios.map_editing import Entry, save_map
from people.models import User
from plumbing.errors import Refused
from testing.desk import NOW, DeskTestCase, picture

_LABELS = st.sampled_from(["1a", "1b", "1c", "2", "2a", "3", "4ii", "5.1"])


def _entries(assignment: Assignment) -> list[Entry]:
    present = assignment.questions.filter(removed_at=None)
    return [Entry(one.pk, one.label, one.title, one.points) for one in present]


def _save(assignment: Assignment, entries: list[Entry]) -> None:
    assignment = Assignment.objects.get(pk=assignment.pk)
    with suppress(Refused):  # a map that contradicts itself is no edit
        save_map(assignment, entries, seen_version=assignment.map_version, by_name="Corin", now=NOW)


Edit = Callable[[Assignment], None]


def _rename(at: int, label: str) -> Edit:
    def edit(assignment: Assignment) -> None:
        entries = _entries(assignment)
        if entries:
            old = entries[at % len(entries)]
            entries[at % len(entries)] = Entry(old.id, label, f"now {label}", old.points + 1)
            _save(assignment, entries)

    return edit


def _remove(at: int) -> Edit:
    def edit(assignment: Assignment) -> None:
        entries = _entries(assignment)
        if len(entries) > 1:
            del entries[at % len(entries)]
            _save(assignment, entries)

    return edit


def _add(label: str) -> Edit:
    return lambda assignment: _save(assignment, [*_entries(assignment), Entry(None, label, "new", Decimal(2))])


def _turn_round(assignment: Assignment) -> None:
    _save(assignment, _entries(assignment)[::-1])


def _retitle(title: str) -> Edit:
    def edit(assignment: Assignment) -> None:
        assignment.refresh_from_db()
        assignment.title, assignment.paper_size, assignment.writing_minutes = title, "LETTER", 33
        assignment.save()
        assignment.course.title = assignment.course.code = title[:30] or "x"
        assignment.course.save()
        User.objects.update(first_name=title, number="1")

    return edit


_EDITS = st.one_of(
    st.builds(_rename, st.integers(0, 5), _LABELS),
    st.builds(_remove, st.integers(0, 5)),
    st.builds(_add, _LABELS),
    st.just(_turn_round),
    st.builds(_retitle, st.text(st.characters(min_codepoint=32, max_codepoint=382), max_size=20)),
)


class Frozen(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        one, two = (self.send(picture(shade)).json()["page_id"] for shade in (1, 2))
        self.arrange(2, order=[one, two], placements={"1a": [{"page": one}], "1b": [{"page": two}]}, left_blank=["2"])
        self.hand_in()
        self.work_off_jobs()
        self.edition = Edition.objects.get()

    def said(self) -> tuple[Any, ...]:
        """All that is told of the edition, and its document and receipt made once more."""
        edition = Edition.objects.get(pk=self.edition.pk)
        pages = list(edition.pages.select_related("page__original"))
        sheets = [binding._sheet(page, last_try=True) for page in pages]
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "bound.pdf"
            receipt = binding.write_bound(edition, pages, sheets, out, binding.typed_sheets(edition))
            document = out.read_bytes()
        path = f"/api/folios/{self.folio.pk}/editions/1"
        told = self.as_(self.ilse).get(path).json()
        told = {name: told[name] for name in told if name not in ("window", "events", "replace_until")}
        reading = self.as_(self.ilse).get(f"{path}/reading").json()
        return document, receipt.as_json(), told, reading, file_stem(edition)

    def test_no_edit_changes_what_an_edition_says_or_a_byte_of_its_document(self) -> None:
        before = self.said()

        @settings(max_examples=20, deadline=None)
        @given(st.lists(_EDITS, min_size=1, max_size=4))
        def check(edits: list[Edit]) -> None:
            with transaction.atomic():
                for edit in edits:
                    edit(Assignment.objects.get(pk=self.work.pk))
                self.assertEqual(self.said(), before)
                transaction.set_rollback(True)

        check()

    def test_an_edition_whose_receipt_is_not_signed_yet_is_bound_as_it_was_handed_in(self) -> None:
        page = self.send(picture(3)).json()["page_id"]
        order = [*self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()["arrangement"]["order"]]
        self.arrange(4, order=order, placements={"1a": [{"page": page}]})
        self.hand_in(seen_edition=1)
        _save(self.work, [Entry(None, "7", "another", Decimal(1))])
        self.work_off_jobs()
        receipt = Edition.objects.get(number=2).receipt
        assert receipt is not None
        self.assertEqual(receipt["statement"]["manifest"]["open"], ["1b", "2"])
        self.assertEqual(receipt["statement"]["manifest"]["pages"][2]["labels"], ["1a"])

    def test_a_job_that_runs_twice_leaves_the_file_its_receipt_names(self) -> None:
        Edition.objects.update(state=Edition.State.BINDING)
        binding.bind_edition(self.edition.pk, now=NOW)
        again = Edition.objects.get()
        self.assertEqual(again.bound_sha256, self.edition.bound_sha256)
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/1/bound.pdf")
        self.assertEqual(hashlib.sha256(answer.getvalue()).hexdigest(), again.file_sha256)


class EditingTheMap(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.send(picture(1)).json()["page_id"]
        self.arrange(1, order=[self.page], placements={"1a": [{"page": self.page}]}, left_blank=["2"])
        self.ids = {label: int(self.id_of(label)) for label in ("1a", "1b", "2")}
        self.path = f"/api/assignments/{self.work.pk}/question-map"

    def entries(self, **labels: str) -> list[dict[str, Any]]:
        return [{"id": self.ids[old.replace("_", "")], "label": new, "points": 4} for old, new in labels.items()]

    def put(self, entries: list[dict[str, Any]], version: int = 0, path: str = "") -> Any:
        body = json.dumps({"version": version, "entries": entries})
        client = self.as_(self.corin)
        way = client.post if path else client.put
        return way(self.path + path, body, content_type="application/json")

    def board(self) -> dict[str, Any]:
        board: dict[str, Any] = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        return board

    def test_renaming_keeps_placements_and_labels_can_be_exchanged(self) -> None:
        answer = self.put(self.entries(_1a="1b", _1b="1a", _2="3"))
        self.assertEqual((answer.status_code, answer.json()["version"]), (200, 1))
        board = self.board()
        self.assertEqual(list(board["arrangement"]["placements"]), [str(self.ids["1a"])])
        self.assertEqual({one["id"]: one["label"] for one in board["questions"]}[str(self.ids["1a"])], "1b")

    def test_removing_is_told_beforehand_in_numbers_and_changes_nothing_yet(self) -> None:
        told = self.put(self.entries(_1b="1b"), path="/consequences").json()
        self.assertEqual(told["losing"], [{"label": "1a", "students": 1}, {"label": "2", "students": 1}])
        self.assertEqual(
            [(one["change"], one["label"]) for one in told["changes"]], [("removed", "1a"), ("removed", "2")]
        )
        self.assertEqual(len(self.board()["questions"]), 3)

    def test_what_was_placed_on_a_removed_question_comes_back_with_it_though_the_board_was_used_meanwhile(self) -> None:
        self.put(self.entries(_1b="1b"))
        self.assertEqual(self.board()["arrangement"]["placements"], {})
        self.assertEqual(self.arrange(2, order=[self.page], placements={"1b": [{"page": self.page}]}).status_code, 200)
        self.put(self.entries(_1a="1a", _1b="1b", _2="2"), version=1)
        arrangement = self.board()["arrangement"]
        self.assertEqual(set(arrangement["placements"]), {str(self.ids["1a"]), str(self.ids["1b"])})
        self.assertEqual(arrangement["left_blank"], [str(self.ids["2"])])

    def test_everybody_who_has_begun_is_told_what_changed(self) -> None:
        self.put([*self.entries(_1a="1a", _2="3"), {"label": "4", "points": 2}])
        (event,) = [one["event"] for one in self.board()["events"] if one["event"]["kind"] == "map_changed"]
        changes = [(one["change"], one["label"], one["was"]) for one in event["changes"]]
        self.assertEqual(changes, [("removed", "1b", ""), ("renamed", "3", "2"), ("added", "4", "")])
        self.assertEqual(event["by"], "Corin")

    def test_of_two_who_edit_the_second_is_told(self) -> None:
        self.put(self.entries(_1a="1a", _1b="1b"))
        answer = self.put(self.entries(_1a="1a", _2="2"))
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "stale"))

    def test_a_map_that_contradicts_itself_is_refused_in_words_and_nothing_is_saved(self) -> None:
        cases: list[tuple[list[dict[str, Any]], str]] = [
            ([], "empty"),
            (self.entries(_1a="1a", _1b="1A"), "twice"),
            (self.entries(_1a="1", _1b="1b"), "Keep one of the two"),
            (self.entries(_1a="0"), "no label"),
            (self.entries(_1a="²"), "no label"),
        ]
        for entries, words in cases:
            with self.subTest(words):
                answer = self.put(entries)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.json()["message"])
        self.assertEqual(len(self.board()["questions"]), 3)

    def test_only_instructors_edit_it(self) -> None:
        for user in (self.ilse, self.stranger):
            self.assertEqual(self.as_(user).get(self.path).status_code, 404)
            answer = self.as_(user).put(self.path, "{}", content_type="application/json")
            self.assertIn(answer.status_code, (404, 422))
        self.assertEqual(self.work.questions.filter(removed_at=None).count(), 3)
