"""One octave of noise along a row of places: gradient, simplex, value and cellular patterns.

A row is gone through cell by cell, in spans of px that lie in one. What belongs to a corner of a cell
is worked out once and remembered, and the px of a span follow in a plain loop, which the compiler
makes wide. A place is a cell, and how far within it in single precision.

- gradient: Perlin, "Improving noise", SIGGRAPH 2002, in three dimensions; the third is the boil.
- simplex: Gustavson and McEwan, "Tiling simplex noise and flow noise in two and three dimensions",
  Journal of Computer Graphics Techniques 11(1), 2022, on their grid, which repeats where it is to.
  Its gradients boil by themselves: each goes over into the next as the sine and cosine of an angle.
- cells: Worley, "A cellular texture basis function", SIGGRAPH 1996, one point in each cell of the
  plane, which wanders as it boils.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.compiled import compiled_along

Row = NDArray[np.float32]
Rows = NDArray[np.float32]
Px = NDArray[np.float64]
"""The numbers of the px of a row, counted from the canvas's edge."""

Cells = NDArray[np.int32]
Spans = NDArray[np.int32]
"""The first px, and the cell across and down, of each span of a row `(3, N + 1)`."""
Number = Any
"""One `float32` in a compiled loop."""

Octave = tuple[float, int, int, int, int]
"""The boil of an octave, its two words of a key, and after how many cells across and cycles of boil
it is the same again, 0 for never."""

CACHED = 8192
"""Corners that are remembered, each in a place that its cell gives it."""

_ROW = 521
"""How far apart those of two rows of cells are: no two near a line of px across a picture meet."""

NO_CELL = -(1 << 30)
"""Stands where no corner is remembered yet."""

_STRIDE = 16

_SHORT = 24
"""px in a cell below which they are gone through one by one."""

_TURN = 2.0 * math.pi / 4294967296.0
_SHARE = 1.0 / 4294967296.0


@compiled_along
def _wrapped(place: int, period: int) -> int:
    return place % period if period > 0 else place


@compiled_along
def _faded(t: Number) -> Number:
    return t * t * t * (t * (t * np.float32(6.0) - np.float32(15.0)) + np.float32(10.0))


@compiled_along
def _rise(t: Number) -> Number:
    """The slope of the fade."""
    return np.float32(30.0) * t * t * (t * (t - np.float32(2.0)) + np.float32(1.0))


@compiled_along
def spans_along(
    first: tuple[float, float], each: tuple[float, float], px: Px, within: Rows, spans: Spans
) -> int:
    """Spans of a row whose places go on evenly: at the `x`th px it is `first + px[x] * each`.

    Writes how far within its cell each px is, and of each span its first px and its cell; after the last
    one stands where the row ends. Gives how many there are. Whatever the row is a part of, a px has
    the same place to the bit.
    """
    width, left = within.shape[1], int(px[0])
    a, b, c, d = first[0], each[0], first[1], each[1]
    px_across, px_down = _px_in_cell(b), _px_in_cell(d)
    i, next_across = _cell_at(a, b, px_across, left)
    j, next_down = _cell_at(c, d, px_down, left)
    count, x = 0, 0
    while x < width:
        end = min(width, next_across - left, next_down - left)
        for t in range(np.uint64(x), np.uint64(end)):
            within[0, t] = np.float32(a + px[t] * b - i)
            within[1, t] = np.float32(c + px[t] * d - j)
        spans[0, count], spans[1, count], spans[2, count] = x, i, j
        count += 1
        x = end
        while next_across <= x + left:
            i += 1 if b > 0.0 else -1
            next_across = _left_at(a, b, px_across, i)
        while next_down <= x + left:
            j += 1 if d > 0.0 else -1
            next_down = _left_at(c, d, px_down, j)
    spans[0, count] = width
    return count


@compiled_along
def _px_in_cell(each: float) -> float:
    """px from one edge of a cell to the next; so many that none is met where it goes on by nothing."""
    return 1.0 / each if abs(each) * _MOST_PX > 1.0 else _MOST_PX


_MOST_PX = 1e9


@compiled_along
def _cell_at(first: float, each: float, px: float, x: int) -> tuple[int, int]:
    """The cell that a px is in, and the first px that is in the next one."""
    i = int(np.floor(first + x * each))
    way = 1 if each > 0.0 else -1
    if px < _MOST_PX:
        while _left_at(first, each, px, i - way) > x:
            i -= way
        while _left_at(first, each, px, i) <= x:
            i += way
    return i, _left_at(first, each, px, i)


@compiled_along
def _left_at(first: float, each: float, px: float, i: int) -> int:
    """The first px that is beyond a cell, as the row goes on."""
    if px >= _MOST_PX:
        return int(_MOST_PX)
    return int(np.ceil((i + (1 if each > 0.0 else 0) - first) * px))


@compiled_along
def spans_of(cells: Cells, spans: Spans) -> int:
    """Spans of a row whose px are in any cells `(2, N)`: of each its first px and its cell, and after the
    last one where the row ends. Gives how many there are."""
    count, x = 0, 0
    while x < cells.shape[1]:
        spans[0, count], spans[1, count], spans[2, count] = x, cells[0, x], cells[1, x]
        count += 1
        x = _end_of_cell(cells, x)
    spans[0, count] = cells.shape[1]
    return count


@compiled_along
def _end_of_cell(cells: Cells, x: int) -> int:
    """Where the row leaves the cell that it is in at a px: in strides at first, and then px by px."""
    i, j = cells[0, x], cells[1, x]
    end = x + 1
    while end + _STRIDE <= cells.shape[1]:
        others = 0
        for t in range(np.uint64(end), np.uint64(end + _STRIDE)):
            others |= (cells[0, t] ^ i) | (cells[1, t] ^ j)
        if others != 0:
            break
        end += _STRIDE
    while end < cells.shape[1] and cells[0, end] == i and cells[1, end] == j:
        end += 1
    return end


@compiled_along
def _edge_gradient(word: np.uint32) -> tuple[float, float, float]:
    """One of the twelve edges of a cube, four of them twice."""
    h = (word >> np.uint32(24)) & np.uint32(15)
    first = 1.0 if (h & 1) == 0 else -1.0
    second = 1.0 if (h & 2) == 0 else -1.0
    x, y, z = 0.0, 0.0, 0.0
    if h < 8:
        x += first
    else:
        y += first
    if h < 4:
        y += second
    elif h in (12, 14):
        x += second
    else:
        z += second
    return x, y, z


@compiled_along
def _keep_gradient(place: int, i: int, j: int, octave: Octave, known: Cells, corners: Rows) -> None:
    """Work out the share of a corner: slopes across and down, and a level."""
    known[place, 0], known[place, 1] = i, j
    z, k0, k1, round_x, round_z = octave
    k = int(np.floor(z))
    part = z - k
    fade = part * part * part * (part * (part * 6.0 - 15.0) + 10.0)
    a, b, c = 0.0, 0.0, 0.0
    for step in range(2):
        word, _ = hashed(_wrapped(i, round_x), j, _wrapped(k + step, round_z), k0, k1)
        x, y, z = _edge_gradient(word)
        weight = fade if step == 1 else 1.0 - fade
        a += weight * x
        b += weight * y
        c += weight * z * (part - step)
    corners[place, 0], corners[place, 1], corners[place, 2] = a, b, c


@compiled_along
def gradient_row(
    count: int,
    spans: Spans,
    within: Rows,
    octave: Octave,
    out: Row,
    slopes: Rows,
    with_slopes: bool,
    known: Cells,
    corners: Rows,
) -> None:
    """Gradient noise at places `(2, N)`; its slopes across and down into `slopes` `(2, N)`."""
    one = np.float32(1.0)
    at = np.empty(4, np.int64)
    for span in range(count):
        x, end, i, j = spans[0, span], spans[0, span + 1], spans[1, span], spans[2, span]
        for n in range(4):
            ci, cj = i + (n & 1), j + (n >> 1)
            place = (ci + cj * _ROW) & (CACHED - 1)
            if known[place, 0] != ci or known[place, 1] != cj:
                _keep_gradient(place, ci, cj, octave, known, corners)
            at[n] = place
        n = at[0]
        e0, f0, g0 = corners[n, 0], corners[n, 1], corners[n, 2]
        n = at[1]
        e1, f1, g1 = corners[n, 0], corners[n, 1], corners[n, 2] - corners[n, 0]
        n = at[2]
        e2, f2, g2 = corners[n, 0], corners[n, 1], corners[n, 2] - corners[n, 1]
        n = at[3]
        e3, f3 = corners[n, 0], corners[n, 1]
        g3 = corners[n, 2] - e3 - f3
        for t in range(np.uint64(x), np.uint64(end)):
            p, q = within[0, t], within[1, t]
            s, r = _faded(p), _faded(q)
            n0, n1 = e0 * p + f0 * q + g0, e1 * p + f1 * q + g1
            n2, n3 = e2 * p + f2 * q + g2, e3 * p + f3 * q + g3
            above, below = n0 + s * (n1 - n0), n2 + s * (n3 - n2)
            out[t] = above + r * (below - above)
            if with_slopes:
                across = (n1 - n0) * (one - r) + (n3 - n2) * r
                slopes[0, t] = (
                    (e0 + s * (e1 - e0)) * (one - r) + (e2 + s * (e3 - e2)) * r + across * _rise(p)
                )
                slopes[1, t] = (
                    (f0 + s * (f1 - f0)) * (one - r)
                    + (f2 + s * (f3 - f2)) * r
                    + (below - above) * _rise(q)
                )


@compiled_along
def _keep_value(place: int, i: int, j: int, octave: Octave, known: Cells, corners: Rows) -> None:
    known[place, 0], known[place, 1] = i, j
    z, k0, k1, round_x, round_z = octave
    k = int(np.floor(z))
    at = _wrapped(i, round_x)
    now, _ = hashed(at, j, _wrapped(k, round_z), k0, k1)
    then, _ = hashed(at, j, _wrapped(k + 1, round_z), k0, k1)
    level = now * _SHARE + (then * _SHARE - now * _SHARE) * _faded(z - k)
    corners[place, 0] = 2.0 * level - 1.0


@compiled_along
def value_row(
    count: int,
    spans: Spans,
    within: Rows,
    octave: Octave,
    out: Row,
    slopes: Rows,
    with_slopes: bool,
    known: Cells,
    corners: Rows,
) -> None:
    """Value noise from -1 to 1 at places `(2, N)`, with its slopes if they are asked for."""
    one = np.float32(1.0)
    at = np.empty(4, np.int64)
    for span in range(count):
        x, end, i, j = spans[0, span], spans[0, span + 1], spans[1, span], spans[2, span]
        for n in range(4):
            ci, cj = i + (n & 1), j + (n >> 1)
            place = (ci + cj * _ROW) & (CACHED - 1)
            if known[place, 0] != ci or known[place, 1] != cj:
                _keep_value(place, ci, cj, octave, known, corners)
            at[n] = place
        n0, n1 = corners[at[0], 0], corners[at[1], 0]
        n2, n3 = corners[at[2], 0], corners[at[3], 0]
        for t in range(np.uint64(x), np.uint64(end)):
            p, q = within[0, t], within[1, t]
            s, r = _faded(p), _faded(q)
            above, below = n0 + s * (n1 - n0), n2 + s * (n3 - n2)
            out[t] = above + r * (below - above)
            if with_slopes:
                slopes[0, t] = ((n1 - n0) * (one - r) + (n3 - n2) * r) * _rise(p)
                slopes[1, t] = (below - above) * _rise(q)


_KERNEL = np.float32(0.8)
"""The square of how far a corner of the simplex grid reaches: to the opposite edge of its triangles."""


@compiled_along
def _keep_boiling_gradient(
    place: int, i: int, j: int, octave: Octave, known: Cells, corners: Rows
) -> None:
    known[place, 0], known[place, 1] = i, j
    z, k0, k1, round_x, round_z = octave
    k = int(np.floor(z))
    part = z - k
    angle = 0.5 * math.pi * part * part * (3.0 - 2.0 * part)
    at = _wrapped(i, round_x)
    now, _ = hashed(at, j, _wrapped(k, round_z), k0, k1)
    then, _ = hashed(at, j, _wrapped(k + 1, round_z), k0, k1)
    cosine, sine = math.cos(angle), math.sin(angle)
    corners[place, 0] = cosine * math.cos(now * _TURN) + sine * math.cos(then * _TURN)
    corners[place, 1] = cosine * math.sin(now * _TURN) + sine * math.sin(then * _TURN)


@compiled_along
def _add_corner(dx: Number, dy: Number, gx: Number, gy: Number) -> tuple[Number, Number, Number]:
    """What a corner of the simplex grid adds, and the slopes of that."""
    w = max(np.float32(0.0), _KERNEL - dx * dx - dy * dy)
    share = gx * dx + gy * dy
    third = w * w * w
    steep = np.float32(-8.0) * share
    return third * w * share, third * (w * gx + steep * dx), third * (w * gy + steep * dy)


@compiled_along
def simplex_row(
    count: int,
    spans: Spans,
    within: Rows,
    octave: Octave,
    out: Row,
    slopes: Rows,
    with_slopes: bool,
    known: Cells,
    corners: Rows,
) -> None:
    """Simplex noise at places `(2, N)` on the slanted grid, with its slopes if they are asked for.

    All four corners of a cell are looked at: the one beyond the triangle's edge adds nothing.
    """
    half, one = np.float32(0.5), np.float32(1.0)
    at = np.empty(4, np.int64)
    for span in range(count):
        x, end, i, j = spans[0, span], spans[0, span + 1], spans[1, span], spans[2, span]
        for n in range(4):
            ci, cj = i + (n & 1), j + (n >> 1)
            place = (ci + cj * _ROW) & (CACHED - 1)
            if known[place, 0] != ci or known[place, 1] != cj:
                _keep_boiling_gradient(place, ci, cj, octave, known, corners)
            at[n] = place
        a0, b0 = corners[at[0], 0], corners[at[0], 1]
        a1, b1 = corners[at[1], 0], corners[at[1], 1]
        a2, b2 = corners[at[2], 0], corners[at[2], 1]
        a3, b3 = corners[at[3], 0], corners[at[3], 1]
        for t in range(np.uint64(x), np.uint64(end)):
            q = within[1, t]
            p = within[0, t] - half * q
            m0, u0, v0 = _add_corner(p, q, a0, b0)
            m1, u1, v1 = _add_corner(p - one, q, a1, b1)
            m2, u2, v2 = _add_corner(p + half, q - one, a2, b2)
            m3, u3, v3 = _add_corner(p - half, q - one, a3, b3)
            out[t] = m0 + m1 + m2 + m3
            if with_slopes:
                slopes[0, t] = u0 + u1 + u2 + u3
                slopes[1, t] = v0 + v1 + v2 + v3


@compiled_along
def _keep_point(place: int, i: int, j: int, octave: Octave, known: Cells, corners: Rows) -> None:
    """Work out where the point of a cell is within it, and the cell's value."""
    known[place, 0], known[place, 1] = i, j
    z, k0, k1, round_x, round_z = octave
    k = int(np.floor(z))
    part = z - k
    fade = part * part * (3.0 - 2.0 * part)
    at = _wrapped(i, round_x)
    a, b = hashed(at, j, _wrapped(k, round_z), k0, k1)
    c, d = hashed(at, j, _wrapped(k + 1, round_z), k0, k1)
    corners[place, 0] = a * _SHARE + (c * _SHARE - a * _SHARE) * fade
    corners[place, 1] = b * _SHARE + (d * _SHARE - b * _SHARE) * fade
    word, _ = hashed(at, j, -1, k0, k1)
    corners[place, 2] = word * _SHARE


@compiled_along
def cells_row(
    count: int,
    spans: Spans,
    within: Rows,
    octave: Octave,
    found: Rows,
    with_values: bool,
    known: Cells,
    corners: Rows,
) -> None:
    """The squares of the distances to the nearest point and the next, and the values of their cells if
    they are wanted, into `found` `(4, N)`.

    Two of the four nearest cells have a point within 1.81, and no other than the 25 around has one
    within 2. The outer 16 of those are looked at only where a second point was not found nearer.
    """
    one = np.float32(1.0)
    near = np.empty((3, 9), np.float32)
    across, down = within[0], within[1]
    nearest, second, values, others = found[0], found[1], found[2], found[3]
    for span in range(count):
        x, end, i, j = spans[0, span], spans[0, span + 1], spans[1, span], spans[2, span]
        for n in range(9):
            ci, cj = i + n % 3 - 1, j + n // 3 - 1
            at = (ci + cj * _ROW) & (CACHED - 1)
            if known[at, 0] != ci or known[at, 1] != cj:
                _keep_point(at, ci, cj, octave, known, corners)
            near[0, n] = corners[at, 0] + np.float32(ci - i)
            near[1, n] = corners[at, 1] + np.float32(cj - j)
            near[2, n] = corners[at, 2]
        low, high = np.uint64(x), np.uint64(end)
        for t in range(low, high):
            nearest[t], second[t] = np.float32(9.0), np.float32(9.0)
        if end - x < _SHORT:
            for t in range(low, high):
                p, q = across[t], down[t]
                best, other = np.float32(9.0), np.float32(9.0)
                for n in range(9):
                    dx, dy = p - near[0, n], q - near[1, n]
                    away = dx * dx + dy * dy
                    other = min(other, max(best, away))
                    best = min(best, away)
                nearest[t], second[t] = best, other
        else:
            for n in range(9):
                px, py = near[0, n], near[1, n]
                for t in range(low, high):
                    dx, dy = across[t] - px, down[t] - py
                    away = dx * dx + dy * dy
                    second[t] = min(second[t], max(nearest[t], away))
                    nearest[t] = min(nearest[t], away)
        if with_values:
            values[low:high] = np.float32(0.0)
            others[low:high] = np.float32(0.0)
            for n in range(9):
                px, py, own = near[0, n], near[1, n], near[2, n]
                for t in range(low, high):
                    dx, dy = across[t] - px, down[t] - py
                    away = dx * dx + dy * dy
                    is_it = np.float32(away <= nearest[t])
                    values[t] = max(values[t], own * is_it)
                    is_next = np.float32(away <= second[t]) - is_it
                    others[t] = max(others[t], own * is_next)
        for t in range(low, high):
            p, q = across[t], down[t]
            reach = one + min(min(p, one - p), min(q, one - q))
            if second[t] > reach * reach:
                nearest[t], second[t], values[t], others[t] = _farther(
                    p, q, nearest[t], second[t], values[t], others[t], i, j, octave, known, corners
                )


@compiled_along
def _farther(
    p: Number,
    q: Number,
    first: Number,
    second: Number,
    value: Number,
    other: Number,
    i: int,
    j: int,
    octave: Octave,
    known: Cells,
    corners: Rows,
) -> tuple[Number, Number, Number, Number]:
    """The same with the outer 16 of the 25 cells around."""
    for down in range(-2, 3):
        for across in range(-2, 3):
            if abs(down) < 2 and abs(across) < 2:
                continue
            ci, cj = i + across, j + down
            at = (ci + cj * _ROW) & (CACHED - 1)
            if known[at, 0] != ci or known[at, 1] != cj:
                _keep_point(at, ci, cj, octave, known, corners)
            dx = p - corners[at, 0] - np.float32(across)
            dy = q - corners[at, 1] - np.float32(down)
            away = dx * dx + dy * dy
            if away < first:
                first, second, value, other = away, first, corners[at, 2], value
            elif away < second:
                second, other = away, corners[at, 2]
    return first, second, value, other
