"""A wrong setting is found when the server starts, not by the first job."""

from __future__ import annotations

from collections.abc import Sequence

from django.core.checks import CheckMessage, Error, register
from django.core.exceptions import ImproperlyConfigured

from .signing import require_key_file


@register()
def receipts_can_be_signed(**_: object) -> Sequence[CheckMessage]:
    try:
        require_key_file()
    except ImproperlyConfigured as error:
        return [Error(str(error), id="editions.E001")]
    return []
