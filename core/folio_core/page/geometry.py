"""Where a point of a prepared page lies on its original, and the other way round: what is drawn on a page stays on the
same writing under another turn, other corners, another tone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .flatten import Curve
from .recipe import Corners
from .straighten import homography, whole_picture

Points = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Geometry:
    """How one prepared image was made. ``corners``: of what it shows, in pixels of the source after EXIF, from what is
    its upper left, clockwise. ``width``, ``height``: of the image in pixels. ``lean_deg``: clockwise degrees it was
    turned by about its middle. ``curve``: how its lines were bent before they were straightened."""

    corners: Corners
    width: int
    height: int
    lean_deg: float = 0.0
    curve: Curve | None = None

    @classmethod
    def as_it_is(cls, width: int, height: int) -> Geometry:
        """An image that is its own source."""
        return cls(whole_picture(width, height), width, height)

    def to_source(self, points: Points) -> Points:
        """``points``: n × 2 shares of the image's width and height. Returns n × 2 source pixels."""
        seen: Points = np.asarray(points, np.float64).reshape(-1, 2) * np.array([self.width, self.height], np.float64)
        if self.curve:
            seen[:, 1] += self._shift(seen[:, 0], seen[:, 1])
        return _mapped(np.asarray(np.linalg.inv(self._matrix()), np.float64), seen)

    def from_source(self, points: Points) -> Points:
        """The inverse of `to_source`; what the image does not show lies outside 0–1."""
        seen = _mapped(self._matrix(), np.asarray(points, np.float64).reshape(-1, 2))
        if self.curve:
            shift = self._shift(seen[:, 0], np.zeros(len(seen)))
            slope = self._shift(seen[:, 0], np.ones(len(seen))) - shift
            seen[:, 1] = (seen[:, 1] - shift) / (1 + slope)  # the shift is linear in the height
        return np.asarray(seen / (self.width, self.height))

    def length_to_source(self, share: float) -> float:
        """A length, as a share of the image's width, in source pixels: by the square roots of the areas."""
        area = abs(cv2.contourArea(np.asarray(self.corners, np.float32)))
        return share * self.width * float(np.sqrt(area / (self.width * self.height)))

    def length_from_source(self, pixels: float) -> float:
        """The inverse of `length_to_source`."""
        return pixels / max(self.length_to_source(1.0), 1e-9)

    def _matrix(self) -> NDArray[np.float64]:
        leaned = cv2.getRotationMatrix2D((self.width / 2, self.height / 2), -self.lean_deg, 1.0)
        return np.asarray(np.vstack([leaned, [0, 0, 1]]) @ homography(self.corners, self.width, self.height))

    def _shift(self, columns: Points, rows: Points) -> Points:
        """How far down points of the flat page are seen on the bent one, in pixels."""
        assert self.curve is not None
        ends = self.curve.at(np.array([0, self.height - 1]), self.width, self.height).astype(np.float64)
        first, second = ends[0], ends[1]
        at = np.clip(np.round(columns - 0.5).astype(int), 0, self.width - 1)
        share = (rows - 0.5) / max(self.height - 1, 1)
        return np.asarray(first[at] + share * (second[at] - first[at]))

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping; `from_document` reads it."""
        curve = self.curve
        return {
            "corners": [list(corner) for corner in self.corners], "width": self.width, "height": self.height,
            "lean_deg": self.lean_deg,
            "curve": curve and {
                "across": list(curve.across), "tilted": list(curve.tilted), "bend_mm": curve.bend_mm,
                "told": curve.told,
            },
        }  # fmt: skip

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> Geometry:
        corners: Any = tuple((float(x), float(y)) for x, y in kept["corners"])
        bent = kept.get("curve")
        curve = Curve(tuple(bent["across"]), tuple(bent["tilted"]), bent["bend_mm"], bent["told"]) if bent else None
        return cls(corners, kept["width"], kept["height"], kept["lean_deg"], curve)


def _mapped(matrix: NDArray[np.float64], points: Points) -> Points:
    if not len(points):
        return np.zeros((0, 2))
    return np.asarray(cv2.perspectiveTransform(points[None], matrix)[0], np.float64)
