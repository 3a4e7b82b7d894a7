"""Readers of what others wrote, under Atheris (https://github.com/google/atheris): `folio_bench.fuzz TARGET MINUTES`.

Each may refuse with its own error and with nothing else.
"""

from __future__ import annotations

import io
import json
import sys
from collections.abc import Callable
from contextlib import suppress

import atheris
from PIL import Image

with atheris.instrument_imports(include=["folio_core"]):
    from folio_core.binding import Receipt, ReceiptError, read_keys, verify
    from folio_core.labels import parse_labels
    from folio_core.page import PageError, kind_of
    from folio_core.page.limits import Limits
    from folio_core.page.opening import count_pages, open_page
    from folio_core.placing import BadArrangement, read_arrangement, write_arrangement
    from folio_core.question_map import QuestionMapError, in_short, parse_question_map
    from folio_core.question_paper import PaperText, Piece, propose_map, read_paper
    from folio_core.roster import RosterError, guess_columns, read_people, read_table, write_roster

_SMALL = Limits(pixels=2_000_000, pages=10)


def kinds(data: bytes) -> None:
    try:
        kind_of(data)
    except PageError:
        return


def pictures(data: bytes) -> None:
    try:
        open_page(data, 0, _SMALL)
    except PageError:
        return


def documents(data: bytes) -> None:
    try:
        for index in range(min(2, count_pages(b"%PDF-1.7\n" + data, _SMALL))):
            open_page(b"%PDF-1.7\n" + data, index, _SMALL)
    except PageError:
        return


def labels(data: bytes) -> None:
    text = data.decode("utf-8", "replace")
    parse_labels(text, ("1a", "1b", "2", "2ii", "3.1", "4"))
    try:
        found = parse_question_map(text)
    except QuestionMapError:
        return
    if not len(found.questions):
        raise AssertionError("A map without questions was taken.")


def receipts(data: bytes) -> None:
    for read in (Receipt.from_json, read_keys):
        try:
            made = read(data)
            if isinstance(made, Receipt):
                verify(made, b"")
        except ReceiptError:
            continue


def arrangements(data: bytes) -> None:
    try:
        document = json.loads(data)
    except (ValueError, RecursionError):
        return
    if not isinstance(document, dict):
        return
    try:
        read = read_arrangement(document)
    except BadArrangement:
        return
    if read_arrangement(write_arrangement(read)) != read:
        raise AssertionError("An arrangement reads otherwise than it was written.")


def rosters(data: bytes) -> None:
    try:
        table = read_table(data)
    except RosterError:
        return
    people = read_people(table, guess_columns(table)).people
    again = read_table(write_roster(people)) if people else None
    if again and len(read_people(again, guess_columns(again)).people) != len(people):
        raise AssertionError("A roster reads otherwise than it was written.")


def papers(data: bytes) -> None:
    """Both halves: the file, and text as a file might give it."""
    with suppress(PageError):
        read_paper(b"%PDF-1.7\n" + data, _SMALL)
    lines = data.decode("utf-8", "replace").splitlines()[:200]
    pieces = tuple(
        Piece(line.strip(), 10.0 * (len(line) - len(line.lstrip())), 12.0 * row, 400, 12.0 * row + 11, 11, row)
        for row, line in enumerate(lines)
        if line.strip()
    )
    proposal = propose_map([PaperText(595, 842, pieces)])
    labels = [item.label for item in proposal.items]
    if labels and list(parse_question_map(in_short(labels)).labels) != labels:
        raise AssertionError("A proposed map does not read back as itself.")


TARGETS: dict[str, Callable[[bytes], None]] = {
    target.__name__: target for target in (kinds, pictures, documents, labels, receipts, arrangements, rosters, papers)
}


def _seeds(name: str) -> list[bytes]:
    if name in ("kinds", "pictures"):
        made = []
        for kind in ("JPEG", "PNG", "WEBP", "GIF", "BMP"):
            out = io.BytesIO()
            Image.new("RGB", (24, 32), "white").save(out, kind)
            made.append(out.getvalue())
        return made
    if name == "documents":
        out = io.BytesIO()
        Image.new("RGB", (24, 32), "white").save(out, "PDF")
        return [out.getvalue()[9:]]
    if name == "labels":
        return [b"1a-d, 2a-e, 3ii, 4.1, 5", b"A, B(i-iv)"]
    if name == "rosters":
        return [b"name;number;mail;extra\nIlse Marrow;30417;i@b.example;25 %\n", b'"A, B",1,a@b.example\n']
    if name == "papers":
        return [
            b"1. Find x. [4]\n  (a) One\n  (b) Two\n2. Show\n  (i) it\n  (ii) more (3 points)\n",
            b"Question 1\n1.1 a",
        ]
    if name == "receipts":
        return [
            b'{"statement": {"bound_sha256": ""}, "signature": "", "public_key": ""}',
            b'{"keys": [{"public_key": ""}]}',
        ]
    return [b'{"order": [1, 2], "removed": [2], "placements": {"7": [{"page": 1, "top": 0.5}]}, "sides": 2}']


def main() -> None:
    import tempfile
    from pathlib import Path

    name, minutes = sys.argv[1], float(sys.argv[2])
    folder = Path(tempfile.mkdtemp())
    for number, seed in enumerate(_seeds(name)):
        (folder / str(number)).write_bytes(seed)
    limits = [f"-max_total_time={round(minutes * 60)}", "-max_len=20000", "-rss_limit_mb=4000", "-verbosity=0"]
    atheris.Setup([sys.argv[0], *limits, f"-artifact_prefix={folder}/", str(folder)], TARGETS[name])
    atheris.Fuzz()


if __name__ == "__main__":
    main()
