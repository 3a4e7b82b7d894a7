"""From prepared pages to one document: the bound PDF, its manifest and its signed receipt."""

from .bound import BoundPage, Landing, Paper, Title, bind
from .landing import landings_of
from .manifest import Manifest, NotDelivered, PageRecord, canonical_json
from .notice import notice_page
from .receipt import Issuer, Receipt, ReceiptError, hash_of, read_keys, sign, verify

__all__ = [
    "BoundPage", "Issuer", "Landing", "Manifest", "NotDelivered", "PageRecord", "Paper", "Receipt", "ReceiptError",
    "Title", "bind", "canonical_json", "hash_of", "landings_of", "notice_page", "read_keys", "sign", "verify",
]  # fmt: skip
