"""Gradient noise in the plane that boils: two independent fields from one hash.

Perlin, "Improving noise", SIGGRAPH 2002, for the twelve gradients and the quintic fade; Jarzynski
and Olano, "Hash functions for GPU rendering", Journal of Computer Graphics Techniques 9(3), 2020,
for the hash (`pcg3d`). The third dimension is the boil.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.compiled import compiled, in_bands, worth_a_hand

MOST_PUSH = 1.04
"""No value is farther from 0; the bound of the sum of the eight corners' shares."""

_STEPS_A_CELL = 6
"""Grid samples in a cell of the finest octave, between which the field is a cubic."""


@compiled
def hashed(x: int, y: int, z: int, k0: int, k1: int) -> tuple[np.uint32, np.uint32]:
    """Two words for a lattice place and a key."""
    a = np.uint32(np.uint32(x) ^ np.uint32(k0))
    b = np.uint32(np.uint32(y) ^ np.uint32(k1))
    c = np.uint32(z)
    a = np.uint32(a * np.uint32(1664525) + np.uint32(1013904223))
    b = np.uint32(b * np.uint32(1664525) + np.uint32(1013904223))
    c = np.uint32(c * np.uint32(1664525) + np.uint32(1013904223))
    for turn in range(2):
        a = np.uint32(a + b * c)
        b = np.uint32(b + c * a)
        c = np.uint32(c + a * b)
        if turn == 0:
            a = np.uint32(a ^ (a >> np.uint32(16)))
            b = np.uint32(b ^ (b >> np.uint32(16)))
            c = np.uint32(c ^ (c >> np.uint32(16)))
    return a, b


@compiled
def _slope(word: np.uint32, x: float, y: float, z: float) -> float:
    """The share of a corner: its gradient, one of the twelve edges of a cube, times the way to it."""
    h = (word >> np.uint32(24)) & np.uint32(15)
    u = x if h < 8 else y
    v = y if h < 4 else (x if h in (12, 14) else z)
    return (u if (h & 1) == 0 else -u) + (v if (h & 2) == 0 else -v)


@compiled
def _fade(t: float) -> float:
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@compiled
def noise_pair(x: float, y: float, z: float, k0: int, k1: int) -> tuple[float, float]:
    """Two noises, each from -`MOST_PUSH` to `MOST_PUSH`, with cells of size 1."""
    left, top, back = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
    dx, dy, dz = x - left, y - top, z - back
    u, v, w = _fade(dx), _fade(dy), _fade(dz)
    first, second = 0.0, 0.0
    for k in range(2):
        for j in range(2):
            for i in range(2):
                share = (u if i else 1.0 - u) * (v if j else 1.0 - v) * (w if k else 1.0 - w)
                a, b = hashed(left + i, top + j, back + k, k0, k1)
                first += share * _slope(a, dx - i, dy - j, dz - k)
                second += share * _slope(b, dx - i, dy - j, dz - k)
    return first, second


@compiled
def _boiled(phase: float, octave: int) -> float:
    """Where an octave is in its boil: finer ones boil faster."""
    return phase * (1.0 + 0.37 * octave) + 19.7 * octave


@compiled
def octaves(
    x: float, y: float, z: float, k0: int, k1: int, count: int, gain: float
) -> tuple[float, float]:
    """`count` noises, each of half the size and `gain` times the strength, brought back to 1."""
    first, second, strength, total, finer = 0.0, 0.0, 1.0, 0.0, 1.0
    for octave in range(count):
        a, b = noise_pair(x * finer, y * finer, _boiled(z, octave), k0 + 7919 * octave, k1)
        first += strength * a
        second += strength * b
        total += strength
        strength *= gain
        finer *= 2.0
    return first / total, second / total


def field_on(
    left: int,
    top: int,
    width: int,
    height: int,
    cell: float,
    count: int,
    gain: float,
    shift: tuple[float, float],
    phase: float,
    key: Key,
) -> NDArray[np.float32]:
    """A pair of noises `(height, width, 2)` at px centres; `cell` and `shift` are in the same px.

    It is computed on a grid as coarse as its finest octave allows, which belongs to the canvas and
    not to the region, and is a Catmull-Rom cubic between.
    """
    finest = cell / 2 ** (count - 1)
    step = int(min(64, max(1, math.floor(finest / _STEPS_A_CELL))))
    across = (left // step - 1, -(-(left + width) // step) + 3)
    down = (top // step - 1, -(-(top + height) // step) + 3)
    grid = np.empty((down[1] - down[0], across[1] - across[0], 2), np.float32)
    in_bands(
        _grid_rows, len(grid), down[0], across[0], step, 1.0 / cell, count, gain,
        shift[0], shift[1], phase, key.first, key.second, grid, band=worth_a_hand(*grid.shape[:2]),
    )  # fmt: skip
    if step == 1:
        return np.ascontiguousarray(grid[1 : 1 + height, 1 : 1 + width])
    field = np.empty((height, width, 2), np.float32)
    begins = top - down[0] * step, left - across[0] * step
    in_bands(_spread_rows, height, *begins, step, grid, field, band=worth_a_hand(height, width))
    return field


@compiled
def _grid_rows(
    first: int,
    last: int,
    top: int,
    left: int,
    step: int,
    scale: float,
    count: int,
    gain: float,
    shift_x: float,
    shift_y: float,
    phase: float,
    k0: int,
    k1: int,
    grid: NDArray[np.float32],
) -> None:
    pairs = np.empty((grid.shape[1], 2), np.float64)
    for j in range(first, last):
        y = ((top + j) * step + 0.5 - shift_y) * scale
        pairs[:] = 0.0
        strength, total, finer = 1.0, 0.0, 1.0
        for octave in range(count):
            _add_along(
                left * step + 0.5 - shift_x, float(step), scale * finer, y * finer, _boiled(phase, octave),
                k0 + 7919 * octave, k1, strength, pairs,
            )  # fmt: skip
            total += strength
            strength *= gain
            finer *= 2.0
        for i in range(grid.shape[1]):
            grid[j, i, 0] = pairs[i, 0] / total
            grid[j, i, 1] = pairs[i, 1] / total


@compiled
def _add_along(
    begins: float,
    step: float,
    scale: float,
    y: float,
    z: float,
    k0: int,
    k1: int,
    strength: float,
    pairs: NDArray[np.float64],
) -> None:
    """Add both noises times a strength at places `(begins + i * step) * scale` along x, as `noise_pair` has them.

    Along x the shares of the four corners on one side of a cell add up to a straight line, which serves all places in it.
    """
    top, back = int(np.floor(y)), int(np.floor(z))
    cell = int(np.floor(begins * scale)) - 2
    rise_a, from_a, rise_b, from_b = 0.0, 0.0, 0.0, 0.0
    next_rise_a, next_from_a, next_rise_b, next_from_b = 0.0, 0.0, 0.0, 0.0
    for i in range(pairs.shape[0]):
        x = (begins + i * step) * scale
        left = int(np.floor(x))
        if left != cell:
            if left == cell + 1:
                rise_a, from_a, rise_b, from_b = next_rise_a, next_from_a, next_rise_b, next_from_b
            else:
                rise_a, from_a, rise_b, from_b = _side(left, top, back, y - top, z - back, k0, k1)
            next_rise_a, next_from_a, next_rise_b, next_from_b = _side(
                left + 1, top, back, y - top, z - back, k0, k1
            )
            cell = left
        dx = x - left
        u = _fade(dx)
        a, b = rise_a * dx + from_a, rise_b * dx + from_b
        pairs[i, 0] += strength * (a + u * (next_rise_a * (dx - 1.0) + next_from_a - a))
        pairs[i, 1] += strength * (b + u * (next_rise_b * (dx - 1.0) + next_from_b - b))


@compiled
def _side(
    x: int, top: int, back: int, dy: float, dz: float, k0: int, k1: int
) -> tuple[float, float, float, float]:
    """What the four corners of a cell at `x` share in both noises: how much for each step away from them along x, and
    how much without."""
    v, w = _fade(dy), _fade(dz)
    rise_a, from_a, rise_b, from_b = 0.0, 0.0, 0.0, 0.0
    for k in range(2):
        for j in range(2):
            share = (v if j else 1.0 - v) * (w if k else 1.0 - w)
            a, b = hashed(x, top + j, back + k, k0, k1)
            from_a += share * _slope(a, 0.0, dy - j, dz - k)
            from_b += share * _slope(b, 0.0, dy - j, dz - k)
            rise_a += share * _slope(a, 1.0, 0.0, 0.0)
            rise_b += share * _slope(b, 1.0, 0.0, 0.0)
    return rise_a, from_a, rise_b, from_b


@compiled
def _spread_rows(
    first: int,
    last: int,
    top: int,
    left: int,
    step: int,
    grid: NDArray[np.float32],
    field: NDArray[np.float32],
) -> None:
    weights = np.empty((step, 4), np.float32)
    for phase in range(step):
        t = phase / step
        weights[phase, 0] = -0.5 * t + t * t - 0.5 * t * t * t
        weights[phase, 1] = 1.0 - 2.5 * t * t + 1.5 * t * t * t
        weights[phase, 2] = 0.5 * t + 2.0 * t * t - 1.5 * t * t * t
        weights[phase, 3] = -0.5 * t * t + 0.5 * t * t * t
    lines = np.empty((grid.shape[1], 2), np.float32)
    for y in range(first, last):
        row = (y + top) // step
        at = (y + top) - row * step
        w0, w1, w2, w3 = weights[at, 0], weights[at, 1], weights[at, 2], weights[at, 3]
        for i in range(grid.shape[1]):
            for c in range(2):
                lines[i, c] = (
                    w0 * grid[row - 1, i, c]
                    + w1 * grid[row, i, c]
                    + w2 * grid[row + 1, i, c]
                    + w3 * grid[row + 2, i, c]
                )
        for cell in range(left // step, (left + field.shape[1] - 1) // step + 1):
            starts = cell * step - left
            a0, b0 = lines[cell - 1, 0], lines[cell - 1, 1]
            a1, b1 = lines[cell, 0], lines[cell, 1]
            a2, b2 = lines[cell + 1, 0], lines[cell + 1, 1]
            a3, b3 = lines[cell + 2, 0], lines[cell + 2, 1]
            for k in range(max(0, -starts), min(step, field.shape[1] - starts)):
                w0, w1, w2, w3 = weights[k, 0], weights[k, 1], weights[k, 2], weights[k, 3]
                field[y, starts + k, 0] = w0 * a0 + w1 * a1 + w2 * a2 + w3 * a3
                field[y, starts + k, 1] = w0 * b0 + w1 * b1 + w2 * b2 + w3 * b3
