"""Molten stuff, seen from above: what glows through its skin, its cracks, its folds, and how it gleams.

Its pattern is carried by two sets of marks that are made anew by turns, each weighed least when it is (Max
and Becker, "Flow visualization using moving textures", 1995; Neyret, "Advected textures", SCA 2003).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.fluid.grid import MARKS, Carried, Field
from handful.engine.kernels.fluid.molten import CORE, FOLDED, SKIN, TORN
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Row = NDArray[np.float32]
_THICK, _PRESSED, _SEEN = 8, 9, 11
"""What is seen beside the levels: how thick it stands, and how far the two sets of marks are pushed together."""

_UNIT = np.float32(1.0 / 4294967296.0)


class Glow(NamedTuple):
    """How it is seen. Where its grid lies: left, top and side of a cell in px of the scaled canvas. How thick it stands where it ends, and how thick it is that half
    of its light comes from within, in cells. How many plates of skin there are a cell, how wide cracks are where the skin
    was stretched by its own length and where it was not, how uneven it is, how deep its folds and the rims of plates are. Where light
    comes from, how bright it is, how much is thrown back by what is dull and by what gleams, how narrow
    that is, and how much its roundness counts. How cold and full heat count in steps of the table; and how the two sets of marks are weighed, and set
    apart."""

    left: float
    top: float
    cell: float
    ends: float
    clear: float
    plates: float
    torn: float
    always: float
    uneven: float
    folds: float
    way: tuple[float, float, float]
    dull: tuple[float, float, float]
    gleams: float
    narrow: float
    raised: float
    round: float
    coldest: float
    hotter: float
    weights: tuple[float, float]
    apart: tuple[float, float]


def draw_melt(
    thick: Field,
    levels: Carried,
    table: NDArray[np.float32],
    glow: Glow,
    key: tuple[int, int],
    region: Region,
) -> Tile:
    """What stands so thick `(R, C)`, in cells, with its levels `(R, C, 8)`, on what it covers of a region.
    `table` `(N, 3)` is light by heat."""
    rows, columns = thick.shape
    covered = Region(
        math.floor(glow.left),
        math.floor(glow.top),
        math.ceil(glow.left + columns * glow.cell),
        math.ceil(glow.top + rows * glow.cell),
    ).meet(region)
    if covered.empty:
        return clear_tile(region)
    picture = blank(covered)
    in_bands(
        _melt_rows, covered.height, covered.left, covered.top, thick, levels, table, glow, *key, picture
    )  # fmt: skip
    return Tile(picture, covered)


@compiled
def _curve(part: Number) -> tuple[Number, Number, Number, Number, Number, Number]:
    """Of three neighbours, how much each counts for a smooth curve (the quadratic B-spline) and for its slope,
    by how far from the middle one."""
    half = np.float32(0.5)
    before, after = half - part, half + part
    return (
        half * before * before, np.float32(0.75) - part * part, half * after * after,
        -before, np.float32(-2.0) * part, after,
    )  # fmt: skip


@compiled
def _smoothly(
    thick: Field, levels: Carried, x: Number, y: Number, out: Row, slopes: Row
) -> tuple[Number, Number]:
    """All levels and how thick it stands at a place counted from the first cell's middle; and how steep that is."""
    rows, columns = thick.shape
    i = min(max(int(math.floor(x + np.float32(0.5))), 0), columns - 1)
    j = min(max(int(math.floor(y + np.float32(0.5))), 0), rows - 1)
    across, down = np.empty(6, np.float32), np.empty(6, np.float32)
    across[0], across[1], across[2], across[3], across[4], across[5] = _curve(x - np.float32(i))
    down[0], down[1], down[2], down[3], down[4], down[5] = _curve(y - np.float32(j))
    for n in range(_SEEN):
        out[n] = np.float32(0.0)
    slopes[:] = np.float32(0.0)
    steep, falls = np.float32(0.0), np.float32(0.0)
    for b in range(3):
        row = min(max(j + b - 1, 0), rows - 1)
        for a in range(3):
            column = min(max(i + a - 1, 0), columns - 1)
            weight = down[b] * across[a]
            stands = thick[row, column]
            out[_THICK] += weight * stands
            more, below = down[b] * across[a + 3], down[b + 3] * across[a]
            steep += more * stands
            falls += below * stands
            for n in range(8):
                out[n] += weight * levels[row, column, n]
            for n in range(4):
                level = levels[row, column, MARKS + n]
                slopes[n] += more * level
                slopes[n + 4] += below * level
    for which in range(2):
        first, second = abs(slopes[2 * which]), abs(slopes[2 * which + 1])
        third, fourth = abs(slopes[2 * which + 4]), abs(slopes[2 * which + 5])
        out[_PRESSED + which] = max(max(first, second), max(third, fourth))
    return steep, falls


@compiled
def _plate(x: Number, y: Number, k0: int, k1: int) -> tuple[Number, Number, Number, Number]:
    """The plate of skin at a place: how far the nearest crack is, which way that is, and a number of the plate's
    own from 0 to 1; plates are cells of size 1 (Worley, "A cellular texture basis function", SIGGRAPH 1996)."""
    left, top = math.floor(x), math.floor(y)
    nearest, second = np.float32(9.0), np.float32(9.0)
    ax, ay, bx, by = np.float32(0.0), np.float32(0.0), np.float32(0.0), np.float32(0.0)
    own = np.float32(0.0)
    for j in range(-1, 2):
        for i in range(-1, 2):
            one, two = hashed(int(left) + i, int(top) + j, 0, k0, k1)
            px = np.float32(left + i) + np.float32(one) * _UNIT - x
            py = np.float32(top + j) + np.float32(two) * _UNIT - y
            far = px * px + py * py
            if far < nearest:
                second, bx, by = nearest, ax, ay
                nearest, ax, ay = far, px, py
                own = np.float32(one ^ two) * _UNIT
            elif far < second:
                second, bx, by = far, px, py
    dx, dy = bx - ax, by - ay
    apart = max(np.float32(1e-6), np.float32(math.sqrt(dx * dx + dy * dy)))
    border = (second - nearest) / (apart + apart)
    return border, dx / apart, dy / apart, own


@compiled
def _noise(x: Number, y: Number, k0: int, k1: int) -> Number:
    """Smooth noise about from -1 to 1 with cells of size 1."""
    left, top = math.floor(x), math.floor(y)
    s, t = np.float32(x - left), np.float32(y - top)
    three, two = np.float32(3.0), np.float32(2.0)
    u, v = s * s * (three - two * s), t * t * (three - two * t)
    total = np.float32(0.0)
    for j in range(2):
        for i in range(2):
            word, _ = hashed(int(left) + i, int(top) + j, 1, k0, k1)
            weight = (u if i else np.float32(1.0) - u) * (v if j else np.float32(1.0) - v)
            total += weight * np.float32(word)
    return total * np.float32(2.0) * _UNIT - np.float32(1.0)


@compiled
def _in_table(heat: Number, glow: Glow, most: Number) -> tuple[int, Number]:
    """The step of the table that a heat is in, and how far it is to the next."""
    place = np.float32(glow.coldest) + heat * np.float32(glow.hotter)
    place = min(max(place, np.float32(0.0)), most)
    k = int(place)
    return k, place - np.float32(k)


@compiled
def _shown(fine: Number, times: Number) -> Number:
    """How much of noise, so many times finer than plates are, is seen where a px is so much of a plate wide: nothing
    below a px and a half for each of its cells."""
    cell = np.float32(1.0) / (fine * times)
    return min(np.float32(1.0), max(np.float32(0.0), cell - np.float32(1.5)))


@compiled
def _melt_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    thick: Field,
    levels: Carried,
    table: NDArray[np.float32],
    glow: Glow,
    k0: int,
    k1: int,
    picture: Picture,
) -> None:
    rows, columns = thick.shape
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    seen, slopes = np.empty(_SEEN, np.float32), np.empty(8, np.float32)
    most = np.float32(table.shape[0] - 1.001)
    ends, by = np.float32(glow.ends), np.float32(1.0 / glow.cell)
    plates = np.float32(glow.plates)
    seven, more = np.float32(7.0), np.float32(17.0)
    # A px is so many plates wide.
    fine = max(np.float32(1e-4), plates * by)
    wx, wy, wz = np.float32(glow.way[0]), np.float32(glow.way[1]), np.float32(glow.way[2])
    hz = np.float32(math.sqrt(wx * wx + wy * wy + (wz + one) * (wz + one)))
    for py in range(first, last):
        y = np.float32((py + top + 0.5 - glow.top) * by)
        for px in range(picture.shape[1]):
            x = np.float32((px + left + 0.5 - glow.left) * by)
            i, j = min(max(int(x), 0), columns - 1), min(max(int(y), 0), rows - 1)
            if _is_bare(thick, i, j):
                continue
            steep, falls = _smoothly(thick, levels, x - half, y - half, seen, slopes)
            stands = seen[_THICK]
            slope = np.float32(math.sqrt(steep * steep + falls * falls))
            # Where it ends, a px holds a part of it.
            cover = half + (stands - ends) / max(slope * by, np.float32(1e-5))
            cover = min(one, max(zero, cover))
            if cover <= zero:
                continue
            skin, core = seen[SKIN], max(seen[SKIN], seen[CORE])
            torn, folded = seen[TORN], seen[FOLDED]
            heat, opened, shows, nx, ny = zero, zero, zero, zero, zero
            for which in range(2):
                weight = np.float32(glow.weights[which])
                if weight <= zero:
                    continue
                apart = np.float32(glow.apart[which])
                # Where marks are pushed together, a px is as much wider.
                wide = fine * max(np.float32(0.25), seen[_PRESSED + which])
                calm = min(
                    one, max(zero, np.float32(1.6) - np.float32(0.4) * seen[_PRESSED + which])
                )
                mx = seen[MARKS + 2 * which] * plates + apart
                my = seen[MARKS + 2 * which + 1] * plates + apart
                # Cracks wander, and plates are of many sizes.
                wander = _noise(mx * np.float32(2.3), my * np.float32(2.3), k0, k1)
                other = _noise(
                    mx * np.float32(2.3) + np.float32(71.3), my * np.float32(2.3), k0, k1
                )
                border, dx, dy, own = _plate(
                    mx + np.float32(0.22) * wander, my + np.float32(0.22) * other, k0, k1
                )
                rough = _shown(wide, seven) * _noise(mx * seven, my * seven, k0, k1)
                rough += half * _shown(wide, more) * _noise(mx * more, my * more, k0, k1)
                rough = calm * (np.float32(0.55) * rough + np.float32(0.45) * wander)
                open = np.float32(glow.torn) * torn / (one + torn) * (half + own) + np.float32(
                    glow.always
                )
                open *= calm * (one + np.float32(0.6) * rough)
                # What of a px lies in the crack, whose other side is as far on.
                edge = max(wide, np.float32(0.3) * open)
                nearer, farther = border - half * edge, border + half * edge
                crack = max(zero, min(open, farther) - max(-open, nearer)) / edge
                crack *= calm
                near = calm * np.float32(math.exp(-max(zero, border - open) * np.float32(9.0)))
                uneven = np.float32(glow.uneven) * (rough + half * (own - half))
                hot = skin * (one + uneven)
                # The rim of a plate is thin: it is hotter there.
                hot += (core - hot) * np.float32(0.22) * near * min(one, np.float32(14.0) * open)
                # It is hottest in the middle of a crack; one that a px holds is as hot as that.
                deep = min(one, max(zero, (open - border) / max(open, wide)))
                deep = deep * (np.float32(2.0) - deep)
                deep += (np.float32(1.0) - deep) * max(zero, one - open / wide)
                deep = np.float32(0.62) + np.float32(0.38) * deep
                opened += weight * crack * max(hot, core * deep)
                heat += weight * hot
                shows += weight * (one - crack)
                # In a px on a border the rims of both sides make one another even.
                rim = np.float32(glow.raised) * near * (one - crack)
                rim *= min(one, (border + border) / wide)
                nx += weight * rim * dx
                ny += weight * rim * dy
                wave = np.float32(glow.folds) * folded / (one + folded)
                if wave > zero:
                    nx += weight * wave * rough
                    ny += weight * wave * wander
            nx += np.float32(glow.round) * steep
            ny += np.float32(glow.round) * falls
            k, part = _in_table(heat, glow, most)
            m, other = _in_table(opened / max(one - shows, np.float32(1e-6)), glow, most)
            within = one
            if glow.clear > 0.0:
                within = one - np.float32(math.exp(-0.693 * stands / glow.clear))
            long = np.float32(1.0 / math.sqrt(nx * nx + ny * ny + one))
            facing = max(zero, (-nx * wx - ny * wy + wz) * long)
            met = max(zero, (-nx * wx - ny * wy + wz + one) * long / hz)
            gleam = np.float32(glow.gleams) * np.float32(math.pow(met, glow.narrow))
            gleam *= half + half * shows
            for c in range(3):
                light = shows * (table[k, c] + (table[k + 1, c] - table[k, c]) * part)
                light += (one - shows) * (table[m, c] + (table[m + 1, c] - table[m, c]) * other)
                light *= within
                light += np.float32(glow.dull[c]) * facing * shows + gleam
                picture[py, px, c] = cover * light
            picture[py, px, 3] = cover


@compiled
def _is_bare(thick: Field, i: int, j: int) -> bool:
    """Whether nothing stands in a cell and in those beside it."""
    for b in range(max(0, j - 1), min(thick.shape[0], j + 2)):
        for a in range(max(0, i - 1), min(thick.shape[1], i + 2)):
            if thick[b, a] > np.float32(0.0):
                return False
    return True
