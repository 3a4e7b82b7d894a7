"""From prepared pages to one document: the bound PDF, its manifest and its signed receipt."""

from .bound import BoundPage, Landing, Paper, Title, bind
from .landing import landings_of
from .manifest import Manifest, PageRecord, canonical_json
from .notice import notice_page
from .receipt import Receipt, ReceiptError, sign, verify

__all__ = [
    "BoundPage", "Landing", "Manifest", "PageRecord", "Paper", "Receipt", "ReceiptError", "Title", "bind",
    "canonical_json", "landings_of", "notice_page", "sign", "verify",
]  # fmt: skip
