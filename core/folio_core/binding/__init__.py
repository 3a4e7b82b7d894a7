"""From prepared pages to one document: the bound PDF, its manifest and its signed receipt."""

from .answer_sheets import answer_sheet
from .attaching import Place, append_receipt, place_of_receipt, shows_receipt
from .bound import BoundPage, Landing, Paper, PicturePlace, bind, picture_place
from .budget import BYTES_PER_PAGE, within
from .footer import Footer
from .keeping import Title
from .landing import labels_by_page, landings_of, roman, words_of_page
from .manifest import AnswerRecord, Asked, Manifest, NotDelivered, PageRecord, TakenInBy, canonical_json
from .notice import notice_page
from .over_print import over_print
from .receipt import Issuer, Receipt, ReceiptError, hash_of, read_keys, receipt_of, sign, verify
from .receipt_pdf import receipt_pdf

__all__ = [
    "BYTES_PER_PAGE", "AnswerRecord", "Asked", "BoundPage", "Footer", "Issuer", "Landing", "Manifest",
    "NotDelivered", "PageRecord", "Paper", "PicturePlace", "Place", "Receipt", "ReceiptError", "TakenInBy", "Title",
    "answer_sheet", "append_receipt", "bind", "canonical_json", "hash_of", "labels_by_page", "landings_of",
    "notice_page", "over_print", "picture_place", "place_of_receipt", "read_keys", "receipt_of", "receipt_pdf", "roman",
    "shows_receipt", "sign", "verify", "within", "words_of_page",
]  # fmt: skip
