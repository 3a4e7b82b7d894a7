"""Locking a folio's row: every change of a folio begins with it."""

from __future__ import annotations

from .models import Folio


def locked(folio_id: int) -> Folio:
    """The folio as it is now; its row stays locked to the transaction's end. Raises Folio.DoesNotExist."""
    return Folio.objects.select_for_update().get(pk=folio_id)
