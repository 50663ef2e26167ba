"""A staggered grid (Harlow and Welch 1965): what flows across stands at the cells' sides, what flows down
at their tops, all else in their middles. Lengths are in cells."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled

Field = NDArray[np.float32]
"""One level for each cell `(H, W)`, or flow: `(H, W + 1)` across and `(H + 1, W)` down."""

LEVELS = 8
"""How many levels are carried together: as many as a processor works on at once."""

MARKS = 4
"""From here on they are two sets of two numbers that say where a cell was when the set was marked."""

Sheets = NDArray[np.float32]
"""Fields one behind the other `(S, H, W)`."""

Carried = NDArray[np.float32]
"""Several levels for each cell `(H, W, 8)`, or for each cell of each sheet `(S, H, W, 8)`."""


@compiled
def mark(levels: NDArray[np.float32], which: int) -> None:
    """Mark each cell of a sheet with where it is, in one of the two sets."""
    for j in range(levels.shape[0]):
        mark_row(levels[j], j, which)


@compiled
def mark_row(levels: NDArray[np.float32], j: int, which: int) -> None:
    """Mark the cells of a row."""
    for i in range(levels.shape[0]):
        levels[i, MARKS + 2 * which] = np.float32(i)
        levels[i, MARKS + 2 * which + 1] = np.float32(j)


@compiled
def between(field: Field, x: Number, y: Number) -> Number:
    """A level between four neighbours, at a place counted from the first one; at the edges it is held."""
    x = min(max(x, np.float32(0.0)), np.float32(field.shape[1] - 1.001))
    y = min(max(y, np.float32(0.0)), np.float32(field.shape[0] - 1.001))
    i, j, next = np.uint32(x), np.uint32(y), np.uint32(1)
    fx, fy = np.float32(x - np.float32(i)), np.float32(y - np.float32(j))
    left, right = field[j, i], field[j, i + next]
    top = left + (right - left) * fx
    left, right = field[j + next, i], field[j + next, i + next]
    return top + (left + (right - left) * fx - top) * fy


@compiled
def flow_at(across: Field, down: Field, x: Number, y: Number) -> tuple[Number, Number]:
    """The flow at a place, in cells a second."""
    half = np.float32(0.5)
    return between(across, x, y - half), between(down, x - half, y)


@compiled
def confine(across: Field, down: Field, strength: Number, seconds: Number, spin: Field) -> None:
    """Gives back to the eddies what the grid takes from them, by a strength in cells a second
    (Fedkiw, Stam and Jensen, "Visual simulation of smoke", 2001)."""
    rows, columns = spin.shape
    half, quarter = np.float32(0.5), np.float32(0.25)
    spin[:] = np.float32(0.0)
    for j in range(1, rows - 1):
        for i in range(1, columns - 1):
            dv = down[j, i + 1] + down[j + 1, i + 1] - down[j, i - 1] - down[j + 1, i - 1]
            du = across[j + 1, i] + across[j + 1, i + 1] - across[j - 1, i] - across[j - 1, i + 1]
            spin[j, i] = quarter * (dv - du)
    by = strength * seconds
    for j in range(2, rows - 2):
        for i in range(2, columns - 2):
            gx = half * (abs(spin[j, i + 1]) - abs(spin[j, i - 1]))
            gy = half * (abs(spin[j + 1, i]) - abs(spin[j - 1, i]))
            steep = math.sqrt(gx * gx + gy * gy)
            if steep < np.float32(1e-6):
                continue
            push = np.float32(by * spin[j, i] / steep) * half
            across[j, i] += push * gy
            across[j, i + 1] += push * gy
            down[j, i] -= push * gx
            down[j + 1, i] -= push * gx
