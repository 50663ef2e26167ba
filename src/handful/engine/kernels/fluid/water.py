"""Waves on water, and the light that they throw on the floor.

The waves are a sum of sines whose strengths follow Phillips, "The equilibrium range in the spectrum
of wind-generated waves", Journal of Fluid Mechanics 4, 1958, as Tessendorf, "Simulating ocean
water", SIGGRAPH course notes 2001, lays them on a square that repeats; each runs at its own pace,
ω² = g k tanh(k h) (linear theory of waves, Airy 1845). Light is refracted where it goes in, after
Snell, and what falls on the floor is added up ray by ray: none is lost, and none is added.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key, philox
from handful.engine.kernels.chance.purposes import HOW_A_WAVE_BEGINS
from handful.engine.kernels.compiled import compiled, compiled_along, in_bands

Field = NDArray[np.float32]
Waves = NDArray[np.complex64]

GRAVITY = 9.81
INDEX = 1.333

_SIDE = 256
"""Places across a square of waves."""

_FINER, _RAYS = 2, 2
"""How many times finer the floor is than the slopes, and how many rays across fall on each part of it."""

_EDGE = 2
"""Places that a square is continued by on each side, to go on between them."""

_OVER = 1.6
"""A cubic between places goes at most so many times as far as these (1.25 each way)."""

_PARTS = 4
"""Strips of water whose light is added up on floors of their own: as many on any number of threads."""


class Sea(NamedTuple):
    """Water `depth` m deep with waves up to about `longest` m on a square of `side` m that repeats.

    They are `steep` in the mean (the root of the mean square of the slopes), none much finer than
    `finest` m, and `together` says from 0 to 1 how much they run in one direction, in radians. After
    `returns` seconds all is as it was; 0 is never.
    """

    side: float
    longest: float
    finest: float
    depth: float
    steep: float
    together: float
    direction: float
    returns: float


class Sun(NamedTuple):
    """How far from overhead it stands, and where it shines from, in radians."""

    low: float
    direction: float


def pace_of(number: NDArray[np.float64], depth: float) -> NDArray[np.float64]:
    """Radians a second of waves of a number (radians a metre), by ω² = g k tanh(k h)."""
    paces: NDArray[np.float64] = np.sqrt(GRAVITY * number * np.tanh(number * depth))
    return paces


def waves_at(sea: Sea, seconds: float, key: Key) -> tuple[Waves, Waves]:
    """The heights (m) and slopes of a square of water at a moment, as sums of waves `(N, N)`; the slopes
    across are the real, those down the imaginary part of what `summed` makes of them."""
    begun, pace, across, down = _begun(sea, key)
    running = begun * np.exp(
        np.complex64(-1j) * np.remainder(pace * seconds, _TURN).astype(np.float32)
    )
    waves = running + np.conj(_opposite(running))
    return waves, waves * (np.complex64(1j) * across - down)


@lru_cache(maxsize=8)
def _begun(sea: Sea, key: Key) -> tuple[Waves, NDArray[np.float64], Field, Field]:
    """Half of each wave as it begins, its pace, and its number across and down."""
    turns = np.fft.fftfreq(_SIDE, sea.side / _SIDE) * _TURN
    across, down = np.meshgrid(turns, turns)
    number = np.hypot(across, down)
    safe = np.where(number > 0, number, 1.0)
    along = (across * math.cos(sea.direction) + down * math.sin(sea.direction)) / safe
    ahead = _AHEAD * np.maximum(along, 0.0) ** 4
    strength = np.exp(-((_TURN / (safe * sea.longest)) ** 2) - (safe * sea.finest / _TURN) ** 2)
    strength *= (1 - sea.together + sea.together * ahead) / safe**4
    strength[0, 0] = 0
    strength[_SIDE // 2], strength[:, _SIDE // 2] = 0, 0
    slopes = float((strength * number**2).sum())
    begun = np.empty((_SIDE, _SIDE), np.complex128)
    _begin_rows(0, _SIDE, *key, begun)
    begun *= np.sqrt(0.5 * strength / slopes) * sea.steep
    pace = pace_of(number, sea.depth)
    if sea.returns > 0:
        pace = np.rint(pace * (sea.returns / _TURN)) * (_TURN / sea.returns)
    return begun.astype(np.complex64), pace, across.astype(np.float32), down.astype(np.float32)


_TURN = 2 * math.pi

_AHEAD = 16 / 3
"""What a mean over all directions of the fourth power of a cosine, ahead only, is to be times for 1."""


def summed(waves: Waves) -> Waves:
    """The field that is the sum of waves."""
    field: Waves = np.fft.ifft2(waves, norm="forward").astype(np.complex64)
    return field


def slopes_of(tilted: Waves) -> Field:
    """Slopes across and down `(2 N, 2 N, 2)`: at twice as many places as there are waves, so that they can
    be continued between them."""
    wide = np.zeros((2 * _SIDE, 2 * _SIDE), np.complex64)
    half = _SIDE // 2
    for rows in (slice(0, half), slice(-half, None)):
        for columns in (slice(0, half), slice(-half, None)):
            wide[rows, columns] = tilted[rows, columns]
    both = summed(wide)
    return np.stack([both.real, both.imag], axis=2)


def light_below(
    slopes: Field, cell: float, depth: float, indices: Sequence[float], sun: Sun
) -> Field:
    """The light on a floor under waves with slopes `(N, N, 2)`, in cells of so many metres, `depth` m
    below, for some indices of refraction: `(K, M, M)`, 1 in the mean, where a still surface would leave 1 everywhere."""
    side = len(slopes)
    size = side * _FINER
    across, down = sun.low * math.cos(sun.direction), sun.low * math.sin(sun.direction)
    way = math.sin(across), math.sin(down)
    light = np.empty((len(indices), size, size), np.float32)
    gone = np.empty((2, side + 2 * _EDGE, side + 2 * _EDGE), np.float32)
    own = gone[:, _EDGE:-_EDGE, _EDGE:-_EDGE]
    for index, plane in zip(indices, light, strict=True):
        in_bands(_bend_rows, side, slopes, depth * _FINER / cell, index, *way, own)
        for edge, whence in ((slice(None, _EDGE), slice(side, side + _EDGE)),
                             (slice(-_EDGE, None), slice(_EDGE, 2 * _EDGE))):  # fmt: skip
            gone[:, :, edge] = gone[:, :, whence]
            gone[:, edge] = gone[:, whence]
        farthest = math.ceil(_OVER * float(np.abs(own[1]).max())) + 2
        high = min(size, size // _PARTS + 2 * farthest)
        floors = np.empty((_PARTS, high + 1, size), np.float32)
        in_bands(_fall_strips, _PARTS, *gone, farthest, floors, band=1)
        in_bands(_sum_rows, size, floors, farthest, plane)
    return light


def _opposite(waves: Waves) -> Waves:
    """Each wave's place taken by the one that runs the other way."""
    return np.roll(waves[::-1, ::-1], (1, 1), (0, 1))


@compiled
def _begin_rows(first: int, last: int, k0: int, k1: int, begun: NDArray[np.complex128]) -> None:
    """Two normal numbers for each wave, by its place on the lattice of waves."""
    side = begun.shape[1]
    for y in range(first, last):
        for x in range(side):
            a, b, _, _ = philox(x, y, HOW_A_WAVE_BEGINS, 3, k0, k1)
            radius = math.sqrt(-2.0 * math.log((float(a) + 0.5) / 4294967296.0))
            angle = 2.0 * math.pi * float(b) / 4294967296.0
            begun[y, x] = complex(radius * math.cos(angle), radius * math.sin(angle)) * math.sqrt(
                0.5
            )


@compiled
def refracted(sx: float, sy: float, dx: float, dy: float, index: float) -> tuple[float, float]:
    """How far sideways a ray goes for each 1 down in water, below a surface of slopes `sx` and `sy`, that
    comes down along `(dx, dy)` and the rest downwards: Snell's law by vectors."""
    dz = math.sqrt(max(0.0, 1.0 - dx * dx - dy * dy))
    size = math.sqrt(1.0 + sx * sx + sy * sy)
    nx, ny, nz = -sx / size, -sy / size, 1.0 / size
    facing = max(0.0, dz * nz - dx * nx - dy * ny)
    within = math.sqrt(max(0.0, 1.0 - (1.0 - facing * facing) / (index * index)))
    by = facing / index - within
    x, y, z = dx / index + by * nx, dy / index + by * ny, dz / index - by * nz
    return x / z, y / z


@compiled
def _bend_rows(
    first: int,
    last: int,
    slopes: Field,
    deep: float,
    index: float,
    dx: float,
    dy: float,
    gone: Field,
) -> None:
    """How far from where it would fall through still water each ray falls, `deep` parts of the floor down: across and
    down `(2, N, N)`."""
    straight_x, straight_y = refracted(0.0, 0.0, dx, dy, index)
    for y in range(first, last):
        for x in range(slopes.shape[1]):
            across, down = refracted(slopes[y, x, 0], slopes[y, x, 1], dx, dy, index)
            gone[0, y, x] = deep * (across - straight_x)
            gone[1, y, x] = deep * (down - straight_y)


@compiled_along
def _between(t: float) -> tuple[np.float32, np.float32, np.float32, np.float32]:
    """How much each of four places in a row counts for one `t` behind the second, by a cubic through them (Catmull and
    Rom 1974)."""
    return (
        np.float32(t * (t * (1.0 - 0.5 * t) - 0.5)),
        np.float32(1.0 + t * t * (1.5 * t - 2.5)),
        np.float32(t * (0.5 + t * (2.0 - 1.5 * t))),
        np.float32(0.5 * t * t * (t - 1.0)),
    )


@compiled_along
def _where_they_fall(
    n: int,
    across: Field,
    down: Field,
    top: int,
    lines: Field,
    falls: Field,
    parts: NDArray[np.int32],
    high: int,
) -> None:
    """Of row n of rays how far behind a place of the floor each falls, across and down, the product of both, and in which
    four numbers of a strip that begins at `top`: first the first ray over each cell, then the second, and so on."""
    side, last = across.shape[1] - 2 * _EDGE, np.int32((across.shape[1] - 2 * _EDGE) * _FINER - 1)
    wide, lowest = last + np.int32(1), np.int32(high - 1)
    rays = _FINER * _RAYS
    v = (n + 0.5) / rays - 0.5
    j = int(math.floor(v))
    w0, w1, w2, w3 = _between(v - j)
    j += _EDGE - 1
    for k, plane in enumerate((across, down)):
        first, second, third, fourth, line = (
            plane[j],
            plane[j + 1],
            plane[j + 2],
            plane[j + 3],
            lines[k],
        )
        for x in range(side + 2 * _EDGE):
            line[x] = w0 * first[x] + w1 * second[x] + w2 * third[x] + w3 * fourth[x]
    there = np.float32((n + 0.5) / _RAYS - 0.5 - top)
    for ray in range(rays):
        u = (ray + 0.5) / rays - 0.5
        i = int(math.floor(u))
        w0, w1, w2, w3 = _between(u - i)
        i += _EDGE - 1
        here = np.float32((ray + 0.5) / _RAYS - 0.5)
        own = slice(ray * side, (ray + 1) * side)
        aside, behind, both, part = falls[0, own], falls[1, own], falls[2, own], parts[own]
        for k in range(2):
            line, found = lines[k, i:], falls[k, own]
            for x in range(side):
                found[x] = w0 * line[x] + w1 * line[x + 1] + w2 * line[x + 2] + w3 * line[x + 3]
        for x in range(side):
            a, b = aside[x] + np.float32(_FINER * x) + here, behind[x] + there
            left, above = np.floor(a), np.floor(b)
            p, q = a - left, b - above
            aside[x], behind[x], both[x] = p, q, p * q
            row = min(np.int32(above) & last, lowest)
            part[x] = np.int32(4) * (row * wide + (np.int32(left) & last))


@compiled
def _fall_on(falls: Field, parts: NDArray[np.int32], sums: Field) -> None:
    """Add a row of rays to the four numbers of the places where they fall: how many, and the sums of what `falls` says."""
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    flat = sums.reshape(-1)
    for n in range(parts.shape[0]):
        i = np.uint64(parts[n])
        a, b = flat[i] + np.float32(1.0), flat[i + one] + falls[0, n]
        c, d = flat[i + two] + falls[1, n], flat[i + three] + falls[2, n]
        flat[i], flat[i + one], flat[i + two], flat[i + three] = a, b, c, d


@compiled
def _fall_strips(
    first: int, last: int, across: Field, down: Field, farthest: int, floors: Field
) -> None:
    """Rays through strips of water, each strip onto a floor of its own that begins `farthest` above it: each ray on the
    four places of the floor about where it falls. A place counts its rays and how far behind it they fall, as what is
    about it follows from those (Vincenti et al., Computer Physics Communications 210, 2017, deposit charges so)."""
    high, size = floors.shape[1] - 1, floors.shape[2]
    rows = size // floors.shape[0] * _RAYS
    lines = np.empty((2, across.shape[1]), np.float32)
    falls, parts = np.empty((3, size * _RAYS), np.float32), np.empty(size * _RAYS, np.int32)
    sums = np.empty((high, size, 4), np.float32)
    share = np.float32(1.0 / (_RAYS * _RAYS))
    for strip in range(first, last):
        sums[:] = np.float32(0.0)
        top = strip * (size // floors.shape[0]) - farthest
        for n in range(strip * rows, (strip + 1) * rows):
            _where_they_fall(n, across, down, top, lines, falls, parts, high)
            _fall_on(falls, parts, sums)
        floor = floors[strip]
        floor[0] = np.float32(0.0)
        for y in range(high):
            before = size - 1
            for x in range(size):
                all_of, p, q, both = sums[y, x, 0], sums[y, x, 1], sums[y, x, 2], sums[y, x, 3]
                right, right_both = sums[y, before, 1], sums[y, before, 3]
                floor[y, x] += share * (all_of - p - q + both + right - right_both)
                floor[y + 1, x] = share * (q - both + right_both)
                before = x


@compiled_along
def _sum_rows(first: int, last: int, floors: Field, farthest: int, light: Field) -> None:
    """What the strips leave on each row of the floor, which repeats."""
    high, size = floors.shape[1] - 1, floors.shape[2]
    for y in range(first, last):
        row = light[y]
        row[:] = np.float32(0.0)
        for strip in range(floors.shape[0]):
            there = (y - strip * (size // floors.shape[0]) + farthest) & (size - 1)
            while there <= high:
                one = floors[strip, there]
                for x in range(size):
                    row[x] += one[x]
                there += size
