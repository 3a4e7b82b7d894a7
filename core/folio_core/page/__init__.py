"""The way of one page, a file a step:

bytes → `kinds` (what is it?) → `sandbox` (a limited child) → `opening`, `pdf` (pixels) → `sheet` (where is the paper?)
→ `straighten` → `upright` → `tone` → `measure` → `advise`; `prepare` takes all of them, `recipe` says what a person
set right, `limits` holds every number that decides.
"""

from .advise import WORDS, Advice, Finding
from .drawn import drawn_page
from .encode import pixels_of
from .errors import PageError, Trouble
from .geometry import Geometry
from .kinds import HEAD_BYTES, Kind, kind_of
from .likeness import Likeness, alike, same_picture
from .limits import DEFAULT_LIMITS, Limits
from .measure import Measures
from .opening import count_pages, too_large_message
from .picture import Picture, picture
from .prepare import FirstView, Prepared, prepare
from .recipe import Recipe, Tone
from .sandbox import run_limited
from .sheet import Sheet, find_sheet
from .taken import moment_taken, taken_before

__all__ = [
    "DEFAULT_LIMITS", "HEAD_BYTES", "WORDS", "Advice", "Finding", "FirstView", "Geometry", "Kind", "Likeness",
    "Limits", "Measures", "PageError", "Picture", "Prepared", "Recipe", "Sheet", "Tone", "Trouble", "alike",
    "count_pages", "drawn_page", "find_sheet", "kind_of", "moment_taken", "picture", "pixels_of", "prepare",
    "run_limited", "same_picture", "taken_before", "too_large_message",
]  # fmt: skip
