"""Checking a receipt: for anybody, without an account. The PDF itself stays with whoever checks it."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema

from editions.models import EditionBinding, SigningKey
from folio_core.binding import Receipt, ReceiptError, verify
from folio_core.clock import Verdict
from plumbing.errors import Problem, Refused
from plumbing.requests import body_of

from .receipt import AskedOut, TakenInByOut

router = Router(tags=["receipt"])
_MOST_BYTES = 1_000_000
_NO_RECEIPT = "This is not a receipt of Inked Folio. Choose the signed receipt, or the bound PDF that holds it."


class ReceiptFactsOut(Schema):
    """What the receipt says, once its signature is found to hold."""

    course: str
    assignment: str
    section: str
    student: str
    student_number: str
    edition: int
    handed_in: datetime
    counts: datetime | None = None  # where that is not the moment of the hand-in
    asked: list[AskedOut] = []
    taken_in: TakenInByOut | None = None
    verdict: Verdict
    late_seconds: int
    by_itself: bool
    pages: int
    open: list[str]
    short_hash: str
    issuer: str


class BoundFileOut(Schema):
    """What the PDF must be: its first ``size`` bytes have this hash (none: all of it), and ``receipt`` follows as the
    object of this number."""

    sha256: str
    size: int | None
    receipt_object: int | None
    receipt: str


Kept = Literal["newest", "later_edition", "taken_back", "bound_anew", "unknown"]


class ReceiptCheckOut(Schema):
    """``signed``: by a key of this installation, by another's, or the signature does not hold, as ``message`` says.
    ``kept``: what this installation knows of the edition; it may have been bound anew, or a later one handed in."""

    signed: Literal["here", "elsewhere", "no"]
    message: str
    facts: ReceiptFactsOut | None
    file: BoundFileOut | None
    kept: Kept
    newest: int | None


@router.post("/receipt-checks", auth=None, response={200: ReceiptCheckOut, 422: Problem})
def check_receipt(request: HttpRequest) -> ReceiptCheckOut:
    """The body is the signed receipt. Nothing is kept of it."""
    body = body_of(request, _MOST_BYTES)
    try:
        receipt = Receipt.from_json(body[:_MOST_BYTES])
    except ReceiptError as error:
        raise Refused(422, "no_receipt", _NO_RECEIPT) from error
    published = list(SigningKey.objects.values_list("public_key", flat=True))
    try:
        verify(receipt, None)
        facts, file = _facts(receipt.statement), _file(receipt)
    except (ReceiptError, KeyError, TypeError, ValueError) as error:
        message = str(error) if isinstance(error, ReceiptError) else _NO_RECEIPT
        return ReceiptCheckOut(signed="no", message=message, facts=None, file=None, kept="unknown", newest=None)
    if receipt.public_key not in published:
        return ReceiptCheckOut(
            signed="elsewhere", facts=facts, file=file, kept="unknown", newest=None,
            message="Unchanged since it was signed, but not by this installation. Ask whoever is named in it.",
        )  # fmt: skip
    kept, newest = _known(receipt)
    return ReceiptCheckOut(signed="here", message="", facts=facts, file=file, kept=kept, newest=newest)


def _facts(statement: Any) -> ReceiptFactsOut:
    manifest = statement["manifest"]
    named = {name: manifest[name] for name in ReceiptFactsOut.model_fields if name in manifest}
    return ReceiptFactsOut(
        **{**named, "pages": len(manifest["pages"]), "section": manifest.get("section", "")},
        short_hash=statement.get("manifest_sha256", "")[:8], issuer=statement["issuer"],
    )  # fmt: skip


def _file(receipt: Receipt) -> BoundFileOut:
    statement = receipt.statement
    return BoundFileOut(
        sha256=statement["bound_sha256"], size=statement.get("bound_size"),
        receipt_object=statement.get("receipt_object"), receipt=receipt.as_bytes().decode(),
    )  # fmt: skip


def _known(receipt: Receipt) -> tuple[Kept, int | None]:
    """Of the same document several receipts may be kept, each of its own binding."""
    same = EditionBinding.objects.filter(bound_sha256=receipt.statement["bound_sha256"]).select_related("edition")
    binding = next((one for one in same if one.receipt["signature"] == receipt.signature), None)
    if binding is None:
        return "unknown", None
    newest = binding.edition.folio.editions.values_list("number", flat=True)[0]
    if newest != binding.edition.number:
        return "later_edition", newest
    if binding.edition.taken_back_at is not None:
        return "taken_back", newest
    return ("newest" if binding.edition.bindings.last() == binding else "bound_anew"), newest
