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


def laid_on_rows(square: Square, rows: Rows, result: Picture) -> None:
    """Fill a picture `(H, W, 4)` with a square that repeats, laid so."""
    width = result.shape[1]
    beside = np.hypot(rows.across_beside, rows.down_beside)
    below = _longest_below(rows, width)
    looks = np.clip(np.ceil(below / np.maximum(beside, 1.0) - 0.5), 1, _MOST_LOOKS)
    wide = np.maximum(beside, below / looks)
    levels = np.clip(np.log2(np.maximum(wide, 1.0)), 0, math.log2(len(square)))
    shown = levels[rows.strong > 0]
    deepest = math.ceil(shown.max()) if len(shown) else 0
    starts, sides, flat = _levels_of(square, deepest + 1)
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
    square: Square, count: int
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.float32]]:
    """A square and its halves, each continued round its edge, one after the other: where each begins, how wide it is, and
    all of them."""
    levels = [square]
    while len(levels) < count:
        last = levels[-1]
        levels.append(
            np.float32(0.25)
            * (last[::2, ::2] + last[1::2, ::2] + last[::2, 1::2] + last[1::2, 1::2])
        )
    sides = np.array([len(level) for level in levels], np.int64)
    sizes = 4 * (sides + _BEFORE + _AFTER) ** 2
    starts = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64)
    flat = np.empty(starts[-1], np.float32)
    for level, start, size, side in zip(levels, starts, sizes, sides, strict=False):
        wide = side + _BEFORE + _AFTER
        round_it = flat[start : start + size].reshape(wide, wide, 4)
        own = slice(_BEFORE, _BEFORE + side)
        round_it[own, own] = level
        for to, whence in ((0, side), (side + 1, 1), (side + 2, 2 if side > 1 else 1)):
            round_it[own, to] = round_it[own, whence]
        for to, whence in ((0, side), (side + 1, 1), (side + 2, 2 if side > 1 else 1)):
            round_it[to] = round_it[whence]
    return starts[:-1], sides, flat


Weights = tuple[np.float32, np.float32, np.float32, np.float32]


@compiled
def _weights(t: np.float32) -> Weights:
    """How much each of four places in a row counts for one that is `t` behind the second."""
    one, sixth = np.float32(1.0), np.float32(1.0 / 6.0)
    s = one - t
    first, last = sixth * s * s * s, sixth * t * t * t
    third = sixth + np.float32(0.5) * t * (one + t * s)
    return first, one - first - third - last, third, last


@compiled_in
def _of_four(flat: NDArray[np.float32], i: np.uint64, w: Weights) -> np.float32:
    """A channel of four px in a row, by their weights."""
    return np.float32(
        w[0] * flat[i]
        + w[1] * flat[i + np.uint64(4)]
        + w[2] * flat[i + np.uint64(8)]
        + w[3] * flat[i + np.uint64(12)]
    )


@compiled_in
def _add_four(
    flat: NDArray[np.float32], i: np.uint64, w: Weights, found: NDArray[np.float32], n: np.uint64
) -> None:
    """Add four px in a row to one, by their weights."""
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    a = found[n] + _of_four(flat, i, w)
    b = found[n + one] + _of_four(flat, i + one, w)
    c = found[n + two] + _of_four(flat, i + two, w)
    d = found[n + three] + _of_four(flat, i + three, w)
    found[n], found[n + one], found[n + two], found[n + three] = a, b, c, d


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
    is_along = not rows.down_beside[first:last].any() and not rows.down_askew[first:last].any()
    block = width if is_along else _BLOCK
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
                    if is_along:
                        _mix_line(flat, start, side, v, np.float32(share), line)
                        _along(line, side, u, du, width, found)
                    else:
                        _aslant(
                            flat, start, side, u, v, du, dv, np.float32(share), left, right, found
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
    whole = math.floor(v)
    wide = 4 * (side + _BEFORE + _AFTER)
    w0, w1, w2, w3 = _weights(np.float32(v - whole))
    w0, w1, w2, w3 = share * w0, share * w1, share * w2, share * w3
    a = np.uint64(start + (int(whole) & (side - 1)) * wide)
    b, c, d = a + np.uint64(wide), a + np.uint64(2 * wide), a + np.uint64(3 * wide)
    for i in range(np.uint64(wide)):
        line[i] = w0 * flat[a + i] + w1 * flat[b + i] + w2 * flat[c + i] + w3 * flat[d + i]


@compiled
def _along(
    line: NDArray[np.float32],
    side: int,
    u: float,
    du: float,
    width: int,
    found: NDArray[np.float32],
) -> None:
    """Add what a row of the picture sees that goes along a row of the square."""
    for x in range(width):
        place = u + x * du
        whole = math.floor(place)
        w = _weights(np.float32(place - whole))
        i, n = np.uint64(4 * (int(whole) & (side - 1))), np.uint64(4 * x)
        _add_four(line, i, w, found, n)


@compiled
def _aslant(
    flat: NDArray[np.float32],
    start: int,
    side: int,
    u: float,
    v: float,
    du: float,
    dv: float,
    share: np.float32,
    first: int,
    last: int,
    found: NDArray[np.float32],
) -> None:
    """The same for some px of one that goes across its rows."""
    below = np.uint64(4 * (side + _BEFORE + _AFTER))
    for x in range(first, last):
        across, down = u + x * du, v + x * dv
        left, top = math.floor(across), math.floor(down)
        w = _weights(np.float32(across - left))
        h = _weights(np.float32(down - top))
        n = np.uint64(4 * x)
        i = np.uint64(start + 4 * (int(left) & (side - 1))) + below * np.uint64(
            int(top) & (side - 1)
        )
        for row in range(4):
            high = share * h[row]
            _add_four(flat, i, (high * w[0], high * w[1], high * w[2], high * w[3]), found, n)
            i += below
