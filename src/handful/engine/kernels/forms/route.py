"""The easiest way from one place to another over ground of uneven slowness.

Travel times are found by the fast sweeping method (Zhao, "A fast sweeping method for Eikonal
equations", Mathematics of Computation 74, 2005); the way is then followed back down them.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.forms.curve import Points
from handful.engine.kernels.lengths import way_length

_SWEEPS = 6
_FAR = 1e18
_STEP = 0.4
"""Cells by which the way is followed at a time."""


@compiled
def travel_times(slowness: NDArray[np.float64], column: int, row: int) -> NDArray[np.float64]:
    """Times `(H, W)` from a cell to every other, in cells times slowness."""
    height, width = slowness.shape
    times = np.full((height, width), _FAR)
    times[row, column] = 0.0
    for sweep in range(4 * _SWEEPS):
        for j in range(height):
            y = j if sweep & 1 else height - 1 - j
            for i in range(width):
                x = i if sweep & 2 else width - 1 - i
                if x == column and y == row:
                    continue
                a = min(times[y, max(0, x - 1)], times[y, min(width - 1, x + 1)])
                b = min(times[max(0, y - 1), x], times[min(height - 1, y + 1), x])
                cost = slowness[y, x]
                if abs(a - b) >= cost:
                    new = min(a, b) + cost
                else:
                    new = 0.5 * (a + b + math.sqrt(2.0 * cost * cost - (a - b) * (a - b)))
                times[y, x] = min(times[y, x], new)
    return times


@compiled
def _read(plane: NDArray[np.float64], x: float, y: float) -> float:
    height, width = plane.shape
    x, y = min(width - 1.001, max(0.0, x)), min(height - 1.001, max(0.0, y))
    i, j = int(x), int(y)
    u, v = x - i, y - j
    value: float = (1.0 - v) * ((1.0 - u) * plane[j, i] + u * plane[j, i + 1]) + v * (
        (1.0 - u) * plane[j + 1, i] + u * plane[j + 1, i + 1]
    )
    return value


@compiled
def route(slowness: NDArray[np.float64], start: Points, end: Points) -> Points:
    """The quickest way `(N, 2)` from start to end `(2,)`, in cells whose centres are whole numbers.

    Its first and last places are the two given.
    """
    height, width = slowness.shape
    column = min(width - 1, max(0, int(round(start[0]))))
    row = min(height - 1, max(0, int(round(start[1]))))
    times = travel_times(slowness, column, row)
    most = 8 * (height + width)
    way = np.empty((most + 2, 2))
    way[0] = end
    used = 1
    x, y = end[0], end[1]
    while used <= most and way_length(x - start[0], y - start[1]) > 1.5:
        dx = _read(times, x + 0.5, y) - _read(times, x - 0.5, y)
        dy = _read(times, x, y + 0.5) - _read(times, x, y - 0.5)
        length = way_length(dx, dy)
        if length < 1e-12:
            break
        x -= _STEP * dx / length
        y -= _STEP * dy / length
        way[used, 0], way[used, 1] = x, y
        used += 1
    way[used] = start
    return way[: used + 1][::-1].copy()
