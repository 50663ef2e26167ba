"""Grow: cover made wider or narrower."""

from __future__ import annotations

import math

import cv2
import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Matte, Picture, Tile, unset


@register
class Grow(Step):
    """Makes the cover wider by a distance, or narrower. New px take their colour from the nearest.

    The edge is where cover is a half. Borgefors, "Distance transformations in digital images",
    Computer Vision, Graphics, and Image Processing 34, 1986, by OpenCV.
    """

    family = "matte"
    says = "Grows the cover by {distance}."

    distance: float = setting(
        6, unit="px", least=-500, most=500, usual=(-60, 60), help="Narrower below nothing."
    )

    def reach(self) -> float:
        return abs(self.distance) + 2

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        distance = self.distance * at.scale
        if abs(distance) < _LEAST:
            return tile
        region = tile.region.grown(math.ceil(max(0.0, distance)) + 1).meet(at.wanted)
        room = region.grown(2)
        before = np.ascontiguousarray(tile.within(room))
        cover = before[..., 3]
        inside = cover >= 0.5
        if not inside.any():
            return Tile(np.zeros_like(tile.pixels), tile.region)
        beyond = _beyond_half(cover)
        if distance > 0:
            away, nearest = _distances(inside)
            edge = np.clip(distance - away + beyond.ravel()[nearest] + 0.5, 0, 1)
            grown = np.maximum(cover, edge.astype(np.float32))
        else:
            away, nearest = _distances(~inside)
            edge = np.clip(away + distance + beyond.ravel()[nearest] + 0.5, 0, 1)
            grown = np.minimum(cover, edge.astype(np.float32))
            nearest = np.arange(cover.size).reshape(cover.shape)
        result = unset(room)
        in_bands(_recolour_rows, room.height, before, nearest, grown, result)
        return Tile(Tile(result, room).within(region), region)


_LEAST = 0.02


def _beyond_half(cover: Matte) -> Matte:
    """How far, in px, the edge is outside each px: what cover has above a half, by its slope."""
    across, down = (
        cv2.Sobel(cover, cv2.CV_32F, x, 1 - x, scale=1 / 8, borderType=cv2.BORDER_REPLICATE)
        for x in (1, 0)
    )
    slope = np.maximum(np.hypot(across, down), np.float32(0.05))
    beyond: Matte = np.clip((cover - np.float32(0.5)) / slope, -1, 1)
    return beyond


def _distances(inside: np.ndarray) -> tuple[Matte, np.ndarray]:
    """For each px the distance to the nearest one inside, and that px's place in reading order."""
    outside = (~inside).astype(np.uint8)
    away, labels = cv2.distanceTransformWithLabels(
        outside, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL
    )
    places = np.zeros(int(labels.max()) + 1, np.int64)
    places[labels[inside]] = np.flatnonzero(inside)
    return away, places[labels]


@compiled
def _recolour_rows(
    first: int, last: int, before: Picture, nearest: np.ndarray, grown: Matte, result: Picture
) -> None:
    width = before.shape[1]
    for y in range(first, last):
        for x in range(width):
            new, place = grown[y, x], nearest[y, x]
            row, column = place // width, place % width
            if before[y, x, 3] > np.float32(0.5) and new <= before[y, x, 3]:
                row, column = y, x
            cover = before[row, column, 3]
            by = new / cover if cover > np.float32(1e-6) else np.float32(0.0)
            for c in range(3):
                result[y, x, c] = before[row, column, c] * by
            result[y, x, 3] = new


def covered_by(tile: Tile, cover: Matte) -> Tile:
    """The picture with another cover; the light of what is covered goes with it."""
    old = tile.pixels[..., 3]
    by = np.divide(cover, old, out=np.zeros_like(old), where=old > 1e-6)
    return Tile(tile.pixels * by[..., None], tile.region)
