"""Steadying what shakes: the mean place over some frames around one."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from handful.engine.values.point import Point

Frames = NDArray[np.float64]
Places = NDArray[np.float64]
"""`(N, 2)`, x and y."""


def steadied(places: Callable[[Frames], Places], frame: float, reach: float) -> Point:
    """The mean of the places at whole frames around a frame, weighted by a triangle that comes down
    to nothing beyond `reach` frames to each side.

    The weights are even about a whole frame, and between two such frames the mean goes straight, so
    that what moves evenly stays on its way.
    """
    low = math.floor(frame)
    side = math.ceil(reach)
    offsets = np.arange(-side, side + 1, dtype=np.float64)
    weights = np.maximum(0.0, 1 - np.abs(offsets) / (reach + 1))
    weights /= weights.sum()
    known = places(low + np.arange(-side, side + 2, dtype=np.float64))
    first, second = weights @ known[:-1], weights @ known[1:]
    x, y = first + (second - first) * (frame - low)
    return Point(float(x), float(y))
