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
SOURCE_LONG_SIDE_PX = 1000  # about, of the whole picture, to set corners on
JPEG_QUALITY = 85
PREVIEW_JPEG_QUALITY = 80

FINDER_LONG_SIDE_PX = 512  # where the sheet is looked for
MIDDLE_LONG_SIDE_PX = 2000  # where its sides are fitted, and the writing is looked at

# Upright. Fitted on the simulated camera's tuning seeds; `./folio bench image` reports how it holds on others.
UPRIGHT_LONG_SIDE_PX = 1200  # where the writing is looked at
TURN_LEAST_INK_PX = 400  # about two words
TURN_NETWORK_WEIGHT = 0.4  # of the network's mean log odds
TURN_HIGH_WEIGHT = 14.0  # of how far above the page's middle the writing lies, as a share of the page
TURN_LOW_WEIGHT = 10.0  # of how far below its line's middle the ink lies, as a share of the line
TURN_EVEN_WEIGHT = 30.0  # of how much evener lines begin than they end, as a share of the page's width
TURN_DIRECTION_WEIGHT = 3.1  # of the log ratio of how sharply ink gathers in rows and in columns, where that is plain
TURN_GATHERED_WEIGHT = 0.5  # of the same where it is not, and lines are read both ways
TURN_READ_WEIGHT = 0.45  # of how clearly the network reads lines that way at all
TURN_LENGTH_WEIGHT = 3.0  # of how long the longest lines are together, in widths of the page
TURN_OPEN_DIRECTION = 0.9  # log ratio of how sharply ink gathers both ways, up to which both are read
TURN_SURE = 0.68  # below it a page is left as it came
LEAN_DEG = 0.25  # a smaller lean of the lines is left

# Advice. Each threshold lies between what good and bad photographs of the tuning seeds measure; `./folio bench image`
# reports how often each is right and falsely raised on others.
# Below it the whole picture is kept: cutting ink is worse than keeping desk. scikit-image's coins reach 0.68.
FOUND_CONFIDENCE = 0.7
BLUR_SIGMA_PX = 1.42  # sharp photographs measure 0.83–1.33, those out of focus 1.5–2.6
MOTION_RATIO = 1.3  # sharp 1.0–1.18, moved 2.1
INK_CONTRAST = 0.20  # pens measure 0.35–0.8, pencil 0.31–0.46, pencil hard to see 0.10–0.14
DARK_PAPER = 0.28  # of full brightness; well lit 0.65–0.9, under-exposed 0.2
CLIPPED_LEVEL = 254
WASHED_OUT = 0.65  # ink contrast on clipped paper: over-exposed photographs 0.08–0.62, tablets' exports 0.69–0.88
CLIPPED_SHARE = 0.40  # of the page; 0.9 when over-exposed
GLARE_PAPER_LEVEL = 246  # brighter paper is over-exposed as a whole
GLARE_SHARE = 0.003  # of the page; none without, 0.04–0.09 under a mirrored lamp
SHADOW_STEP = 0.33  # no shadow measures up to 0.09, a hand's soft one 0.14–0.19, a hard edge 0.39–0.44
LIGHT_EVENNESS = 0.35  # darkest to brightest paper; a hand's shadow gives 0.4–0.6
UNREADABLE_DPI = 25  # a 3 mm x-height is then 3 px: no letter can be told from another
RESOLUTION_DPI = 100  # a 3 mm x-height is then 12 px; common practice, no source
WRITING_HEIGHT_PX = 9.0  # common practice, no source
SHEET_SHARE = 0.22
EMPTY_INK_SHARE = 0.0008  # two written words on A4 measure about 0.001
EMPTY_LETTERS = 8
# Marks paler than any pencil are the paper's grain and ruling, unless there are many of them.
EMPTY_CONTRAST, EMPTY_FAINT_SHARE = 0.09, 0.05
# Nor is what is as high as the squares of squared paper: 4.4 mm and more, faint or blurred letters 1.5–3.8 mm.
RULING_CONTRAST, RULING_MM = 0.145, 4.1
PAGE_COLOUR_SPREAD = 0.15  # paper measures up to 0.02, landscapes, faces and screens 0.3–0.57
# Where no outline is surer than this, or the picture darker, there is no sheet: landscapes and faces reach 0.06 and
# screens a level of 0.28; sheets lying on others that were not told from them measure 0.13–0.58 and 0.54 and more.
SHEET_MAYBE, SCREEN_LEVEL = 0.1, 0.3


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
