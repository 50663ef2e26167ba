"""Which way gas goes beside a line: along it, a little towards it, and no farther than its end."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.lengths import way_length

_TOWARDS = 0.7
"""How much of its way is towards the line, far from it."""

_ENDS, _ENDED = 0.75, 1.5
"""The parts of the line from which on it cools more quickly, and where it does so in full."""

_QUICKER = 8.0
_FREE = 0.3
"""So much of the line beyond its end, and it goes straight up again."""

_POINTS = 48


@lru_cache(maxsize=8)
def guide(
    line: tuple[tuple[float, float], ...], broad: float, rows: int, columns: int
) -> NDArray[np.float32]:
    """Along a line from its foot, in cells of a grid: which way heat lifts in each cell, across and down, of length 1,
    and how many times as quickly it cools there `(H, W, 3)`. `broad` cells from the line it goes towards it as much
    as it ever does."""
    points = np.array(line, np.float64)
    lengths = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    evenly = np.linspace(0, lengths[-1], _POINTS)
    places = np.stack([np.interp(evenly, lengths, points[:, k]) for k in (0, 1)], axis=1)
    found = np.empty((rows, columns, 3), np.float32)
    _guide_cells(places, max(1.0, broad), found)
    part = (found[..., 2] - _ENDS) / (_ENDED - _ENDS)
    found[..., 2] = 1 + _QUICKER * smooth(np.clip(part, 0, 1))
    found.setflags(write=False)
    return found


@compiled
def _guide_cells(places: NDArray[np.float64], broad: float, found: NDArray[np.float32]) -> None:
    """Leaves the part of the line that is past in place of how quickly it cools."""
    last = places.shape[0] - 2
    for j in range(found.shape[0]):
        for i in range(found.shape[1]):
            x, y = i + 0.5, j + 0.5
            nearest, at, past, ox, oy = math.inf, 0, 0.0, 0.0, 0.0
            for k in range(last + 1):
                ax, ay = places[k]
                dx, dy = places[k + 1, 0] - ax, places[k + 1, 1] - ay
                along = ((x - ax) * dx + (y - ay) * dy) / max(1e-12, dx * dx + dy * dy)
                held = min(max(along, 0.0), 1.0)
                tx, ty = ax + held * dx - x, ay + held * dy - y
                away = tx * tx + ty * ty
                if away < nearest:
                    nearest, at, ox, oy = away, k, tx, ty
                    past = along if k == last and along > 1.0 else held
            dx, dy = places[at + 1, 0] - places[at, 0], places[at + 1, 1] - places[at, 1]
            size = max(1e-12, way_length(dx, dy))
            share = (at + past) / (last + 1)
            apart = way_length(ox, oy)
            pull = _TOWARDS * min(1.0, apart / broad) / max(1e-9, apart)
            wx, wy = dx / size + pull * ox, dy / size + pull * oy
            free = min(max((share - 1.0) / _FREE, 0.0), 1.0)
            wx, wy = wx * (1.0 - free), wy * (1.0 - free) - free
            size = max(1e-6, way_length(wx, wy))
            found[j, i, 0], found[j, i, 1], found[j, i, 2] = wx / size, wy / size, share
