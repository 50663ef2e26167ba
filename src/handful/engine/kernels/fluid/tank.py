"""A ripple tank: the wave equation on a grid, with walls that waves come back from.

u'' = c² Δu - d u', in steps of time and space that are centred (Courant, Friedrichs and Lewy 1928), with
the nine-point Laplacian that is alike in all directions (Oono and Puri, Phys. Rev. Lett. 58, 1987).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands

Field = NDArray[np.float32]

MOST_COURANT = 0.6
"""Cells that a wave goes in a step at most: stable for this Laplacian below 0.86."""


def ripple(
    heights: Field, before: Field, walls: Field, courant: float, loses: float, sponge: int
) -> Field:
    """The heights a step later, from those now and a step before, all `(R, C)`. Waves go `courant` cells a
    step and lose a part `loses` of their motion; they come back from `walls` (above half), and from the
    edges too unless there is a `sponge` so many cells wide."""
    later = np.empty_like(heights)
    in_bands(
        _ripple_rows, heights.shape[0], heights, before, walls, np.float32(courant**2),
        np.float32(loses), sponge, later,
    )  # fmt: skip
    return later


@compiled
def _ripple_rows(
    first: int,
    last: int,
    heights: Field,
    before: Field,
    walls: Field,
    square: np.float32,
    loses: np.float32,
    sponge: int,
    later: Field,
) -> None:
    rows, columns = heights.shape
    near, far = np.float32(2.0 / 3.0), np.float32(1.0 / 6.0)
    half, one, four = np.float32(0.5), np.float32(1.0), np.float32(10.0 / 3.0)
    for r in range(first, last):
        up, down = max(0, r - 1), min(rows - 1, r + 1)
        for c in range(columns):
            if walls[r, c] > half:
                later[r, c] = np.float32(0.0)
                continue
            left, right = max(0, c - 1), min(columns - 1, c + 1)
            u = heights[r, c]
            # What lies in a wall is as high as here: nothing flows through it.
            total = -four * u
            total += near * (u if walls[up, c] > half else heights[up, c])
            total += near * (u if walls[down, c] > half else heights[down, c])
            total += near * (u if walls[r, left] > half else heights[r, left])
            total += near * (u if walls[r, right] > half else heights[r, right])
            total += far * (u if walls[up, left] > half else heights[up, left])
            total += far * (u if walls[up, right] > half else heights[up, right])
            total += far * (u if walls[down, left] > half else heights[down, left])
            total += far * (u if walls[down, right] > half else heights[down, right])
            lost, stays = loses, one
            if sponge > 0:
                edge = min(min(r, rows - 1 - r), min(c, columns - 1 - c))
                if edge < sponge:
                    deep = one - np.float32(edge) / np.float32(sponge)
                    lost += np.float32(0.3) * deep * deep
                    stays -= np.float32(0.006) * deep * deep
            kept = one / (one + half * lost)
            moved = u - before[r, c]
            later[r, c] = stays * (u + ((one - half * lost) * moved + square * total) * kept)
