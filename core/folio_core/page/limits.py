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

# Upright. Fitted by `./folio bench upright --fit` on pages in the hands of tuning; the same command reports how it
# holds in others. What is weighed: `upright.evidence.Evidence.table`, and behind it `upright.lines.read`.
UPRIGHT_LONG_SIDE_PX = 1200  # where the writing is looked at
TURN_LEAST_INK_PX = 400  # about two words
TURN_LEAST_SIDE_PX = 32  # a narrower strip holds no line
TURN_WEIGHTS = (1.43, 3.71, 3.59, 0.38, 15.04, 33.93, 30.44, 0.42, 0.68)
TURN_READ_WEIGHTS = (0.56, 1.58, 1.98, 0.23, 12.23, 13.46, 15.75, 0.13, 0.38, 0.68, 0.78, 3.38)
TURN_PLAIN_DIRECTION = 1.2  # `Evidence.gathered` from which lines the other way are not looked at; wrong ones reach 0.8
TURN_CLEAR = 0.99  # from which no line is read
TURN_OPEN = 0.002  # a way less likely is not looked at
TURN_SURE = 0.85  # below it a page is left as it came
# Where the sheet was not found its sides and what it lies on look like writing. Of 448 whole pictures of tuning, desk
# and all, 22 turns are wrong from 0.85 on, 6 from 0.95, 2 from 0.98.
TURN_SURE_ON_A_DESK = 0.98
BENT_SHEET_CONFIDENCE = 0.75  # of a sheet that only its bent edges tell: found, never sure
BEND_MM = 0.5  # flat sheets measure up to 0.2, bent ones 0.7–4; a smaller bend is left
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
CURVED_MM = 1.2  # of lines that could not be straightened; flat sheets measure up to 0.7
BOOK_MM = 1.5  # a book's page bends so much where nothing tells how; common practice, no source
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
