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

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Field = NDArray[np.float32]
Colours = tuple[float, float, float]

_MIRRORS = 0.0204
"""What water reflects of what comes straight down: ((n - 1) / (n + 1))² for n = 1.333."""

_MOST_LOOKS = 4
"""A px far away is looked at in so many places, one behind the other."""

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


@compiled
def _slope(slopes: Field, begins: int, side: int, u: float, v: float) -> tuple[float, float]:
    """The slopes at a place of the square, from 0 to 1 and round again, in the size that begins there."""
    x, y = u * side - 0.5, v * side - 0.5
    across, down = math.floor(x), math.floor(y)
    s, t = np.float32(x - across), np.float32(y - down)
    i, j, last = int(across), int(down), side - 1
    row, below = begins + (j & last) * side, begins + ((j + 1) & last) * side
    i0, i1 = i & last, (i + 1) & last
    a, b, c, d = (
        np.uint64(row + i0),
        np.uint64(row + i1),
        np.uint64(below + i0),
        np.uint64(below + i1),
    )
    w3 = s * t
    w1, w2 = s - w3, t - w3
    w0 = np.float32(1.0) - s - w2
    return (
        w0 * slopes[a, 0] + w1 * slopes[b, 0] + w2 * slopes[c, 0] + w3 * slopes[d, 0],
        w0 * slopes[a, 1] + w1 * slopes[b, 1] + w2 * slopes[c, 1] + w3 * slopes[d, 1],
    )


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
    cosine, sine = math.cos(_TURNED), math.sin(_TURNED)
    shares = np.empty(_FACES + 2)
    most, cell = sides.shape[0] - 1, eye.side / sides[0]
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
        spread = unseen + sky.wide
        for n in range(_FACES + 2):
            shares[n] = mirrored(max(0.0, 1.0 - n / _FACES), math.sqrt(2.0 * unseen))
        mist = sky.mist * far / (far + 400.0 * eye.high)
        for x in range(picture.shape[1]):
            dx = (x + left + 0.5) / scale - eye.x
            long = math.sqrt(dx * dx + below * below + eye.lens * eye.lens)
            ex, ey, ez = dx / long, -below / long, eye.lens / long
            red, green, blue = 0.0, 0.0, 0.0
            for n in range(looks):
                z = far + deep * ((n + 0.5) / looks - 0.5)
                mx = dx * z / eye.lens
                u, v = mx / eye.side, z / eye.side
                ax, az = _slope(slopes, starts[level], sides[level], u, v)
                u2, v2 = (mx * cosine - z * sine) / eye.side, (mx * sine + z * cosine) / eye.side
                bx, bz = _slope(slopes, starts[level2], sides[level2], u2 / _SECOND, v2 / _SECOND)
                sx = _FIRST_STRONG * ax + _SECOND_STRONG * (bx * cosine + bz * sine)
                sz = _FIRST_STRONG * az + _SECOND_STRONG * (bz * cosine - bx * sine)
                size = 1.0 / math.sqrt(1.0 + sx * sx + sz * sz)
                facing = max(0.02, -(ey - sx * ex - sz * ez) * size)
                aside = (1.0 - min(1.0, facing)) * _FACES
                whole = int(aside)
                share = shares[whole] + (aside - whole) * (shares[whole + 1] - shares[whole])
                up = ey + 2.0 * facing * size
                high = min(1.0, max(0.0, abs(up)))
                high = high * (2.0 - high)
                hx, hy, hz = sky.way[0] - ex, sky.way[1] - ey, sky.way[2] - ez
                glitter = 0.0
                if hy > 1e-4:
                    px, pz = -hx / hy - sx, -hz / hy - sz
                    off = (px * px + pz * pz) / (2.0 * spread)
                    if off < 30.0:
                        steep = hy * hy / (hx * hx + hy * hy + hz * hz)
                        glitter = (
                            share
                            * math.exp(-off)
                            / (8.0 * math.pi * spread * max(0.05, -ey) * steep * steep)
                        )
                red += (
                    share * (sky.low[0] + (sky.high[0] - sky.low[0]) * high)
                    + (1.0 - share) * sky.body[0]
                    + glitter * sky.lamp[0]
                )
                green += (
                    share * (sky.low[1] + (sky.high[1] - sky.low[1]) * high)
                    + (1.0 - share) * sky.body[1]
                    + glitter * sky.lamp[1]
                )
                blue += (
                    share * (sky.low[2] + (sky.high[2] - sky.low[2]) * high)
                    + (1.0 - share) * sky.body[2]
                    + glitter * sky.lamp[2]
                )
            part = cover * (1.0 - mist) / looks
            hazy = cover * mist
            picture[y, x, 0] = red * part + sky.low[0] * hazy
            picture[y, x, 1] = green * part + sky.low[1] * hazy
            picture[y, x, 2] = blue * part + sky.low[2] * hazy
            picture[y, x, 3] = cover
