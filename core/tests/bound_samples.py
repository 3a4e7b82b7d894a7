"""Pages, a bound document and its receipt, which the tests of binding and of receipts stand on."""

from __future__ import annotations

import hashlib
import io
import tempfile
from datetime import UTC, datetime
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from PIL import Image

from folio_core.binding import (
    BoundPage,
    Footer,
    Issuer,
    Landing,
    Manifest,
    PageRecord,
    Paper,
    Receipt,
    Title,
    append_receipt,
    bind,
    place_of_receipt,
    sign,
)

MADE = datetime(2026, 11, 24, 15, 59, 41, tzinfo=UTC)
TITLE = Title("NAV 231 Great circles", "Ilse Marrow (30417)", "Edition 1")
WORDS, FOOTER = "Page 1 of 3, answers 1a and 1b", Footer("Ilse Marrow (30417)", "page 1")


def page(width: int, height: int) -> BoundPage:
    out = io.BytesIO()
    Image.new("RGB", (width, height), "beige").save(out, "JPEG")
    return BoundPage(out.getvalue, width, height, WORDS, FOOTER)


def ink(width: int, height: int) -> BoundPage:
    out = io.BytesIO()
    Image.effect_noise((width, height), 90).convert("1").save(out, "PNG")
    return BoundPage(out.getvalue, width, height)


PAGES = [page(827, 1169), page(1169, 827), page(400, 400)]
LANDINGS = [Landing("1a · the arc", 0, 0.25), Landing("2", 2), Landing("3 (left blank)", None)]


def bound(
    paper: Paper = Paper.A4,
    pages: list[BoundPage] = PAGES,
    landings: list[Landing] = LANDINGS,
) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "bound.pdf"
        bind(pages, landings, TITLE, paper, MADE, out)
        return out.read_bytes()


MANIFEST = Manifest(
    course="NAV 231",
    assignment="Great circles",
    student="Ilse Marrow",
    student_number="30417",
    edition=2,
    handed_in=MADE,
    verdict="in_time",
    pages=(PageRecord(1, "IMG_1.jpg", "00" * 32, 0, MADE, ("1a",)),),
    left_blank=("3",),
    open=(),
)


def sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


ISSUER = Issuer("Kestrel Point", Ed25519PrivateKey.from_private_bytes(bytes(range(32))))
OTHER = Issuer("Kestrel Point", Ed25519PrivateKey.from_private_bytes(bytes(32)))


def with_receipt(manifest: Manifest = MANIFEST) -> tuple[bytes, Receipt]:
    """A bound document with its receipt inside."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "bound.pdf"
        bind(PAGES, LANDINGS, TITLE, Paper.A4, MADE, out, receipt_follows=True)
        place = place_of_receipt(out)
        receipt = sign(manifest, sha256(out.read_bytes()), ISSUER, place=place)
        append_receipt(out, place, receipt.as_bytes())
        return out.read_bytes(), receipt
