"""A square that repeats without end, laid on a picture: flat, or going back to a horizon.

Between its places it is the cubic B-spline through or about them (Unser, "Splines: a perfect fit for signal and image
processing", IEEE Signal Processing Magazine 16(6), 1999): it is as smooth as light on a floor, and what is nowhere below
nothing stays so. Where it shrinks it is taken from a pyramid of means (Williams, "Pyramidal parametrics", SIGGRAPH 1983),
in several looks behind one another where it shrinks one way only.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along, compiled_in, in_bands
from handful.engine.picture import Picture

Square = NDArray[np.float32]
"""`(N, N, 4)`, N a power of two."""

_MOST_LOOKS = 8
_BLOCK = 64
_BEFORE, _AFTER = 1, 2
"""Places that a square is continued by before and after its own, so that none of the four about a place is missing."""


class Rows(NamedTuple):
    """Where the rows of a picture lie on a square, in parts of it, `(H,)` each: its first px, how far on the next px beside
    it is, and how far on the px below is, there and more for each px beside."""

    across: NDArray[np.float64]
    down: NDArray[np.float64]
    across_beside: NDArray[np.float64]
    down_beside: NDArray[np.float64]
    across_below: NDArray[np.float64]
    down_below: NDArray[np.float64]
    across_askew: NDArray[np.float64]
    down_askew: NDArray[np.float64]
    strong: NDArray[np.float64]
    """How strong it is on each row; where it is nothing no place is looked at."""


class Axis(NamedTuple):
    """Of the px of a row, along one axis of a square: the first of the four places that each is between, and their
    weights `(4, W)`."""

    firsts: NDArray[np.int32]
    weights: NDArray[np.float32]


class Seen(NamedTuple):
    """What is seen of a place on a square: what it is more than `less`, times `by`, channel by channel."""

    less: float
    by: tuple[float, float, float, float]


AS_IT_IS = Seen(-math.inf, (1.0, 1.0, 1.0, 1.0))


def laid_on_rows(square: Square, rows: Rows, result: Picture, seen: Seen = AS_IT_IS) -> None:
    """Fill a picture `(H, W, 4)` with what is seen of a square that repeats, laid so."""
    width = result.shape[1]
    beside = np.hypot(rows.across_beside, rows.down_beside)
    below = _longest_below(rows, width)
    looks = np.clip(np.ceil(below / np.maximum(beside, 1.0) - 0.5), 1, _MOST_LOOKS)
    wide = np.maximum(beside, below / looks)
    levels = np.clip(np.log2(np.maximum(wide, 1.0)), 0, math.log2(len(square)))
    shown = levels[rows.strong > 0]
    deepest = math.ceil(shown.max()) if len(shown) else 0
    starts, sides, flat = _levels_of(square, deepest + 1, seen)
    in_bands(
        _lay_rows, len(result), rows, looks.astype(np.int64), levels, starts, sides, flat, result
    )


def passing(side: int) -> NDArray[np.float32]:
    """How much is left of each wave of a square `(N, N)`, in the order of `numpy.fft.fftfreq`, by the spline about its
    places: divided by it, the spline goes through the waves."""
    along = (2 + np.cos(2 * np.pi * np.fft.fftfreq(side))) / 3
    left: NDArray[np.float32] = np.outer(along, along).astype(np.float32)
    return left


def _longest_below(rows: Rows, width: int) -> NDArray[np.float64]:
    """The way to the px below where it is longest on each row: at one of its ends."""
    ends = [
        np.hypot(rows.across_below + x * rows.across_askew, rows.down_below + x * rows.down_askew)
        for x in (0, width)
    ]
    longest: NDArray[np.float64] = np.maximum(*ends)
    return longest


def _levels_of(
    square: Square, count: int, seen: Seen
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.float32]]:
    """What is seen of a square and its halves, each continued round its edge, one after the other: where each begins, how
    wide it is, and all of them."""
    sides = len(square) >> np.arange(count)
    wides = sides + _BEFORE + _AFTER
    starts = np.concatenate([[0], np.cumsum(4 * wides**2)])
    flat = np.empty(starts[-1], np.float32)
    last = square
    for k, (side, wide) in enumerate(zip(sides, wides, strict=True)):
        level = flat[starts[k] : starts[k + 1]].reshape(wide, wide, 4)
        if k == 0:
            less = np.float32(seen.less)
            off = less if math.isfinite(less) else np.float32(0.0)
            by = np.tile(np.array(seen.by, np.float32), side)
            in_bands(_see_rows, len(square), square, less, off, by, level)
        else:
            in_bands(_halve_rows, int(side), last, level)
        for to in (0, side + 1, side + 2):
            level[to] = level[(to - _BEFORE) % side + _BEFORE]
        last = level[_BEFORE : side + _BEFORE, _BEFORE : side + _BEFORE]
    return starts[:-1], sides, flat


@compiled_along
def _see_rows(
    first: int,
    last: int,
    square: Square,
    least: np.float32,
    off: np.float32,
    by: NDArray[np.float32],
    level: Square,
) -> None:
    """What is seen of a square, at least so much, less some, and times what it is by along a row; within a level that goes on
    round its edge beside it."""
    side = square.shape[1]
    for y in range(first, last):
        row = square[y].reshape(-1)
        line = level[y + _BEFORE].reshape(-1)[4 * _BEFORE :]
        for i in range(np.uint64(4 * side)):
            line[i] = (max(row[i], least) - off) * by[i]
        _go_on(level[y + _BEFORE], side)


@compiled
def _halve_rows(first: int, last: int, finer: Square, level: Square) -> None:
    """The mean of every four places of a square, in the same way."""
    side, quarter = finer.shape[1] // 2, np.float32(0.25)
    for y in range(first, last):
        above, below, line = finer[2 * y], finer[2 * y + 1], level[y + _BEFORE]
        for x in range(side):
            for c in range(4):
                both = above[2 * x, c] + above[2 * x + 1, c] + below[2 * x, c] + below[2 * x + 1, c]
                line[x + _BEFORE, c] = quarter * both
        _go_on(line, side)


@compiled
def _go_on(line: NDArray[np.float32], side: int) -> None:
    """Continue a row round its edge."""
    for c in range(4):
        line[0, c] = line[side, c]
        for more in range(_AFTER):
            line[side + _BEFORE + more, c] = line[_BEFORE + more % side, c]


@compiled_along
def _weigh(
    begins: float, step: float, side: int, firsts: NDArray[np.int32], weights: NDArray[np.float32]
) -> None:
    """For places along an axis of a square, from one on by a step: the first of the four that each is between, and how much
    each of these counts `(4, W)`."""
    one, sixth, half = np.float32(1.0), np.float32(1.0 / 6.0), np.float32(0.5)
    begin, by, last = np.float32(begins % side), np.float32(step), np.int32(side - 1)
    w0, w1, w2, w3 = weights[0], weights[1], weights[2], weights[3]
    for x in range(firsts.shape[0]):
        place = begin + np.float32(np.int32(x)) * by
        whole = np.floor(place)
        t = place - whole
        s = one - t
        before, after = sixth * s * s * s, sixth * t * t * t
        behind = sixth + half * t * (one + t * s)
        w0[x], w1[x], w2[x], w3[x] = before, one - before - behind - after, behind, after
        firsts[x] = np.int32(4) * (np.int32(whole) & last)


@compiled
def _lay_rows(
    first: int,
    last: int,
    rows: Rows,
    looks: NDArray[np.int64],
    levels: NDArray[np.float64],
    starts: NDArray[np.int64],
    sides: NDArray[np.int64],
    flat: NDArray[np.float32],
    result: Picture,
) -> None:
    """Where rows of the picture go across those of the square they are gone through block by block: what is read for one
    is near for the next."""
    line = np.empty(4 * (sides[0] + _BEFORE + _AFTER), np.float32)
    width = result.shape[1]
    across = Axis(np.empty(width, np.int32), np.empty((4, width), np.float32))
    down = Axis(np.empty(width, np.int32), np.empty((4, width), np.float32))
    is_along = not rows.down_beside[first:last].any() and not rows.down_askew[first:last].any()
    block, weighed = width if is_along else _BLOCK, (0.0, 0.0, np.int64(0))
    for left in range(0, width, block):
        right = min(width, left + block)
        for y in range(first, last):
            found = result[y].reshape(-1)
            found[4 * left : 4 * right] = np.float32(0.0)
            if not rows.strong[y] > 0.0:
                continue
            for finer in range(2):
                at = int(levels[y])
                part = levels[y] - at
                share = rows.strong[y] / looks[y] * (part if finer == 1 else 1.0 - part)
                if share <= 0.0:
                    continue
                at += finer
                start, side = starts[at], sides[at]
                by = side / sides[0]
                for look in range(looks[y]):
                    off = (look + 0.5) / looks[y] - 0.5
                    u = (rows.across[y] + off * rows.across_below[y]) * by - 0.5
                    v = (rows.down[y] + off * rows.down_below[y]) * by - 0.5
                    du = (rows.across_beside[y] + off * rows.across_askew[y]) * by
                    dv = (rows.down_beside[y] + off * rows.down_askew[y]) * by
                    if not is_along or (u, du, side) != weighed:
                        _weigh(u + left * du, du, side, across.firsts, across.weights)
                        weighed = u, du, side
                    if is_along:
                        _mix_line(flat, start, side, v, np.float32(share), line)
                        _along(line, across, found)
                    else:
                        _weigh(v + left * dv, dv, side, down.firsts, down.weights)
                        _aslant(
                            flat, start, side, across, down, np.float32(share), found, left, right
                        )


@compiled_along
def _mix_line(
    flat: NDArray[np.float32],
    start: int,
    side: int,
    v: float,
    share: np.float32,
    line: NDArray[np.float32],
) -> None:
    """The row of the square at a place down."""
    firsts, weights = np.empty(1, np.int32), np.empty((4, 1), np.float32)
    _weigh(v, 0.0, side, firsts, weights)
    w0, w1, w2, w3 = (
        share * weights[0, 0],
        share * weights[1, 0],
        share * weights[2, 0],
        share * weights[3, 0],
    )
    wide = side + _BEFORE + _AFTER
    a = np.uint64(start + firsts[0] * wide)
    b, c, d = a + np.uint64(4 * wide), a + np.uint64(8 * wide), a + np.uint64(12 * wide)
    for i in range(np.uint64(4 * wide)):
        line[i] = w0 * flat[a + i] + w1 * flat[b + i] + w2 * flat[c + i] + w3 * flat[d + i]


@compiled
def _along(line: NDArray[np.float32], across: Axis, found: NDArray[np.float32]) -> None:
    """Add what a row of the picture sees that goes along a row of the square."""
    for x in range(across.firsts.shape[0]):
        i, n = np.uint64(across.firsts[x]), np.uint64(4 * x)
        w = across.weights[0, x], across.weights[1, x], across.weights[2, x], across.weights[3, x]
        _add_four(line, i, w, found, n)


@compiled
def _aslant(
    flat: NDArray[np.float32],
    start: int,
    side: int,
    across: Axis,
    down: Axis,
    share: np.float32,
    found: NDArray[np.float32],
    first: int,
    last: int,
) -> None:
    """The same for some px of one that goes across its rows."""
    wide = np.uint64(side + _BEFORE + _AFTER)
    for x in range(last - first):
        n = np.uint64(4 * (first + x))
        i = np.uint64(start) + np.uint64(down.firsts[x]) * wide + np.uint64(across.firsts[x])
        for row in range(4):
            high = share * down.weights[row, x]
            w = (
                high * across.weights[0, x], high * across.weights[1, x],
                high * across.weights[2, x], high * across.weights[3, x],
            )  # fmt: skip
            _add_four(flat, i, w, found, n)
            i += np.uint64(4) * wide


@compiled_in
def _add_four(
    flat: NDArray[np.float32],
    i: np.uint64,
    w: tuple[np.float32, np.float32, np.float32, np.float32],
    found: NDArray[np.float32],
    n: np.uint64,
) -> None:
    """Add four px in a row to one, by their weights."""
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    a = found[n] + _of_four(flat, i, w)
    b = found[n + one] + _of_four(flat, i + one, w)
    c = found[n + two] + _of_four(flat, i + two, w)
    d = found[n + three] + _of_four(flat, i + three, w)
    found[n], found[n + one], found[n + two], found[n + three] = a, b, c, d


@compiled_in
def _of_four(
    flat: NDArray[np.float32],
    i: np.uint64,
    w: tuple[np.float32, np.float32, np.float32, np.float32],
) -> np.float32:
    """A channel of four px in a row, by their weights."""
    return np.float32(
        w[0] * flat[i]
        + w[1] * flat[i + np.uint64(4)]
        + w[2] * flat[i + np.uint64(8)]
        + w[3] * flat[i + np.uint64(12)]
    )
