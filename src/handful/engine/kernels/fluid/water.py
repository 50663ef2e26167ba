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
import scipy.fft
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key, philox
from handful.engine.kernels.chance.purposes import HOW_A_WAVE_BEGINS
from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import (
    compiled,
    compiled_along,
    compiled_in,
    in_bands,
    thread_count,
)
from handful.engine.picture import Picture

Field = NDArray[np.float32]
Waves = NDArray[np.complex64]

GRAVITY = 9.81
INDEX = 1.333

_SIDE = 256
"""Places across a square of waves."""

FINER = 2
"""How many times finer the floor is than the slopes."""

_RAYS, _MORE_RAYS = 2, 3
"""How many rays across fall on each part of the floor; and how many where rays part much."""

_EDGE = 2
"""Places that a square is continued by on each side, to go on between them."""

_OVER = 1.6
"""A cubic between places goes at most so many times as far as these (1.25 each way)."""

_PARTED, _PARTED_MUCH = 1.3, 2.6
"""Where rays beside one another part less, half of them leave no more grain in the dark than a fiftieth of the light; and
where they part more, as many leave one that is seen."""

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
    running, waves, tilted = (np.empty_like(begun) for _ in range(3))
    in_bands(_run_rows, _SIDE, begun, pace, seconds, running)
    in_bands(_meet_rows, _SIDE, running, across, down, waves, tilted)
    return waves, tilted


def folds_at(sea: Sea, seconds: float, key: Key) -> Waves:
    """How much a square of water is pushed together at its surface at a moment, as a sum of waves `(N, N)`, in parts of what
    that is as a rule (the root of its mean square).

    To first order it is what Tessendorf's Jacobian says, where places on the surface go to and fro as far as up and down: a
    wave of number k and height h pushes together by k h at its crests.
    """
    begun, pace, across, down = _begun(sea, key)
    pushed = begun * np.hypot(across, down)
    usual = math.sqrt(2 * float(np.vdot(pushed, pushed).real)) or 1.0
    running, waves, unused = (np.empty_like(begun) for _ in range(3))
    in_bands(_run_rows, _SIDE, pushed / np.float32(usual), pace, seconds, running)
    in_bands(_meet_rows, _SIDE, running, across, down, waves, unused)
    return waves


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
    field: Waves = scipy.fft.ifft2(waves, norm="forward", workers=thread_count())
    return field


def slopes_of(tilted: Waves) -> Field:
    """Slopes across and down `(2 N, 2 N, 2)`: at twice as many places as there are waves, so that they can
    be continued between them."""
    both = finely(tilted)
    return both.view(np.float32).reshape(*both.shape, 2)


def finely(waves: Waves) -> Waves:
    """The field that is the sum of waves, at twice as many places across and down as there are of them."""
    wide, half = np.zeros((_SIDE, 2 * _SIDE), np.complex64), _SIDE // 2
    wide[:, :half], wide[:, -half:] = waves[:, :half], waves[:, -half:]
    along = _summed_along(wide, 1)
    high = np.zeros((2 * _SIDE, 2 * _SIDE), np.complex64)
    high[:half], high[-half:] = along[:half], along[-half:]
    return _summed_along(high, 0)


def _summed_along(waves: Waves, axis: int) -> Waves:
    field: Waves = scipy.fft.ifft(
        waves, axis=axis, norm="forward", overwrite_x=True, workers=thread_count()
    )
    return field


def light_below(
    slopes: Field,
    cell: float,
    depth: float,
    indices: Sequence[float],
    sun: Sun,
    beside: float = 0.0,
    is_blurred: bool = False,
) -> Picture:
    """The light on a floor under waves with slopes `(N, N, 2)`, in cells of so many metres, `depth` m
    below, for up to three indices of refraction from the least to the most: as red, green and blue `(M, M, 4)`, one index as
    all three, 1 in the mean, where a still surface would leave 1 everywhere. Rays of an index between the first and the last
    fall between where those do. Each part of the floor takes so much (`beside`) of those on either side.

    Of the first and the last of several only every other ray falls, where rays part little: from the black squares of a
    chessboard and from the white ones, so that together they fall as evenly as those between. Where rays part much, more
    of all fall, if it is not blurred afterwards.
    """
    side, colours = len(slopes), len(indices)
    size = side * FINER
    across, down = sun.low * math.cos(sun.direction), sun.low * math.sin(sun.direction)
    way = np.float32(math.sin(across)), np.float32(math.sin(down))
    gone = np.empty((colours, 2, side + 2 * _EDGE, side + 2 * _EDGE), np.float32)
    deep = np.float32(depth * FINER / cell)
    in_bands(_bend_rows, side + 2 * _EDGE, slopes, deep, np.array(indices, np.float32), *way, gone)
    ends = gone[:: max(1, colours - 1), 1]
    farthest = math.ceil(_OVER * max(float(ends.max()), -float(ends.min()))) + 2
    high = min(size, size // _PARTS + 2 * farthest)
    floors = np.empty((_PARTS, colours, high + 1, size), np.float32)
    parted = _parted(gone[0])
    every = 2 if colours > 1 and parted < _PARTED else 1
    rays = _MORE_RAYS if parted > _PARTED_MUCH and not is_blurred else _RAYS
    in_bands(_fall_strips, _PARTS * colours, gone, rays, every, farthest, floors, band=1)
    light = np.empty((size, size, 4), np.float32)
    in_bands(_sum_rows, size, floors, farthest, np.float32(beside), light)
    return light


def _parted(gone: Field) -> float:
    """How far rays beside one another part on their way, in parts of the floor: the root of the mean square."""
    across, down = np.diff(gone[:, ::8]), gone[:, 1::8] - gone[:, :-1:8]
    return math.sqrt(float(np.square(across).mean() + np.square(down).mean()))


@compiled
def _run_rows(
    first: int, last: int, begun: Waves, pace: NDArray[np.float64], seconds: float, running: Waves
) -> None:
    """Waves as far as they have run after some seconds."""
    for y in range(first, last):
        for x in range(begun.shape[1]):
            turns = pace[y, x] * seconds * (1.0 / _TURN)
            turned = np.float32((turns - np.floor(turns)) * _TURN)
            running[y, x] = begun[y, x] * np.complex64(complex(math.cos(turned), -math.sin(turned)))


@compiled
def _meet_rows(
    first: int,
    last: int,
    running: Waves,
    across: Field,
    down: Field,
    waves: Waves,
    tilted: Waves,
) -> None:
    """Each wave with the one that runs the other way, so that their sum is real; and its slopes, across as the real part."""
    side = running.shape[0]
    for y in range(first, last):
        for x in range(side):
            other = running[(side - y) & (side - 1), (side - x) & (side - 1)]
            both = running[y, x] + np.complex64(other.conjugate())
            waves[y, x] = both
            tilted[y, x] = both * np.complex64(complex(-down[y, x], across[y, x]))


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


@compiled_in
def refracted(
    sx: Number, sy: Number, dx: Number, dy: Number, index: Number
) -> tuple[Number, Number]:
    """How far sideways a ray goes for each 1 down in water, below a surface of slopes `sx` and `sy`, that
    comes down along `(dx, dy)` and the rest downwards: Snell's law by vectors, as exact as what it is given."""
    none, one = np.float32(0.0), np.float32(1.0)
    dz = math.sqrt(max(none, one - dx * dx - dy * dy))
    upright = one / math.sqrt(one + sx * sx + sy * sy)
    facing = max(none, (dz + dx * sx + dy * sy) * upright)
    within = math.sqrt(max(none, one - (one - facing * facing) / (index * index)))
    by = (within - facing / index) * upright
    x, y, z = dx / index + by * sx, dy / index + by * sy, dz / index + by
    return x / z, y / z


@compiled_along
def _bend_rows(
    first: int,
    last: int,
    slopes: Field,
    deep: np.float32,
    indices: Field,
    dx: np.float32,
    dy: np.float32,
    gone: Field,
) -> None:
    """How far from where it would fall through still water each ray falls, `deep` parts of the floor down: for each index
    across and down `(K, 2, N + 4, N + 4)`, with what is beyond the edges of a square that repeats."""
    side, colours, still = slopes.shape[0], gone.shape[0], np.float32(0.0)
    for y in range(first, last):
        row = slopes[(y - _EDGE) % side].reshape(-1)
        for k in range(0, colours, max(1, colours - 1)):
            index, to_x, to_y = indices[k], gone[k, 0, y, _EDGE:], gone[k, 1, y, _EDGE:]
            straight_x, straight_y = refracted(still, still, dx, dy, index)
            for x in range(np.uint64(side)):
                i = np.uint64(2) * x
                across, down = refracted(row[i], row[i + np.uint64(1)], dx, dy, index)
                to_x[x], to_y[x] = deep * (across - straight_x), deep * (down - straight_y)
        for k in range(1, colours - 1):
            share = (indices[k] - indices[0]) / max(
                np.float32(1e-9), indices[colours - 1] - indices[0]
            )
            for way in range(2):
                least, most, to = gone[0, way, y], gone[colours - 1, way, y], gone[k, way, y]
                for x in range(_EDGE, side + _EDGE):
                    to[x] = least[x] + share * (most[x] - least[x])
        for k in range(colours):
            for way in range(2):
                line = gone[k, way, y]
                line[:_EDGE] = line[side : side + _EDGE]
                line[side + _EDGE :] = line[_EDGE : 2 * _EDGE]


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
def _ways_along(n: int, rays: int, gone: Field, ways: Field) -> None:
    """How far rays of row n, of so many in a cell, fall aside and down, `(2, N + 4)`, over the middle of each cell."""
    v = (n + 0.5) / rays - 0.5
    j = int(np.floor(v))
    w0, w1, w2, w3 = _between(v - j)
    j += _EDGE - 1
    for k in range(2):
        above, here, line = gone[k, j], gone[k, j + 1], ways[k]
        below, under = gone[k, j + 2], gone[k, j + 3]
        for x in range(np.uint64(gone.shape[2])):
            line[x] = w0 * above[x] + w1 * here[x] + w2 * below[x] + w3 * under[x]


@compiled_along
def _where_they_fall(
    ways: Field,
    ray: int,
    rays: int,
    there: np.float32,
    high: int,
    ring: int,
    falls: Field,
    places: NDArray[np.int32],
) -> None:
    """Of one ray over each cell in a row (the first of so many over each, the second, and so on), how far behind a place of
    the floor each falls, across and down, and where the numbers of that place begin in a strip that is so `high`, of which
    there are as many rows as the ring has. Straight down they would fall `there` down."""
    side = places.shape[0]
    last, lowest = np.int32(side * FINER - 1), np.int32(high - 1)
    round_it, finer = np.int32(ring - 1), np.float32(FINER)
    wide = np.int32(side * FINER)
    u = (ray + 0.5) / rays - 0.5
    here = np.float32(FINER * (u + 0.5) - 0.5)
    i = int(np.floor(u))
    w0, w1, w2, w3 = _between(u - i)
    asides, downs = ways[0, i + _EDGE - 1 :], ways[1, i + _EDGE - 1 :]
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    for x in range(np.uint64(side)):
        aside = (
            w0 * asides[x] + w1 * asides[x + one] + w2 * asides[x + two] + w3 * asides[x + three]
        )
        across = aside + (finer * np.float32(np.int32(x)) + here)
        down = w0 * downs[x] + w1 * downs[x + one] + w2 * downs[x + two] + w3 * downs[x + three]
        down += there
        left, above = np.floor(across), np.floor(down)
        falls[0, x], falls[1, x] = across - left, down - above
        row = np.int32(min(np.int32(np.int32(above) & last), lowest) & round_it)
        places[x] = np.int32(4 * np.int32(np.int32(row * wide) + np.int32(np.int32(left) & last)))


@compiled
def _fall_on(falls: Field, places: NDArray[np.int32], sums: Field) -> None:
    """Add rays to the four numbers of the places where they fall, one place after the other: how many, the sums of what
    `falls` says across and down, and of the products of both."""
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    for n in range(np.uint64(places.shape[0])):
        i = np.uint64(places[n])
        p, q = falls[0, n], falls[1, n]
        a, b, c, d = (
            sums[i] + np.float32(1.0),
            sums[i + one] + p,
            sums[i + two] + q,
            sums[i + three] + p * q,
        )
        sums[i], sums[i + one], sums[i + two], sums[i + three] = a, b, c, d


@compiled_along
def _fall_strips(
    first: int,
    last: int,
    gone: Field,
    rays_a_part: int,
    every: int,
    farthest: int,
    floors: Field,
) -> None:
    """Rays of each colour through strips of water, each strip onto a floor of its own that begins `farthest` above it: each
    ray on the four places of the floor about where it falls. A place counts its rays and how far behind it they fall, as
    what is about it follows from those (Vincenti et al., Computer Physics Communications 210, 2017, deposit charges so)."""
    parts, colours, high, size = (
        floors.shape[0],
        floors.shape[1],
        floors.shape[2] - 1,
        floors.shape[3],
    )
    rows = size // parts
    ring = 1
    while ring < (2 * farthest + 2 if high < size else size):
        ring *= 2
    ways = np.empty((2, gone.shape[3]), np.float32)
    side, rays = gone.shape[3] - 2 * _EDGE, FINER * rays_a_part
    falls, places = np.empty((2, side), np.float32), np.empty(side, np.int32)
    sums, apart = np.zeros(4 * ring * size, np.float32), np.empty((4, size), np.float32)
    for one in range(first, last):
        strip, k = one // colours, one % colours
        top, floor = strip * rows - farthest, floors[strip, k]
        steps = every if k in (0, colours - 1) else 1
        share = np.float32(steps / (rays_a_part * rays_a_part))
        floor[0] = np.float32(0.0)
        for y in range(rows):
            begins = (strip * rows + y) * rays_a_part
            for n in range(begins, begins + rays_a_part):
                _ways_along(n, rays, gone[k], ways)
                there = np.float32((n + 0.5) / rays_a_part - 0.5 - top)
                for ray in range((n + min(k, 1)) % steps, rays, steps):
                    _where_they_fall(ways, ray, rays, there, high, ring, falls, places)
                    _fall_on(falls, places, sums)
            if high < size:
                _spread(y, ring, share, sums, apart, floor)
        for y in range(rows if high < size else 0, high):
            _spread(y, ring, share, sums, apart, floor)


@compiled_along
def _spread(y: int, ring: int, share: np.float32, sums: Field, apart: Field, floor: Field) -> None:
    """The light of a row of a strip, on which nothing more will fall, from what its places have counted: on each and on
    the next ones beside and below. They count from nothing again."""
    size, four = floor.shape[1], np.uint64(4)
    begins = four * np.uint64((y & (ring - 1)) * size)
    own, beside, below, askew = apart[0], apart[1], apart[2], apart[3]
    for x in range(np.uint64(size)):
        i = begins + four * x
        all_of, p, q, both = (
            sums[i], sums[i + np.uint64(1)], sums[i + np.uint64(2)], sums[i + np.uint64(3)],
        )  # fmt: skip
        own[x], beside[x] = share * (all_of - p - q + both), share * (p - both)
        below[x], askew[x] = share * (q - both), share * both
    sums[begins : begins + four * np.uint64(size)] = np.float32(0.0)
    here, under = floor[y], floor[y + 1]
    here[0] += own[0] + beside[size - 1]
    under[0] = below[0] + askew[size - 1]
    for x in range(np.uint64(1), np.uint64(size)):
        before = x - np.uint64(1)
        here[x] += own[x] + beside[before]
        under[x] = below[x] + askew[before]


@compiled_along
def _sum_rows(
    first: int, last: int, floors: Field, farthest: int, beside: np.float32, light: Picture
) -> None:
    """What the strips leave on each row of the floor, which repeats, each part in part from those on either side; one colour
    as all three."""
    colours, size = floors.shape[1], floors.shape[3]
    summed, mixed, soft = (
        np.empty((colours, 3, size), np.float32), np.empty(size, np.float32), np.empty((4, size), np.float32)
    )  # fmt: skip
    own = np.float32(1.0) - beside - beside
    soft[3] = np.float32(0.0)
    for y in range(first - 1, last + 1):
        for k in range(colours):
            _sum_row(y, k, floors, farthest, summed[k, y % 3])
        if y <= first:
            continue
        for k in range(colours):
            above, here, below = summed[k, (y - 2) % 3], summed[k, (y - 1) % 3], summed[k, y % 3]
            for x in range(np.uint64(size)):
                mixed[x] = own * here[x] + beside * (above[x] + below[x])
            found = soft[k]
            found[0] = own * mixed[0] + beside * (mixed[size - 1] + mixed[1])
            found[size - 1] = own * mixed[size - 1] + beside * (mixed[size - 2] + mixed[0])
            for x in range(np.uint64(1), np.uint64(size - 1)):
                found[x] = own * mixed[x] + beside * (
                    mixed[x - np.uint64(1)] + mixed[x + np.uint64(1)]
                )
        red, green, blue, none = (
            soft[0],
            soft[min(1, colours - 1)],
            soft[min(2, colours - 1)],
            soft[3],
        )
        row = light[y - 1].reshape(-1)
        for x in range(np.uint64(size)):
            i = np.uint64(4) * x
            row[i], row[i + np.uint64(1)] = red[x], green[x]
            row[i + np.uint64(2)], row[i + np.uint64(3)] = blue[x], none[x]


@compiled_along
def _sum_row(y: int, k: int, floors: Field, farthest: int, row: Field) -> None:
    """What the strips leave of a colour on a row of the floor."""
    high, size = floors.shape[2] - 1, floors.shape[3]
    rows = size // floors.shape[0]
    row[:] = np.float32(0.0)
    for strip in range(floors.shape[0]):
        there = (y - strip * rows + farthest) & (size - 1)
        while there <= high:
            one = floors[strip, k, there]
            for x in range(np.uint64(size)):
                row[x] += one[x]
            there += size
