"""Waves on water, and the light that they throw on the floor.

The waves are a sum of sines whose strengths follow Phillips, "The equilibrium range in the spectrum
of wind-generated waves", Journal of Fluid Mechanics 4, 1958, as Tessendorf, "Simulating ocean
water", SIGGRAPH course notes 2001, lays them on a square that repeats; each runs at its own pace,
ω² = g k tanh(k h) (linear theory of waves, Airy 1845). Light is refracted where it goes in, after
Snell, and what falls on the floor is added up ray by ray: none is lost, and none is added.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key, philox
from handful.engine.kernels.chance.purposes import HOW_A_WAVE_BEGINS
from handful.engine.kernels.compiled import compiled, in_bands

Field = NDArray[np.float32]
Waves = NDArray[np.complex64]

GRAVITY = 9.81
INDEX = 1.333

_SIDE = 256
"""Places across a square of waves."""

_FINER, _RAYS = 2, 2
"""How many times finer the floor is than the slopes, and how many rays across fall on each part of it."""

_EDGE = 4
"""Places that a square is continued by on each side, to go on between them."""

_APART = 8
"""Rays far from one another that are added one after the other: none waits for what the last one wrote."""

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


def light_below(slopes: Field, cell: float, depth: float, index: float, sun: Sun) -> Field:
    """The light on a floor under waves with slopes `(N, N, 2)`, in cells of so many metres, `depth` m
    below: `(M, M)`, 1 in the mean, where a still surface would leave 1 everywhere."""
    side = len(slopes)
    size = side * _FINER
    across, down = sun.low * math.cos(sun.direction), sun.low * math.sin(sun.direction)
    gone = np.empty_like(slopes)
    way = math.sin(across), math.sin(down)
    in_bands(_bend_rows, side, slopes, depth * _FINER / cell, index, *way, gone)
    padded = np.pad(gone, ((_EDGE, _EDGE), (_EDGE, _EDGE), (0, 0)), "wrap")
    whole, cut = (side + 2 * _EDGE) * _FINER, slice(_EDGE * _FINER - 1, 1 - _EDGE * _FINER)
    finer = cv2.resize(padded, (whole, whole), interpolation=cv2.INTER_LANCZOS4)[cut, cut]
    floors = np.zeros((_PARTS, size, size), np.float32)
    in_bands(_fall_rows, _PARTS, *cv2.split(finer), floors, band=1)
    light: Field = floors.sum(axis=0, dtype=np.float32)
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
    """How far from where it would fall through still water each ray falls, `deep` parts of the floor down."""
    straight_x, straight_y = refracted(0.0, 0.0, dx, dy, index)
    for y in range(first, last):
        for x in range(slopes.shape[1]):
            across, down = refracted(slopes[y, x, 0], slopes[y, x, 1], dx, dy, index)
            gone[y, x, 0] = deep * (across - straight_x)
            gone[y, x, 1] = deep * (down - straight_y)


@compiled
def _fall_rows(first: int, last: int, across: Field, down: Field, floors: Field) -> None:
    """Rays through strips of water, each strip onto a floor of its own: each ray on the four parts of the
    floor about where it falls. The ways that they go are of the parts and of one more about them."""
    size = floors.shape[1]
    rows, last_px = size // floors.shape[0], size - 1  # the size is a power of two
    one, share = np.float32(1.0), np.float32(1.0 / (_RAYS * _RAYS))
    lines = np.empty((2, size + 2), np.float32)
    falls, parts = np.empty((2, size), np.float32), np.empty((2, size), np.int32)
    apart = size // _APART
    for strip in range(first, last):
        floor = floors[strip]
        for n in range(strip * rows * _RAYS, (strip + 1) * rows * _RAYS):
            v = (n + 0.5) / _RAYS
            j = int(math.floor(v + 0.5))
            t, v0 = np.float32(v + 0.5 - j), np.float32(v - 0.5)
            for x in range(size + 2):
                lines[0, x] = across[j, x] + t * (across[j + 1, x] - across[j, x])
                lines[1, x] = down[j, x] + t * (down[j + 1, x] - down[j, x])
            for sub in range(_RAYS):
                u = (sub + 0.5) / _RAYS
                i = int(math.floor(u + 0.5))
                s, u0 = np.float32(u + 0.5 - i), np.float32(u - 0.5)
                for x in range(size):
                    a, b = lines[0, x + i], lines[1, x + i]
                    a += np.float32(x) + u0 + s * (lines[0, x + i + 1] - a)
                    b += v0 + s * (lines[1, x + i + 1] - b)
                    left, top = np.floor(a), np.floor(b)
                    falls[0, x], falls[1, x] = a - left, b - top
                    parts[0, x], parts[1, x] = np.int32(left), np.int32(top)
                for begins in range(apart):
                    for x in range(begins, size, apart):
                        p, q = falls[0, x], falls[1, x]
                        i, k = parts[0, x], parts[1, x]
                        i0, i1 = np.uint64(i & last_px), np.uint64((i + 1) & last_px)
                        k0, k1 = np.uint64(k & last_px), np.uint64((k + 1) & last_px)
                        above, below = share * (one - q), share * q
                        floor[k0, i0] += above * (one - p)
                        floor[k0, i1] += above * p
                        floor[k1, i0] += below * (one - p)
                        floor[k1, i1] += below * p
