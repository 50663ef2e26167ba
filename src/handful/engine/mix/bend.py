"""Pictures bent by offsets, and offsets by one another."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.pixels.resample import Edge, resampled
from handful.engine.picture import Picture, Region, Tile

_BORDERS = {
    "clear": cv2.BORDER_CONSTANT,
    "hold": cv2.BORDER_REPLICATE,
    "mirror": cv2.BORDER_REFLECT,
    "wrap": cv2.BORDER_WRAP,
}


class Bending(NamedTuple):
    """How offsets bend: times how much, how much farther blue than red, what comes from beyond the edge of
    the canvas, and the scale of the picture."""

    share: float
    spread: float
    edge: Edge
    scale: float
    canvas: Region


def bent(below: Tile, offsets: Tile, how: Bending, region: Region) -> Tile:
    """A picture on a region, each px from where its offsets push it from.

    `offsets` are in full-size px; with a spread, red, green and blue are bent apart.
    """
    pushed = offsets.within(region)
    if not pushed.any():
        return Tile(below.within(region), region)

    def through(more: float) -> Picture:
        places = _places(region, pushed, how.share * (1 + more) * how.scale)
        return resampled(below, places, region, how.edge, how.canvas).within(region)

    middle = through(0.0)
    if how.spread > 0:
        middle = middle.copy()
        middle[..., 0] = through(-how.spread / 2)[..., 0]
        middle[..., 2] = through(how.spread / 2)[..., 2]
    return Tile(middle, region)


def bent_after(first: Tile, then: Tile, scale: float, region: Region) -> Tile:
    """The offsets of one bending before which another has bent: where a px comes from through both."""
    pushed = first.within(region)
    places = _places(region, pushed, scale) - np.array([then.region.left, then.region.top])
    if then.region.empty:
        return Tile(pushed, region)
    further = cv2.remap(
        np.ascontiguousarray(then.pixels),
        (places - 0.5).astype(np.float32),
        None,
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return Tile(pushed + further, region)


def bent_plate(
    levels: NDArray[np.uint8], offsets: Picture, edge: Edge, scale: float
) -> NDArray[np.uint8]:
    """A display picture `(H, W, 3)` bent by offsets `(H, W, 2)` in full-size px, at a scale."""
    height, width = levels.shape[:2]
    places = _places(Region(0, 0, width, height), offsets, scale) - np.float32(0.5)
    found = cv2.remap(levels, places, None, cv2.INTER_CUBIC, borderMode=_BORDERS[edge])
    return np.asarray(found, np.uint8)


def _places(region: Region, offsets: Picture, share: float) -> NDArray[np.float32]:
    """Where each px of a region comes from."""
    places = offsets * np.float32(-share)
    places[..., 0] += np.arange(region.left, region.right, dtype=np.float32) + np.float32(0.5)
    places[..., 1] += (np.arange(region.top, region.bottom, dtype=np.float32) + np.float32(0.5))[
        :, None
    ]
    return places
