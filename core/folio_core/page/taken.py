"""When a picture was taken, by its camera's clock (Exif 3.0: DateTimeOriginal, OffsetTimeOriginal)."""

from __future__ import annotations

from datetime import datetime, timedelta, tzinfo

_FORMATS = ("%Y:%m:%d %H:%M:%S%z", "%Y:%m:%d %H:%M:%S")
# By so much a camera's clock may be wrong before its word counts; without an offset it may be another zone's.
_LEEWAY, _LEEWAY_OF_UNKNOWN_ZONE = timedelta(minutes=5), timedelta(hours=1)


def moment_taken(exif: str, zone: tzinfo) -> datetime | None:
    """``exif``: "2026:11:03 14:02:11", with "+02:00" behind it where the camera says its offset, else taken to be of
    ``zone``. None where nothing, or no moment, is said: cameras without a clock write zeros or blanks."""
    for form in _FORMATS:
        try:
            said = datetime.strptime(exif.strip("\0 "), form)  # noqa: DTZ007 (the zone is added below)
        except ValueError:
            continue
        return said if said.tzinfo else said.replace(tzinfo=zone)
    return None


def taken_before(exif: str, since: datetime, zone: tzinfo) -> datetime | None:
    """When it was taken, where that was clearly before ``since``."""
    said = moment_taken(exif, zone)
    if said is None:
        return None
    leeway = _LEEWAY if exif.strip()[19:] else _LEEWAY_OF_UNKNOWN_ZONE
    return said if said < since - leeway else None
