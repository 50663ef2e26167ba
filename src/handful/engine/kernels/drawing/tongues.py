"""Flame of many soft things that rise: how they are stirred aside, and what their sum glows like."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.noise import octaves
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Tile, blank

Numbers = NDArray[np.float64]

_WAVES, _GAIN = 3, 0.5
_GUSTS_ACROSS = 0.35


class Rising(NamedTuple):
    """How things rise: up to so high, towards an angle in radians; stirred aside by so many px at the top, in waves
    so wide; drawn together to so much of where they began, about a line through x; and leaning so far."""

    tall: float
    way: float
    stirs: float
    wide: float
    narrows: float
    middle: float
    leans: float


@compiled
def rise(
    starts: Numbers,
    parts: Numbers,
    risen: Numbers,
    turns: float,
    how: Rising,
    k0: int,
    k1: int,
    places: Numbers,
) -> None:
    """Where things `(N, 2)` are that began at places, at parts `(N,)` of their lives.

    What stirs them rises with them, by `risen` px till each was born, and has changed `turns` times: each keeps
    its place in it for its whole life, so that those born beside each other, and after one another, move as one
    tongue.
    """
    cosine, sine = math.cos(how.way), math.sin(how.way)
    for n in range(parts.shape[0]):
        x, y = starts[n, 0], starts[n, 1]
        part = min(1.0, max(0.0, parts[n]))
        up = how.tall * part * (0.72 + 0.28 * part)
        # Across and along the way it rises.
        across, along = -x * sine + y * cosine, x * cosine + y * sine
        a, b = octaves(
            across / how.wide, (risen[n] - along) / how.wide, turns, k0, k1, _WAVES, _GAIN
        )
        stirred = how.stirs * part**1.2
        aside = stirred * a + how.leans * part * part
        up += 0.4 * stirred * b
        x += (how.middle - x) * how.narrows * min(1.0, 1.25 * part)
        places[n, 0] = x + up * cosine - aside * sine
        places[n, 1] = y + up * sine + aside * cosine


@compiled
def puff(
    starts: Numbers, born: Numbers, puffs: float, wide: float, k0: int, k1: int, strong: Numbers
) -> None:
    """How strongly things were fed as they were born, about 1, in so many puffs a second."""
    for n in range(born.shape[0]):
        a, _ = octaves(_GUSTS_ACROSS * starts[n, 0] / wide, 7.3, puffs * born[n], k0, k1, 2, 0.5)
        strong[n] = 1.0 + 2.2 * a


class Heat(NamedTuple):
    """How a sum of things glows: how dense it is, how hot its edges and its middle are in steps of the table, and
    how blue it is where they begin."""

    dense: float
    edge: float
    middle: float
    blue: float


def glowing(summed: Tile, table: NDArray[np.float32], heat: Heat) -> Tile:
    """The picture of sums: in red how much there is, in green how much of it has only begun."""
    picture = blank(summed.region)
    if not summed.region.empty:
        in_bands(_glow_rows, summed.region.height, summed.pixels, table, heat, picture)
    return Tile(picture, summed.region)


@compiled
def _glow_rows(
    first: int, last: int, summed: Picture, table: NDArray[np.float32], heat: Heat, picture: Picture
) -> None:
    one, zero = np.float32(1.0), np.float32(0.0)
    most = np.float32(table.shape[0] - 1.001)
    dense, edge = np.float32(heat.dense), np.float32(heat.edge)
    hotter, blue = np.float32(heat.middle - heat.edge), np.float32(heat.blue)
    for y in range(first, last):
        for x in range(picture.shape[1]):
            there = dense * summed[y, x, 0]
            if there <= zero:
                continue
            hot = one - np.float32(math.exp(-there))
            shown = one - np.float32(math.exp(np.float32(-3.0) * there * there))
            place = min(max(edge + hotter * hot, zero), most)
            k = int(place)
            part = place - np.float32(k)
            begun = blue * min(one, dense * summed[y, x, 1])
            for c in range(3):
                picture[y, x, c] = shown * (table[k, c] + (table[k + 1, c] - table[k, c]) * part)
            picture[y, x, 0] += np.float32(0.12) * begun
            picture[y, x, 1] += np.float32(0.32) * begun
            picture[y, x, 2] += begun
