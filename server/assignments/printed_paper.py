"""A question paper as PDF: a heading, notes, and the questions with their points."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import HRFlowable, Paragraph, SimpleDocTemplate, Spacer

_HEAD = ParagraphStyle("head", fontName="Times-Bold", fontSize=18, leading=22)
_BODY = ParagraphStyle("body", fontName="Times-Roman", fontSize=11.5, leading=16)
_PART = ParagraphStyle("part", parent=_BODY, leftIndent=12 * mm, bulletIndent=2 * mm, spaceAfter=6)


@dataclass(frozen=True, slots=True)
class Heading:
    over: str
    title: str
    course: str
    notes: Sequence[str]


def printed_paper(heading: Heading, texts: Mapping[str, str], points: Mapping[str, float], author: str) -> bytes:
    """``texts``: what each label asks; one without points is the common text of its parts. With reportlab's tags."""
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=24 * mm, rightMargin=24 * mm, topMargin=22 * mm, bottomMargin=20 * mm,
        title=f"{heading.course} {heading.title}", author=author,
    )  # fmt: skip
    story: list[object] = [
        Paragraph(heading.over, _BODY),
        Paragraph(heading.title, _HEAD),
        Paragraph(heading.course, _BODY),
        Spacer(1, 4 * mm),
        *[Paragraph(line, _BODY) for line in heading.notes],
        HRFlowable(width="100%", spaceBefore=10, spaceAfter=12),
    ]
    for label, text in texts.items():
        if label in points:
            story.append(Paragraph(f"{text} <i>[{points[label]:g}]</i>", _PART, bulletText=label))
        else:
            story.append(Paragraph(f"<b>{label}.</b> {text}", _BODY))
            story.append(Spacer(1, 2 * mm))
    document.build(story)
    return out.getvalue()
