"""Where lines begin on a page: connected strokes, gathered into runs, and the left ends of these."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from .crops import CROP_DIGITS_HIGH, CROP_HEIGHT, CROP_LEFT_DIGITS, CROP_WIDTH

Grey = NDArray[np.uint8]

_LEAST_DIGIT_PX, _MOST_DIGIT_PX = 9.0, 90.0
_RUN_GAP = 1.3  # digit heights: wider gaps part a line into runs
_COLUMN_GAP = 2.2  # a run that begins after such a gap may begin with a label
_COLUMN_EDGE, _LEAST_COLUMN_LINES = 7.0, 4  # digit heights that a column's lines may begin apart
_ONE_EDGE, _LEAST_ON_EDGE = 2.0, 2  # digit heights that runs on one edge lie apart, and how many they are
_HANGS, _NARROW_GAP = 8.0, 0.4  # digit heights left of such an edge, and after what gap, a label may begin
_MOST_HANGING = 2  # in one line
_PAGE_NUMBER_WIDE, _APART = 6.0, 1.6  # digit heights, and distances of lines below the line before
_DRAWN_HIGH = 3.2  # digit heights that a drawing has at least
_MOST_STARTS = 72  # of a page: more are a table or a graph


@dataclass(frozen=True, slots=True)
class Start:
    """Where a run of writing begins. In pixels of what was looked at: ``left``, ``middle`` (of its height), ``right``
    of its first word, ``top`` and ``bottom``; ``line``: its line from the top; ``gap``: from that word to what follows
    on the line, infinite where nothing does."""

    left: float
    right: float
    top: float
    bottom: float
    line: int
    first: bool
    gap: float = np.inf

    @property
    def middle(self) -> float:
        return (self.top + self.bottom) / 2


@dataclass(frozen=True, slots=True)
class Found:
    """``digit``: the typical height of a digit, in pixels; ``pitch``: the typical distance of lines; ``foot``: how far
    down its last column is written or drawn on."""

    starts: tuple[Start, ...]
    digit: float
    pitch: float
    lines: int
    foot: float = 0.0


def find_starts(ink: Grey) -> Found:
    """``ink``: strokes as a mask (255), ruled lines left out."""
    boxes = _stroke_boxes(ink)
    if len(boxes) == 0:
        return Found((), 0.0, 0.0, 0)
    digit = _digit_height(boxes)
    small = boxes[:, 3] < 0.28 * digit  # dots, commas, dashes: they belong to what is beside them
    large = (boxes[:, 3] > 3.2 * digit) | (boxes[:, 2] > 12 * digit)  # drawings, long rules
    body = boxes[~small & ~large]
    if len(body) == 0:
        return Found((), digit, 0.0, 0)
    lines = [_with_dashes(line, boxes[small], digit) for line in _lines(body, digit)]
    starts: list[Start] = []
    middles = []
    for number, line in enumerate(lines):
        middles.append(float(np.median(line[:, 1] + line[:, 3] / 2)))
        starts += _starts_of(line, number, digit)
    starts += _beside_the_first_column(lines, starts, digit)
    pitch = float(np.median(np.diff(middles))) if len(middles) > 1 else 2 * digit
    if len(starts) > _MOST_STARTS:
        starts = sorted(starts, key=lambda one: (not one.first, one.left))[:_MOST_STARTS]
    pitch = max(pitch, 0.8 * digit)
    column = _second_column(starts, digit, len(lines))
    foot = _foot(lines, boxes[large], column or 0.0, digit, pitch)
    return Found(tuple(_by_column(starts, column, len(lines))), digit, pitch, len(lines), foot)


def _foot(
    lines: list[NDArray[np.float64]], large: NDArray[np.float64], left: float, digit: float, pitch: float
) -> float:
    """How far down is written or drawn, right of ``left``. A short line apart from the others is a page's number."""
    lines = [line for line in lines if line[:, 0].max() >= left]
    ends = [float(np.median(line[:, 1] + line[:, 3])) for line in lines]
    if len(lines) > 1:
        last = lines[-1]
        wide = (last[:, 0] + last[:, 2]).max() - last[:, 0].min()
        if wide < _PAGE_NUMBER_WIDE * digit and ends[-1] - ends[-2] > _APART * pitch:
            ends.pop()
    drawn = (large[:, 3] > _DRAWN_HIGH * digit) & (large[:, 2] > _DRAWN_HIGH * digit) & (large[:, 0] >= left)
    return max([0.0, *ends, *(large[drawn, 1] + large[drawn, 3])])


def _beside_the_first_column(lines: list[NDArray[np.float64]], starts: list[Start], digit: float) -> list[Start]:
    """Where runs begin on one edge, what hangs left of it may be a label, though what stands in the first column comes
    close to it."""
    found: list[Start] = []
    taken = [(one.line, one.left) for one in starts]
    for edge in _second_edges(starts, digit):
        for number, line in enumerate(lines):
            line = line[np.argsort(line[:, 0], kind="stable")]
            ends = np.concatenate([[np.inf], np.maximum.accumulate(line[:, 0] + line[:, 2])[:-1]])
            gaps = line[:, 0] - ends
            away = edge - line[:, 0]
            inside = line[:, 0] - line[0, 0] > _HANGS * digit
            hangs = inside & (away > _ONE_EDGE * digit) & (away < _HANGS * digit) & (gaps > _NARROW_GAP * digit)
            for at in sorted(np.flatnonzero(hangs), key=lambda at: -gaps[at])[:_MOST_HANGING]:
                left = float(line[at, 0])
                if all(other != number or abs(left - there) > 0.5 * digit for other, there in taken):
                    taken.append((number, left))
                    found.append(_start(line[at:], number, digit, first=False))
    return found


def _second_edges(starts: list[Start], digit: float) -> list[float]:
    """Where several runs begin amid their lines, and fewer lines do, from left to right."""
    edges: list[float] = []
    for left in sorted(one.left for one in starts if not one.first):
        near = [one.first for one in starts if left <= one.left < left + _ONE_EDGE * digit]
        inner = near.count(False)
        if inner >= _LEAST_ON_EDGE and 2 * inner > len(near) and (not edges or left - edges[-1] > _ONE_EDGE * digit):
            edges.append(left)
    return edges


def _second_column(starts: list[Start], digit: float, lines: int) -> float | None:
    """Where it begins: many runs begin on one edge far to the right, and hardly a line does."""
    for left in sorted(one.left for one in starts if not one.first):
        here = [one for one in starts if left <= one.left < left + _COLUMN_EDGE * digit]
        inner = sum(not one.first for one in here)
        if inner >= _LEAST_COLUMN_LINES and inner >= 0.3 * lines and inner > 1.5 * (len(here) - inner):
            return left - 0.5 * digit
    return None


def _by_column(starts: list[Start], edge: float | None, lines: int) -> list[Start]:
    """In reading order: the lines of a second column, that begins at ``edge``, follow those of the first."""
    if edge is None:
        return sorted(starts, key=lambda one: (one.line, one.left))
    placed = [
        replace(one, line=one.line + lines, first=True) if one.left >= edge and not one.first else one for one in starts
    ]
    # A line that stands in the second column alone belongs there too.
    placed = [replace(one, line=one.line + lines) if one.line < lines and one.left >= edge else one for one in placed]
    return sorted(placed, key=lambda one: (one.line, one.left))


def _stroke_boxes(ink: Grey) -> NDArray[np.float64]:
    """x, y, width, height of each connected stroke that is no speck and no edge of the sheet."""
    count, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    if count < 2:
        return np.empty((0, 4))
    boxes = stats[1:, :4].astype(np.float64)
    areas = stats[1:, cv2.CC_STAT_AREA]
    height, width = ink.shape
    speck = (areas < 5) | ((boxes[:, 2] < 3) & (boxes[:, 3] < 3))
    at_edge = (boxes[:, 0] <= 1) | (boxes[:, 0] + boxes[:, 2] >= width - 1)
    at_edge |= (boxes[:, 1] <= 1) | (boxes[:, 1] + boxes[:, 3] >= height - 1)
    return boxes[~speck & ~at_edge]


def _digit_height(boxes: NDArray[np.float64]) -> float:
    """Letters without an ascender are most of a page; digits and capitals are about 1.45 times as high."""
    high = boxes[:, 3]
    letters = high[(high >= 6) & (boxes[:, 2] < 6 * high)]
    if len(letters) == 0:
        return _LEAST_DIGIT_PX
    digit = 0.5 * (float(np.percentile(letters, 75)) + 1.3 * float(np.median(letters)))
    return float(np.clip(digit, _LEAST_DIGIT_PX, _MOST_DIGIT_PX))


def _lines(boxes: NDArray[np.float64], digit: float) -> list[NDArray[np.float64]]:
    """Boxes by line, from the top. A line is followed from stroke to stroke, so that it may rise or fall."""
    order = np.argsort(boxes[:, 0], kind="stable")
    lines: list[list[NDArray[np.float64]]] = []
    ends: list[tuple[float, float]] = []  # right end and middle of each line so far
    for box in boxes[order]:
        middle = box[1] + box[3] / 2
        best, least = -1, 0.62 * digit
        for at, (end, height) in enumerate(ends):
            away = abs(middle - height) + max(0.0, box[0] - end) * 0.012
            if away < least and box[0] - end < 40 * digit:
                best, least = at, away
        if best < 0:
            lines.append([box])
            ends.append((box[0] + box[2], middle))
            continue
        lines[best].append(box)
        end, height = ends[best]
        share = min(0.35, 0.35 * box[3] / digit)
        ends[best] = (max(end, box[0] + box[2]), height + share * (middle - height))
    made = [np.array(line) for line in lines]
    made = [line for line in made if line[:, 3].max() >= 0.5 * digit]
    return sorted(made, key=lambda line: float(np.median(line[:, 1] + line[:, 3] / 2)))


def _with_dashes(line: NDArray[np.float64], small: NDArray[np.float64], digit: float) -> NDArray[np.float64]:
    """A line with the dashes, dots and equals signs close to the left of its strokes: "= 4" does not begin with 4."""
    kept = [line]
    for box in small[small[:, 2] >= 0.3 * digit]:
        beside = np.abs(line[:, 1] + line[:, 3] / 2 - box[1] - box[3] / 2) < 0.75 * digit
        gaps = line[:, 0] - box[0] - box[2]
        if (beside & (gaps > -0.2 * digit) & (gaps < 1.0 * digit)).any():
            kept.append(box[None])
    return np.concatenate(kept)


def _starts_of(line: NDArray[np.float64], number: int, digit: float) -> list[Start]:
    line = line[np.argsort(line[:, 0], kind="stable")]
    starts = []
    end = -np.inf
    for at, box in enumerate(line):
        gap = box[0] - end
        if at == 0 or gap > _RUN_GAP * digit:
            first = at == 0
            if first or gap > _COLUMN_GAP * digit:
                starts.append(_start(line[at:], number, digit, first=first))
        end = max(end, box[0] + box[2])
    return starts


def _start(rest: NDArray[np.float64], number: int, digit: float, *, first: bool) -> Start:
    left = rest[0, 0]
    right = rest[0, 0] + rest[0, 2]
    word, gap = [rest[0]], np.inf
    for box in rest[1:]:
        if box[0] - right > 0.45 * digit:
            gap = box[0] - right
            break
        right = max(right, box[0] + box[2])
        word.append(box)
        if right - left > 5 * digit:
            gap = 0.0
            break
    near = np.array(word)
    near = near[near[:, 0] - left < 3 * digit]
    if near[:, 3].max() < 0.5 * digit:  # only dashes: what follows them says how high the line is
        near = rest[:6]
    return Start(left, right, float(near[:, 1].min()), float((near[:, 1] + near[:, 3]).max()), number, first, gap)


def crop(grey: Grey, start: Start, digit: float, zoom: float = 1.0) -> Grey:
    """What the network reads: the beginning of a run, 255 is ink. ``grey``: 255 is paper; ``zoom``: larger shows less
    around it."""
    high = start.bottom - start.top
    size = float(np.clip(np.sqrt(digit * max(high, 1.0)), 0.8 * digit, 1.35 * digit)) / zoom
    scale = CROP_HEIGHT / (CROP_DIGITS_HIGH * size)
    x = start.left - CROP_LEFT_DIGITS * size
    y = start.middle - CROP_HEIGHT / scale / 2
    if scale < 0.6:
        grey = cv2.GaussianBlur(grey, (0, 0), 0.4 / scale)
    matrix = np.array([[scale, 0, -x * scale], [0, scale, -y * scale]])
    cut = cv2.warpAffine(
        grey, matrix, (CROP_WIDTH, CROP_HEIGHT), flags=cv2.INTER_LINEAR if scale > 0.8 else cv2.INTER_AREA,
        borderMode=cv2.BORDER_CONSTANT, borderValue=255,
    )  # fmt: skip
    ink = 255 - cut.astype(np.float32)
    deepest = max(60.0, float(np.percentile(ink, 99.5)))
    return np.clip(ink * (245 / deepest), 0, 255).astype(np.uint8)
