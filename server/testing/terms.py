"""Other time rules for work that is begun, as if it had been begun under them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from folios.models import Folio


def set_rules(folio: Folio, **changes: Any) -> None:
    terms = folio.terms
    folio.kept_terms = replace(terms, rules=replace(terms.rules, **changes)).as_document()
    folio.save(update_fields=["kept_terms"])
