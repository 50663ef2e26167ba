"""A ripple tank: the wave equation on a grid, with walls that waves come back from.

u'' = c² Δu - d u', in steps of time and space that are centred (Courant, Friedrichs and Lewy 1928), with
the nine-point Laplacian that is alike in all directions (Oono and Puri, Phys. Rev. Lett. 58, 1987).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_in, in_bands

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
    walled = walls.max(axis=1) > 0.5
    in_bands(
        _ripple_rows, heights.shape[0], heights, before, walls, walled, np.float32(courant**2),
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
    walled: NDArray[np.bool_],
    square: np.float32,
    loses: np.float32,
    sponge: int,
    later: Field,
) -> None:
    rows, columns = heights.shape
    for r in range(first, last):
        up, down = max(0, r - 1), min(rows - 1, r + 1)
        c0, c1 = 1, columns - 1
        if walled[up] or walled[r] or walled[down] or columns < 3:
            c0 = c1 = columns
        if sponge > 0:
            c0, c1 = max(c0, sponge), min(c1, columns - sponge)
            if min(r, rows - 1 - r) < sponge or c0 >= c1:
                c0 = c1 = columns
        for c in range(min(c0, columns)):
            later[r, c] = _rippled(heights, before, walls, r, c, square, loses, sponge)
        _open_row(
            heights[up], heights[r], heights[down], before[r], c0, c1, square, loses, later[r]
        )
        for c in range(c1, columns):
            later[r, c] = _rippled(heights, before, walls, r, c, square, loses, sponge)


@compiled
def _open_row(
    up: Field,
    here: Field,
    down: Field,
    before: Field,
    first: int,
    last: int,
    square: np.float32,
    loses: np.float32,
    later: Field,
) -> None:
    """A piece of a row on open water."""
    near, far = np.float32(2.0 / 3.0), np.float32(1.0 / 6.0)
    half, one, four = np.float32(0.5), np.float32(1.0), np.float32(10.0 / 3.0)
    kept = one / (one + half * loses)
    moves = one - half * loses
    for c in range(np.uint64(first), np.uint64(last)):
        left, right = c - np.uint64(1), c + np.uint64(1)
        total = near * (up[c] + down[c] + here[left] + here[right]) - four * here[c]
        total += far * (up[left] + up[right] + down[left] + down[right])
        later[c] = here[c] + (moves * (here[c] - before[c]) + square * total) * kept


@compiled_in
def _rippled(
    heights: Field,
    before: Field,
    walls: Field,
    r: int,
    c: int,
    square: np.float32,
    loses: np.float32,
    sponge: int,
) -> np.float32:
    """The height later where walls, edges or a sponge are near."""
    rows, columns = heights.shape
    near, far = np.float32(2.0 / 3.0), np.float32(1.0 / 6.0)
    half, one = np.float32(0.5), np.float32(1.0)
    if walls[r, c] > half:
        return np.float32(0.0)
    u = heights[r, c]
    total = np.float32(0.0)
    for j in range(-1, 2):
        for i in range(-1, 2):
            y, x = min(rows - 1, max(0, r + j)), min(columns - 1, max(0, c + i))
            # What lies in a wall is as high as here: nothing flows through it.
            if walls[y, x] <= half and (i != 0 or j != 0):
                total += (far if i != 0 and j != 0 else near) * (heights[y, x] - u)
    stays = one
    edge = min(min(r, rows - 1 - r), min(c, columns - 1 - c))
    if edge < sponge:
        deep = one - np.float32(edge) / np.float32(sponge)
        loses += np.float32(0.3) * deep * deep
        stays -= np.float32(0.006) * deep * deep
    kept = one / (one + half * loses)
    moved = (one - half * loses) * (u - before[r, c])
    later: np.float32 = stays * (u + (moved + square * total) * kept)
    return later
