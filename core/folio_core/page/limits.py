"""What decides about a page, in one place: limits at the door, and thresholds with the measurement behind them."""

from __future__ import annotations

from dataclasses import dataclass

# ISO 216: A4 is 210 × 297 mm. ANSI/ASME Y14.1: Letter is 8.5 × 11 in.
A4_MM = (210.0, 297.0)
LETTER_MM = (215.9, 279.4)
MM_PER_INCH = 25.4

OUTPUT_DPI = 200  # common practice for handwriting; a 0.3 mm pen stroke is then 2.4 px wide
OUTPUT_LONG_SIDE_PX = round(A4_MM[1] / MM_PER_INCH * OUTPUT_DPI)  # 2339
PREVIEW_LONG_SIDE_PX = 480
JPEG_QUALITY = 85
PREVIEW_JPEG_QUALITY = 80

FINDER_LONG_SIDE_PX = 512  # where the sheet is looked for
REFINE_LONG_SIDE_PX = 1600  # where its sides are fitted

# Advice. Measured on the simulated camera's 12-megapixel photographs (core/tests/test_page_advice.py makes them).
# Right finds measure 0.87 and more, a wrong one 0.68. Below it the whole picture is kept: cutting ink is worse than
# keeping desk.
FOUND_CONFIDENCE = 0.72
BLUR_SIGMA_PX = 1.9  # sharp shots measure 0.9–1.1, blurred by 3.5–4 source px 1.4–2.5, by 7–8 px 2.1–2.5
INK_CONTRAST = 0.22  # pens measure 0.5–0.8, pencil 0.5, pencil hard to see 0.16
LIGHT_EVENNESS = 0.35  # darkest to brightest paper; a hand's shadow gives 0.4–0.6
RESOLUTION_DPI = 120  # a 3 mm x-height is then 14 px; common practice, no source
EMPTY_INK_SHARE = 0.0008  # two written words on A4 measure about 0.001


@dataclass(frozen=True, slots=True)
class Limits:
    """Limits for one decoding child. Bytes, pixels, pages, seconds."""

    file_bytes: int = 60_000_000
    pixels: int = 120_000_000
    pages: int = 100
    seconds: int = 30
    memory_bytes: int = 3 * 1024**3
    pdf_side_mm: float = 1200.0


DEFAULT_LIMITS = Limits()
