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

from handful.engine.kernels.compiled import compiled, compiled_along, compiled_in, in_bands
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
    """A square of slopes in sizes that halve `(M, 2)`: where each begins, how wide it is, and how much of the
    square of a slope is lost in it."""

    slopes: Field
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    lost: Field


class Finer(NamedTuple):
    """One of the sizes of a square: where it begins, and how wide it is."""

    begins: int
    side: int


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
    levels, whole = [slopes], float((slopes**2).mean(axis=(0, 1)).sum() / 2)
    while len(levels[-1]) > 1:
        last = levels[-1]
        levels.append(
            0.25 * (last[::2, ::2] + last[1::2, ::2] + last[::2, 1::2] + last[1::2, 1::2])
        )
    lost = [whole - float((level**2).mean(axis=(0, 1)).sum() / 2) for level in levels]
    sides = np.array([len(level) for level in levels], np.int64)
    return Slopes(
        np.concatenate([level.reshape(-1, 2) for level in levels]).astype(np.float32),
        np.concatenate([[0], np.cumsum(sides[:-1] ** 2)]),
        sides,
        np.maximum(0, lost).astype(np.float32),
    )


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


@compiled_in
def _slope(
    slopes: Field, begins: int, side: int, x: float, y: float
) -> tuple[np.float32, np.float32]:
    """The slopes at a place of the square, in its parts and round again, in the size that begins there."""
    across, down = math.floor(x), math.floor(y)
    s, t = np.float32(x - across), np.float32(y - down)
    i, j, last = int(across), int(down), side - 1
    row, below = begins + (j & last) * side, begins + ((j + 1) & last) * side
    i0, i1 = i & last, (i + 1) & last
    a, b = np.uint64(2 * (row + i0)), np.uint64(2 * (row + i1))
    c, d = np.uint64(2 * (below + i0)), np.uint64(2 * (below + i1))
    one = np.uint64(1)
    w3 = s * t
    w1, w2 = s - w3, t - w3
    w0 = np.float32(1.0) - s - w2
    return (
        w0 * slopes[a] + w1 * slopes[b] + w2 * slopes[c] + w3 * slopes[d],
        w0 * slopes[a + one] + w1 * slopes[b + one] + w2 * slopes[c + one] + w3 * slopes[d + one],
    )


@compiled
def _slopes_seen(
    slopes: Field,
    nearer: Finer,
    smaller: Finer,
    side: float,
    first_x: float,
    step_x: float,
    z: float,
    tilted: Field,
) -> None:
    """The slopes `(2, W)`, across and away, of the water so many metres aside and before one along a row, from the square
    in the sizes that are seen there: as it is, and smaller and turned."""
    cosine, sine = math.cos(_TURNED), math.sin(_TURNED)
    first_strong = np.float32(_FIRST_STRONG)
    turned, askew = np.float32(_SECOND_STRONG * cosine), np.float32(_SECOND_STRONG * sine)
    by, by_smaller = nearer.side / side, smaller.side / (side * _SECOND)
    v = z * by - 0.5
    for x in range(tilted.shape[1]):
        mx = first_x + x * step_x
        ax, az = _slope(slopes, nearer.begins, nearer.side, mx * by - 0.5, v)
        bx, bz = _slope(
            slopes, smaller.begins, smaller.side,
            (mx * cosine - z * sine) * by_smaller - 0.5, (mx * sine + z * cosine) * by_smaller - 0.5,
        )  # fmt: skip
        tilted[0, x] = first_strong * ax + turned * bx + askew * bz
        tilted[1, x] = first_strong * az + turned * bz - askew * bx


@compiled_along
def _fades(x: np.float32) -> np.float32:
    """The exponential of -x, from 0 to 80, within 2 of 100,000: a float's own bits take the whole powers of two."""
    t = x * np.float32(1.4426950408889634)
    whole = np.floor(t)
    f = t - whole
    share = np.float32(0.0096181) + f * (np.float32(-0.0013333) + f * np.float32(0.000154))
    share = np.float32(0.2402265) + f * (np.float32(-0.0555041) + f * share)
    share = np.float32(1.0) + f * (np.float32(-0.6931472) + f * share)
    return share * np.int32((np.int32(127) - np.int32(whole)) << np.int32(23)).view(np.float32)


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
        bright = share * _fades(off) * strong * wide * wide / max(flat, down)
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
            _slopes_seen(flat, nearer, smaller, eye.side, aside * by, step * by, z, tilted)
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
