"""What a photograph of a filled sheet shows, laid straight over its form: evenly lit, white where nothing was written.

Print is in it too, once more: whatever is dark on the photograph stays, so that nothing that was written can be lost,
a stroke through a printed word least of all. Multiplied with the form's own print it is there once where both meet.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import ArrayLike, NDArray

from folio_core.page.light import evened, paper_light

from .bending import Bend
from .blank import BlankPage, Homography
from .registering import Registered

_DPI = 200
_PX_A_POINT = _DPI / 72
_NODE_PT = 8.0  # bends are worked out at so few places, and drawn through them
# Of the page: paper that is larger than the print on it. "Fit to page" leaves 3 % at each side; of a picture that was
# not cut to the sheet, a scan say, it may be no more.
_MOST_BEYOND, _MOST_BEYOND_UNCUT = 0.09, 0.04
_LEAST_SHOWN = 0.9  # of the page; a sheet that is cut off stays as it was photographed
_PAPER, _INK = 16.0, 40.0  # grey levels below white: up to the one it is paper, from the other on all is kept
_UNSEEN = 225  # grey of what the photograph does not show

Points = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class OnPrint:
    """Where a photograph lies on its form. ``homography``, ``bend``: as `Registered` has them. ``box``: what is shown,
    left, top, right, bottom in points of the page; the page itself, and more where the paper is larger. ``width``,
    ``height``: of the photograph in pixels."""

    homography: Homography
    bend: Bend | None
    box: tuple[float, float, float, float]
    width: int
    height: int

    @property
    def size_pt(self) -> tuple[int, int]:
        """Width and height of what is shown, in whole points."""
        left, top, right, bottom = self.box
        return round(right - left), round(bottom - top)

    def at(self, shares: ArrayLike) -> Points:
        """``shares``: n × 2 of the photograph's width and height. Returns shares of the box."""
        left, top, right, bottom = self.box
        seen = np.asarray(shares, np.float64).reshape(-1, 2) * (self.width, self.height)
        flat = cv2.perspectiveTransform(seen[None], self.homography)[0]
        there = self.bend.at(flat) if self.bend else flat
        return np.asarray((there - (left, top)) / (right - left, bottom - top))

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping; `from_document` reads it."""
        return {
            "homography": self.homography.tolist(), "bend": self.bend and self.bend.as_document(),
            "box": list(self.box), "width": self.width, "height": self.height,
        }  # fmt: skip

    @classmethod
    def from_document(cls, kept: dict[str, Any]) -> OnPrint:
        bend = kept["bend"] and Bend.from_document(kept["bend"])
        left, top, right, bottom = kept["box"]
        return cls(np.array(kept["homography"], float), bend, (left, top, right, bottom), kept["width"], kept["height"])


def laid_on_print(
    pixels: NDArray[np.uint8], page: BlankPage, registered: Registered, *, is_sheet: bool = True
) -> tuple[OnPrint, NDArray[np.uint8]] | None:
    """``pixels``: the sheet and nothing else, RGB; ``is_sheet``: that is known. Returns where it lies, and the
    layer that is multiplied with the form's print (RGB, 200 dots an inch). None where too little of the page is seen,
    or the sheet is larger than a page of this form can be."""
    height, width = pixels.shape[:2]
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float64)
    reach = registered.on_page(corners)
    low, high = np.minimum(reach.min(axis=0), 0), np.maximum(reach.max(axis=0), (page.width_pt, page.height_pt))
    beyond = np.concatenate([-low / (page.width_pt, page.height_pt), high / (page.width_pt, page.height_pt) - 1])
    if beyond.max() > (_MOST_BEYOND if is_sheet else _MOST_BEYOND_UNCUT):
        return None
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    size = (round((box[2] - box[0]) * _PX_A_POINT), round((box[3] - box[1]) * _PX_A_POINT))
    columns, rows = _seen_from(registered, box, size)
    shown = (columns > -0.5) & (columns < width - 0.5) & (rows > -0.5) & (rows < height - 0.5)
    if shown.mean() < _LEAST_SHOWN:
        return None
    even = evened(pixels, paper_light(pixels))
    straight = cv2.remap(even, columns, rows, cv2.INTER_CUBIC, borderValue=(255, 255, 255))
    depth = 255.0 - straight.min(axis=2).astype(np.float32)
    kept = np.clip((depth - _PAPER) / (_INK - _PAPER), 0, 1)[..., None]
    layer = 255 - (255 - straight.astype(np.float32)) * kept
    layer[~shown] = _UNSEEN
    on_print = OnPrint(registered.homography, registered.bend, box, width, height)
    return on_print, np.asarray(np.clip(layer.round(), 0, 255), np.uint8)


def _seen_from(
    registered: Registered, box: tuple[float, float, float, float], size: tuple[int, int]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """For every pixel of the layer the column and row of the photograph that lies there."""
    left, top, right, bottom = box
    x = np.linspace(left, right, max(2, round((right - left) / _NODE_PT)))
    y = np.linspace(top, bottom, max(2, round((bottom - top) / _NODE_PT)))
    nodes = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    flat = nodes
    if registered.bend:
        for _ in range(2):  # the bend undone, by iteration: it is small and smooth
            flat = nodes - (registered.bend.at(flat) - flat)
    seen = cv2.perspectiveTransform(flat[None], np.linalg.inv(registered.homography))[0]
    every = seen.reshape(len(y), len(x), 2).astype(np.float32)
    # Pixels' middles lie between the nodes at the box's edges.
    at_x = (np.arange(size[0], dtype=np.float32) + 0.5) / size[0] * (len(x) - 1)
    at_y = (np.arange(size[1], dtype=np.float32) + 0.5) / size[1] * (len(y) - 1)
    spread_x, spread_y = np.meshgrid(at_x, at_y)
    made = cv2.remap(every, spread_x, spread_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.ascontiguousarray(made[..., 0] - 0.5), np.ascontiguousarray(made[..., 1] - 0.5)
