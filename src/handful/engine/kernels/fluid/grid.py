"""A staggered grid (Harlow and Welch 1965): what flows across stands at the cells' sides, what flows down
at their tops, all else in their middles. Lengths are in cells."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled, in_bands

Field = NDArray[np.float32]
"""One level for each cell `(H, W)`, or flow: `(H, W + 1)` across and `(H + 1, W)` down."""

LEVELS = 8
"""How many levels are carried together: as many as a processor works on at once."""

MARKS = 4
"""From here on they are two sets of two numbers that say where a cell was when the set was marked."""

Carried = NDArray[np.float32]
"""Several levels for each cell `(H, W, 8)`."""


@compiled
def mark(levels: Carried, which: int) -> None:
    """Mark each cell with where it is, in one of the two sets."""
    for j in range(levels.shape[0]):
        for i in range(levels.shape[1]):
            levels[j, i, MARKS + 2 * which] = np.float32(i)
            levels[j, i, MARKS + 2 * which + 1] = np.float32(j)


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
def place_before(
    across: Field, down: Field, x: Number, y: Number, u: Number, v: Number, seconds: Number
) -> tuple[Number, Number]:
    """Where what is at a place with a flow was so many seconds before, by the midpoint rule; where it will
    be, for seconds less than none."""
    whole = np.float32(seconds)
    half = np.float32(0.5) * whole
    u, v = flow_at(across, down, x - half * u, y - half * v)
    return x - whole * u, y - whole * v


@compiled
def _flow_across(across: Field, down: Field, j: int, i: int) -> tuple[Number, Number]:
    """All of the flow at a side between two cells."""
    a, b = max(i - 1, 0), min(i, down.shape[1] - 1)
    v = down[j, a] + down[j + 1, a] + down[j, b] + down[j + 1, b]
    return across[j, i], np.float32(0.25) * v


@compiled
def _flow_down(across: Field, down: Field, j: int, i: int) -> tuple[Number, Number]:
    """All of the flow at the top of a cell."""
    a, b = max(j - 1, 0), min(j, across.shape[0] - 1)
    u = across[a, i] + across[a, i + 1] + across[b, i] + across[b, i + 1]
    return np.float32(0.25) * u, down[j, i]


@compiled
def _carry_one(
    field: Field,
    is_down: bool,
    across: Field,
    down: Field,
    seconds: Number,
    once: Field,
    out: Field,
) -> None:
    """The flow across or down, carried along; see `carry_flow`."""
    rows, columns = field.shape
    half = np.float32(0.5)
    dx, dy = (half, np.float32(0.0)) if is_down else (np.float32(0.0), half)
    from_where = np.empty((rows, columns, 2), np.float32)
    for j in range(rows):
        for i in range(columns):
            u, v = _flow_down(across, down, j, i) if is_down else _flow_across(across, down, j, i)
            x0, y0 = np.float32(i) + dx, np.float32(j) + dy
            x, y = place_before(across, down, x0, y0, u, v, seconds)
            from_where[j, i, 0], from_where[j, i, 1] = x - dx, y - dy
            once[j, i] = between(field, x - dx, y - dy)
    most_x, most_y = np.float32(columns - 2), np.float32(rows - 2)
    zero, next = np.float32(0.0), np.uint32(1)
    for j in range(rows):
        for i in range(columns):
            u, v = _flow_down(across, down, j, i) if is_down else _flow_across(across, down, j, i)
            x0, y0 = np.float32(i) + dx, np.float32(j) + dy
            x, y = place_before(across, down, x0, y0, u, v, -seconds)
            back = between(once, x - dx, y - dy)
            x, y = from_where[j, i, 0], from_where[j, i, 1]
            c, d = np.uint32(min(max(x, zero), most_x)), np.uint32(min(max(y, zero), most_y))
            p, q = field[d, c], field[d, c + next]
            r, s = field[d + next, c], field[d + next, c + next]
            least, most = min(min(p, q), min(r, s)), max(max(p, q), max(r, s))
            out[j, i] = min(max(once[j, i] + half * (field[j, i] - back), least), most)


@compiled
def carry_flow(
    across: Field, down: Field, seconds: Number, once: tuple[Field, Field], out: tuple[Field, Field]
) -> None:
    """The flow carried along by itself.

    MacCormack's scheme without diffusion, held within what it comes from (Selle, Fedkiw, Kim, Liu and
    Rossignac, "An unconditionally stable MacCormack method", 2008).
    """
    _carry_one(across, False, across, down, seconds, once[0], out[0])
    _carry_one(down, True, across, down, seconds, once[1], out[1])


@compiled
def carry(
    levels: Carried, across: Field, down: Field, seconds: Number, once: Carried, out: Carried
) -> None:
    """The levels in the cells' middles carried along by a flow, as `carry_flow` does; what comes in from
    beyond the grid is nothing."""
    rows = levels.shape[0]
    from_where = np.empty((rows, levels.shape[1], 2), np.float32)
    _carry_forth(0, rows, levels, across, down, seconds, from_where, once)
    _carry_back(0, rows, levels, across, down, seconds, from_where, once, out)


def carried(levels: Carried, across: Field, down: Field, seconds: float) -> Carried:
    """The same on all threads."""
    rows, columns, _ = levels.shape
    from_where = np.empty((rows, columns, 2), np.float32)
    once, out = np.empty_like(levels), np.empty_like(levels)
    in_bands(_carry_forth, rows, levels, across, down, seconds, from_where, once)
    in_bands(_carry_back, rows, levels, across, down, seconds, from_where, once, out)
    return out


@compiled
def _carry_forth(
    first: int,
    last: int,
    levels: Carried,
    across: Field,
    down: Field,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Carried,
) -> None:
    half = np.float32(0.5)
    for j in range(first, last):
        for i in range(levels.shape[1]):
            u, v = half * (across[j, i] + across[j, i + 1]), half * (down[j, i] + down[j + 1, i])
            x0, y0 = np.float32(i) + half, np.float32(j) + half
            x, y = place_before(across, down, x0, y0, u, v, seconds)
            from_where[j, i, 0], from_where[j, i, 1] = x - half, y - half
            gather(levels, x - half, y - half, once, j, i)


@compiled
def _carry_back(
    first: int,
    last: int,
    levels: Carried,
    across: Field,
    down: Field,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Carried,
    out: Carried,
) -> None:
    rows, columns, _ = levels.shape
    half, zero = np.float32(0.5), np.float32(0.0)
    back = np.empty((1, 1, LEVELS), np.float32)
    most_x, most_y = np.float32(columns - 2), np.float32(rows - 2)
    next = np.uint32(1)
    for j in range(first, last):
        for i in range(columns):
            x, y = from_where[j, i, 0], from_where[j, i, 1]
            if not (-half <= x <= columns - half and -half <= y <= rows - half):
                for c in range(LEVELS):
                    out[j, i, c] = zero
                continue
            u, v = half * (across[j, i] + across[j, i + 1]), half * (down[j, i] + down[j + 1, i])
            x0, y0 = np.float32(i) + half, np.float32(j) + half
            p, q = place_before(across, down, x0, y0, u, v, -seconds)
            gather(once, p - half, q - half, back, 0, 0)
            a, b = np.uint32(min(max(x, zero), most_x)), np.uint32(min(max(y, zero), most_y))
            for c in range(LEVELS):
                p, q = levels[b, a, c], levels[b, a + next, c]
                r, s = levels[b + next, a, c], levels[b + next, a + next, c]
                least, most = min(min(p, q), min(r, s)), max(max(p, q), max(r, s))
                level = once[j, i, c] + half * (levels[j, i, c] - back[0, 0, c])
                out[j, i, c] = min(max(level, least), most)


@compiled
def gather(levels: Carried, x: Number, y: Number, out: Carried, row: int, column: int) -> None:
    """All levels between four neighbours, at a place counted from the first one, into a cell."""
    x = min(max(x, np.float32(0.0)), np.float32(levels.shape[1] - 1.001))
    y = min(max(y, np.float32(0.0)), np.float32(levels.shape[0] - 1.001))
    i, j, next = np.uint32(x), np.uint32(y), np.uint32(1)
    fx, fy = np.float32(x - np.float32(i)), np.float32(y - np.float32(j))
    for c in range(LEVELS):
        left, right = levels[j, i, c], levels[j, i + next, c]
        top = left + (right - left) * fx
        left, right = levels[j + next, i, c], levels[j + next, i + next, c]
        out[row, column, c] = top + (left + (right - left) * fx - top) * fy


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
