"""Waves that stand up: what of a water is seen at each px where crests hide what is behind them.

Each column of a picture is gone along from its near end to the horizon, and what rises above all that was nearer is seen
there, as in Wright, "A two-space solution to the hidden line problem for plotting functions of two variables", IEEE
Transactions on Computers C-22(1), 1973.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.sea.squares import (
    FIRST_STRONG,
    SECOND,
    SECOND_STRONG,
    TURNED,
    Along,
    Eye,
    Field,
    Finer,
    Layer,
    add_taken,
    find,
    in_sizes,
)
from handful.engine.picture import Region

_STRIP = 256
"""Columns that are gone along together."""

_MOST_ROWS = 16
"""Rows that are gone on by at once near by, where waves are much larger than rows."""

_MOST_COLUMNS, _A_PART = 4, 3
"""And heights are known only so many columns apart, where waves are so many times larger at the least than that."""

_FLAT = 0.25
"""Where the highest waves rise by less of a px, the water is flat."""

_NEAR_LIMIT, _FAR_LIMIT = 0.75, 0.15
"""No crest is seen higher than so much of the eye's height, and so much of how far off it is: the eye is not under water."""

LEAST_BELOW = 0.25
"""What is seen nearer to the horizon, in px, is as far off as what is so far below it."""

_LEAST_CUT = 1.0 / 64


class Heights(NamedTuple):
    """A square of heights in sizes that halve `(M,)`, each with its first row and column once more at its ends: where each
    begins, and how wide it is without these; and how high the highest crest of all layers can be."""

    heights: Field
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    highest: float


class Stood(NamedTuple):
    """What of a water is seen at each px `(H, W)`: how near it is (1 / m), and what part of a px that a crest cuts is of the
    row above (or below, if that is less than 0); and where each column ends above `(W,)`."""

    near: Field
    cuts: Field
    tops: Field


def heights_of(heights: Field) -> Heights:
    """Heights `(N, N)` on a square that repeats, N a power of two, in sizes that halve."""
    sizes, starts, levels = in_sizes(heights, _halved)
    highest = float(heights.max()) * (FIRST_STRONG + SECOND_STRONG * SECOND)
    return Heights(sizes, starts, np.array([len(level) for level in levels]), max(0.0, highest))


def _halved(finer: Field) -> Field:
    half = len(finer) // 2
    level: Field = cv2.resize(finer, (half, half), interpolation=cv2.INTER_AREA)
    return level.reshape(half, half)


def rises(heights: Heights, eye: Eye) -> float:
    """By how many px, in those of the full size, waves may be seen above the horizon."""
    return max(0.0, eye.lens * _FAR_LIMIT) if heights.highest > _NEAR_LIMIT * eye.high else 0.0


def stood_up(heights: Heights, eye: Eye, scale: float, region: Region) -> Stood:
    """What of waves so high is seen on a region, at a scale."""
    size = region.height, region.width
    stood = Stood(
        np.zeros(size, np.float32), np.zeros(size, np.float32), np.empty(region.width, np.float32)
    )
    first = region.left // _STRIP
    strips = -(-region.right // _STRIP) - first
    in_bands(
        _stand_strips, strips, first, region.left, region.top, scale, heights, eye, stood, band=1
    )
    return stood


@compiled
def _begins(bottom: int, scale: float, heights: Heights, eye: Eye) -> int:
    """The row of the canvas from which on what is nearer is hidden below a row, however high it is."""
    below = max(1.0, bottom / scale - eye.y)
    limited = (1.0 - _NEAR_LIMIT) * eye.high / (below / eye.lens + _FAR_LIMIT)
    nearest = (eye.high - min(heights.highest, _NEAR_LIMIT * eye.high)) * eye.lens / below
    if heights.highest > _NEAR_LIMIT * eye.high:
        nearest = limited
    row = (eye.y + eye.high * eye.lens / nearest) * scale
    return (int(row) // _MOST_ROWS + 1) * _MOST_ROWS


@compiled
def _stand_strips(
    first: int,
    last: int,
    begins: int,
    left: int,
    top: int,
    scale: float,
    heights: Heights,
    eye: Eye,
    stood: Stood,
) -> None:
    height, width = stood.near.shape
    a_row, horizon = 1.0 / (eye.lens * eye.high * scale), eye.y * scale
    cell, most = eye.side / heights.sides[0], heights.sides.shape[0] - 1
    flat_from = max(_FLAT * eye.high / max(heights.highest, 1e-9), LEAST_BELOW * scale)
    firsts, behind = np.empty(_STRIP + 1, np.int32), np.empty(2 * (_STRIP + 1), np.float32)
    fars, lifts = np.empty(_STRIP + 1, np.float32), np.empty(_STRIP + 1, np.float32)
    for strip in range(first, last):
        begin = (begins + strip) * _STRIP - left
        x0, x1 = max(0, begin), min(width, begin + _STRIP)
        line = _Line(
            np.full(x1 - x0, np.float32(height)), np.full(x1 - x0, np.float32(height)),
            np.full(x1 - x0, np.float32(height + top - horizon) * np.float32(a_row)),
            np.full(x1 - x0, height, np.int32),
        )  # fmt: skip
        row, was = _begins(height + top, scale, heights, eye), 0.0
        while True:
            below = row + 0.5 - horizon
            if below < flat_from:
                break
            near = below * a_row
            across, deep = 1.0 / (near * eye.lens * scale), a_row / (near * near)
            fine = max(across, deep) / cell
            apart = _MOST_COLUMNS if _A_PART * _MOST_COLUMNS * across < max(cell, deep) else 1
            n = _STRIP // apart + 1
            along = Along((left + begin + 0.5) / scale - eye.x, apart / scale)
            lifts[:n], fars[:n] = np.float32(0.0), np.float32(1.0 / near)
            _lift(heights, eye, 1.0, 0.0, FIRST_STRONG, fine, most, along, fars[:n], firsts[:n],
                  behind[: 2 * n].reshape(2, n), lifts[:n])  # fmt: skip
            _lift(heights, eye, SECOND, TURNED, SECOND_STRONG * SECOND, fine, most, along, fars[:n],
                  firsts[:n], behind[: 2 * n].reshape(2, n), lifts[:n])  # fmt: skip
            at, by = np.float32(row + 0.5 - top), np.float32(eye.lens * scale * near)
            limit = np.float32(_NEAR_LIMIT * eye.high + _FAR_LIMIT / near)
            is_done = _rise(
                x0, x0 - begin, apart, at, by, limit, np.float32(was), np.float32(near), lifts, line,
                stood,
            )  # fmt: skip
            if is_done:
                break
            was = near
            step = _MOST_ROWS
            while step > 1 and (2.0 * step * deep > cell or row % step):
                step //= 2
            row -= step
        _lie_flat(x0, np.float32(horizon - top), np.float32(a_row), line, stood)


class _Line(NamedTuple):
    """Where on the picture what was last gone over is seen in each column, which row it would be on, how near the highest
    that is seen is; and the first row that shows something."""

    last: Field
    tops: Field
    nears: Field
    rows: NDArray[np.int32]


@compiled
def _lift(
    heights: Heights,
    eye: Eye,
    small: float,
    turned: float,
    strong: float,
    fine: float,
    most: int,
    along: Along,
    fars: Field,
    firsts: NDArray[np.int32],
    behind: Field,
    lifts: Field,
) -> None:
    """Add how high a layer of waves is along a row."""
    level = min(most, int(max(0.0, math.log2(fine / small)) + 0.5))
    size = Finer(heights.starts[level], heights.sides[level])
    find(eye, size, Layer(small, turned), along, fars, firsts, behind)
    add_taken(heights.heights, size.side, firsts, behind, np.float32(strong), lifts)


@compiled
def _rise(
    x0: int,
    begins: int,
    apart: int,
    at: np.float32,
    by: np.float32,
    limit: np.float32,
    was: np.float32,
    near: np.float32,
    lifts: Field,
    line: _Line,
    stood: Stood,
) -> bool:
    """Show what rises above all that was nearer between one row of the water, of which some heights are known, and the next;
    whether none of the picture is left above it."""
    height, width = stood.near.shape
    half, zero, bottom = np.float32(0.5), np.float32(0.0), np.float32(height)
    share, hidden = np.float32(1.0 / apart), np.float32(0.01)
    flat, shift, seen = stood.near.reshape(-1), 0, 0
    while (1 << shift) < apart:
        shift += 1
    for x in range(np.uint64(line.rows.shape[0])):
        place = np.uint64(begins) + x
        whole = place >> np.uint64(shift)
        part = np.float32(np.int32(place - (whole << np.uint64(shift)))) * share
        lift = lifts[whole] + part * (lifts[whole + np.uint64(1)] - lifts[whole])
        now = at - by * min(limit, lift)
        last, top, r = line.last[x], line.tops[x], line.rows[x]
        line.last[x] = now
        seen += r > 0
        if now >= top or r <= 0:
            continue
        if was > zero:
            up = (was - near) / (last - now)
            if last > top + hidden and top < bottom:
                cut = int(top)
                above = top - np.float32(cut)
                stood.cuts[cut, x0 + np.int64(x)] = (
                    above if above <= half else above - np.float32(1.0)
                )
            while r > 0 and np.float32(r) - half >= now:
                r -= 1
                flat[np.uint64(r * width + x0) + x] = was - (last - np.float32(r) - half) * up
        line.rows[x], line.tops[x], line.nears[x] = r, now, near
    return seen == 0


@compiled
def _lie_flat(x0: int, horizon: np.float32, a_row: np.float32, line: _Line, stood: Stood) -> None:
    """Show flat water from what is seen of waves to the horizon, and end each column there or at its highest crest."""
    half = np.float32(0.5)
    least, highest = np.float32(LEAST_BELOW) * a_row, max(0, int(np.floor(horizon)))
    for x in range(line.rows.shape[0]):
        top, r = line.tops[x], line.rows[x]
        if top > horizon:
            while r > highest:
                r -= 1
                stood.near[r, x0 + x] = max(least, (np.float32(r) + half - horizon) * a_row)
            top = horizon
        elif r > 0 and np.float32(r) > top:
            stood.near[r - 1, x0 + x] = line.nears[x]
        stood.tops[x0 + x] = top


def mend_cuts(picture: Field, stood: Stood) -> None:
    """Where crests cut px `(H, W, C)`, lay what is before and behind them over each other by how much of each is seen."""
    flat = picture.reshape(len(picture), -1)
    in_bands(_mend_rows, picture.shape[1], flat, stood.cuts, picture.shape[2], band=_STRIP)


@compiled
def _mend_rows(first: int, last: int, flat: Field, cuts: Field, channels: int) -> None:
    least = np.float32(_LEAST_CUT)
    for r in range(cuts.shape[0]):
        for x in range(first, last):
            part = cuts[r, x]
            if abs(part) < least:
                continue
            other = r - 1 if part > np.float32(0.0) else r + 1
            if other < 0 or other >= cuts.shape[0] or abs(cuts[other, x]) >= least:
                continue
            for k in range(channels * x, channels * (x + 1)):
                flat[r, k] += abs(part) * (flat[other, k] - flat[r, k])
