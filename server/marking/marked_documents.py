"""Marked work out of the house: PDFs with annotations, ink as InkML, marks as tables."""

from __future__ import annotations

import csv
import io
import tempfile
from collections.abc import Iterator, Sequence
from datetime import datetime
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from assignments.models import Assignment
from editions.collecting import Entry
from editions.files import bound_name
from editions.manifest import file_stem
from editions.models import Edition, EditionPage
from folio_core.marking import Stroke, Tool, inkml, plain_number
from folio_core.marking.annotating import MarkedPage, Said, annotate
from folio_core.placing import Arrangement, scales_of
from folio_core.roster import LineItem, Result, write_results
from plumbing import storage
from plumbing.downloads import plain_cell

from .giving_back import What, statement_of
from .inking import ink_of, on_page
from .work import MarkedFolio, work_of


def marked_pdf(edition: Edition, arrangement: Arrangement, statement: dict[str, Any]) -> bytes:
    """The bound document with what a statement holds as annotations."""
    pages = list(edition.pages.all())
    with tempfile.TemporaryDirectory() as folder:
        bound, out = Path(folder) / "bound.pdf", Path(folder) / "marked.pdf"
        bound.write_bytes(storage.get(bound_name(edition.folio_id, edition.file_sha256)))
        scales = scales_of(arrangement, edition.facts.question_map)
        marked = [_page(page, arrangement, statement, scales.get(page.page_id, 1.0)) for page in pages]
        total = _total_words(statement)
        annotate(bound, marked, edition.facts.paper, total, out, before=edition.sheets_before)
        return out.read_bytes()


def _page(page: EditionPage, arrangement: Arrangement, statement: dict[str, Any], scale: float) -> MarkedPage:
    strokes = [(_in_pixels(page, one), "") for one in statement["ink"] if one["page"] == page.page_id]
    said = []
    for one in statement["questions"]:
        spots = arrangement.pages_of(one["id"])
        if spots and spots[0].page == page.page_id and (one["points"] is not None or one["note"]):
            said.append(Said(page.top_when_bound(spots[0].top or 0.0), _points_words(one), one["note"]))
    return MarkedPage(*page.size_when_bound, strokes, said, scale)


def _in_pixels(page: EditionPage, kept: dict[str, Any]) -> Stroke:
    points = tuple((x, y, pressure) for x, y, pressure in kept["points"])
    drawn = on_page(page, Stroke(Tool(kept["tool"]), points, kept["width"], kept["text"]))
    (wide, high), shares = page.size_when_bound, [(x, y) for x, y, _ in drawn.points]
    on_print = page.on_print
    if on_print is not None:
        shares = [(float(x), float(y)) for x, y in on_print.at(shares)]
    placed = tuple(
        (x * wide, y * high, pressure) for (x, y), (_, _, pressure) in zip(shares, drawn.points, strict=True)
    )
    return Stroke(drawn.tool, placed, drawn.width * wide, drawn.text)


def _points_words(one: dict[str, Any]) -> str:
    if one["points"] is None:
        return str(one["label"])
    return f"{one['label']}: {plain_number(Decimal(one['points']))} of {one['most']:g}"


def _total_words(statement: dict[str, Any]) -> str:
    total = statement["total"]
    if total is None:
        return ""
    return f"{plain_number(Decimal(total['points']))} of {plain_number(Decimal(total['most']))} points"


def ink_as_inkml(edition: Edition) -> bytes:
    """All ink on the pages of an edition, in pixels of each page's original."""
    pages = list(edition.pages.select_related("page"))
    drawn = ink_of([page.page_id for page in pages])
    return inkml(
        [
            (
                f"page {page.number}",
                float(page.page.findings.get("source_width", page.width)),
                float(page.page.findings.get("source_height", page.height)),
                [(one.stroke, one.by.name) for one in drawn.get(page.page_id, ())],
            )
            for page in pages
        ]
    )


def marked_documents(assignment: Assignment) -> list[Entry]:
    """A marked PDF of each student whose edition is bound, as the marking is now."""
    work = [one for one in work_of(assignment) if one.edition.state == Edition.State.BOUND]
    return [Entry(f"{file_stem(one.edition)}_marked.pdf", None, partial(_marked, one)) for one in work]


def _marked(work: MarkedFolio) -> Iterator[bytes]:
    statement = statement_of(work, What(), ink_of(list(work.pages)), None)
    yield marked_pdf(work.edition, work.arrangement, statement)


def marks_table(assignment: Assignment, work: Sequence[MarkedFolio]) -> str:
    """CSV (RFC 4180): a line a student, a column a question, points as numbers; what has no points yet is empty. It
    begins with a byte order mark: without it common spreadsheet programs take UTF-8 for something else."""
    questions = questions_of(assignment, work)
    out = io.StringIO(newline="")
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(
        ["number", "student", "section", "edition", *(plain_cell(label) for _, label in questions), "reached",
         "lost_late", "total", "most", "unmarked"]
    )  # fmt: skip
    for one in work:
        total = one.total
        points = [_points(one, question) for question, _ in questions]
        facts = one.facts
        who = [plain_cell(cell) for cell in (facts.student_number, facts.student, facts.section)]
        sums = [plain_number(number) for number in (total.reached, total.lost, total.points, total.most)]
        rows.writerow([*who, one.edition.number, *points, *sums, len(total.unmarked)])
    return "\ufeff" + out.getvalue()


def _points(work: MarkedFolio, question: str) -> str:
    standing = work.standings.get(question)
    points = standing.worth.points if standing else None
    return "" if points is None else plain_number(points)


def questions_of(assignment: Assignment, work: Sequence[MarkedFolio]) -> list[tuple[str, str]]:
    """Ids and labels: of the map as it is, then of what only editions have."""
    known = {one.id: one.label for one in assignment.question_map.questions}
    for folio in work:
        for question in folio.question_map.questions:
            known.setdefault(question.id, question.label)
    return list(known.items())


def results(assignment: Assignment, work: Sequence[MarkedFolio], now: datetime) -> bytes:
    """Marks as OneRoster, a result a student, as they are now."""
    zone = ZoneInfo(assignment.course.time_zone)
    most = plain_number(max((one.total.most for one in work), default=Decimal(0)))
    item = LineItem(
        assignment.course.code, str(assignment.pk), assignment.title, f"{assignment.opens.astimezone(zone):%Y-%m-%d}",
        f"{assignment.due.astimezone(zone):%Y-%m-%d}", most,
    )  # fmt: skip
    date = f"{now.astimezone(zone):%Y-%m-%d}"
    return write_results(
        item,
        [
            Result(
                one.folio.student.email, one.facts.section, plain_number(one.total.points), not one.total.unmarked, date
            )
            for one in work
        ],
    )
