"""Paper that does not lie flat: how its lines bend, told by ruled and written lines and by the sheet's own edges, and
the page with them straightened.

The model: a line at height y is moved down by p(x) + y·q(x), as a cylinder bent along the page's width is seen from
above. The slopes of p and q are polynomials, fitted to how neighbouring strips of the page are shifted against each
other.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from . import limits
from .recipe import Corners
from .straighten import homography, straighten

Image = NDArray[np.uint8]
Layer = NDArray[np.float32]
Floats = NDArray[np.float64]

MARGIN = 0.05  # of the page's height, above and below: where its edges may lie
_LEAST_SIDE_PX = 200
_STRIP_PX = 16  # on a page of `limits.UPRIGHT_LONG_SIDE_PX`
_ZONES = 5
_MOST_SHIFT_PX = 9  # between strips side by side
_LEAST_ALIKE = 0.5  # correlation
_DEGREE = 8
_SMOOTH, _SMOOTH_TILTED = 0.01, 0.0003  # against wavy slopes
_LOOSE_SLOPE = 0.012  # an observation that is off by more counts little
_MOST_SLOPE = 0.05
_LEAST_LINES, _FULL, _RULED = 60, 190, 380  # observations, of some 700; with more the page is full, and ruled
_FLAT_MM = 0.3  # flat ruled sheets measure up to 0.25
_EXPLAINED = 0.6  # of what is left over afterwards, for what speaks to be believed
_ALIKE, _SURELY_ALIKE = 0.7, 0.8  # correlation of two bends that were fitted apart
_BENT_APART_MM, _SURELY_BENT_MM = 0.6, 1.2  # of each: a flat sheet's edges measure up to 0.5
_SIDE_OFF = 0.01  # of the width: how far a sheet's edge may be from where its side was taken to be
_CLEAR_EDGE = 12.0  # grey levels
_EDGE_TILT = 2.0  # grey levels an edge loses for each pixel it rises or falls from strip to strip


@dataclass(frozen=True, slots=True)
class Curve:
    """``across``, ``tilted``: Legendre coefficients of the slopes of p and q over the page's width. ``bend_mm``: how
    far its most bent line departs from straight, if the page is as high as A4. ``told``: whether what was seen agrees
    so well that the page can be flattened by it."""

    across: tuple[float, ...]
    tilted: tuple[float, ...]
    bend_mm: float
    told: bool

    def displacement(self, width: int, height: int) -> Layer:
        """height × width: how far down each pixel of the flat page is seen on the bent one, in pixels."""
        return self.at(np.arange(height), width, height)

    def at(self, rows: NDArray[np.int64], width: int, height: int) -> Layer:
        """The same of some rows."""
        steps = _basis((np.arange(width) + 0.5) / width)
        p, q = (np.cumsum(steps @ np.asarray(slopes)) for slopes in (self.across, self.tilted))
        down = (rows + 0.5) / height - 0.5
        return np.asarray((p - p.mean())[None] + down[:, None] * (q - q.mean())[None], np.float32)


def curve_of(grey: Image, tall: Callable[[], Image], *, edges_tell: bool = True) -> Curve | None:
    """How a page's lines bend; None where nothing plain is seen, or ruling shows that they do not.

    ``grey``: the page with its light evened, 255 is paper; ``tall``: gives the same page, RGB, in the same scale with
    `MARGIN` of its height above and below. ``edges_tell``: not where a part of it lies beyond the picture, for what
    stands in for that bends lines and edges alike; nor where it is more than one page.
    """
    height, width = grey.shape
    if min(height, width) < _LEAST_SIDE_PX:
        return None
    lines = _lines(grey)
    is_full, is_ruled = len(lines) > _FULL, len(lines) > _RULED
    if is_full and _bend_mm(_fitted(lines, width, height), width, height) < _FLAT_MM:
        return None
    edges = _edges(tall(), height)
    seen = np.concatenate([lines, edges])
    if len(seen) < _LEAST_LINES:
        return None
    slopes = _fitted(seen, width, height)
    agree = [len(one) >= _LEAST_LINES and _left_over(one, slopes, width, height) < _EXPLAINED for one in (lines, edges)]
    bends_alike = edges_tell and _bend_alike(lines, edges, width, height, _ALIKE, _BENT_APART_MM)
    # Writing alone wanders, and needs a second witness; ruling is seen everywhere, and is the only one.
    if not (bends_alike or agree[0] or (agree[1] and not is_ruled)):
        return None
    told = bends_alike or (agree[0] and (agree[1] or is_full))
    across, tilted = (tuple(map(float, part)) for part in np.split(slopes, 2))
    return Curve(across, tilted, round(_bend_mm(slopes, width, height), 2), told)


def is_bent_sheet(grey: Image, tall: Image, wide: Image) -> bool:
    """Whether the upper and lower edge of what may be a sheet bend as the lines on it do, and its sides run straight
    where they were taken to be: then it is one, and bent. ``grey``, ``tall``: as for `curve_of`; ``wide``: the page
    turned by a quarter, with `MARGIN` of its width above and below."""
    height, width = grey.shape
    if min(height, width) < _LEAST_SIDE_PX:
        return False
    more = (len(wide) - width) // 2
    sides = [_edge_rows(wide[side - more : side + more])[0] - more for side in (more, more + width)]
    if max(np.percentile(np.abs(side), 90) for side in sides) > _SIDE_OFF * width:
        return False
    return _bend_alike(_lines(grey), _edges(tall, height), width, height, _SURELY_ALIKE, _SURELY_BENT_MM)


def with_margin(corners: Corners, size: tuple[int, int]) -> Corners:
    """The corners of the same page with `MARGIN` of its height above and below."""
    width, height = size
    more = MARGIN * height
    tall = np.array([[(0, -more), (width, -more), (width, height + more), (0, height + more)]], np.float32)
    there = cv2.perspectiveTransform(tall, np.linalg.inv(homography(corners, width, height)))[0]
    return tuple((float(x), float(y)) for x, y in there)  # type: ignore[return-value]


def flattened(pixels: Image, corners: Corners, size: tuple[int, int], curve: Curve) -> Image:
    """The page as `straighten` gives it, its lines straight. ``size``: width, height. Nothing of it is cut: what rises
    beyond its corners comes from the picture."""
    width, height = size
    more = round(MARGIN * height)
    tall = straighten(pixels, with_margin(corners, size), (width, height + 2 * more))
    rows = np.arange(height, dtype=np.float32)[:, None] + np.float32(more) + curve.displacement(width, height)
    columns = np.broadcast_to(np.arange(width, dtype=np.float32), (height, width))
    flat = cv2.remap(tall, np.ascontiguousarray(columns), rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(flat, np.uint8)


def _lines(grey: Image) -> Floats:
    """n × 4: x, y, slope, weight, from how strips of writing and ruling are shifted against their neighbours."""
    height, width = grey.shape
    strips = width // _STRIP_PX
    dark = cv2.min(cv2.bitwise_not(grey[:, : strips * _STRIP_PX]), 70).astype(np.float32)
    profile = cv2.resize(dark, (strips, height), interpolation=cv2.INTER_AREA)
    profile -= cv2.blur(profile, (1, 41))
    step = height // (_ZONES + 1)
    fade = np.sqrt(np.hanning(2 * step)).astype(np.float32)[:, None]
    seen = []
    for top in range(0, _ZONES * step, step):
        zone = profile[top : top + 2 * step] * fade
        power = np.sqrt((zone * zone).sum(axis=0)) + 0.1
        waves = np.fft.rfft(zone, n=cv2.getOptimalDFTSize(2 * step + 4 * _MOST_SHIFT_PX), axis=0)
        for apart in (1, 2):
            alike = np.fft.irfft(waves[:, :-apart].conj() * waves[:, apart:], axis=0)
            alike = np.roll(alike, _MOST_SHIFT_PX * apart, axis=0)[: 2 * _MOST_SHIFT_PX * apart + 1]
            shift, peak = _peaks(alike / (power[:-apart] * power[apart:]))
            x = (np.arange(strips - apart) + 0.5 + apart / 2) * _STRIP_PX
            slope = (shift - _MOST_SHIFT_PX * apart) / (apart * _STRIP_PX)
            found = np.stack([x, np.full_like(x, top + step), slope, peak - _LEAST_ALIKE + 0.1], axis=1)
            seen.append(found[peak > _LEAST_ALIKE])
    return np.concatenate(seen)


def _edges(tall: Image, height: int) -> Floats:
    """The same from the sheet's upper and lower edge: the clearest smooth way across, by dynamic programming."""
    more, width = (tall.shape[0] - height) // 2, tall.shape[1]
    strips = width // _STRIP_PX
    seen = []
    for edge, y in ((more, 0.0), (more + height, float(height))):
        exact, clear = _edge_rows(tall[edge - more : edge + more, : strips * _STRIP_PX])
        for apart in (1, 2):
            least = np.minimum(clear[:-apart], clear[apart:])
            x = (np.arange(strips - apart) + 0.5 + apart / 2) * _STRIP_PX
            slope = (exact[apart:] - exact[:-apart]) / (apart * _STRIP_PX)
            found = np.stack([x, np.full_like(x, y), slope, np.minimum(0.5, least / 60)], axis=1)
            seen.append(found[least > _CLEAR_EDGE])
    return np.concatenate(seen)


def _edge_rows(strip: Image) -> tuple[Floats, Layer]:
    """Where the clearest smooth way across a strip (RGB) runs, in each `_STRIP_PX` of it: its row, and how clear."""
    red, green, blue = cv2.split(strip)
    darkest = cv2.min(cv2.min(red, green), blue)
    strips = strip.shape[1] // _STRIP_PX
    means = cv2.resize(darkest, (strips, len(strip)), interpolation=cv2.INTER_AREA)
    smooth = cv2.GaussianBlur(means.astype(np.float32), (1, 9), 0, sigmaY=1.5)
    steps = np.abs(smooth[4:] - smooth[:-4])
    rows, at = _way_across(steps), np.arange(strips)
    inner = np.clip(rows, 1, len(steps) - 2)
    return inner + 2 + _vertex(*(steps[inner + k, at] for k in (-1, 0, 1))), steps[rows, at]


def _way_across(steps: Layer) -> NDArray[np.int64]:
    """The row of each strip, along the way of most steps that jumps least."""
    rows, strips = steps.shape
    gain = np.minimum(steps, 60.0)
    moves = np.arange(-_MOST_SHIFT_PX, _MOST_SHIFT_PX + 1)
    loss = (_EDGE_TILT * np.abs(moves))[:, None]
    padded = np.full(rows + 2 * _MOST_SHIFT_PX, -np.inf)
    reachable = np.lib.stride_tricks.sliding_window_view(padded, rows)  # row k: moved by moves[k]
    inner = padded[_MOST_SHIFT_PX:-_MOST_SHIFT_PX]
    inner[:] = gain[:, 0]
    came = np.empty((strips, rows), np.int64)
    for strip in range(1, strips):
        ways = reachable - loss
        came[strip] = ways.argmax(axis=0)
        inner[:] = ways.max(axis=0) + gain[:, strip]
    way = np.empty(strips, np.int64)
    way[-1] = inner.argmax()
    for strip in range(strips - 1, 0, -1):
        way[strip - 1] = way[strip] + moves[came[strip, way[strip]]]
    return way


def _peaks(alike: Floats) -> tuple[Floats, Floats]:
    """Of each column: where it is highest, and how high; 0 high where that is at its end."""
    best = np.clip(alike.argmax(axis=0), 1, len(alike) - 2)
    around = [np.take_along_axis(alike, best[None] + k, axis=0)[0] for k in (-1, 0, 1)]
    inside = (around[1] >= around[0]) & (around[1] >= around[2])
    return best + _vertex(*around), np.where(inside, around[1], 0.0)


def _vertex(before: Floats, at: Floats, after: Floats) -> Floats:
    """Where parabolas through three neighbours peak, from the middle one."""
    sharp = np.minimum(before - 2 * at + after, -1e-9)
    return np.asarray(np.clip(0.5 * (before - after) / sharp, -0.5, 0.5))


def _basis(share: Floats) -> Floats:
    return np.asarray(np.polynomial.legendre.legvander(2 * share - 1, _DEGREE), np.float64)


def _design(seen: Floats, width: int, height: int) -> Floats:
    across = _basis(seen[:, 0] / width)
    return np.concatenate([across, across * (seen[:, 1] / height - 0.5)[:, None]], axis=1)


def _fitted(seen: Floats, width: int, height: int) -> Floats:
    """Slopes' coefficients, by weighted least squares that listens less to what is far off (Cauchy weights)."""
    design, slope, trust = _design(seen, width, height), seen[:, 2], seen[:, 3]
    order = (1 + np.arange(_DEGREE + 1)) ** 2
    smooth = np.diag(np.concatenate([_SMOOTH * order, _SMOOTH_TILTED * order]))
    weight = trust
    for _ in range(8):
        fitted = np.linalg.solve((design.T * weight) @ design + smooth, (design.T * weight) @ slope)
        weight = trust / (1 + ((slope - design @ fitted) / _LOOSE_SLOPE) ** 2)
    return np.asarray(fitted)


def _left_over(seen: Floats, slopes: Floats, width: int, height: int) -> float:
    """The share of the slopes' spread that the fit does not explain."""
    slope, trust = seen[:, 2], seen[:, 3]
    level = np.average(np.clip(slope, -_MOST_SLOPE, _MOST_SLOPE), weights=trust)
    before = np.minimum(np.abs(slope - level), _MOST_SLOPE) @ trust
    after = np.minimum(np.abs(slope - _design(seen, width, height) @ slopes), _MOST_SLOPE) @ trust
    return float(after) / max(float(before), 1e-9)


def _bend_alike(lines: Floats, edges: Floats, width: int, height: int, alike: float, least_mm: float) -> bool:
    """Whether both, each by itself, tell the same bend: what wanders by chance does not wander alike twice."""
    if min(len(lines), len(edges)) < _LEAST_LINES:
        return False
    one, other = (_bends_mm(_fitted(seen, width, height), width, height) for seen in (lines, edges))
    if min(np.ptp(one, axis=1).max(), np.ptp(other, axis=1).max()) < least_mm:
        return False
    return bool((one * other).sum() >= alike * np.sqrt((one * one).sum() * (other * other).sum()))


def _bend_mm(slopes: Floats, width: int, height: int) -> float:
    """How far the most bent of three lines departs from its own straight line, if the page is as high as A4."""
    return float(np.ptp(_bends_mm(slopes, width, height), axis=1).max())


def _bends_mm(slopes: Floats, width: int, height: int) -> Floats:
    """3 × width: how far three lines lie below their own straight lines, if the page is as high as A4."""
    across, tilted = (tuple(map(float, part)) for part in np.split(slopes, 2))
    rows = np.array([height // 6, height // 2, 5 * height // 6])
    lines = Curve(across, tilted, 0.0, False).at(rows, width, height)
    x = np.arange(width)
    straight = np.stack([np.polyval(np.polyfit(x, line, 1), x) for line in lines])
    return np.asarray((lines - straight) / height * limits.A4_MM[1], np.float64)
