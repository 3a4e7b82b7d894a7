"""Regions that may be paper: masks from lightness, colour and closed outlines, and the outlines of what they hold."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .quad import Quad, ordered

Mask = NDArray[np.uint8]
_LEAST_AREA = 0.06  # of the picture; a smaller sheet cannot be read anyway


def region_quads(lab: NDArray[np.float32]) -> list[Quad]:
    """Outlines of the large regions. Each mask is taken with two amounts of opening, to let go of neighbours."""
    half = cv2.resize(lab, (lab.shape[1] // 2, lab.shape[0] // 2), interpolation=cv2.INTER_AREA)
    scale = np.array([lab.shape[1] / half.shape[1], lab.shape[0] / half.shape[0]])
    return [quad * scale for mask in _masks(half) for size in (3, 8) for quad in _quads(_tidied(mask, size))]


def _masks(lab: NDArray[np.float32]) -> list[Mask]:
    """Binary masks (255 where the sheet may be), each from another property of paper."""
    lightness = lab[:, :, 0]
    chroma = np.hypot(lab[:, :, 1] - 128, lab[:, :, 2] - 128)
    neighbourhood = cv2.blur(lightness, (max(lab.shape) // 2, max(lab.shape) // 2))
    even = np.clip(128 * lightness / np.maximum(neighbourhood, 1), 0, 255)
    return [
        _otsu(lightness),
        _otsu(np.clip(lightness - 1.5 * chroma, 0, 255)),
        _otsu(even),
        _otsu(_unlike_border(lab)),
        *_enclosed(lab),
    ]


def _otsu(values: NDArray[np.floating[Any]]) -> Mask:
    _, mask = cv2.threshold(values.astype(np.uint8), 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    return np.asarray(mask, np.uint8)


def _unlike_border(lab: NDArray[np.float32]) -> NDArray[np.float32]:
    """Distance of each pixel to the nearest of the desk's colours, learnt from the picture's border."""
    band = max(4, min(lab.shape[:2]) // 40)
    ring = np.concatenate([lab[:band].reshape(-1, 3), lab[-band:].reshape(-1, 3)])
    ring = np.concatenate([ring, lab[:, :band].reshape(-1, 3), lab[:, -band:].reshape(-1, 3)])[::16]
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 12, 0.5)
    cv2.setRNGSeed(1)  # the same picture always gives the same corners
    _, _, centres = cv2.kmeans(ring, 4, np.empty(0, np.int32), criteria, 1, cv2.KMEANS_PP_CENTERS)
    distance = np.full(lab.shape[:2], np.inf, np.float32)
    for centre in centres:
        away = lab - centre.astype(np.float32)
        distance = np.minimum(distance, cv2.transform(cv2.multiply(away, away), np.ones((1, 3), np.float32)))
    return np.clip(np.sqrt(distance) * 2, 0, 255)


def _enclosed(lab: NDArray[np.float32]) -> list[Mask]:
    """What closed outlines enclose, at two sensitivities, over lightness and both colour axes."""
    bytes_of = lab.astype(np.uint8)
    regions = []
    for low, high in ((12, 36), (30, 90)):
        edges = np.zeros(lab.shape[:2], np.uint8)
        for channel in range(3):
            edges |= cv2.Canny(np.ascontiguousarray(bytes_of[:, :, channel]), low, high)
        closed = cv2.morphologyEx(edges, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
        outlines, _ = cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        filled = np.zeros_like(closed)
        cv2.drawContours(filled, outlines, -1, 255, cv2.FILLED)
        regions.append(filled)
    return regions


def _tidied(mask: Mask, size: int) -> Mask:
    kernel = np.ones((size, size), np.uint8)
    return np.asarray(cv2.morphologyEx(cv2.morphologyEx(mask, cv2.MORPH_CLOSE, kernel), cv2.MORPH_OPEN, kernel))


def _quads(tidy: Mask) -> list[Quad]:
    contours, _ = cv2.findContours(tidy, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    large = [contour for contour in contours if cv2.contourArea(contour) >= _LEAST_AREA * tidy.size]
    return [_simplified(cv2.convexHull(contour)) for contour in sorted(large, key=cv2.contourArea, reverse=True)[:2]]


def _simplified(hull: NDArray[np.int32]) -> Quad:
    length = cv2.arcLength(hull, True)
    for tolerance in np.linspace(0.01, 0.10, 19):
        shape = cv2.approxPolyDP(hull, tolerance * length, True)
        if len(shape) == 4:
            return ordered(shape.reshape(4, 2).astype(np.float64) + 0.5)
        if len(shape) < 4:
            break
    return ordered(cv2.boxPoints(cv2.minAreaRect(hull)).astype(np.float64) + 0.5)
