"""Patterns: octaves of noise, laid on the canvas, warped by themselves, the small carried by the large.

Perlin, "An image synthesizer", SIGGRAPH 1985, for sums of octaves; Musgrave, Kolb and Mace, "The
synthesis and rendering of eroded fractal terrains", SIGGRAPH 1989, for ridges; Perlin and Neyret,
"Flow noise", SIGGRAPH 2001 sketches, for small waves that the large ones carry along.
"""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.angle import angle_of
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.waves import (
    CACHED,
    NO_CELL,
    Cells,
    Px,
    Row,
    Rows,
    Spans,
    cells_row,
    gradient_row,
    simplex_row,
    spans_along,
    spans_of,
    value_row,
)
from handful.engine.kernels.compiled import compiled_along, in_bands
from handful.engine.picture import Region

Pattern = Literal[
    "gradient", "simplex", "value", "ridged", "billowed",
    "cells", "far cells", "cell borders", "cell values",
]  # fmt: skip


class _Known(NamedTuple):
    """Of one octave of a pattern: its number in the kernel, its mean and its standard deviation, and
    the least and the most that it may be."""

    code: int
    mean: float
    deviation: float
    least: float
    most: float


_GRADIENT, _SIMPLEX, _VALUE, _RIDGED, _BILLOWED, _CELLS, _FAR, _BORDERS, _PATCHES = range(9)

_KNOWN: dict[Pattern, _Known] = {
    "gradient": _Known(_GRADIENT, 0.0, 0.2702, -1.04, 1.04),
    "simplex": _Known(_SIMPLEX, 0.0, 0.0433, -0.22, 0.22),
    "value": _Known(_VALUE, 0.0, 0.4004, -1.0, 1.0),
    "ridged": _Known(_RIDGED, 0.6321, 0.2294, 0.0, 1.0),
    "billowed": _Known(_BILLOWED, 0.2202, 0.1569, 0.0, 1.04),
    "cells": _Known(_CELLS, 0.419, 0.1805, 0.0, 1.42),
    "far cells": _Known(_FAR, 0.6997, 0.1635, 0.0, 1.81),
    "cell borders": _Known(_BORDERS, 0.2809, 0.2049, 0.0, 1.81),
    "cell values": _Known(_PATCHES, 0.5, 0.2887, 0.0, 1.0),
}
"""Measured over 30 million places at 30 moments, but for what follows from the definition: of value
noise, of values of cells, and where they end."""

THIRD = 1.0 / 3.0
"""The standard deviation of a finished pattern: all but 3 in 1,000 places lie within -1 to 1."""

_LEAST_CELL, _WHOLE_CELL = 1.5, 2.0
"""px of a cell below which an octave is left out, and from which on it is there as far as px, which are
means over their area, can hold it."""


class Octaves(NamedTuple):
    """How often a pattern is laid over itself: `waves`, each `finer` times finer and `gain` times
    as strong as the one before, turned by so many radians; each boils `boil` further on, returning
    after so many cycles (0 is never), and drifts (in cells of the first) `hurry` times as far."""

    waves: int
    gain: float
    finer: float
    turn: float
    boil: float
    returns: int
    drift: tuple[float, float]
    hurry: float


class Laid(NamedTuple):
    """How a pattern lies on the canvas: `about` a place in px, in cells of `size` px along and across a
    direction in radians.

    `flat`; on a `plane` seen from above, whose horizon is at the place and which is as large as it is
    measured `near` px below it; or in `rings`, so many cells round about the place.
    """

    way: Literal["flat", "plane", "rings"]
    about: tuple[float, float]
    size: tuple[float, float]
    direction: float
    near: float
    rounds: int


class Warping(NamedTuple):
    """How often a pattern is warped by noise of its own size, and by how many cells."""

    times: int
    amount: float


Places = NDArray[np.float64]
Room = tuple[Cells, Spans, Rows, Rows, Rows, Cells, Rows]
"""What an octave works in: cells, their spans, places within them, slopes, distances, and what is
remembered."""

Line = NDArray[np.float64]
"""Where a row of px goes on evenly, in cells of the first octave: its place at px 0 of the canvas, across
and down, and how far each px goes on."""

_LEAST_PX = 1e-6
"""Cells that a px is wide at the least, to divide by."""

_FARTHEST = 1e4
"""So many times as far as near, a plane is no more seen."""

_WAYS = {"flat": 0, "plane": 1, "rings": 2, "path": 3}
_OCTAVE = 12
"""Numbers that the kernel knows of each octave."""


def pattern_on(
    region: Region,
    scale: float,
    pattern: Pattern,
    octaves: Octaves,
    laid: Laid,
    warping: Warping,
    carried: float,
    keys: tuple[Key, ...],
    along: NDArray[np.float32] | None = None,
) -> NDArray[np.float32]:
    """Fields of a pattern `(H, W, N)` at the px of a region at a scale, one for each of `keys`.

    Each has a mean of 0 and a standard deviation of a third. `carried` is how far, in cells, the
    slopes of the waves before carry the next one. With `along` `(H, W, 2)`, px along and across a
    path at each px, it is laid along that. Where it has no place, beyond a horizon, it is -inf.
    """
    field = np.empty((region.height, region.width, len(keys)), np.float32)
    way = _WAYS[laid.way] if along is None else _WAYS["path"]
    beside = np.zeros((1, 1, 2), np.float32) if along is None else along
    placing = np.array(
        [
            way, *laid.about, *laid.size, math.cos(laid.direction), math.sin(laid.direction),
            laid.near, laid.rounds, scale,
        ]
    )  # fmt: skip
    known = _KNOWN[pattern]
    strength = THIRD / (known.deviation * math.sqrt(_energy(octaves)))
    for n, key in enumerate(keys):
        in_bands(
            _pattern_rows, region.height, region.left, region.top, known.code, known.mean,
            strength, _table(octaves, key, way), placing, warping.times, warping.amount,
            _table(_for_warping(octaves), key, way), carried, beside, field[..., n],
        )  # fmt: skip
    return field


def bounds_of(pattern: Pattern, octaves: Octaves) -> tuple[float, float]:
    """The least and the most that a field of a pattern may be."""
    known = _KNOWN[pattern]
    total = sum(octaves.gain**i for i in range(octaves.waves))
    strength = THIRD * total / (known.deviation * math.sqrt(_energy(octaves)))
    return (known.least - known.mean) * strength, (known.most - known.mean) * strength


def _energy(octaves: Octaves) -> float:
    return sum(octaves.gain ** (2 * i) for i in range(octaves.waves))


def _for_warping(octaves: Octaves) -> Octaves:
    """The waves that warp: the first few, of a gradient."""
    return octaves._replace(waves=min(3, octaves.waves))


def _table(octaves: Octaves, key: Key, way: int) -> NDArray[np.float64]:
    """A row of numbers for each octave. Rings close only in whole cells, and so are never turned."""
    rows = np.zeros((octaves.waves, _OCTAVE))
    is_round = way == _WAYS["rings"]
    for i in range(octaves.waves):
        frequency = octaves.finer**i
        turn = 0.0 if is_round else octaves.turn * i
        pace = 1 + i // 2
        hurried = octaves.hurry**i
        rows[i] = (
            frequency, math.cos(turn), math.sin(turn), 17.31 * i + 0.37, 7.93 * i + 0.71,
            octaves.boil * pace + 0.47 * i + 0.5, octaves.returns * pace, octaves.gain**i,
            octaves.drift[0] * hurried, octaves.drift[1] * hurried, (key.first + 7919 * i) & 0xFFFFFFFF,
            key.second,
        )  # fmt: skip
    return rows


@compiled_along
def _lay_row(
    y: float,
    px: Px,
    placing: NDArray[np.float64],
    beside: Row,
    line: Line,
    u: Places,
    v: Places,
    foot: Row,
) -> None:
    """The places of a row of px in cells of the first octave, as a line too where they are on one, and how
    many cells a px is wide there.

    Where there is no place a px is infinitely wide.
    """
    way, x0, y0 = int(placing[0]), placing[1], placing[2]
    along, across, cosine, sine = placing[3], placing[4], placing[5], placing[6]
    near, rounds, size = placing[7], placing[8], 1.0 / placing[9]
    finest = size / min(along, across)
    a, b, c, d = cosine / along, sine / along, sine / across, cosine / across
    dy = y * size - y0
    if way == 2:
        turned = math.atan2(sine, cosine)
        for x in range(u.shape[0]):
            dx = (px[x] + 0.5) * size - x0
            away = math.sqrt(dx * dx + dy * dy)
            u[x] = (angle_of(dy, dx) - turned) * rounds / (2.0 * math.pi)
            v[x] = away / across
            wide = max(rounds / (2.0 * math.pi * max(away, 1e-3)), 1.0 / across)
            foot[x] = np.float32(wide * size)
        return
    if way == 3:
        for x in range(u.shape[0]):
            dx, down = beside[x, 0] * size, beside[x, 1] * size
            u[x], v[x] = a * dx + b * down, d * down - c * dx
        foot[:] = np.float32(finest)
        return
    by, wide = 1.0, 1.0
    if way == 1:
        by = near / dy if dy * near > 0.0 else np.inf
        wide = max(by, by * by)
        if not by < _FARTHEST:
            by, wide = 0.0, np.inf
        dy = -near * by
    begins, each = (0.5 * size - x0) * by, size * by
    line[0], line[1] = a * begins + b * dy, d * dy - c * begins
    line[2], line[3] = a * each, -c * each
    for x in range(u.shape[0]):
        u[x], v[x] = line[0] + px[x] * line[2], line[1] + px[x] * line[3]
    foot[:] = np.float32(wide * finest)


@compiled_along
def _octave_row(
    pattern: int,
    row: NDArray[np.float64],
    rounds: int,
    px: Px,
    line: Line,
    is_line: bool,
    u: Places,
    v: Places,
    foot: Row,
    out: Row,
    room: Room,
    with_slopes: bool,
) -> None:
    """One octave at places of the first, on a line or any, where a px is so many of its cells wide."""
    cells, spans, within, slopes, found, known, corners = room
    frequency, cosine, sine = row[0], row[1], row[2]
    round_x = int(np.floor(rounds * frequency + 0.5)) if rounds > 0 else 0
    finer = round_x / rounds if rounds > 0 else frequency
    a, b = cosine * finer, sine * finer
    c, d = sine * frequency, cosine * frequency
    e, f = row[3] - a * row[8] + b * row[9], row[4] - c * row[8] - d * row[9]
    if pattern == _SIMPLEX:
        a, b, e = a + 0.5 * c, b - 0.5 * d, e + 0.5 * f
    if is_line:
        first = (a * line[0] - b * line[1] + e, c * line[0] + d * line[1] + f)
        each = (a * line[2] - b * line[3], c * line[2] + d * line[3])
        count = spans_along(first, each, px, within, spans)
    else:
        columns, rows, p, q = cells[0], cells[1], within[0], within[1]
        for x in range(u.shape[0]):
            across, down = a * u[x] - b * v[x] + e, c * u[x] + d * v[x] + f
            i, j = np.floor(across), np.floor(down)
            columns[x], rows[x] = np.int32(i), np.int32(j)
            p[x], q[x] = np.float32(across - i), np.float32(down - j)
        count = spans_of(cells, spans)
    octave = (row[5], int(row[10]), int(row[11]), round_x, int(row[6]))
    if pattern == _SIMPLEX:
        simplex_row(count, spans, within, octave, out, slopes, with_slopes, known, corners)
    elif pattern == _VALUE:
        value_row(count, spans, within, octave, out, slopes, with_slopes, known, corners)
    elif pattern <= _BILLOWED:
        gradient_row(count, spans, within, octave, out, slopes, with_slopes, known, corners)
    else:
        cells_row(count, spans, within, octave, found, pattern == _PATCHES, known, corners)
    one = np.float32(1.0)
    if pattern == _RIDGED:
        for x in range(out.shape[0]):
            ridge = max(np.float32(0.0), one - abs(out[x]))
            out[x] = ridge * ridge
    elif pattern == _BILLOWED:
        for x in range(out.shape[0]):
            out[x] = abs(out[x])
    elif pattern == _CELLS:
        for x in range(out.shape[0]):
            out[x] = np.sqrt(found[0, x])
    elif pattern == _FAR:
        for x in range(out.shape[0]):
            out[x] = np.sqrt(found[1, x])
    elif pattern == _BORDERS:
        for x in range(out.shape[0]):
            out[x] = np.sqrt(found[1, x]) - np.sqrt(found[0, x])
    elif pattern == _PATCHES:
        for x in range(out.shape[0]):
            apart = np.sqrt(found[1, x]) - np.sqrt(found[0, x])
            wide = np.float32(max(_LEAST_PX, foot[x] * frequency))
            part = min(one, np.float32(0.5) + apart / (np.float32(2.0) * wide))
            out[x] = found[3, x] + (found[2, x] - found[3, x]) * part


@compiled_along
def _pattern_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    pattern: int,
    mean: float,
    strength: float,
    table: NDArray[np.float64],
    placing: NDArray[np.float64],
    times: int,
    warped_by: float,
    warps: NDArray[np.float64],
    carried: float,
    beside: NDArray[np.float32],
    field: NDArray[np.float32],
) -> None:
    width, count, warping = field.shape[1], table.shape[0], warps.shape[0]
    way = int(placing[0])
    rounds = int(placing[8]) if way == 2 else 0
    is_even, is_line = way != 2, way < 2
    line = np.empty(4)
    px = np.arange(left, left + width).astype(np.float64)
    u, v, p, q = np.empty(width), np.empty(width), np.empty(width), np.empty(width)
    foot, out, total = _line(width), _line(width), _line(width)
    cells, spans = np.empty((2, width), np.int32), np.empty((3, width + 1), np.int32)
    within = np.empty((2, width), np.float32)
    slopes, found = np.zeros((2, width), np.float32), np.empty((4, width), np.float32)
    known = np.full((count + 2 * times * warping, CACHED, 2), NO_CELL, np.int32)
    corners = np.empty((count + 2 * times * warping, CACHED, 3), np.float32)
    share = _line(width)
    for y in range(first, last):
        _lay_row(y + top + 0.5, px, placing, beside[min(y, beside.shape[0] - 1)], line, u, v, foot)
        for turn in range(2 * times):
            if turn % 2 == 0:
                p[:], q[:] = u, v
            reached = v if turn % 2 else u
            for i in range(warping):
                row = warps[i].copy()
                row[10] = (row[10] + 104729 * (turn + 1)) % 4294967296.0
                n = count + turn * warping + i
                room = (cells, spans, within, slopes, found, known[n], corners[n])
                on_line = is_line and turn < 2
                _octave_row(_GRADIENT, row, rounds, px, line, on_line, p, q, foot, out, room, False)
                _share_row(foot, row[0], is_even, share)
                by = warped_by * row[7]
                for x in range(width):
                    reached[x] += by * out[x] * share[x]
        total[:] = np.float32(0.0)
        if not foot[0] < np.float32(np.inf):
            field[y, :] = np.float32(-np.inf)
            continue
        for i in range(count):
            row = table[i]
            _share_row(foot, row[0], is_even, share)
            if is_even and share[0] == np.float32(0.0):
                break
            with_slopes = carried != 0.0 and i + 1 < count and pattern <= _BILLOWED
            room = (cells, spans, within, slopes, found, known[i], corners[i])
            on_line = is_line and times == 0 and (i == 0 or carried == 0.0)
            _octave_row(pattern, row, rounds, px, line, on_line, u, v, foot, out, room, with_slopes)
            weight, middle = np.float32(row[7]), np.float32(mean)
            for x in range(width):
                total[x] += weight * share[x] * (out[x] - middle)
            if with_slopes:
                by = carried * row[7] / row[0]
                a, b = by * row[1], by * row[2]
                for x in range(width):
                    across, down = slopes[0, x] * share[x], slopes[1, x] * share[x]
                    u[x] += a * across + b * down
                    v[x] += a * down - b * across
        for x in range(width):
            field[y, x] = total[x] * np.float32(strength)


@compiled_along
def _line(width: int) -> Row:
    return np.empty(width, np.float32)


@compiled_along
def _share_row(foot: Row, frequency: float, is_even: bool, share: Row) -> None:
    """How much of an octave there is, by how many of its cells a px is wide."""
    finest = np.float32(frequency)
    if is_even:
        share[:] = _share_of(foot[0] * finest)
        return
    for x in range(foot.shape[0]):
        share[x] = _share_of(foot[x] * finest)


@compiled_along
def _share_of(wide: np.float32) -> np.float32:
    """How much of an octave is there, by how many of its cells a px is wide: what the mean over a px
    leaves of a wave of that size, sin(a) / a as far as float32 tells."""
    one = np.float32(1.0)
    cell = one / max(wide, np.float32(1e-12))
    part = (cell - np.float32(_LEAST_CELL)) / np.float32(_WHOLE_CELL - _LEAST_CELL)
    square = (np.float32(math.pi) * min(wide, one)) ** 2
    held = one - square * np.float32(1.0 / 110.0)
    for by in (72.0, 42.0, 20.0, 6.0):
        held = one - square * np.float32(1.0 / by) * held
    return min(one, max(np.float32(0.0), part)) * held
