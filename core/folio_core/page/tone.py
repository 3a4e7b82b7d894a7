"""Three renderings of a page: as photographed, clean paper, ink only."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from .light import Writing, evened

Image = NDArray[np.uint8]

_LEAST_BLACK, _MOST_BLACK = 0.22, 0.80  # of the paper's brightness: what becomes full ink, for pen and for pencil
_MOST_WHITE_BAND = 0.07  # under the paper's brightness: still pure white; less where the ink itself is faint
_BLOCK_PX = 8  # the depth of nearby strokes is followed in blocks of this size
_NEAR_BLOCKS = 5  # how far around a stroke its own depth decides
_HALF = 0.5  # a stroke's edge lies where half its depth is reached
# Of the page's typical stroke: paler marks are ruling, grain, or shine through. Tuning seeds: F 0.835, at 0.40 0.785.
_LEAST_DEPTH = 0.60
# On paper as bright as the camera can tell, what is seen of a stroke is less than what is there. Tuning seeds of
# over-exposed photographs: best at 0.26–0.33 of the stroke's depth; tablets' exports measure a depth of 0.69 and more.
_CLIPPED_LEVEL, _CLIPPED_DEPTH, _CLIPPED_SHARE = 253, 0.67, 0.26
_NOISE_LEVELS = 5.0  # spreads of the paper's own grain that no mark may be made of
_RULE_SHARE = 0.08  # of the page's width: straighter and longer than any stroke
_RULE_THICK_PX = 5


def clean_paper(page: Image, light: Image, ink_contrast: float) -> Image:
    """Divide the light out, set the paper white and the ink dark. Both RGB; same shape as ``page`` back.

    ``ink_contrast`` (0–1, from `measure`) sets where ink begins, so that faint pencil is lifted as far as a pen.
    """
    black = float(np.clip(1 - 1.3 * ink_contrast, _LEAST_BLACK, _MOST_BLACK))
    white = 1 - min(_MOST_WHITE_BAND, 0.25 * max(ink_contrast, 0.1))
    curve = np.clip((np.arange(256) / 255 - black) / (white - black), 0, 1)
    even = evened(page, light)
    return np.asarray(cv2.LUT(even, np.rint(curve * 255).astype(np.uint8), dst=even), dtype=np.uint8)


def ink_only(page: Image, writing: Writing) -> Image:
    """Height × width, 0 where ink is and 255 elsewhere. ``page`` RGB, ``writing`` of the same page.

    Each mark is cut at half the depth of the strokes around it: the place of a soft edge does not depend on how dark
    the pen was, and pencil beside ink keeps its width.
    """
    red, green, blue = cv2.split(evened(page, writing.light))
    depth = cv2.bitwise_not(cv2.min(cv2.min(red, green), blue))
    deepest = cv2.dilate(depth, np.ones((_BLOCK_PX, _BLOCK_PX), np.uint8))
    blocks = np.ascontiguousarray(deepest[_BLOCK_PX // 2 :: _BLOCK_PX, _BLOCK_PX // 2 :: _BLOCK_PX])
    if not blocks.size:
        blocks = deepest
    around = cv2.dilate(blocks, np.ones((_NEAR_BLOCKS, _NEAR_BLOCKS), np.uint8))
    local = cv2.resize(cv2.blur(around, (3, 3)), depth.shape[::-1], interpolation=cv2.INTER_LINEAR)
    clipped = writing.depth < _CLIPPED_DEPTH and float(np.median(writing.light)) >= _CLIPPED_LEVEL
    half, least = (_CLIPPED_SHARE, _CLIPPED_SHARE) if clipped else (_HALF, _LEAST_DEPTH)
    least = max(least * writing.depth, _NOISE_LEVELS * writing.noise) * 255
    threshold = np.maximum(local.astype(np.float32) * half, min(least, 250))
    ink = (depth > threshold).astype(np.uint8) * np.uint8(255)
    return np.asarray(cv2.bitwise_not(_unruled(ink)), np.uint8)


def _unruled(ink: Image) -> Image:
    """Without ruled lines that came through: long, straight and thin. Where a stroke crosses one it stays whole."""
    length = max(40, round(_RULE_SHARE * ink.shape[1]))
    for run, thick in (((1, length), (_RULE_THICK_PX, 1)), ((length, 1), (1, _RULE_THICK_PX))):
        rule = cv2.morphologyEx(ink, cv2.MORPH_OPEN, np.ones(run, np.uint8))
        if cv2.countNonZero(rule):
            crossing = cv2.morphologyEx(ink, cv2.MORPH_OPEN, np.ones(thick, np.uint8))
            ink = cv2.subtract(ink, cv2.subtract(rule, crossing))
    return ink
