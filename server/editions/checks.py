"""A wrong setting is found when the server starts, not by the first job."""

from __future__ import annotations

from collections.abc import Sequence

from django.core.checks import CheckMessage, Error, register
from django.core.exceptions import ImproperlyConfigured

from .signing import receipt_key


@register()
def receipts_can_be_signed(**_: object) -> Sequence[CheckMessage]:
    try:
        receipt_key()
    except ImproperlyConfigured as error:
        return [Error(str(error), id="editions.E001")]
    return []
