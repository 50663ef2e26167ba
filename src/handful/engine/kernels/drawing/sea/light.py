"""How water mirrors the sky, and lets a lamp glitter.

What is reflected follows Schlick, "An inexpensive BRDF model for physically-based rendering", Computer
Graphics Forum 13(3), 1994, and for waves too small to be seen the mean of Bruneton, Neyret and Holzschuch,
"Real-time realistic ocean lighting", Computer Graphics Forum 29(2), 2010; a lamp glitters where slopes that
are normally spread about those seen throw its light to the eye (Cox and Munk, J. Opt. Soc. Am. 44, 1954).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from handful.engine.kernels.compiled import compiled, compiled_along
from handful.engine.kernels.drawing.sea.squares import Colours, Field
from handful.engine.kernels.fading import fades
from handful.engine.picture import Picture

_MIRRORS = 0.0204
"""What water reflects of what comes straight down: ((n - 1) / (n + 1))² for n = 1.333."""

_LEAST_FACING = 0.02

FACES = 256
"""Steps of a table of how much is reflected, by how far aside it comes from."""


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


@compiled
def mirrored(facing: float, rough: float) -> float:
    """How much water reflects of what comes from so far aside (the cosine), with waves of so large a
    deviation of slopes that are not seen."""
    steep = math.pow(1.0 - facing, 5.0 * math.exp(-2.69 * rough))
    return _MIRRORS + (1.0 - _MIRRORS) * steep / (1.0 + 22.7 * math.pow(rough, 1.5))


@compiled_along
def face(
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
def reflect(facing: Field, shares: Field, reflected: Field) -> None:
    """How much of what they mirror comes from what faces one so far, by a table of that."""
    most = np.float32(FACES)
    for x in range(facing.shape[0]):
        aside = (np.float32(1.0) - min(np.float32(1.0), facing[x])) * most
        whole = np.uint64(aside)
        share = shares[whole]
        reflected[x] = share + (aside - np.float32(whole)) * (shares[whole + np.uint64(1)] - share)


@compiled_along
def shine(
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


@compiled_along
def lay_light(
    shines: Field,
    whites: Field,
    share: np.float32,
    of_white: np.float32,
    bottom: np.float32,
    tops: Field,
    fars: Field,
    half_lost: np.float32,
    white: Colours,
    sky: Sky,
    row: Picture,
) -> None:
    """The light of a part of a row of the picture, from what has been added up for it: each look has its share."""
    mists, zero, one = np.float32(sky.mist), np.float32(0.0), np.float32(1.0)
    low, high, body = _as_light(sky.low), _as_light(sky.high), _as_light(sky.body)
    lamp, foam, found = _as_light(sky.lamp), _as_light(white), row.reshape(-1)
    for x in range(np.uint64(whites.shape[0])):
        cover = min(one, max(zero, bottom - tops[x]))
        mist = mists * fars[x] / (fars[x] + half_lost)
        hazy, part, of_foam = cover * mist, cover * (one - mist), of_white * whites[x]
        mirrors, highs, glitters = share * shines[0, x], share * shines[1, x], share * shines[2, x]
        within, bare, covered = one - mirrors, part * (one - of_foam), part * of_foam
        lower = mirrors - highs
        red = low[0] * lower + high[0] * highs + body[0] * within + lamp[0] * glitters
        green = low[1] * lower + high[1] * highs + body[1] * within + lamp[1] * glitters
        blue = low[2] * lower + high[2] * highs + body[2] * within + lamp[2] * glitters
        i = np.uint64(4) * x
        found[i] = hazy * low[0] + bare * red + covered * foam[0]
        found[i + np.uint64(1)] = hazy * low[1] + bare * green + covered * foam[1]
        found[i + np.uint64(2)] = hazy * low[2] + bare * blue + covered * foam[2]
        found[i + np.uint64(3)] = cover


@compiled
def _as_light(colour: Colours) -> tuple[np.float32, np.float32, np.float32]:
    return np.float32(colour[0]), np.float32(colour[1]), np.float32(colour[2])
