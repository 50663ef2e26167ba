"""The edge of a matte, and the ways around and along it."""

from __future__ import annotations

import math

import cv2
import numpy as np

from handful.engine.kernels.forms.curve import Points
from handful.engine.kernels.forms.route import route
from handful.engine.kernels.pixels.area import softened
from handful.engine.picture import Matte, Region

_CELLS = 128
"""Cells along the longer side of the ground on which a way is looked for."""

_SLOW = 40.0
"""How much slower it goes through what is to be kept away from, or off what is clung to."""


def nearest_edge(matte: Matte, x: float, y: float) -> tuple[float, float] | None:
    """The place on the edge of a matte `(H, W)`, where it passes one half, that is nearest to x, y.

    Places are in its px with centres at .5, straight between two px; nothing if it has no edge.
    """
    over = matte - np.float32(0.5)
    found = []
    for axis in (0, 1):
        first, second = (over[:-1], over[1:]) if axis == 0 else (over[:, :-1], over[:, 1:])
        rows, columns = np.nonzero((first > 0) != (second > 0))
        if not len(rows):
            continue
        low, high = first[rows, columns], second[rows, columns]
        part = low / (low - high)
        places = np.stack([columns + 0.5, rows + 0.5], axis=1).astype(np.float64)
        places[:, 1 - axis] += part
        found.append(places)
    if not found:
        return None
    places = np.concatenate(found)
    best = places[np.argmin((places[:, 0] - x) ** 2 + (places[:, 1] - y) ** 2)]
    return float(best[0]), float(best[1])


def way_past(matte: Matte, start: Points, end: Points, distance: float, clings: bool) -> Points:
    """A way `(N, 2)` from start to end that keeps `distance` px away from a matte, or clings to its
    edge within that distance. All in px of the matte `(H, W)`."""
    height, width = matte.shape
    ground = Region(0, 0, width, height)
    for x, y in (start, end):
        here = Region(math.floor(x), math.floor(y), math.ceil(x) + 1, math.ceil(y) + 1)
        ground = ground.around(here)
    cell = max(ground.width, ground.height) / _CELLS
    columns, rows = max(4, math.ceil(ground.width / cell)), max(4, math.ceil(ground.height / cell))
    padded = np.zeros((ground.height, ground.width), np.float32)
    padded[-ground.top : height - ground.top, -ground.left : width - ground.left] = matte
    small = cv2.resize(padded, (columns, rows), interpolation=cv2.INTER_AREA)
    soft = softened(small, 0.5 * max(1.0, distance / cell))
    kept = 1.0 - 4.0 * soft * (1.0 - soft) if clings else np.minimum(1.0, 3.0 * soft)
    slowness = 1.0 + _SLOW * kept.astype(np.float64) ** 2
    across, down = ground.width / columns, ground.height / rows
    corner, size = np.array([ground.left, ground.top]), np.array([across, down])
    cells = route(slowness, (start - corner) / size - 0.5, (end - corner) / size - 0.5)
    way: Points = (cells + 0.5) * size + corner
    for _ in range(_SMOOTHINGS):
        way[1:-1] = 0.25 * way[:-2] + 0.5 * way[1:-1] + 0.25 * way[2:]
    way[0], way[-1] = start, end
    return way


_SMOOTHINGS = 12
