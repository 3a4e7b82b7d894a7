"""Marks as OneRoster 1.2 CSV (1EdTech): line items, their category, and a result a student.

The files' names and headers, and the words of a score's status, are from memory of the standard's CSV binding.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from .oneroster import sourced_id, zipped


@dataclass(frozen=True, slots=True)
class Result:
    """``section``: of the class, "" for the course's own. ``score``: as a decimal number. ``is_whole``: every answer
    has points. ``date``: ISO 8601."""

    email: str
    section: str
    score: str
    is_whole: bool
    date: str


@dataclass(frozen=True, slots=True)
class LineItem:
    """What was marked. ``key`` tells it from others of the same title; dates are ISO 8601."""

    course: str
    key: str
    title: str
    assigned: str
    due: str
    most: str


def write_results(item: LineItem, results: Iterable[Result]) -> bytes:
    """People and classes are named by the same ``sourcedId`` as in the roster that `write_oneroster` writes."""
    rows = list(results)
    category = sourced_id(f"category {item.course}")
    classes = sorted({one.section for one in rows})
    items = {section: sourced_id(f"line item {item.course} {item.key} {section}") for section in classes}
    return zipped(
        {
            "categories": ("sourcedId,title", [(category, "Folios")]),
            "lineItems": (
                "sourcedId,title,assignDate,dueDate,classSourcedId,categorySourcedId,resultValueMin,resultValueMax",
                [
                    (
                        items[section], item.title, item.assigned, item.due,
                        sourced_id(f"class {item.course} {section}"), category, "0", item.most,
                    )
                    for section in classes
                ],
            ),
            "results": (
                "sourcedId,lineItemSourcedId,studentSourcedId,scoreStatus,score,scoreDate",
                [
                    (
                        sourced_id(f"result {item.course} {item.key} {one.email}"), items[one.section],
                        sourced_id(one.email), "fully graded" if one.is_whole else "partially graded", one.score,
                        one.date,
                    )
                    for one in rows
                ],
            ),
        }
    )  # fmt: skip
