"""Stirred air in the plane: a wind that swirls, boils, and neither gathers nor parts anywhere.

The wind is the curl of a noise, (∂ψ/∂y, -∂ψ/∂x), whose divergence is nothing at every place (Bridson,
Houriham and Nordenstam, "Curl-noise for procedural fluid flow", SIGGRAPH 2007). The noise is Perlin's of
2002 with its slopes in closed form.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.compiled import compiled

_OCTAVES = 2
_STRONG = 0.89
"""What brings the root of the mean square of the whole wind's speed to 1."""


def _ways() -> NDArray[np.float64]:
    """The ways `(16, 3)` to the edges of a cube, of which four are there twice, by four bits of chance."""
    found = np.zeros((16, 3))
    for h in range(16):
        first, second = 1.0 - 2.0 * (h & 1), 1.0 - (h & 2)
        found[h, 0 if h < 8 else 1] += first
        found[h, 1 if h < 4 else 0 if h in (12, 14) else 2] += second
    return found


_WAYS = _ways()
"""Looked up, as chance would lead a processor astray at every branch."""


@compiled
def _slopes(x: float, y: float, z: float, k0: int, k1: int) -> tuple[float, float]:
    """How steeply a noise with cells of size 1 rises across and down."""
    left, top, back = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
    dx, dy, dz = x - left, y - top, z - back
    u = dx * dx * dx * (dx * (dx * 6.0 - 15.0) + 10.0)
    v = dy * dy * dy * (dy * (dy * 6.0 - 15.0) + 10.0)
    w = dz * dz * dz * (dz * (dz * 6.0 - 15.0) + 10.0)
    du = 30.0 * dx * dx * (dx - 1.0) * (dx - 1.0)
    dv = 30.0 * dy * dy * (dy - 1.0) * (dy - 1.0)
    across, down = 0.0, 0.0
    for k in range(2):
        deep = w if k else 1.0 - w
        for j in range(2):
            low, dlow = (v, dv) if j else (1.0 - v, -dv)
            for i in range(2):
                side, dside = (u, du) if i else (1.0 - u, -du)
                word, _ = hashed(left + i, top + j, back + k, k0, k1)
                h = np.uint64((word >> np.uint32(24)) & np.uint32(15))
                gx, gy, gz = _WAYS[h, 0], _WAYS[h, 1], _WAYS[h, 2]
                share = gx * (dx - i) + gy * (dy - j) + gz * (dz - k)
                across += deep * low * (dside * share + side * gx)
                down += deep * side * (dlow * share + low * gy)
    return across, down


@compiled
def stirred(x: float, y: float, turns: float, k0: int, k1: int) -> tuple[float, float]:
    """The wind at a place in sizes of its swirls, after so many turns of its boil; of speed 1 or so."""
    across, down, finer = 0.0, 0.0, 1.0
    for octave in range(_OCTAVES):
        a, b = _slopes(
            x * finer + 17.3 * octave, y * finer, turns * (1.0 + 0.37 * octave) + 19.7 * octave,
            k0 + 7919 * octave, k1,
        )  # fmt: skip
        across += a / finer
        down += b / finer
        finer *= 2.0
    return _STRONG * down, -_STRONG * across
