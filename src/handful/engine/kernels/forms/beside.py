"""How far along a line of straight pieces, and how far beside it, each px is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.lengths import way_length
from handful.engine.picture import Region

_TILE = 32
"""px of a side of the tiles for which the pieces that can be nearest are found first."""


def beside(line: NDArray[np.float64], region: Region) -> NDArray[np.float32]:
    """The way along a line `(N, 2)` to the place nearest to each px, and how far the px is to the right
    of it, `(H, W, 2)`, in the line's px.

    Before its start and beyond its end it goes straight on.
    """
    lengths = np.hypot(*np.diff(line, axis=0).T)
    kept = np.concatenate([[True], lengths > 0])
    line = np.ascontiguousarray(line[kept])
    starts = np.concatenate([[0.0], np.cumsum(lengths[lengths > 0])])
    result = np.zeros((region.height, region.width, 2), np.float32)
    if len(line) < 2:
        return result
    in_bands(_beside_rows, region.height, region.left, region.top, line, starts, result, band=_TILE)
    return result


@compiled
def _piece(line: NDArray[np.float64], n: int, x: float, y: float) -> tuple[float, float, float]:
    """How far a place is from a piece, how far along it and beside its line the place is."""
    dx, dy = line[n + 1, 0] - line[n, 0], line[n + 1, 1] - line[n, 1]
    length = way_length(dx, dy)
    across, down = x - line[n, 0], y - line[n, 1]
    along = (across * dx + down * dy) / length
    side = (down * dx - across * dy) / length
    beyond = 0.0
    if along < 0.0 and n > 0:
        beyond, along = -along, 0.0
    elif along > length and n < line.shape[0] - 2:
        beyond, along = along - length, length
    return way_length(side, beyond), along, side


@compiled
def _beside_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    line: NDArray[np.float64],
    starts: NDArray[np.float64],
    result: NDArray[np.float32],
) -> None:
    pieces = line.shape[0] - 1
    near = np.empty(pieces, np.int64)
    for tile in range(0, result.shape[1], _TILE):
        end = min(result.shape[1], tile + _TILE)
        x0, y0 = left + 0.5 * (tile + end), top + 0.5 * (first + last)
        reach = 0.5 * way_length(end - tile, last - first)
        nearest = np.inf
        for n in range(pieces):
            nearest = min(nearest, _piece(line, n, x0, y0)[0])
        count = 0
        for n in range(pieces):
            if _piece(line, n, x0, y0)[0] <= nearest + 2.0 * reach:
                near[count] = n
                count += 1
        for y in range(first, last):
            for x in range(tile, end):
                best, along, side = np.inf, 0.0, 0.0
                for k in range(count):
                    n = near[k]
                    away, on, off = _piece(line, n, x + left + 0.5, y + top + 0.5)
                    if away < best:
                        best, along = away, starts[n] + on
                        side = away if off > 0.0 else -away
                result[y, x, 0], result[y, x, 1] = along, side
