"""Reaction and diffusion: two stuffs of which one feeds on the other.

u' = Du Δu - u v² + F (1 - u), v' = Dv Δv + u v² - (F + k) v (Gray and Scott 1984; Pearson, "Complex patterns
in a simple system", Science 261, 1993), in steps of one unit of time on a grid, with the nine-point
Laplacian that is common for it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands

Field = NDArray[np.float32]

SPREADS, SPREADS_LESS = 0.16, 0.08
"""Du and Dv, in cells² a unit of time: half of one another, as in Pearson's paper."""


def react(u: Field, v: Field, within: Field, feed: float, dies: float) -> tuple[Field, Field]:
    """Both stuffs `(R, C)` a unit of time later. There is none of the second where `within` is nothing, and
    less where it is little."""
    later_u, later_v = np.empty_like(u), np.empty_like(v)
    in_bands(
        _react_rows, u.shape[0], u, v, within, np.float32(feed), np.float32(dies), later_u, later_v
    )
    return later_u, later_v


@compiled
def _react_rows(
    first: int,
    last: int,
    u: Field,
    v: Field,
    within: Field,
    feed: np.float32,
    dies: np.float32,
    later_u: Field,
    later_v: Field,
) -> None:
    rows, columns = u.shape
    near, far, one = np.float32(0.2), np.float32(0.05), np.float32(1.0)
    # These weights are three tenths of the Laplacian.
    du, dv = np.float32(SPREADS / 0.3), np.float32(SPREADS_LESS / 0.3)
    for r in range(first, last):
        up, down = max(0, r - 1), min(rows - 1, r + 1)
        for c in range(columns):
            left, right = max(0, c - 1), min(columns - 1, c + 1)
            a, b = u[r, c], v[r, c]
            more_u = near * (u[up, c] + u[down, c] + u[r, left] + u[r, right]) - a
            more_u += far * (u[up, left] + u[up, right] + u[down, left] + u[down, right])
            more_v = near * (v[up, c] + v[down, c] + v[r, left] + v[r, right]) - b
            more_v += far * (v[up, left] + v[up, right] + v[down, left] + v[down, right])
            met = a * b * b
            later_u[r, c] = a + du * more_u - met + feed * (one - a)
            grown = b + dv * more_v + met - (feed + dies) * b
            later_v[r, c] = grown * min(one, np.float32(0.9) + np.float32(0.1) * within[r, c])
