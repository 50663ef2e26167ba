"""Stirred air in the plane: a wind that swirls, boils, and neither gathers nor parts anywhere.

The wind is the curl of a noise, (∂ψ/∂y, -∂ψ/∂x), whose divergence is nothing at every place (Bridson,
Houriham and Nordenstam, "Curl-noise for procedural fluid flow", SIGGRAPH 2007). The noise is Perlin's of
2002 with its slopes in closed form.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.compiled import compiled_along

_OCTAVES = 2
_STRONG = 0.89
"""What brings the root of the mean square of the whole wind's speed to 1."""


_SOME = 256
"""So many places at once stay near the processor."""

Line = NDArray[np.float64]


@compiled_along
def stirred(xs: Line, ys: Line, turns: float, k0: int, k1: int, across: Line, down: Line) -> None:
    """The winds `across` and `down` `(N,)` at places in sizes of the swirls, after so many turns of their boil; of speed 1
    or so."""
    cells, room = np.empty((3, _SOME), np.int32), np.empty((8, _SOME))
    for first in range(0, xs.shape[0], _SOME):
        last = min(xs.shape[0], first + _SOME)
        x, y, east, south = xs[first:last], ys[first:last], across[first:last], down[first:last]
        for n in range(last - first):
            east[n], south[n] = 0.0, 0.0
        finer = 1.0
        for octave in range(_OCTAVES):
            turned = turns * (1.0 + 0.37 * octave) + 19.7 * octave
            _slopes(
                x, y, finer, 17.3 * octave, turned, k0 + 7919 * octave, k1, cells, room, east, south
            )
            finer *= 2.0


@compiled_along
def _slopes(
    xs: Line,
    ys: Line,
    finer: float,
    beside: float,
    z: float,
    k0: int,
    k1: int,
    cells: NDArray[np.int32],
    room: Line,
    across: Line,
    down: Line,
) -> None:
    """Add to winds what a noise so much finer blows: across as steeply as it rises down, and down against how it rises
    across. All places go side by side, corner by corner of their cells."""
    count, strong = np.uint64(xs.shape[0]), _STRONG / finer
    left, top, chance = cells[0], cells[1], cells[2]
    dx, dy, u, v = room[0], room[1], room[2], room[3]
    du, dv, rises, falls = room[4], room[5], room[6], room[7]
    back = int(np.floor(z))
    dz = z - back
    w = dz * dz * dz * (dz * (dz * 6.0 - 15.0) + 10.0)
    for n in range(count):
        x, y = xs[n] * finer + beside, ys[n] * finer
        i, j = np.floor(x), np.floor(y)
        left[n], top[n] = np.int32(i), np.int32(j)
        a, b = x - i, y - j
        dx[n], dy[n] = a, b
        u[n] = a * a * a * (a * (a * 6.0 - 15.0) + 10.0)
        v[n] = b * b * b * (b * (b * 6.0 - 15.0) + 10.0)
        du[n] = 30.0 * a * a * (a - 1.0) * (a - 1.0)
        dv[n] = 30.0 * b * b * (b - 1.0) * (b - 1.0)
        rises[n], falls[n] = 0.0, 0.0
    for corner in range(8):
        k, j, i = corner >> 2, (corner >> 1) & 1, corner & 1
        deep = w if k else 1.0 - w
        _add_corner(
            (i, j, back + k), deep, dz - k, k0, k1, left[:count], top, chance, dx, dy, u, v, du, dv, rises, falls
        )  # fmt: skip
    for n in range(count):
        across[n] += strong * falls[n]
        down[n] -= strong * rises[n]


@compiled_along
def _add_corner(
    corner: tuple[int, int, int],
    deep: float,
    dz: float,
    k0: int,
    k1: int,
    left: NDArray[np.int32],
    top: NDArray[np.int32],
    chance: NDArray[np.int32],
    dx: Line,
    dy: Line,
    u: Line,
    v: Line,
    du: Line,
    dv: Line,
    rises: Line,
    falls: Line,
) -> None:
    """Add the share of one corner of each cell to how a noise rises across and down."""
    i, j, z = np.int32(corner[0]), np.int32(corner[1]), corner[2]
    right, below = float(corner[0]), float(corner[1])
    way_x, way_y = 2.0 * right - 1.0, 2.0 * below - 1.0
    for n in range(np.uint64(left.shape[0])):
        word, _ = hashed(left[n] + i, top[n] + j, z, k0, k1)
        chance[n] = np.int32((word >> np.uint32(24)) & np.uint32(15))
    for n in range(np.uint64(left.shape[0])):
        gx, gy, gz = _way(chance[n])
        side, dside = (1.0 - right) + way_x * u[n], way_x * du[n]
        low, dlow = (1.0 - below) + way_y * v[n], way_y * dv[n]
        share = gx * (dx[n] - right) + gy * (dy[n] - below) + gz * dz
        rises[n] += deep * low * (dside * share + side * gx)
        falls[n] += deep * side * (dlow * share + low * gy)


@compiled_along
def _way(h: np.int32) -> tuple[float, float, float]:
    """The way to one of the edges of a cube, of which four are there twice, by four bits of chance."""
    first, second = 1.0 - 2.0 * (h & 1), 1.0 - (h & 2)
    is_twice = (h == 12) | (h == 14)
    x = (first if h < 8 else 0.0) + (second if is_twice else 0.0)
    y = (second if h < 4 else 0.0) + (first if h >= 8 else 0.0)
    return x, y, 0.0 if h < 4 or is_twice else second
