"""`./folio core …`: the core's own command line. One JSON object a line.

Exit status 0 when every input was handled, 1 when some had errors, 2 for wrong usage.
"""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import asdict
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any

from .binding import (
    BoundPage,
    Footer,
    Paper,
    Receipt,
    ReceiptError,
    Title,
    bind,
    labels_by_page,
    landings_of,
    read_keys,
    receipt_of,
    shows_receipt,
    verify,
    words_of_page,
)
from .clock import ExtraTime, window
from .page import DEFAULT_LIMITS, PageError, Prepared, Recipe, count_pages, prepare, run_limited
from .placing import Arrangement, BadArrangement, Placement
from .placing.label_evidence import label_chance, page_numbers
from .placing.page_evidence import PageEvidence
from .placing.proposal import MISSING_SAID, SAID, propose
from .question_map import QuestionMapError, parse_question_map
from .question_paper import propose_map, read_paper
from .reading import Mark, PageReading
from .rules_file import described, moment, read_rules


def main(arguments: list[str] | None = None) -> int:
    chosen = _parser().parse_args(arguments)
    try:
        status: int = chosen.run(chosen)
    except UsageError as error:
        print(f"folio core: {error}", file=sys.stderr)
        return 2
    return status


class UsageError(Exception):
    """The command was called with something it cannot work on. The message says what to give instead."""


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="./folio core", description="Page work without the web. JSON lines out.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    preparing = commands.add_parser("prepare", help="photographs or PDFs → prepared pages")
    preparing.add_argument("files", nargs="+", type=Path, metavar="FILE")
    preparing.add_argument("--out", type=Path, metavar="DIR", help="write the prepared pages there")
    preparing.set_defaults(run=_prepare)

    mapping = commands.add_parser("map", help="a question paper → the question map it proposes")
    mapping.add_argument("papers", nargs="+", type=Path, metavar="PAPER.pdf")
    mapping.set_defaults(run=_map)

    reading = commands.add_parser("read", help="photographs or PDFs → the labels on their pages")
    reading.add_argument("files", nargs="+", type=Path, metavar="FILE")
    reading.set_defaults(run=_read)

    suggesting = commands.add_parser("suggest", help="files as they arrived → order, places, what is missing")
    suggesting.add_argument("--map", required=True, metavar="MAP", help='the question map: "1a-d, 2a-e, 3"')
    suggesting.add_argument("files", nargs="+", type=Path, metavar="FILE")
    suggesting.set_defaults(run=_suggest)

    registering = commands.add_parser("register", help="photographs of filled sheets → pages of a printed form")
    registering.add_argument("--form", required=True, type=Path, metavar="BLANK.pdf", help="the form as it was printed")
    registering.add_argument("--spaces", type=Path, metavar="FILE", help="where the answers stand, see docs/core.md")
    registering.add_argument("files", nargs="+", type=Path, metavar="FILE")
    registering.set_defaults(run=_register)

    timing = commands.add_parser("clock", help="time rules → every instant of a sitting, and the phase")
    timing.add_argument("--rules", required=True, type=Path, metavar="FILE", help="see docs/core.md")
    timing.add_argument("--began", metavar="TIME", help="when the sitting was begun; without it: not yet")
    timing.add_argument("--now", required=True, metavar="TIME")
    timing.add_argument("--factor", type=float, default=1.0, metavar="F", help="extra time on writing: 1.25")
    timing.add_argument("--minutes", type=int, default=0, metavar="M", help="extra time on writing")
    timing.add_argument("--on-handover", action="store_true", help="the factor lengthens the handover too")
    timing.add_argument("--on-due", action="store_true", help="extra time moves the due moment too")
    timing.set_defaults(run=_clock)

    binding = commands.add_parser("bind", help="prepared pages → one bound PDF")
    binding.add_argument("--arrangement", required=True, type=Path, metavar="FILE", help="see docs/core.md")
    binding.add_argument("-o", required=True, type=Path, dest="out", metavar="OUT.pdf")
    binding.set_defaults(run=_bind)

    verifying = commands.add_parser("verify", help="check a receipt against its bound PDF")
    verifying.add_argument(
        "--receipt", type=Path, metavar="FILE", help="signed, or in print; else the one that is attached to the PDF"
    )
    verifying.add_argument("--public-key", action="append", default=[], help="the college's key, base64")
    verifying.add_argument("--keys", type=Path, metavar="FILE", help="the keys that the college publishes")
    verifying.add_argument("pdf", nargs="?", type=Path, metavar="PDF")
    verifying.set_defaults(run=_verify)
    return parser


def _say(**line: Any) -> None:
    print(json.dumps(line, ensure_ascii=False), flush=True)


def _prepare(chosen: argparse.Namespace) -> int:
    if chosen.out is not None:
        chosen.out.mkdir(parents=True, exist_ok=True)
    return max([_prepare_file(source, chosen.out) for source in chosen.files])


def _prepare_file(source: Path, out: Path | None) -> int:
    try:
        data = source.read_bytes()
        pages = run_limited(count_pages, data, DEFAULT_LIMITS)
    except OSError as error:
        _say(source=str(source), error={"code": "unreadable", "message": f"{error.strerror}. Check the path."})
        return 1
    except PageError as error:
        _say(source=str(source), error={"code": error.trouble, "message": error.message})
        return 1
    return max([_prepare_pages(source, data, index, out) for index in range(pages)])


def _prepare_pages(source: Path, data: bytes, index: int, out: Path | None) -> int:
    """One page of a file, or both where it shows an open book."""
    half, halves = 0, 1
    while half < halves:
        try:
            page = run_limited(prepare, data, index, Recipe(), DEFAULT_LIMITS, half)
        except PageError as error:
            _say(source=str(source), index=index, half=half, error={"code": error.trouble, "message": error.message})
            return 1
        path = None
        if out is not None:
            other = "-2" if half else ""
            path = out / f"{source.stem}{source.suffix.replace('.', '-')}-{index + 1:03}{other}.jpg"
            path.write_bytes(page.image)
        _say(source=str(source), index=index, half=half, **_described(page), out=str(path) if path else None)
        half, halves = half + 1, page.halves
    return 0


def _described(page: Prepared) -> dict[str, Any]:
    return {
        "width": page.width,
        "height": page.height,
        "sheet_found": page.sheet.found,
        "confidence": page.sheet.confidence,
        "corners": [[round(x, 2), round(y, 2)] for x, y in page.sheet.corners],
        "turn": page.turn,
        "halves": page.halves,
        "measures": asdict(page.measures),
        "advice": [finding.code for finding in page.advice],
        "where": {finding.code: finding.where for finding in page.advice if finding.where},
    }


def _read(chosen: argparse.Namespace) -> int:
    from .reading.from_files import pages_of  # its libraries are large, and only reading needs them

    status = 0
    for source in chosen.files:
        for page in pages_of(source):
            if page.reading is None:
                status = 1
                _say(source=page.source, index=page.index, error={"code": page.error[0], "message": page.error[1]})
                continue
            labels = [_label(mark) for mark in page.reading.marks if label_chance(mark) >= 0.5]
            _say(
                source=page.source,
                index=page.index,
                labels=labels,
                header=page.reading.header,
                page_numbers=page_numbers(page.reading),
            )
    return status


def _label(mark: Mark) -> dict[str, Any]:
    return {
        "text": mark.candidates[0].text,
        "probability": round(label_chance(mark), 4),
        "candidates": [{"text": one.text, "probability": round(one.probability, 4)} for one in mark.candidates],
        "box": [round(side, 4) for side in (mark.left, mark.top, mark.width, mark.height)],
    }


def _suggest(chosen: argparse.Namespace) -> int:
    from .reading.from_files import pages_of

    try:
        question_map = parse_question_map(chosen.map)
    except QuestionMapError as error:
        raise UsageError(str(error)) from error
    pages = [page for source in chosen.files for page in pages_of(source)]
    errors = [
        {"source": page.source, "index": page.index, "code": page.error[0], "message": page.error[1]}
        for page in pages
        if page.reading is None
    ]
    # A page that cannot be opened keeps its place in the order: its neighbours are told of by their own.
    made = propose(
        [PageEvidence(page.reading or PageReading(lines=9), taken=page.taken, file_name=page.source) for page in pages],
        question_map,
    )
    placements: dict[str, list[int]] = {}
    shares: dict[str, list[float]] = {}
    for one in made.places:
        if one.confidence >= SAID:
            placements.setdefault(one.question, []).append(one.page)
            shares.setdefault(one.question, []).append(one.confidence)
    missing = {label: share for label, share in made.missing.items() if share >= MISSING_SAID}
    _say(
        order=list(made.order),
        placements=placements,
        tops={one.question: [one.page, round(one.top, 4)] for one in made.places if one.top and one.confidence >= SAID},
        loose=[page for page, share in made.loose.items() if share >= SAID],
        missing=list(missing),
        confidence={"order": made.order_confidence, "placements": shares, "missing": missing},
        **({"errors": errors} if errors else {}),
    )
    return 1 if errors else 0


def _map(chosen: argparse.Namespace) -> int:
    return max([_map_of(paper) for paper in chosen.papers])


def _map_of(paper: Path) -> int:
    try:
        proposal = propose_map(run_limited(read_paper, paper.read_bytes(), DEFAULT_LIMITS))
    except OSError as error:
        _say(source=str(paper), error={"code": "unreadable", "message": f"{error.strerror}. Check the path."})
        return 1
    except PageError as error:
        _say(source=str(paper), error={"code": error.trouble, "message": error.message})
        return 1
    if not proposal.has_text:
        words = "This paper has no text in it, only pictures: its questions cannot be read. Type the map."
        _say(source=str(paper), error={"code": "no_text", "message": words})
        return 1
    _say(source=str(paper), map=proposal.short, items=[asdict(item) for item in proposal.items])
    return 0


def _register(chosen: argparse.Namespace) -> int:
    from .forms import empty_answers, register  # its libraries are large, and only registering needs them
    from .forms.from_files import BadSpaces, form_from, read_spaces, sheets_of

    try:
        form = form_from(chosen.form.read_bytes())
        spaces = read_spaces(chosen.spaces.read_text()) if chosen.spaces else {}
    except OSError as error:
        raise UsageError(f"{error.filename}: {error.strerror}. Give the path of a file.") from error
    except PageError as error:
        raise UsageError(f"{chosen.form}: {error.message}") from error
    except BadSpaces as error:
        raise UsageError(f"{chosen.spaces}: {error}") from error
    status = 0
    for sheet in (sheet for source in chosen.files for sheet in sheets_of(source)):
        about = {"source": sheet.source, "index": sheet.index}
        if sheet.pixels is None:
            status = 1
            _say(**about, error={"code": sheet.error[0], "message": sheet.error[1]})
            continue
        found = register(sheet.pixels, form, sheet.mark.page if sheet.mark else None)
        known = found if found is not None and found.is_known else None
        line: dict[str, Any] = {
            "page": known.page if known else None,
            "copy": sheet.mark.copy if sheet.mark else None,
            "confidence": round(known.confidence if known else 1 - (found.confidence if found else 0.0), 4),
            "homography": known.on_source(sheet.scale).tolist() if known else None,
        }
        if spaces:
            line["empty"] = empty_answers(sheet.pixels, form, known, spaces) if known else []
        _say(**about, **line)
    return status


def _clock(chosen: argparse.Namespace) -> int:
    try:
        rules, personal_due, given = read_rules(chosen.rules)
        began = None if chosen.began is None else moment(chosen.began, rules.zone, ends=False)
        now = moment(chosen.now, rules.zone, ends=False)
        extra = ExtraTime(chosen.factor, chosen.minutes, chosen.on_handover, chosen.on_due)
        win = window(rules, began, extra, personal_due=personal_due, lengthenings=given)
    except OSError as error:
        raise UsageError(f"{chosen.rules}: {error.strerror}. Give the path of a rules file.") from error
    except ValueError as error:
        raise UsageError(f"{error} See docs/core.md for the form of the rules.") from error
    _say(**described(win, now))
    return 0


def _bind(chosen: argparse.Namespace) -> int:
    try:
        plan = json.loads(chosen.arrangement.read_text())
        question_map = parse_question_map(plan["map"])
        files = [chosen.arrangement.parent / name for name in plan["pages"]]
        arrangement = Arrangement(
            order=tuple(range(len(files))),
            placements={
                label: tuple(Placement(spot, None) if isinstance(spot, int) else Placement(*spot) for spot in spots)
                for label, spots in plan.get("placements", {}).items()
            },
            left_blank=frozenset(plan.get("left_blank", [])),
        )
        arrangement.require_fits(question_map, range(len(files)))
        paper = Paper[plan.get("paper", "A4").upper()]
    except OSError as error:
        raise UsageError(f"{chosen.arrangement}: {error.strerror}. Give the path of an arrangement file.") from error
    except (ValueError, KeyError, TypeError, QuestionMapError, BadArrangement) as error:
        raise UsageError(f"{chosen.arrangement}: {error}. See docs/core.md for the form of this file.") from error
    title, labels = (
        Title(plan.get("title", "Folio"), plan.get("author", "")),
        labels_by_page(arrangement, question_map.questions),
    )
    pages: list[BoundPage] = []
    troubles = 0
    for file in files:
        try:
            prepared = run_limited(prepare, file.read_bytes(), 0, Recipe(), DEFAULT_LIMITS, None)
            number = len(pages) + 1
            pages.append(
                BoundPage(
                    partial(bytes, prepared.image), prepared.image_width, prepared.image_height,
                    words_of_page(number, len(files), labels[number - 1]),
                    Footer(title.title, f"page {number} of {len(files)}"),
                )
            )  # fmt: skip
        except (OSError, PageError) as error:
            troubles += 1
            code = error.trouble if isinstance(error, PageError) else "unreadable"
            _say(source=str(file), error={"code": code, "message": str(error)})
    if troubles:
        return 1  # a document with a page missing would be a wrong document
    landings = landings_of(arrangement, question_map)
    try:
        bind(pages, landings, title, paper, datetime.now(UTC), chosen.out)
    except OSError as error:
        raise UsageError(f"{chosen.out}: {error.strerror}. Give a path that can be written.") from error
    _say(out=str(chosen.out), pages=len(pages), outline=len(landings))
    return 0


def _verify(chosen: argparse.Namespace) -> int:
    if chosen.receipt is None and chosen.pdf is None:
        raise UsageError("Give the bound PDF, or its receipt with --receipt, or both.")
    try:
        file = None if chosen.pdf is None else chosen.pdf.read_bytes()
        receipt = _given_receipt(file or b"", None if chosen.receipt is None else chosen.receipt.read_bytes())
        trusted = [*chosen.public_key, *(read_keys(chosen.keys.read_bytes()) if chosen.keys else ())]
        by_known_key = verify(receipt, file, trusted)
    except OSError as error:
        raise UsageError(f"{error.filename}: {error.strerror}. Give the path of a receipt or of its PDF.") from error
    except ReceiptError as error:
        _say(holds=False, message=str(error))
        return 1
    told = {name: receipt.statement[name] for name in ("issuer", "key_id", "bound_sha256", "manifest")}
    if not by_known_key:
        words = "Unchanged since it was signed, but by whom is not known: give its published keys with --keys."
        _say(holds=None, message=words, pdf_checked=file is not None, **told)
        return 1
    _say(holds=True, pdf_checked=file is not None, **told)
    return 0


def _given_receipt(bound: bytes, apart: bytes | None) -> Receipt:
    """``apart``: the signed receipt as a file of its own, or the receipt in print, which holds it."""
    if apart is not None:
        return receipt_of(apart) if apart.startswith(b"%PDF") else Receipt.from_json(apart)
    if shows_receipt(bound):
        raise ReceiptError("This PDF is a receipt in print, not the work. Give it with --receipt.")
    return receipt_of(bound)


if __name__ == "__main__":
    sys.exit(main())
