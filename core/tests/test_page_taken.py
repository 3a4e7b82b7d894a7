"""Capture times as cameras write them (Exif 3.0, CIPA DC-008-2023: DateTimeOriginal, OffsetTimeOriginal)."""

from __future__ import annotations

import io
import unittest
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from PIL import ExifTags, Image

from folio_core.page import moment_taken, prepare, taken_before

HALIFAX = ZoneInfo("America/Halifax")
BEGAN = datetime(2026, 11, 26, 14, 0, tzinfo=UTC)  # 10:00 in Halifax


class CaptureTimes(unittest.TestCase):
    def test_without_an_offset_it_is_the_courses_time_of_day(self) -> None:
        self.assertEqual(moment_taken("2026:11:26 10:00:00", HALIFAX), BEGAN)

    def test_the_cameras_own_offset_wins(self) -> None:
        self.assertEqual(moment_taken("2026:11:26 15:00:00+01:00", HALIFAX), BEGAN)

    def test_what_is_no_moment_says_nothing(self) -> None:
        for words in ("", "0000:00:00 00:00:00", "    :  :     :  :  ", "yesterday", "2026:13:40 10:00:00"):
            self.assertIsNone(moment_taken(words, HALIFAX), words)

    def test_only_what_is_clearly_earlier_is_told(self) -> None:
        at = lambda minutes: f"{(BEGAN - timedelta(minutes=minutes)).astimezone(HALIFAX):%Y:%m:%d %H:%M:%S}"  # noqa: E731
        self.assertIsNotNone(taken_before(at(61), BEGAN, HALIFAX))
        for minutes in (59, 0, -30):
            self.assertIsNone(taken_before(at(minutes), BEGAN, HALIFAX), minutes)
        self.assertIsNotNone(taken_before(f"{at(6)}-04:00", BEGAN, HALIFAX))
        self.assertIsNone(taken_before(f"{at(4)}-04:00", BEGAN, HALIFAX))

    def test_preparing_reads_it_with_its_offset(self) -> None:
        exif = Image.Exif()
        details = exif.get_ifd(ExifTags.IFD.Exif)
        details[ExifTags.Base.DateTimeOriginal] = "2026:11:03 14:02:11"
        details[ExifTags.Base.OffsetTimeOriginal] = "-04:00"
        out = io.BytesIO()
        Image.new("RGB", (420, 594), "white").save(out, "JPEG", exif=exif)
        self.assertEqual(prepare(out.getvalue()).taken, "2026:11:03 14:02:11-04:00")
