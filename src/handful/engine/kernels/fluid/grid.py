"""A staggered grid (Harlow and Welch 1965): what flows across stands at the cells' sides, what flows down
at their tops, all else in their middles. Lengths are in cells."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import (
    compiled,
    compiled_along,
    compiled_in,
    in_bands,
    thread_count,
)

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


def even_share(rows: int) -> int:
    """Rows for each thread: all are as much work."""
    return -(-rows // thread_count())


def flow_carried(across: Sheets, down: Sheets, seconds: float) -> tuple[Sheets, Sheets]:
    """Flow in sheets `(S, H, W + 1)` and `(S, H + 1, W)` carried along by itself, on all threads.

    MacCormack's scheme without diffusion, held within what it comes from (Selle, Fedkiw, Kim, Liu and
    Rossignac, "An unconditionally stable MacCormack method", 2008).
    """
    found = []
    for field, is_down in ((across, False), (down, True)):
        from_where = np.empty((*field.shape, 2), np.float32)
        once, out = np.empty_like(field), np.empty_like(field)
        flow = (is_down, across, down, np.float32(seconds), from_where, once)
        rows = field.shape[0] * field.shape[1]
        in_bands(_flow_forth, rows, field, *flow, band=even_share(rows))
        in_bands(_flow_back, rows, field, *flow, out, band=even_share(rows))
        found.append(out)
    return found[0], found[1]


@compiled_along
def _flow_forth(
    first: int,
    last: int,
    fields: Sheets,
    is_down: bool,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Sheets,
) -> None:
    """Rows of all sheets, counted through."""
    for row in range(first, last):
        s, j = row // fields.shape[1], row % fields.shape[1]
        field, places = fields[s], from_where[s, j]
        _flow_places(is_down, across[s], down[s], j, seconds, places)
        for i in range(np.uint64(field.shape[1])):
            once[s, j, i] = between(field, places[i, 0], places[i, 1])


@compiled_along
def _flow_places(
    is_down: bool, across: Field, down: Field, j: int, seconds: Number, places: NDArray[np.float32]
) -> None:
    """Where what is in a row of a flow was so many seconds before, counted from its first."""
    half, zero = np.float32(0.5), np.float32(0.0)
    dx, dy = (half, zero) if is_down else (zero, half)
    for i in range(places.shape[0]):
        u, v = _flow_down(across, down, j, i) if is_down else _flow_across(across, down, j, i)
        x, y = place_before(across, down, np.float32(i) + dx, np.float32(j) + dy, u, v, seconds)
        places[i, 0], places[i, 1] = x - dx, y - dy


@compiled_along
def _flow_back(
    first: int,
    last: int,
    fields: Sheets,
    is_down: bool,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Sheets,
    out: Sheets,
) -> None:
    rows, columns = fields.shape[1], fields.shape[2]
    most_x, most_y = np.float32(columns - 2), np.float32(rows - 2)
    half, zero, next = np.float32(0.5), np.float32(0.0), np.uint32(1)
    places = np.empty((columns, 2), np.float32)
    for row in range(first, last):
        s, j = row // rows, row % rows
        field, thrown = fields[s], once[s]
        _flow_places(is_down, across[s], down[s], j, -seconds, places)
        for i in range(np.uint64(columns)):
            back = between(thrown, places[i, 0], places[i, 1])
            x, y = from_where[s, j, i, 0], from_where[s, j, i, 1]
            c, d = np.uint32(min(max(x, zero), most_x)), np.uint32(min(max(y, zero), most_y))
            p, q = field[d, c], field[d, c + next]
            r, t = field[d + next, c], field[d + next, c + next]
            least, most = min(min(p, q), min(r, t)), max(max(p, q), max(r, t))
            out[s, j, i] = min(max(thrown[j, i] + half * (field[j, i] - back), least), most)


def carried(levels: Carried, across: Sheets, down: Sheets, seconds: float) -> Carried:
    """The levels in the cells' middles of sheets carried along by a flow, as `flow_carried` does, on all threads;
    what comes in from beyond the grid is nothing."""
    once, from_where = thrown(levels, across, down, seconds)
    out = np.empty_like(levels)
    rows = levels.shape[0] * levels.shape[1]
    in_bands(
        _carry_back, rows, levels, across, down, np.float32(seconds), from_where, once, out,
        band=even_share(rows),
    )  # fmt: skip
    return out


def thrown(
    levels: Carried, across: Sheets, down: Sheets, seconds: float
) -> tuple[Carried, NDArray[np.float32]]:
    """The levels carried along once, without the scheme's way back; and from where `(S, H, W, 2)`."""
    from_where = np.empty((*levels.shape[:3], 2), np.float32)
    once = np.empty_like(levels)
    rows = levels.shape[0] * levels.shape[1]
    in_bands(
        _carry_forth, rows, levels, across, down, np.float32(seconds), from_where, once, band=even_share(rows)
    )  # fmt: skip
    return once, from_where


@compiled_along
def _places(
    across: Field, down: Field, j: int, seconds: Number, places: NDArray[np.float32]
) -> None:
    """Where what is in a row of cells was so many seconds before, counted from the first cell's middle."""
    half = np.float32(0.5)
    for i in range(places.shape[0]):
        u, v = half * (across[j, i] + across[j, i + 1]), half * (down[j, i] + down[j + 1, i])
        x0, y0 = np.float32(i) + half, np.float32(j) + half
        x, y = place_before(across, down, x0, y0, u, v, seconds)
        places[i, 0], places[i, 1] = x - half, y - half


@compiled_along
def _carry_forth(
    first: int,
    last: int,
    levels: Carried,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Carried,
) -> None:
    """Rows of all sheets, counted through."""
    for row in range(first, last):
        s, j = row // levels.shape[1], row % levels.shape[1]
        _places(across[s], down[s], j, seconds, from_where[s, j])
        _gather(levels[s], from_where[s, j], once[s, j])


@compiled_along
def _carry_back(
    first: int,
    last: int,
    levels: Carried,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Carried,
    out: Carried,
) -> None:
    rows, columns = levels.shape[1], levels.shape[2]
    places, back = np.empty((columns, 2), np.float32), np.empty((columns, LEVELS), np.float32)
    for row in range(first, last):
        s, j = row // rows, row % rows
        _places(across[s], down[s], j, -seconds, places)
        _gather(once[s], places, back)
        _hold(levels[s], levels[s, j], from_where[s, j], once[s, j], back, out[s, j])


@compiled
def _hold(
    levels: NDArray[np.float32],
    line: NDArray[np.float32],
    places: NDArray[np.float32],
    came: NDArray[np.float32],
    back: NDArray[np.float32],
    out: NDArray[np.float32],
) -> None:
    """What has come to a row, by half of what is lost on the way there and back more, within what it comes from."""
    rows, columns = levels.shape[:2]
    half, zero = np.float32(0.5), np.float32(0.0)
    most_x, most_y = np.float32(columns - 2), np.float32(rows - 2)
    stride, cell = np.uint64(columns * LEVELS), np.uint64(LEVELS)
    flat, there, once, again = (
        levels.reshape(-1),
        line.reshape(-1),
        came.reshape(-1),
        back.reshape(-1),
    )
    into = out.reshape(-1)
    c1, c2, c3, c4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    c5, c6, c7 = np.uint64(5), np.uint64(6), np.uint64(7)
    for i in range(columns):
        x, y, n = places[i, 0], places[i, 1], np.uint64(LEVELS * i)
        if not (-half <= x <= columns - half and -half <= y <= rows - half):
            for c in range(LEVELS):
                out[i, c] = zero
            continue
        a, b = np.uint64(min(max(x, zero), most_x)), np.uint64(min(max(y, zero), most_y))
        k = b * stride + a * cell
        m = k + stride
        p0 = _within(flat, k, m, once[n] + half * (there[n] - again[n]))
        p1 = _within(flat, k + c1, m + c1, once[n + c1] + half * (there[n + c1] - again[n + c1]))
        p2 = _within(flat, k + c2, m + c2, once[n + c2] + half * (there[n + c2] - again[n + c2]))
        p3 = _within(flat, k + c3, m + c3, once[n + c3] + half * (there[n + c3] - again[n + c3]))
        p4 = _within(flat, k + c4, m + c4, once[n + c4] + half * (there[n + c4] - again[n + c4]))
        p5 = _within(flat, k + c5, m + c5, once[n + c5] + half * (there[n + c5] - again[n + c5]))
        p6 = _within(flat, k + c6, m + c6, once[n + c6] + half * (there[n + c6] - again[n + c6]))
        p7 = _within(flat, k + c7, m + c7, once[n + c7] + half * (there[n + c7] - again[n + c7]))
        into[n], into[n + c1], into[n + c2], into[n + c3] = p0, p1, p2, p3
        into[n + c4], into[n + c5], into[n + c6], into[n + c7] = p4, p5, p6, p7


@compiled_in
def _within(flat: NDArray[np.float32], k: np.uint64, m: np.uint64, level: Number) -> Number:
    """A level held within those of four cells, two in a row and two below them."""
    cell = np.uint64(LEVELS)
    p, q, r, t = flat[k], flat[k + cell], flat[m], flat[m + cell]
    least, most = min(min(p, q), min(r, t)), max(max(p, q), max(r, t))
    return min(max(level, least), most)


@compiled
def _gather(
    levels: NDArray[np.float32], places: NDArray[np.float32], out: NDArray[np.float32]
) -> None:
    """All levels between four neighbours, at places counted from the first one."""
    flat, into = levels.reshape(-1), out.reshape(-1)
    columns = levels.shape[1]
    most_x, most_y = np.float32(columns - 1.001), np.float32(levels.shape[0] - 1.001)
    stride, cell = np.uint64(columns * LEVELS), np.uint64(LEVELS)
    one, zero = np.float32(1.0), np.float32(0.0)
    c1, c2, c3, c4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    c5, c6, c7 = np.uint64(5), np.uint64(6), np.uint64(7)
    for i in range(places.shape[0]):
        x, y = min(max(places[i, 0], zero), most_x), min(max(places[i, 1], zero), most_y)
        a, b = np.uint64(x), np.uint64(y)
        fx, fy = x - np.float32(a), y - np.float32(b)
        w11 = fx * fy
        w01, w10 = fx - w11, fy - w11
        w = one - fx - w10, w01, w10, w11
        k, n = b * stride + a * cell, np.uint64(LEVELS * i)
        m = k + stride
        p0, p1 = _of_four(flat, k, m, w), _of_four(flat, k + c1, m + c1, w)
        p2, p3 = _of_four(flat, k + c2, m + c2, w), _of_four(flat, k + c3, m + c3, w)
        p4, p5 = _of_four(flat, k + c4, m + c4, w), _of_four(flat, k + c5, m + c5, w)
        p6, p7 = _of_four(flat, k + c6, m + c6, w), _of_four(flat, k + c7, m + c7, w)
        into[n], into[n + c1], into[n + c2], into[n + c3] = p0, p1, p2, p3
        into[n + c4], into[n + c5], into[n + c6], into[n + c7] = p4, p5, p6, p7


@compiled_in
def _of_four(
    flat: NDArray[np.float32],
    k: np.uint64,
    m: np.uint64,
    w: tuple[Number, Number, Number, Number],
) -> Number:
    """A level of four cells, two in a row and two below them, by their weights."""
    cell = np.uint64(LEVELS)
    return w[0] * flat[k] + w[1] * flat[k + cell] + w[2] * flat[m] + w[3] * flat[m + cell]


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
