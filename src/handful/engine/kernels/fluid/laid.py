"""Grids laid on the canvas: pictures brought on a grid, and a grid brought on a picture."""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Region, Tile

Field = NDArray[np.float32]


def covered(
    tile: Tile, left: float, top: float, cell: float, scale: float, rows: int, columns: int
) -> Field:
    """What a picture at a scale covers, or how bright it is up to 1, on a grid `(rows, columns)` that lies
    at a place in px of the full-size canvas."""
    region = Region(
        math.floor(left * scale) - 2, math.floor(top * scale) - 2,
        math.ceil((left + columns * cell) * scale) + 2, math.ceil((top + rows * cell) * scale) + 2,
    )  # fmt: skip
    picture = tile.within(region)
    cover = np.maximum(picture[..., 3], np.minimum(1, picture[..., :3].max(axis=2)))
    x = ((np.arange(columns) + 0.5) * cell + left) * scale - region.left - 0.5
    y = ((np.arange(rows) + 0.5) * cell + top) * scale - region.top - 0.5
    grid = np.meshgrid(x.astype(np.float32), y.astype(np.float32))
    found: Field = cv2.remap(
        np.ascontiguousarray(cover, np.float32), *grid, cv2.INTER_LINEAR, borderValue=0
    )
    return found


def laid(grid: Field, left: float, top: float, cell: float, region: Region) -> tuple[Field, Region]:
    """A grid `(R, C)` of cells so wide, from its corner in px of the scaled canvas, on what it covers of a
    region, as a cubic between its places (Catmull and Rom 1974); and where that is."""
    rows, columns = grid.shape
    covers = Region(
        math.ceil(left - 0.5), math.ceil(top - 0.5),
        math.floor(left + columns * cell - 0.5) + 1, math.floor(top + rows * cell - 0.5) + 1,
    ).meet(region)  # fmt: skip
    found = np.empty((max(0, covers.height), max(0, covers.width)), np.float32)
    if not covers.empty:
        across, down = (
            _cubic((np.arange(first, last) + 0.5 - begins) / cell - 0.5, count)
            for first, last, begins, count in (
                (covers.left, covers.right, left, columns),
                (covers.top, covers.bottom, top, rows),
            )
        )
        grid = np.ascontiguousarray(grid, np.float32)
        in_bands(_laid_rows, covers.height, grid, *across, *down, found)
    return found, covers


def _cubic(places: NDArray[np.floating[Any]], count: int) -> tuple[NDArray[np.int64], Field]:
    """Which four of some cells each place is between `(N, 4)`, and how much each counts."""
    whole = np.floor(places).astype(np.int64)
    t = places - whole
    weights = np.stack(
        [
            -0.5 * t + t**2 - 0.5 * t**3,
            1 - 2.5 * t**2 + 1.5 * t**3,
            0.5 * t + 2 * t**2 - 1.5 * t**3,
            -0.5 * t**2 + 0.5 * t**3,
        ],
        axis=1,
    )
    return np.clip(whole[:, None] + np.arange(-1, 3), 0, count - 1), weights.astype(np.float32)


@compiled
def _laid_rows(
    first: int,
    last: int,
    grid: Field,
    across: NDArray[np.int64],
    across_weights: Field,
    down: NDArray[np.int64],
    down_weights: Field,
    found: Field,
) -> None:
    line = np.empty(grid.shape[1], np.float32)
    for y in range(first, last):
        a, b, c, d = down[y]
        p, q, r, s = down_weights[y]
        for i in range(grid.shape[1]):
            line[i] = p * grid[a, i] + q * grid[b, i] + r * grid[c, i] + s * grid[d, i]
        for x in range(found.shape[1]):
            total = np.float32(0.0)
            for k in range(4):
                total += across_weights[x, k] * line[across[x, k]]
            found[y, x] = total
