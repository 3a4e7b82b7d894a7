"""What speaks for each of the four ways a page can lie: where ink gathers, what a small text-direction network makes
of single lines (the classifier shipped in the rapidocr wheel), where writing begins, the margin's rule, the sheet."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from .. import limits

Grey = NDArray[np.uint8]
Floats = NDArray[np.float64]
Box = tuple[int, int, int, int]  # x, y, width, height

_LEAN_DEG, _LEAN_STEP_DEG = 4.0, 0.25
_MOST_POINTS = 6_000
_MOST_LINES = 12
_MOST_PIECES, _PIECES_AT_ONCE = 9, 3
_CLEAR_ODDS = 2.0  # mean log odds of the pieces looked at, from which no more are
_MOST_ODDS = 6.0
_MOST_HIGH = 0.2  # of the page: that much above or below its middle tells all that the place of the writing can
_LINE_HEIGHT, _LINE_WIDTH = 48, 192  # what the network reads
_BANDS = 8  # of the page's height, each with the margin's rule or not
_MOST_RULE = 6.0  # grey levels of a band's rule that count
_MARGIN, _MIDDLE = (0.05, 0.20), (0.25, 0.75)  # of the page's width
_MOST_MARGIN = 8.0
_PAPER_RATIOS = (0.62, 0.82)  # short to long side: A4 has 0.71, Letter 0.77; a strip says nothing


@dataclass(frozen=True, slots=True)
class Along:
    """Of lines that run one way: log odds ``seen`` by the network that they stand the right way up, how ``high`` on the
    page and how evenly (``even``) they begin, how ``low`` their ink lies in them, their ``length``, and on which side
    a ``margin`` is ruled; all signed for the way as it lies against upside down."""

    seen: float
    high: float
    even: float
    low: float
    length: float
    margin: float
    lean_deg: float


@dataclass(frozen=True, slots=True)
class Evidence:
    """``gathered``: log ratio of how sharply ink gathers in rows and in columns. ``portrait``: the sheet is higher than
    wide; None where that is not known. ``across``, ``down``: as if lines ran so."""

    gathered: float
    portrait: bool | None
    across: Along
    down: Along

    def table(self) -> Floats:
        """4 × 9, a row for each turn: what `limits.TURN_WEIGHTS` weighs."""
        rows = []
        for turn in (0, 90, 180, 270):
            sideways, upside_down = turn % 180 == 90, turn in (180, 270)
            one, way = (self.down if sideways else self.across), (-0.5 if upside_down else 0.5)
            gathered = self.gathered * (-0.5 if sideways else 0.5)
            fits = 0.0 if self.portrait is None else float(self.portrait is not sideways)
            rows.append(
                [gathered, float(np.clip(gathered, -0.5, 0.5)), fits, way * one.seen, way * one.high, way * one.even,
                 way * one.low, one.length, way * one.margin]
            )  # fmt: skip
        return np.array(rows)

    def fits_the_sheet(self, turn: int) -> bool:
        """Whether the ``turn``-th of the four turns has lines along the shorter side. Ruling that was left in the ink
        can gather more sharply than a few lines of writing: against the sheet, or without one, it proves nothing."""
        return self.portrait is not None and self.portrait is (turn % 2 == 0)

    def lean_deg(self, turn: int) -> float:
        """Of lines that stand upright after the ``turn``-th of the four turns."""
        return (self.down if turn % 2 else self.across).lean_deg


def evidence_of(page: Grey, ink: Grey, *, shape_known: bool) -> Evidence | None:
    """Arguments as `upright`. None where there is too little writing."""
    points = _points(ink)
    if len(points) < limits.TURN_LEAST_INK_PX or min(page.shape) < limits.TURN_LEAST_SIDE_PX:
        return None
    across, lean_across = _gathered(points)
    along, lean_along = _gathered(points[:, ::-1] * np.array([-1.0, 1.0]))
    gathered = math.log(across / along)
    portrait = _is_portrait(page) if shape_known else None
    paper = _paper(page, ink)
    layers = (page, ink, paper)
    plain = limits.TURN_PLAIN_DIRECTION
    rows = columns = Along(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    if gathered > -plain or portrait is not False:
        rows = _along(*layers, lean_across)
    if gathered < plain or portrait is not True:
        # As if it lay turned by 270 degrees; the odds decide whether it was 90.
        turned = [np.ascontiguousarray(np.rot90(layer, -1)) for layer in layers]
        columns = _along(turned[0], turned[1], turned[2], lean_along)
    return Evidence(gathered, portrait, rows, columns)


def _is_portrait(page: Grey) -> bool | None:
    short, long = sorted(page.shape)
    return page.shape[0] > page.shape[1] if _PAPER_RATIOS[0] < short / long < _PAPER_RATIOS[1] else None


def _along(page: Grey, ink: Grey, paper: Grey, lean_deg: float) -> Along:
    pieces = _pieces(ink)
    margin = _margin(paper)
    if not pieces:
        return Along(0.0, 0.0, 0.0, 0.0, 0.0, margin, lean_deg)
    longest = pieces[:_MOST_LINES]
    length = sum(width for _, _, width, _ in longest) / ink.shape[1]  # words stand beside each other, not below
    seen = float(np.clip(_right_way_up(page, longest), -_MOST_ODDS, _MOST_ODDS))
    high, even, low = _layout(ink, pieces)
    return Along(seen, high, even, low, min(length, 8.0), margin, lean_deg)


def _paper(page: Grey, ink: Grey) -> Grey:
    """How dark the paper is beside the writing: its ruling."""
    dark = cv2.min(cv2.bitwise_not(page), 60)
    dark[cv2.dilate(ink, np.ones((7, 7), np.uint8)) > 0] = 0
    return np.asarray(dark, np.uint8)


def _margin(paper: Grey) -> float:
    """How much clearer a rule stands at the left margin than at the right one, in spreads of the page's middle."""
    bands = cv2.resize(paper.astype(np.float32), (paper.shape[1], _BANDS), interpolation=cv2.INTER_AREA)
    rules = np.minimum(bands - cv2.blur(bands, (21, 1)), _MOST_RULE).sum(axis=0)
    width = len(rules)
    left = rules[int(_MARGIN[0] * width) : int(_MARGIN[1] * width)].max()
    right = rules[int((1 - _MARGIN[1]) * width) : int((1 - _MARGIN[0]) * width)].max()
    spread = float(np.std(rules[int(_MIDDLE[0] * width) : int(_MIDDLE[1] * width)])) + 0.5
    return float(np.clip((left - right) / spread, -_MOST_MARGIN, _MOST_MARGIN))


def _points(ink: Grey) -> Floats:
    found = cv2.findNonZero(ink)  # x, y of each; NumPy's nonzero takes four times as long
    if found is None:
        return np.empty((0, 2), np.float64)
    return found[:: max(1, len(found) // _MOST_POINTS), 0].astype(np.float64)


def _gathered(points: Floats) -> tuple[float, float]:
    """How sharply ink gathers in rows (the mean squared change of the profile from row to row, over its mean), at the
    lean where it does so most; the projection profile of Postl (ICPR 1986)."""
    coarse = np.arange(-_LEAN_DEG, _LEAN_DEG + 1e-9, 4 * _LEAN_STEP_DEG)
    near = coarse[int(np.argmax([_change(points, lean) for lean in coarse]))]
    fine = near + np.arange(-3, 4) * _LEAN_STEP_DEG
    changes = [_change(points, lean) for lean in fine]
    best = int(np.argmax(changes))
    return changes[best], float(fine[best])


def _change(points: Floats, lean_deg: float) -> float:
    rise = math.radians(lean_deg)
    rows = points[:, 1] * math.cos(rise) + points[:, 0] * math.sin(rise)
    profile = np.bincount((rows - rows.min()).astype(np.int64)).astype(np.float64)
    smooth = np.convolve(profile, np.ones(3) / 3, mode="same")
    return float((np.diff(smooth) ** 2).sum())


def _pieces(ink: Grey) -> list[Box]:
    """Boxes of pieces of text lines, the longest first."""
    reach = max(9, ink.shape[1] // 40)
    words = cv2.dilate(ink, np.ones((3, reach), np.uint8))
    _, _, boxes, _ = cv2.connectedComponentsWithStats(words, connectivity=8)
    height = ink.shape[0]
    likely = [tuple(map(int, box[:4])) for box in boxes[1:] if box[2] > 1.6 * box[3] and 0.006 * height < box[3]]
    likely = [box for box in likely if box[3] < 0.08 * height]
    return sorted(likely, key=lambda box: -box[2])  # type: ignore[arg-type]


def _right_way_up(page: Grey, boxes: list[Box]) -> float:
    """Log odds that the lines stand the right way up: each is shown to the network as it is and turned by 180°."""
    crops: list[Grey] = []
    for x, y, width, height in boxes:
        piece = round(height * _LINE_WIDTH / _LINE_HEIGHT)
        for left in range(x, x + max(1, width - piece // 2), piece):
            crop = page[y : y + height, left : min(left + piece, x + width)]
            size = (min(_LINE_WIDTH, max(1, round(_LINE_HEIGHT * crop.shape[1] / height))), _LINE_HEIGHT)
            crops.append(np.asarray(cv2.resize(crop, size, interpolation=cv2.INTER_AREA), np.uint8))
    crops = sorted(crops, key=lambda crop: -crop.shape[1])
    odds: list[float] = []
    for first in range(0, _MOST_PIECES, _PIECES_AT_ONCE):
        odds += _odds(crops[first : first + _PIECES_AT_ONCE])
        if len(odds) < first + _PIECES_AT_ONCE or abs(sum(odds)) > _CLEAR_ODDS * len(odds):
            break  # none left, or all of one mind
    return sum(odds) / max(len(odds), 1)


def _odds(crops: list[Grey]) -> list[float]:
    """Log odds that each piece of a line stands the right way up."""
    if not crops:
        return []
    both = crops + [crop[::-1, ::-1] for crop in crops]
    batch = np.zeros((len(both), 3, _LINE_HEIGHT, _LINE_WIDTH), np.float32)
    for row, crop in enumerate(both):
        batch[row, :, :, : crop.shape[1]] = crop.astype(np.float32)[None] / 127.5 - 1
    network = _network()
    chances = network.run(None, {network.get_inputs()[0].name: batch})[0]
    odds = np.log(np.clip(chances[:, 0], 1e-3, 1)) - np.log(np.clip(chances[:, 1], 1e-3, 1))
    half = len(crops)
    return [float(odd) for odd in odds[:half] - odds[half:]]


def _layout(ink: Grey, pieces: list[Box]) -> tuple[float, float, float]:
    """Writing begins at the top and at an even left edge (common practice, no source), and in a line more stands up
    than hangs down: ascenders, capitals, exponents (Caprari, Pattern Recognition Letters 21, 2000)."""
    height, width = ink.shape
    x, y, long, tall = np.array(pieces, np.float64).T
    high = float(np.clip(0.5 - np.average(y + tall / 2, weights=long) / height, -_MOST_HIGH, _MOST_HIGH))
    longest = slice(_MOST_LINES)
    left, right = x[longest] / width, (x + long)[longest] / width
    even = float(np.clip(right.std() - left.std(), -0.2, 0.2)) if len(left) > 2 else 0.0
    low = float(np.mean([_centre(ink[top : top + h, at : at + w]) - 0.5 for at, top, w, h in pieces[longest]]))
    return high, even, low


def _centre(ink: Grey) -> float:
    """How far down its box the middle of the ink lies, 0–1."""
    rows = (ink > 0).sum(axis=1, dtype=np.float64)
    return float(np.average(np.arange(len(rows)) + 0.5, weights=rows) / len(rows)) if rows.any() else 0.5


def warm_up_network() -> None:
    _network()


@cache
def _network() -> onnxruntime.InferenceSession:
    onnxruntime.set_default_logger_severity(3)  # errors; that it can keep nothing on disk here is as it should be
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    path = files("rapidocr") / "models" / "ch_ppocr_mobile_v2.0_cls_mobile.onnx"
    return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
