"""The receipt as a document to read and to print: what its statement says, in words, with the signed receipt inside."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import datetime
from html import escape
from typing import Any
from zoneinfo import ZoneInfo

import pikepdf
from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from folio_core.fonts import first_font, runs

from .attaching import RECEIPT_FILE, appended, leave_room_for_receipt, place_of_receipt
from .bound import Paper
from .keeping import Title, describe, save
from .receipt import Receipt

_INK, _SOFT, _LINE = HexColor("#1D2740"), HexColor("#5A6072"), HexColor("#C9C4B8")
_MARGIN_PT = 48
_HASH_GROUP = 32


def receipt_pdf(receipt: Receipt, paper: Paper, time_zone: str, address: str) -> bytes:
    """``time_zone``: of the course, in which times are told. ``address``: of the page where receipts are checked.
    The same receipt gives the same bytes."""
    manifest, zone = receipt.statement["manifest"], ZoneInfo(time_zone)
    out = io.BytesIO()
    title = f"Receipt: {manifest['course']} {manifest['assignment']}, edition {manifest['edition']}"
    template = SimpleDocTemplate(
        out, pagesize=paper.size_pt, leftMargin=_MARGIN_PT, rightMargin=_MARGIN_PT, topMargin=_MARGIN_PT,
        bottomMargin=_MARGIN_PT, invariant=1, initialFontName=first_font(),
    )  # fmt: skip
    template.build(_story(receipt, zone, address))
    return _kept(out.getvalue(), receipt, Title(title, receipt.statement["issuer"]))


def _story(receipt: Receipt, zone: ZoneInfo, address: str) -> list[Flowable]:
    statement = receipt.statement
    manifest = statement["manifest"]
    facts = [
        ("Student", _joined(manifest["student"], manifest["student_number"] and f"no. {manifest['student_number']}")),
        ("Course and work", _joined(f"{manifest['course']} {manifest['assignment']}", manifest.get("section", ""))),
        ("Edition", str(manifest["edition"])),
        ("Handed in", f"{_moment(manifest['handed_in'], zone)}, {_verdict(manifest)}"),
        ("Counts as of", _moment(manifest["counts"], zone) if "counts" in manifest else ""),
        ("Taken in", _taken_in(manifest.get("taken_in"))),
        ("Asked for again", "; ".join(map(_asked, manifest.get("asked", ())))),
        ("Open questions", ", ".join(manifest["open"]) or "none"),
        ("Left blank", ", ".join(manifest["left_blank"])),
        ("Words of honour", manifest.get("honour", "")),
        ("Word to the reader", manifest.get("comment", "")),
        ("Promised and not delivered", ", ".join(one["file_name"] for one in manifest.get("not_delivered", ()))),
        ("SHA-256 of the bound PDF", _grouped(statement["bound_sha256"])),
        ("The edition before", _grouped(manifest.get("previous", ""))),
        ("Signed by", _joined(statement["issuer"], f"key {statement['key_id']}")),
        ("Signature (Ed25519)", _grouped(receipt.signature)),
    ]
    return [
        _text(f"Handed in: {manifest['course']} {manifest['assignment']}", 17, space=10),
        _table([[_text(term, 8.5, _SOFT), _text(said, 9.5)] for term, said in facts if said], (120, None)),
        Spacer(0, 16),
        *_pages(manifest["pages"], zone),
        *_answers(manifest.get("answers", ()), zone),
        _text(f"To check it: {address}. No account is needed, and the PDF stays on your device. The signed receipt is "
              f"attached to this document and to the bound PDF as {RECEIPT_FILE}.", 9, _SOFT),
    ]  # fmt: skip


def _page(page: dict[str, object], zone: ZoneInfo) -> list[Flowable]:
    labels, promised = page["labels"], page.get("promised")
    arrived = _moment(str(page["arrived"]), zone, short=True)
    when = f"promised {_moment(str(promised), zone, short=True)}, delivered {arrived}" if promised else arrived
    if page.get("verdict") == "late":
        when += ", late"
    answers = " ".join(map(str, labels)) if isinstance(labels, list) else ""
    words = (str(page["number"]), answers or "–", str(page["file_name"]), when)
    return [*(_text(one, 8.5) for one in words), _text(_grouped(str(page["sha256"])), 7.5, _SOFT)]


def _pages(pages: Sequence[dict[str, Any]], zone: ZoneInfo) -> list[Flowable]:
    if not pages:
        return []
    heading = _text("Pages, with the SHA-256 of each original as it came", 11, space=4)
    return [heading, _table([_page(page, zone) for page in pages], (42, 62, 130, 78, None)), Spacer(0, 16)]


def _answers(answers: Sequence[dict[str, Any]], zone: ZoneInfo) -> list[Flowable]:
    if not answers:
        return []
    rows = [
        [_text(str(one["label"]), 8.5), _text(", ".join(one["kinds"]), 8.5),
         _text(f"saved {_moment(str(one['saved']), zone, short=True)}", 8.5),
         _text(_grouped(one["sha256"]), 7.5, _SOFT)]
        for one in answers
    ]  # fmt: skip
    heading = _text("Answers on the screen, with the SHA-256 of each", 11, space=4)
    return [heading, _table(rows, (62, 130, 120, None)), Spacer(0, 16)]


def _taken_in(taken: dict[str, str] | None) -> str:
    return f"by {taken['by']} for the student: {taken['reason']}" if taken else ""


def _asked(asked: dict[str, object]) -> str:
    what = {"page": f"page {asked['number']}", "all": "all of it", "place": "which pages answer what"}
    return f"{what[str(asked['what'])]}, by {asked['by']}: {asked['reason']}"


def _verdict(manifest: dict[str, object]) -> str:
    late = int(str(manifest["late_seconds"]))
    late_by = f"late by {late // 3600} h {late // 60 % 60} min {late % 60} s"
    words = late_by if manifest["verdict"] == "late" else "in time"
    return f"{words}, by itself at the close" if manifest["by_itself"] else words


def _moment(written: str, zone: ZoneInfo, *, short: bool = False) -> str:
    at = datetime.fromisoformat(written).astimezone(zone)
    return f"{at:%H:%M:%S}" if short else f"{at:%A %d %B %Y, %H:%M:%S} ({zone.key}, UTC{at:%z})"


def _joined(*parts: str) -> str:
    return " · ".join(part for part in parts if part)


def _grouped(long: str) -> str:
    """In pieces that fit a column."""
    return " ".join(long[start : start + _HASH_GROUP] for start in range(0, len(long), _HASH_GROUP))


def _text(words: str, size: float, colour: HexColor = _INK, space: float = 0) -> Paragraph:
    style = ParagraphStyle(
        "text", fontName=first_font(), fontSize=size, leading=size * 1.35, textColor=colour, spaceAfter=space
    )
    return Paragraph("".join(f'<font name="{font}">{escape(text)}</font>' for font, text in runs(words)), style)


def _table(rows: list[list[Flowable]], widths: tuple[float | None, ...]) -> Table:
    table = Table(rows, colWidths=widths, hAlign="LEFT", splitInRow=1)  # a long word to the reader is more than a page
    table.setStyle(
        TableStyle(
            [
                ("FONTNAME", (0, 0), (-1, -1), first_font()),  # else one that is not embedded
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEABOVE", (0, 0), (-1, -1), 0.5, _LINE),
                ("LINEBELOW", (0, -1), (-1, -1), 0.5, _LINE),
                ("LEFTPADDING", (0, 0), (-1, -1), 0),
                ("TOPPADDING", (0, 0), (-1, -1), 3),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
            ]
        )
    )
    return table


def _kept(written: bytes, receipt: Receipt, title: Title) -> bytes:
    made = datetime.fromisoformat(receipt.statement["manifest"]["handed_in"])
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(written)) as pdf:
        for sheet in pdf.pages:
            del sheet.Trans  # an empty one, which has no place in a file for keeping
        leave_room_for_receipt(pdf, made, in_print=True)
        describe(pdf, title, made)
        save(pdf, out, identity=receipt.signature)
    return out.getvalue() + appended(out.getvalue(), place_of_receipt(out), receipt.as_bytes())
