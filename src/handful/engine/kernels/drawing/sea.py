"""A sea seen from a low camera: how it mirrors the sky, lets a lamp glitter, and shows what is in it.

What is reflected follows Schlick, "An inexpensive BRDF model for physically-based rendering", Computer
Graphics Forum 13(3), 1994, and for waves too small to be seen the mean of Bruneton, Neyret and Holzschuch,
"Real-time realistic ocean lighting", Computer Graphics Forum 29(2), 2010; a lamp glitters where slopes that
are normally spread about those seen throw its light to the eye (Cox and Munk, J. Opt. Soc. Am. 44, 1954).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along, in_bands
from handful.engine.kernels.fading import fades
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Field = NDArray[np.float32]
Colours = tuple[float, float, float]

_MIRRORS = 0.0204
"""What water reflects of what comes straight down: ((n - 1) / (n + 1))² for n = 1.333."""

_MOST_LOOKS = 4
"""A px far away is looked at in so many places, one behind the other."""

_LEAST_FACING = 0.02

_FACES = 256
"""Steps of a table of how much is reflected, by how far aside it comes from."""

_SECOND, _TURNED = 0.271, 1.1
"""The waves are laid a second time so much smaller, and turned by so much, so that nothing repeats."""

_FIRST_STRONG, _SECOND_STRONG = 0.8, 0.6
"""How strong each is: their squares are 1."""


class Slopes(NamedTuple):
    """A square of slopes in sizes that halve `(M, 2)`, each with its first row and column once more at its ends: where each
    begins, how wide it is without these, and how much of the square of a slope is lost in it."""

    slopes: Field
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    lost: Field


class Finer(NamedTuple):
    """One of the sizes of a square: where it begins, and how wide it is."""

    begins: int
    side: int


class Room(NamedTuple):
    """Room for what is found along a row of a picture."""

    firsts: NDArray[np.int32]
    behind: Field
    first: Field
    second: Field
    tilted: Field


class Eye(NamedTuple):
    """The point where the water vanishes, how far off a px is a px, and how many metres above the water it
    all is seen from, in px of the full-size canvas; how many metres the square of slopes is wide."""

    x: float
    y: float
    lens: float
    high: float
    side: float


class Sky(NamedTuple):
    """What is mirrored: light low and high in the sky, light out of the water, a lamp's way (right, up,
    forward), its light, and the variance of slopes that it is as wide as; and how much of what is far is as
    the sky is low down."""

    low: Colours
    high: Colours
    body: Colours
    way: Colours
    lamp: Colours
    wide: float
    mist: float


def sizes_of(slopes: Field) -> Slopes:
    """Slopes `(N, N, 2)` on a square that repeats, N a power of two, in sizes that halve."""
    count = len(slopes).bit_length()
    sides = len(slopes) >> np.arange(count)
    starts = np.concatenate([[0], np.cumsum((sides + 1) ** 2)])
    sizes, squares = np.empty((starts[-1], 2), np.float32), np.empty(count)
    last = slopes
    for k in range(count):
        to = sizes[starts[k] : starts[k + 1]].reshape(sides[k] + 1, -1, 2)
        level = slopes
        if k:
            level = np.empty((sides[k], sides[k], 2), np.float32)
            _halve_rows(0, int(sides[k]), last, level)
        to[:-1, :-1], to[-1, :-1] = level, level[0]
        to[:, -1] = to[:, 0]
        squares[k] = float(np.vdot(level, level)) / (2 * level.shape[0] * level.shape[1])
        last = level
    return Slopes(sizes, starts[:-1], sides, np.maximum(0, squares[0] - squares).astype(np.float32))


def draw_sea(slopes: Slopes, eye: Eye, sky: Sky, scale: float, region: Region) -> Tile:
    """Water from its horizon down, at a scale, on what it covers of a region."""
    top = math.floor(eye.y * scale)
    shared = Region(region.left, max(region.top, top), region.right, region.bottom)
    if shared.empty or shared.height <= 0:
        return clear_tile(region)
    picture = blank(shared)
    in_bands(_sea_rows, shared.height, shared.left, shared.top, scale, *slopes, eye, sky, picture)
    return Tile(picture, shared)


@compiled
def mirrored(facing: float, rough: float) -> float:
    """How much water reflects of what comes from so far aside (the cosine), with waves of so large a
    deviation of slopes that are not seen."""
    steep = math.pow(1.0 - facing, 5.0 * math.exp(-2.69 * rough))
    return _MIRRORS + (1.0 - _MIRRORS) * steep / (1.0 + 22.7 * math.pow(rough, 1.5))


@compiled_along
def _halve_rows(first: int, last: int, finer: Field, level: Field) -> None:
    quarter = np.float32(0.25)
    for y in range(first, last):
        above, below, to = (
            finer[2 * y].reshape(-1),
            finer[2 * y + 1].reshape(-1),
            level[y].reshape(-1),
        )
        for x in range(level.shape[1]):
            for k in range(2):
                n = 4 * x + k
                to[2 * x + k] = quarter * (above[n] + above[n + 2] + below[n] + below[n + 2])


@compiled_along
def _between(
    begins: tuple[float, float],
    step: tuple[float, float],
    size: Finer,
    firsts: NDArray[np.int32],
    behind: Field,
) -> None:
    """Along a row of a picture, from a place of a square in its parts on: the first of the four that each px is between,
    and how far behind it that is across and down `(2, W)`."""
    wide, last = np.int32(size.side + 1), np.int32(size.side - 1)
    begin = np.int32(2 * size.begins)
    u, v = np.float32(begins[0] % size.side), np.float32(begins[1] % size.side)
    du, dv = np.float32(step[0]), np.float32(step[1])
    aside, below = behind[0], behind[1]
    for x in range(firsts.shape[0]):
        far = np.float32(np.int32(x))
        a, b = u + far * du, v + far * dv
        left, top = np.floor(a), np.floor(b)
        aside[x], below[x] = a - left, b - top
        i, j = np.int32(left) & last, np.int32(top) & last
        firsts[x] = begin + np.int32(2) * (j * wide + i)


@compiled
def _take(flat: Field, side: int, firsts: NDArray[np.int32], behind: Field, taken: Field) -> None:
    """The two slopes `(2, W)` straight between the four places about each px."""
    one, two, three, below = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(2 * (side + 1))
    for x in range(firsts.shape[0]):
        i = np.uint64(firsts[x])
        j = i + below
        s, t = behind[0, x], behind[1, x]
        a, b = (
            flat[i] + t * (flat[j] - flat[i]),
            flat[i + one] + t * (flat[j + one] - flat[i + one]),
        )
        c = flat[i + two] + t * (flat[j + two] - flat[i + two])
        d = flat[i + three] + t * (flat[j + three] - flat[i + three])
        taken[0, x], taken[1, x] = a + s * (c - a), b + s * (d - b)


@compiled_along
def _tilt(first: Field, second: Field, tilted: Field) -> None:
    """Both layers of waves as one: the second is turned."""
    strong = np.float32(_FIRST_STRONG)
    turned = np.float32(_SECOND_STRONG * math.cos(_TURNED))
    askew = np.float32(_SECOND_STRONG * math.sin(_TURNED))
    ax, az, bx, bz = first[0], first[1], second[0], second[1]
    across, away = tilted[0], tilted[1]
    for x in range(ax.shape[0]):
        across[x] = strong * ax[x] + turned * bx[x] + askew * bz[x]
        away[x] = strong * az[x] + turned * bz[x] - askew * bx[x]


@compiled
def _slopes_seen(
    flat: Field,
    nearer: Finer,
    smaller: Finer,
    side: float,
    first_x: float,
    step_x: float,
    z: float,
    room: Room,
) -> None:
    """The slopes, across and away, of the water so many metres aside and before one along a row, from the square in the
    sizes that are seen there: as it is, and smaller and turned."""
    by, less = nearer.side / side, smaller.side / (side * _SECOND)
    cosine, sine = math.cos(_TURNED) * less, math.sin(_TURNED) * less
    _between(
        (first_x * by - 0.5, z * by - 0.5), (step_x * by, 0.0), nearer, room.firsts, room.behind
    )
    _take(flat, nearer.side, room.firsts, room.behind, room.first)
    begins = first_x * cosine - z * sine - 0.5, first_x * sine + z * cosine - 0.5
    _between(begins, (step_x * cosine, step_x * sine), smaller, room.firsts, room.behind)
    _take(flat, smaller.side, room.firsts, room.behind, room.second)
    _tilt(room.first, room.second, room.tilted)


@compiled_along
def _face(
    tilted: Field,
    aside: np.float32,
    step: np.float32,
    below: np.float32,
    lens: np.float32,
    facing: Field,
) -> None:
    """How far what is seen along a row faces one `(W,)`: the cosine. The first is `aside`, and the next a `step` from it."""
    across, away = tilted[0], tilted[1]
    one, least = np.float32(1.0), np.float32(_LEAST_FACING)
    for x in range(facing.shape[0]):
        dx = aside + np.float32(np.int32(x)) * step
        sx, sz = across[x], away[x]
        long = dx * dx + below * below + lens * lens
        size = one + sx * sx + sz * sz
        facing[x] = max(least, (below + sx * dx + sz * lens) / np.sqrt(long * size))


@compiled
def _reflect(facing: Field, shares: Field, reflected: Field) -> None:
    """How much of what they mirror comes from what faces one so far, by a table of that."""
    most = np.float32(_FACES)
    for x in range(facing.shape[0]):
        aside = (np.float32(1.0) - min(np.float32(1.0), facing[x])) * most
        whole = np.uint64(aside)
        share = shares[whole]
        reflected[x] = share + (aside - np.float32(whole)) * (shares[whole + np.uint64(1)] - share)


@compiled_along
def _shine(
    tilted: Field,
    facing: Field,
    reflected: Field,
    aside: np.float32,
    step: np.float32,
    below: np.float32,
    lens: np.float32,
    way: tuple[np.float32, np.float32, np.float32],
    spread: np.float32,
    shines: Field,
) -> None:
    """Add what is seen along a row `(3, W)`: how much of the sky low down, how much more of it as high as is mirrored, and
    how much a lamp glitters."""
    across, away = tilted[0], tilted[1]
    mirrors, highs, glitters = shines[0], shines[1], shines[2]
    one, two, zero = np.float32(1.0), np.float32(2.0), np.float32(0.0)
    flat, most, least = np.float32(0.05), np.float32(30.0), np.float32(1e-4)
    strong = np.float32(1.0 / (8.0 * math.pi)) / spread
    for x in range(facing.shape[0]):
        dx = aside + np.float32(np.int32(x)) * step
        sx, sz, share = across[x], away[x], reflected[x]
        by = one / np.sqrt(dx * dx + below * below + lens * lens)
        down = below * by
        size = one / np.sqrt(one + sx * sx + sz * sz)
        high = min(one, abs(two * facing[x] * size - down))
        mirrors[x] += share
        highs[x] += share * high * (two - high)
        hx, hy, hz = way[0] - dx * by, way[1] + down, way[2] - lens * by
        shown = hy > least
        hy = max(hy, least)
        px, pz = -hx / hy - sx, -hz / hy - sz
        off = min(most, (px * px + pz * pz) / (two * spread))
        shown = shown and off < most
        wide = (hx * hx + hy * hy + hz * hz) / (hy * hy)
        bright = share * fades(off) * strong * wide * wide / max(flat, down)
        glitters[x] += bright if shown else zero


@compiled
def _sea_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    scale: float,
    slopes: Field,
    starts: NDArray[np.int64],
    sides: NDArray[np.int64],
    lost: Field,
    eye: Eye,
    sky: Sky,
    picture: Picture,
) -> None:
    width = picture.shape[1]
    shares = np.empty(_FACES + 2, np.float32)
    tilted, shines = np.empty((2, width), np.float32), np.empty((3, width), np.float32)
    room = Room(
        np.empty(width, np.int32), np.empty((2, width), np.float32), np.empty((2, width), np.float32),
        np.empty((2, width), np.float32), tilted,
    )  # fmt: skip
    facing, reflected = np.empty(width, np.float32), np.empty(width, np.float32)
    most, cell = sides.shape[0] - 1, eye.side / sides[0]
    way = np.float32(sky.way[0]), np.float32(sky.way[1]), np.float32(sky.way[2])
    aside, step = (left + 0.5) / scale - eye.x, 1.0 / scale
    flat = slopes.reshape(-1)
    for y in range(first, last):
        below = (y + top + 0.5) / scale - eye.y
        cover = min(1.0, max(0.0, below * scale + 0.5))
        below = max(below, 0.25 / scale)
        far = eye.lens * eye.high / below
        across = far / eye.lens / scale
        deep = far * far / (eye.lens * eye.high) / scale
        looks = max(1, min(_MOST_LOOKS, int(deep / across)))
        wide = max(across, deep / looks)
        fine = math.log2(max(1.0, wide / cell))
        level = min(most, int(fine + 0.5))
        level2 = min(most, int(max(0.0, fine - math.log2(_SECOND)) + 0.5))
        unseen = (
            _FIRST_STRONG * _FIRST_STRONG * lost[level]
            + _SECOND_STRONG * _SECOND_STRONG * lost[level2]
        )
        for n in range(_FACES + 2):
            shares[n] = mirrored(max(0.0, 1.0 - n / _FACES), math.sqrt(2.0 * unseen))
        mist = sky.mist * far / (far + 400.0 * eye.high)
        shines[:] = np.float32(0.0)
        place = np.float32(aside), np.float32(step), np.float32(below), np.float32(eye.lens)
        nearer, smaller = Finer(starts[level], sides[level]), Finer(starts[level2], sides[level2])
        for n in range(looks):
            z = far + deep * ((n + 0.5) / looks - 0.5)
            by = z / eye.lens
            _slopes_seen(flat, nearer, smaller, eye.side, aside * by, step * by, z, room)
            _face(tilted, *place, facing)
            _reflect(facing, shares, reflected)
            _shine(tilted, facing, reflected, *place, way, np.float32(unseen + sky.wide), shines)
        part = cover * (1.0 - mist) / looks
        for channel in range(3):
            low, more = (
                np.float32(part * sky.low[channel]),
                np.float32(part * (sky.high[channel] - sky.low[channel])),
            )
            body, lamp = np.float32(part * sky.body[channel]), np.float32(part * sky.lamp[channel])
            hazy = np.float32(cover * mist * sky.low[channel])
            for x in range(width):
                mirrors = shines[0, x]
                picture[y, x, channel] = (
                    hazy
                    + low * mirrors
                    + more * shines[1, x]
                    + body * (looks - mirrors)
                    + lamp * shines[2, x]
                )
        picture[y, :, 3] = np.float32(cover)
