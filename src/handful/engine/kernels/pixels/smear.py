"""Means along a line, a zoom or a turn, at any length for about the same cost.

The way is divided into a sample for each px of its longest part, and into one for each two px of
what is longer than 64, where nothing as small as that is left. They are taken in up to three
passes, each of which spreads what the one before has already spread: the mean of k means of k
samples is that of k squared. That holds because the three ways are one-parameter groups of affine
maps: going on by s and then by t is going on by s + t.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.pixels.resample import taken_straight
from handful.engine.kernels.pixels.ways import Affine, Way
from handful.engine.picture import Picture, Region, Tile, clear_tile, unset

_FEW = 8
_MANY = 64
_MOST_SAMPLES = 343
_WORTH_IT = 0.5
"""Where no more than this part of a way meets the picture, only that is gone along."""

_FARTHER = 1.25
"""How much longer than the longest way within a region one may be a little beyond it."""


def smeared(tile: Tile, way: Way, length: float, region: Region, fade: float = 0.0) -> Tile:
    """The mean of a picture along a way from parameter -1/2 to 1/2, on a region.

    `length` is the longest that the way is anywhere, in px. With `fade` the way goes from 0 to 1
    instead, and what is farther along it counts less, by e to the -`fade` at its end. Of a way that leads far
    beyond the picture, only the part is gone along on which the two meet.
    """
    if region.empty or tile.region.empty:
        return clear_tile(region)
    whole = (0.0, 1.0) if fade else (-0.5, 0.5)
    begin, end = way.meeting(region, tile.region.grown(2), whole)
    if end <= begin:
        return clear_tile(region)
    held, share = tile.region, end - begin
    if share > _WORTH_IT:
        begin, end, share = *whole, 1.0
    first = begin if fade else 0.5 * (begin + end)
    if share < 1.0:
        about = (begin - first, end - first)
        length = max(way.long(region, span) for span in ((begin, end), about))
        held = _carried(held, way.at(-first))
    passes, taps = passes_and_taps(length)
    count = taps**passes
    spacing = 1.0 / count
    # A pass comes no farther than its own samples and those before it, and is asked no farther off than those after it.
    part = 1.0 if fade else 0.5
    reaches = [
        math.ceil(_FARTHER * part * length * (taps - 1) * spacing * taps**number) + 2
        for number in range(passes)
    ]
    for number in range(passes):
        step = share * spacing * taps**number
        middle = 0.0 if fade else 0.5 * (taps - 1)
        places = [(i - middle) * step for i in range(taps)]
        weights = np.array([math.exp(-fade * place) for place in places])
        weights /= weights.sum()
        if number == 0:
            weights *= _counting(fade, begin, end)
            ahead = first + (0.5 * share * spacing if fade else 0.0)
            places = [ahead + place for place in places]
        maps = np.array([way.at(place) for place in places], np.float64)
        are_shifts = bool(np.all(maps[:, (0, 1, 3, 4)] == (1, 0, 0, 1)))
        held = held.grown(reaches[number])
        area = region
        if number < passes - 1:
            area = held.meet(region.grown(sum(reaches[number + 1 :])))
        if area.empty:
            return clear_tile(region)
        result = unset(area)
        in_bands(
            _mean_rows, area.height, np.ascontiguousarray(tile.pixels), tile.region.left,
            tile.region.top, maps, weights.astype(np.float32), are_shifts, area.left, area.top, result,
        )  # fmt: skip
        tile = Tile(result, area)
    return tile


def passes_and_taps(length: float) -> tuple[int, int]:
    """In how many passes a way of so many px is gone along, and how many samples each of them takes."""
    fine = min(length, _MANY)
    wanted = min(_MOST_SAMPLES, max(2, math.ceil(fine + (length - fine) / 2)))
    passes = 1 if wanted <= _FEW else 2 if wanted <= _MANY else 3
    return passes, math.ceil(wanted ** (1 / passes) - 1e-9)


def _carried(region: Region, by: Affine) -> Region:
    """All that a region covers once a map has carried it."""
    a, b, c, d, e, f = by
    corners = [(u, v) for u in region[0::2] for v in region[1::2]]
    across = [a * u + b * v + c for u, v in corners]
    down = [d * u + e * v + f for u, v in corners]
    return Region(
        math.floor(min(across)), math.floor(min(down)), math.ceil(max(across)), math.ceil(max(down))
    )


def _counting(fade: float, begin: float, end: float) -> float:
    """How much a part of a way counts of the whole: of one that fades from 0 to 1 by e to the -`fade`."""
    if fade < 1e-9:
        return end - begin
    return (math.exp(-fade * begin) - math.exp(-fade * end)) / (1 - math.exp(-fade))


@compiled
def _mean_rows(
    first: int,
    last: int,
    source: Picture,
    source_left: int,
    source_top: int,
    maps: NDArray[np.float64],
    weights: NDArray[np.float32],
    are_shifts: bool,
    left: int,
    top: int,
    result: Picture,
) -> None:
    flat = source.reshape(-1)
    table = np.array([[0, 0, 0, source.shape[1], source.shape[0]]])
    if are_shifts:
        for y in range(first, last):
            _mean_of_shifted(
                table, flat, maps, weights, left - source_left, y + top - source_top, result[y]
            )
        return
    lines = np.empty((4, maps.shape[0]))
    turns = maps[0, 3] != 0.0
    tall, wide = (_BLOCK, _BLOCK) if turns else (1, result.shape[1])
    for block in range(first, last, tall):
        for begin in range(0, result.shape[1], wide):
            for y in range(block, min(last, block + tall)):
                _mean_of_mapped(
                    table, flat, maps, weights, left, y + top, source_left, source_top, begin, min(result.shape[1], begin + wide), lines, result[y],
                )  # fmt: skip


_BLOCK = 64
"""px; what a square of them comes from stays near the processor, also where it is turned."""


@compiled
def _mean_of_mapped(
    table: NDArray[np.int64],
    flat: NDArray[np.float32],
    maps: NDArray[np.float64],
    weights: NDArray[np.float32],
    left: int,
    top: int,
    source_left: int,
    source_top: int,
    begin: int,
    end: int,
    lines: NDArray[np.float64],
    line: Picture,
) -> None:
    """Part of a row of means, each of places under some maps; `left` and `top` are the row's on the canvas."""
    height, width = table[0, 4], table[0, 3]
    right, bottom = float(width - 1), float(height - 1)
    count = maps.shape[0]
    us, vs, across, down = lines[0], lines[1], lines[2], lines[3]
    px, py = left + 0.5, top + 0.5
    for k in range(count):
        across[k], down[k] = maps[k, 0], maps[k, 3]
        us[k] = across[k] * px + maps[k, 1] * py + maps[k, 2] - source_left - 0.5
        vs[k] = down[k] * px + maps[k, 4] * py + maps[k, 5] - source_top - 0.5
    line[begin:end] = np.float32(0.0)
    for k in range(count):
        weight = weights[k]
        inner, outer = _inside(us[k], across[k], right, begin, end)
        inner, outer = _inside(vs[k], down[k], bottom, inner, outer)
        add_taps(flat, line, weight, us[k], across[k], vs[k], down[k], width, inner, outer)
        for first, last in ((begin, inner), (max(inner, outer), end)):
            for x in range(first, last):
                u, v = us[k] + across[k] * x, vs[k] + down[k] * x
                if u > -1.0 and v > -1.0 and u < width and v < height:
                    e, f, g, h = taken_straight(u + 0.5, v + 0.5, 0, table, flat)
                    line[x, 0] += e * weight
                    line[x, 1] += f * weight
                    line[x, 2] += g * weight
                    line[x, 3] += h * weight


@compiled
def _inside(start: float, pace: float, end: float, first: int, last: int) -> tuple[int, int]:
    """Of px from one up to another those that are surely at 0 up to an end, where px 0 is at `start` and each goes on
    by a pace. What is nearer to an end than floats may be wrong is left to be looked at by itself: a sample there
    would reach beyond the picture."""
    end -= 1.0
    if pace == 0.0:
        return (first, last) if 0.0 <= start < end else (last, last)
    low, high = -start / pace, (end - start) / pace
    if low > high:
        low, high = high, low
    inner = int(np.ceil(min(max(low + 1.0, float(first)), float(last))))
    outer = int(np.floor(min(max(high - 1.0, float(first)), float(last))))
    return (inner, outer) if inner < outer else (last, last)


@compiled
def add_taps(
    flat: NDArray[np.float32],
    line: Picture,
    weight: np.float32,
    u0: float,
    across: float,
    v0: float,
    down: float,
    width: int,
    first: int,
    last: int,
) -> None:
    """To px of a row what is at their places within a picture, straight between its px, by a weight."""
    one, four, stride = np.uint64(1), np.uint64(4), np.uint64(4 * width)
    begins, falls = np.float32(u0), np.float32(v0)
    pace, fall = np.float32(across), np.float32(down)
    for x in range(first, last):
        u, v = begins + pace * np.float32(x), falls + fall * np.float32(x)
        column, row = np.uint32(u), np.uint32(v)
        s, t = u - np.float32(column), v - np.float32(row)
        w11 = s * t * weight
        w01, w10 = s * weight - w11, t * weight - w11
        w00 = weight - w01 - w10 - w11
        i = np.uint64(row) * stride + np.uint64(column) * four
        j = i + stride
        e = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
        i, j = i + one, j + one
        f = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
        i, j = i + one, j + one
        g = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
        i, j = i + one, j + one
        h = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
        line[x, 0] += e
        line[x, 1] += f
        line[x, 2] += g
        line[x, 3] += h


@compiled
def _mean_of_shifted(
    table: NDArray[np.int64],
    flat: NDArray[np.float32],
    maps: NDArray[np.float64],
    weights: NDArray[np.float32],
    left: int,
    y: int,
    line: Picture,
) -> None:
    """A row of means of moved pictures: each has the same four weights for all of the row."""
    height, width = table[0, 4], table[0, 3]
    line[:] = np.float32(0.0)
    for k in range(maps.shape[0]):
        u, v, weight = left + maps[k, 2], y + maps[k, 5], weights[k]
        if v <= -1.0 or v >= height:
            continue
        begin, end = max(0, int(np.floor(-u))), min(line.shape[0], int(np.ceil(width - u)))
        inner, outer = begin, begin
        if v >= 0.0 and v < height - 1:
            inner = max(begin, int(np.ceil(-u)))
            outer = max(inner, min(end, int(np.ceil(width - 1 - u))))
        for x in range(begin, end):
            if inner <= x < outer:
                continue
            a, b, c, d = taken_straight(u + x + 0.5, v + 0.5, 0, table, flat)
            line[x, 0] += a * weight
            line[x, 1] += b * weight
            line[x, 2] += c * weight
            line[x, 3] += d * weight
        if outer <= inner:
            continue
        column, row = int(np.floor(u + inner)), int(np.floor(v))
        s, t = np.float32(u + inner - column), np.float32(v - row)
        w11 = s * t * weight
        w01, w10 = s * weight - w11, t * weight - w11
        w00 = weight - w01 - w10 - w11
        count, place = 4 * (outer - inner), 4 * (row * width + column)
        above = flat[place : place + count + 4]
        below = flat[place + 4 * width : place + 4 * width + count + 4]
        out = line[inner:outer].reshape(-1)
        for i in range(count):
            out[i] += w00 * above[i] + w01 * above[i + 4] + w10 * below[i] + w11 * below[i + 4]
