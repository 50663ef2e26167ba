"""Means along a line, a zoom or a turn, at any length for about the same cost.

The way is divided into as many samples as the longest of it has px. They are taken in up to three
passes, each of which spreads what the one before has already spread: the mean of k means of k
samples is that of k squared. That holds because the three ways are one-parameter groups of affine
maps: going on by s and then by t is going on by s + t.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Region, Tile, clear_tile, unset

Affine = tuple[float, float, float, float, float, float]
"""a, b, c, d, e, f: x goes to a x + b y + c, y to d x + e y + f."""

Way = Callable[[float], Affine]
"""Where a px goes along the way, by a parameter."""

_FEW = 8
_MANY = 64
_MOST_SAMPLES = 512


def straight(dx: float, dy: float) -> Way:
    """On by dx, dy at parameter 1."""
    return lambda t: (1.0, 0.0, dx * t, 0.0, 1.0, dy * t)


def zoom(x: float, y: float, rate: float) -> Way:
    """Away from x, y, e to the `rate` times as far at parameter 1."""

    def at(t: float) -> Affine:
        by = math.exp(rate * t)
        return by, 0.0, x - by * x, 0.0, by, y - by * y

    return at


def turn(x: float, y: float, radians: float) -> Way:
    """Around x, y, by `radians` at parameter 1."""

    def at(t: float) -> Affine:
        cos, sin = math.cos(radians * t), math.sin(radians * t)
        return cos, -sin, x - cos * x + sin * y, sin, cos, y - sin * x - cos * y

    return at


def smeared(tile: Tile, way: Way, length: float, region: Region, fade: float = 0.0) -> Tile:
    """The mean of a picture along a way from parameter -1/2 to 1/2, on a region.

    `length` is the longest that the way is anywhere, in px. With `fade` the way goes from 0 to 1
    instead, and what is farther along it counts less, by e to the -`fade` at its end.
    """
    if region.empty or tile.region.empty:
        return clear_tile(region)
    wanted = min(_MOST_SAMPLES, max(2, math.ceil(length)))
    passes = 1 if wanted <= _FEW else 2 if wanted <= _MANY else 3
    taps = math.ceil(wanted ** (1 / passes) - 1e-9)
    count = taps**passes
    spacing = 1.0 / count
    for turn_ in range(passes):
        step = spacing * taps**turn_
        middle = 0.0 if fade else 0.5 * (taps - 1)
        places = [(i - middle) * step for i in range(taps)]
        if fade and turn_ == 0:
            places = [place + 0.5 * spacing for place in places]
        weights = np.array([math.exp(-fade * place) for place in places])
        weights /= weights.sum()
        maps = np.array([way(place) for place in places], np.float64)
        result = unset(region)
        in_bands(
            _mean_rows, region.height, np.ascontiguousarray(tile.pixels), tile.region.left,
            tile.region.top, maps, weights.astype(np.float32), region.left, region.top, result,
        )  # fmt: skip
        tile = Tile(result, region)
    return tile


@compiled
def _mean_rows(
    first: int,
    last: int,
    source: Picture,
    source_left: int,
    source_top: int,
    maps: NDArray[np.float64],
    weights: NDArray[np.float32],
    left: int,
    top: int,
    result: Picture,
) -> None:
    height, width = source.shape[0], source.shape[1]
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in range(first, last):
        line = result[y]
        line[:] = zero
        for k in range(maps.shape[0]):
            m, weight = maps[k], weights[k]
            px, py = left + 0.5, y + top + 0.5
            u = m[0] * px + m[1] * py + m[2] - source_left - 0.5
            v = m[3] * px + m[4] * py + m[5] - source_top - 0.5
            across, down = m[0], m[3]
            begin, end = 0, line.shape[0]
            begin, end = _within(u, across, width, begin, end)
            begin, end = _within(v, down, height, begin, end)
            for x in range(begin, end):
                place_u, place_v = u + across * x, v + down * x
                column, row = int(math.floor(place_u)), int(math.floor(place_v))
                s, t = np.float32(place_u - column), np.float32(place_v - row)
                w11 = s * t * weight
                w01 = s * weight - w11
                w10 = t * weight - w11
                w00 = weight - w01 - w10 - w11
                out = line[x]
                if 0 <= column < width - 1 and 0 <= row < height - 1:
                    a, b = source[row, column], source[row, column + 1]
                    c, d = source[row + 1, column], source[row + 1, column + 1]
                    out[0] += w00 * a[0] + w01 * b[0] + w10 * c[0] + w11 * d[0]
                    out[1] += w00 * a[1] + w01 * b[1] + w10 * c[1] + w11 * d[1]
                    out[2] += w00 * a[2] + w01 * b[2] + w10 * c[2] + w11 * d[2]
                    out[3] += w00 * a[3] + w01 * b[3] + w10 * c[3] + w11 * d[3]
                    continue
                for j in range(2):
                    for i in range(2):
                        if 0 <= column + i < width and 0 <= row + j < height:
                            share = (s if i else one - s) * (t if j else one - t) * weight
                            pixel = source[row + j, column + i]
                            for n in range(4):
                                out[n] += share * pixel[n]


@compiled
def _within(start: float, step: float, size: int, begin: int, end: int) -> tuple[int, int]:
    """The part of a row whose px have a neighbour in the source along one axis."""
    if abs(step) < 1e-12:
        return (begin, end) if -1.0 < start < size else (begin, begin)
    low, high = (-1.0 - start) / step, (size - start) / step
    if low > high:
        low, high = high, low
    if high < begin or low > end:
        return begin, begin
    return max(begin, int(math.floor(max(low, -1.0)))), min(
        end, int(math.ceil(min(high, end + 1.0)))
    )
