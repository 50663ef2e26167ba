"""Molten stuff, seen from above: what glows through its skin, its cracks, its folds, and how it gleams.

Its pattern is carried by two sets of marks that are made anew by turns, each weighed least when it is (Max
and Becker, "Flow visualization using moving textures", 1995; Neyret, "Advected textures", SCA 2003).
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled, compiled_along, compiled_in, in_bands
from handful.engine.kernels.fading import fades
from handful.engine.kernels.fluid.burning import noise_in, noise_sheet
from handful.engine.kernels.fluid.grid import LEVELS, MARKS, Carried, Field
from handful.engine.kernels.fluid.skin import CORE, FOLDED, SKIN, TORN
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Row = NDArray[np.float32]
Line = NDArray[np.float32]
_THICK, _PRESSED, _SEEN = 8, 9, 11
"""What is seen beside the levels: how thick it stands, and how far the two sets of marks are pushed together."""

_PLATES = 64
"""So many plates across and down their places return."""

_WANDERS, _ROUGH = np.float32(17.0), np.float32(46.0)
"""Places on the sheet of noise for each plate: of what bends cracks, and of what is uneven."""

_FINEST = np.float32(0.14)
"""Waves of that sheet for each of its places, at most."""


class Glow(NamedTuple):
    """How it is seen.

    Where its grid lies: left, top and side of a cell in px of the scaled canvas. How thick it stands where it
    ends, and where half of its light comes from within, in cells. How many plates of skin there are a cell; how
    wide cracks are, of a plate, where the skin was stretched by its own length and where it was not; how uneven
    it is, and how deep its folds and the rims of plates are. The way that light comes from; how much of it what is
    dull and what gleams throw back; how much its rims and its roundness count. How cold
    and full heat count in steps of the table; how the two sets of marks are weighed, and set apart.
    """

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
    key: Key,
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
        _melt_rows, covered.height, covered.left, covered.top, thick, levels, table, glow,
        noise_sheet(key), plates_of(key), picture,
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
def _lay_row(thick: Field, levels: Carried, y: Number, curve: Row, line: Line) -> None:
    """All levels, and how thick it stands, along a row at a place counted from the first cell's middle; and how
    steeply each goes down there: `(2, C, 9)`."""
    rows, columns = thick.shape
    j = min(max(int(np.floor(y + np.float32(0.5))), 0), rows - 1)
    curve[0], curve[1], curve[2], curve[3], curve[4], curve[5] = _curve(y - np.float32(j))
    above, below = max(0, j - 1), min(rows - 1, j + 1)
    for i in range(columns):
        for n in range(LEVELS):
            a, b, c = levels[above, i, n], levels[j, i, n], levels[below, i, n]
            line[0, i, n] = curve[0] * a + curve[1] * b + curve[2] * c
            line[1, i, n] = curve[3] * a + curve[4] * b + curve[5] * c
        a, b, c = thick[above, i], thick[j, i], thick[below, i]
        line[0, i, _THICK] = curve[0] * a + curve[1] * b + curve[2] * c
        line[1, i, _THICK] = curve[3] * a + curve[4] * b + curve[5] * c


@compiled_in
def _smoothly(line: Line, x: Number, curve: Row, out: Row) -> tuple[Number, Number]:
    """All levels and how thick it stands at a place along a row; and how steep that is."""
    columns = line.shape[1]
    i = min(max(int(np.floor(x + np.float32(0.5))), 0), columns - 1)
    curve[0], curve[1], curve[2], curve[3], curve[4], curve[5] = _curve(x - np.float32(i))
    before, after = max(0, i - 1), min(columns - 1, i + 1)
    p, q, r = curve[0], curve[1], curve[2]
    for n in range(_THICK + 1):
        out[n] = p * line[0, before, n] + q * line[0, i, n] + r * line[0, after, n]
    u, v, w = curve[3], curve[4], curve[5]
    for which in range(2):
        most = np.float32(0.0)
        for n in range(MARKS + 2 * which, MARKS + 2 * which + 2):
            across = u * line[0, before, n] + v * line[0, i, n] + w * line[0, after, n]
            down = p * line[1, before, n] + q * line[1, i, n] + r * line[1, after, n]
            most = max(most, max(abs(across), abs(down)))
        out[_PRESSED + which] = most
    n = _THICK
    return (
        u * line[0, before, n] + v * line[0, i, n] + w * line[0, after, n],
        p * line[1, before, n] + q * line[1, i, n] + r * line[1, after, n],
    )


@lru_cache(maxsize=8)
def plates_of(key: Key) -> NDArray[np.float32]:
    """Where the middle of each plate of skin is within its cell, and a number of its own, all from 0 to 1
    `(64, 64, 3)`; they return after so many cells."""
    random = np.random.Generator(np.random.Philox(key=int(key[1]) << 32 | int(key[0])))
    return random.random((_PLATES, _PLATES, 3), np.float32)


@compiled
def _plate(
    plates: NDArray[np.float32], x: Number, y: Number
) -> tuple[Number, Number, Number, Number]:
    """The plate of skin at a place: how far the nearest crack is, which way that is, and the plate's own number;
    plates are cells of size 1 (Worley, "A cellular texture basis function", SIGGRAPH 1996)."""
    left, top = int(np.floor(x)), int(np.floor(y))
    u, v = x - np.float32(left), y - np.float32(top)
    nearest, second = np.float32(9.0), np.float32(9.0)
    ax, ay, bx, by = np.float32(0.0), np.float32(0.0), np.float32(0.0), np.float32(0.0)
    own = np.float32(0.0)
    for j in range(-1, 2):
        row = (top + j) & (_PLATES - 1)
        for i in range(-1, 2):
            column = (left + i) & (_PLATES - 1)
            px = np.float32(i) + plates[row, column, 0] - u
            py = np.float32(j) + plates[row, column, 1] - v
            far = px * px + py * py
            if far < nearest:
                second, bx, by = nearest, ax, ay
                nearest, ax, ay = far, px, py
                own = plates[row, column, 2]
            elif far < second:
                second, bx, by = far, px, py
    dx, dy = bx - ax, by - ay
    apart = max(np.float32(1e-6), np.float32(math.sqrt(dx * dx + dy * dy)))
    border = (second - nearest) / (apart + apart)
    return border, dx / apart, dy / apart, own


@compiled
def _narrow(met: Number) -> Number:
    """How much of a lamp is mirrored to one where the way between both is met so far: its 60th power (Blinn 1977)."""
    fourth = met * met * met * met
    eighth = fourth * fourth
    sixteenth = eighth * eighth
    return fourth * eighth * sixteenth * sixteenth * sixteenth


@compiled_in
def _in_table(heat: Number, glow: Glow, most: Number) -> tuple[int, Number]:
    """The step of the table that a heat is in, and how far it is to the next."""
    place = np.float32(glow.coldest) + heat * np.float32(glow.hotter)
    place = min(max(place, np.float32(0.0)), most)
    k = int(place)
    return k, place - np.float32(k)


@compiled
def _shown(wide: Number) -> Number:
    """How much of what is uneven is seen where a px is so much of a plate wide: nothing where its finest waves are
    no more than two px long."""
    px = np.float32(1.0) / (_FINEST * _ROUGH * wide)
    return min(np.float32(1.0), max(np.float32(0.0), np.float32(0.5) * px - np.float32(1.0)))


@compiled_along
def _melt_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    thick: Field,
    levels: Carried,
    table: NDArray[np.float32],
    glow: Glow,
    sheet: NDArray[np.float32],
    skins: NDArray[np.float32],
    picture: Picture,
) -> None:
    rows, columns = thick.shape
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    seen, curve = np.empty(_SEEN, np.float32), np.empty(6, np.float32)
    line = np.empty((2, columns, _THICK + 1), np.float32)
    bare = np.empty(columns, np.bool_)
    most = np.float32(table.shape[0] - 1.001)
    ends, by = np.float32(glow.ends), np.float32(1.0 / glow.cell)
    plates = np.float32(glow.plates)
    # A px is so many plates wide.
    fine = max(np.float32(1e-4), plates * by)
    wx, wy, wz = np.float32(glow.way[0]), np.float32(glow.way[1]), np.float32(glow.way[2])
    hz = np.float32(math.sqrt(wx * wx + wy * wy + (wz + one) * (wz + one)))
    for py in range(first, last):
        y = np.float32((py + top + 0.5 - glow.top) * by)
        _lay_row(thick, levels, y - half, curve, line)
        _find_bare(thick, min(max(int(y), 0), rows - 1), bare)
        for px in range(picture.shape[1]):
            x = np.float32((px + left + 0.5 - glow.left) * by)
            i = min(max(int(x), 0), columns - 1)
            if bare[i]:
                continue
            steep, falls = _smoothly(line, x - half, curve, seen)
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
                wander, other = noise_in(sheet, mx * _WANDERS, my * _WANDERS)
                border, dx, dy, own = _plate(
                    skins, mx + np.float32(0.09) * wander, my + np.float32(0.09) * other
                )
                rough, finer = noise_in(sheet, mx * _ROUGH, my * _ROUGH)
                rough = _shown(wide) * (np.float32(0.3) * rough + np.float32(0.12) * finer)
                rough = calm * (rough + np.float32(0.18) * wander)
                open = np.float32(glow.torn) * torn / (one + torn) * (half + own) + np.float32(
                    glow.always
                )
                open *= calm * (one + np.float32(0.6) * rough)
                # What of a px lies in the crack, whose other side is as far on.
                edge = max(wide, np.float32(0.3) * open)
                nearer, farther = border - half * edge, border + half * edge
                crack = max(zero, min(open, farther) - max(-open, nearer)) / edge
                crack *= calm
                near = calm * fades(max(zero, border - open) * np.float32(9.0))
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
                    ny += weight * wave * np.float32(0.4) * wander
            nx += np.float32(glow.round) * steep
            ny += np.float32(glow.round) * falls
            k, part = _in_table(heat, glow, most)
            m, other = _in_table(opened / max(one - shows, np.float32(1e-6)), glow, most)
            within = one
            if glow.clear > 0.0:
                within = one - fades(max(zero, np.float32(0.693) * stands / np.float32(glow.clear)))
            long = np.float32(1.0 / math.sqrt(nx * nx + ny * ny + one))
            facing = max(zero, (-nx * wx - ny * wy + wz) * long)
            met = max(zero, (-nx * wx - ny * wy + wz + one) * long / hz)
            gleam = np.float32(glow.gleams) * _narrow(met)
            gleam *= half + half * shows
            for c in range(3):
                light = shows * (table[k, c] + (table[k + 1, c] - table[k, c]) * part)
                light += (one - shows) * (table[m, c] + (table[m + 1, c] - table[m, c]) * other)
                light *= within
                light += np.float32(glow.dull[c]) * facing * shows + gleam
                picture[py, px, c] = cover * light
            picture[py, px, 3] = cover


@compiled
def _find_bare(thick: Field, j: int, bare: NDArray[np.bool_]) -> None:
    """In which cells of a row and in all beside them nothing stands."""
    rows, columns = thick.shape
    above, here, below = thick[max(0, j - 1)], thick[j], thick[min(rows - 1, j + 1)]
    zero = np.float32(0.0)
    for i in range(columns):
        most = zero
        for a in range(max(0, i - 1), min(columns, i + 2)):
            most = max(most, max(above[a], max(here[a], below[a])))
        bare[i] = not most > zero
