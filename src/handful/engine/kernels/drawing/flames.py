"""Flame and smoke on a grid, seen from the front: what glows, and what stands before it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.fluid.burning import FUEL, HEAT, SOOT, noise_in
from handful.engine.kernels.fluid.grid import MARKS, Field, flow_at
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Row = NDArray[np.float32]


class Seen(NamedTuple):
    """How gas is seen: where its grid lies, as left, top and side of a cell in px of the scaled canvas;
    seconds since its state, less than none before; how hot still air and full heat are in steps of the table; how dense the
    flame is, how blue where it begins; how dense smoke is, how finely it billows and how
    strongly; how far, in cells, how finely it is frayed,
    how strongly again more finely, and how much hotter and colder it is in streaks; how much less shines what is still fuel; and how the
    two sets of marks are weighed, and set apart."""

    left: float
    top: float
    cell: float
    ahead: float
    coldest: float
    hotter: float
    dense: float
    blue: float
    smoky: float
    billowy: float
    billows: float
    frayed: float
    finely: float
    finer: float
    streaked: float
    hollow: float
    weights: tuple[float, float]
    apart: tuple[float, float]


def draw_flames(
    across: NDArray[np.float32],
    down: NDArray[np.float32],
    levels: NDArray[np.float32],
    lit: NDArray[np.float32],
    sheet: NDArray[np.float32],
    table: NDArray[np.float32],
    smoke: NDArray[np.float32],
    seen: Seen,
    region: Region,
) -> Tile:
    """The sheets of a state of burning gas on what they cover of a region.

    `table` `(N, 3)` is light by heat, `smoke` `(3,)` is smoke's colour, and `lit` `(H, W)` how brightly it is
    lit. Sheets are given from back to front.
    """
    rows, columns = levels.shape[1:3]
    covered = Region(
        math.floor(seen.left),
        math.floor(seen.top),
        math.ceil(seen.left + columns * seen.cell),
        math.ceil(seen.top + rows * seen.cell),
    ).meet(region)
    if covered.empty:
        return clear_tile(region)
    picture = blank(covered)
    in_bands(
        _draw_rows, covered.height, covered.left, covered.top, across, down, levels, lit, sheet,
        table, smoke, seen, picture,
    )  # fmt: skip
    return Tile(picture, covered)


@compiled
def _weights(part: Number) -> tuple[Number, Number, Number]:
    """Of three neighbours, for a smooth curve (the quadratic B-spline), by how far from the middle one."""
    half = np.float32(0.5)
    before, after = half - part, half + part
    return half * before * before, np.float32(0.75) - part * part, half * after * after


@compiled
def _smoothly(
    levels: NDArray[np.float32], s: int, x: Number, y: Number, first: int, out: Row
) -> None:
    """Four levels of a sheet, from one on, at a place counted from the first cell's middle."""
    x = min(max(x, np.float32(1.0)), np.float32(levels.shape[2] - 2.01))
    y = min(max(y, np.float32(1.0)), np.float32(levels.shape[1] - 2.01))
    one = np.uint32(1)
    i, j = np.uint32(x + np.float32(0.5)), np.uint32(y + np.float32(0.5))
    a, b, c = _weights(np.float32(x - np.float32(i)))
    d, e, f = _weights(np.float32(y - np.float32(j)))
    h, k = i - one, i + one
    for n in range(4):
        m = first + n
        over = (
            a * levels[s, j - one, h, m]
            + b * levels[s, j - one, i, m]
            + c * levels[s, j - one, k, m]
        )
        here = a * levels[s, j, h, m] + b * levels[s, j, i, m] + c * levels[s, j, k, m]
        low = (
            a * levels[s, j + one, h, m]
            + b * levels[s, j + one, i, m]
            + c * levels[s, j + one, k, m]
        )
        out[n] = d * over + e * here + f * low


@compiled
def _billow(sheet: NDArray[np.float32], marked: Row, seen: Seen, s: int) -> Number:
    """How much more light falls on a round billow, on the side that faces it, than on smoke that is flat, and less in
    the crease between two. Where one noise is nothing is a crease, the other tells to which side a billow faces."""
    crease, faces = np.float32(0.0), np.float32(0.0)
    for which in range(2):
        mx = marked[2 * which] * seen.billowy + seen.apart[which] + 37.0 * s
        my = marked[2 * which + 1] * seen.billowy + seen.apart[which]
        a, b = noise_in(sheet, mx, my)
        crease += np.float32(seen.weights[which] * a)
        faces += np.float32(seen.weights[which] * b)
    steep = crease / (abs(crease) + np.float32(0.3))
    dark = np.float32(1.0) / (np.float32(1.0) + np.float32(12.0) * crease * crease)
    return np.float32(seen.billows) * (np.float32(0.9) * steep * faces - np.float32(0.7) * dark)


@compiled
def _lit_at(lit: Field, x: Number, y: Number) -> Number:
    """How brightly smoke is lit at a place counted from the first cell's middle."""
    zero, one = np.float32(0.0), np.float32(1.0)
    x = min(max(x, zero), np.float32(lit.shape[1] - 1.01))
    y = min(max(y, zero), np.float32(lit.shape[0] - 1.01))
    i, j = np.uint32(x), np.uint32(y)
    fx, fy = np.float32(x - np.float32(i)), np.float32(y - np.float32(j))
    h, k = i + np.uint32(1), j + np.uint32(1)
    upper = lit[j, i] * (one - fx) + lit[j, h] * fx
    return upper * (one - fy) + (lit[k, i] * (one - fx) + lit[k, h] * fx) * fy


@compiled
def _draw_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    across: NDArray[np.float32],
    down: NDArray[np.float32],
    levels: NDArray[np.float32],
    lit: Field,
    sheet: NDArray[np.float32],
    table: NDArray[np.float32],
    smoke: NDArray[np.float32],
    seen: Seen,
    picture: Picture,
) -> None:
    count, rows, columns, _ = levels.shape
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    found, marked = np.empty(4, np.float32), np.empty(4, np.float32)
    for py in range(first, last):
        y0 = np.float32((py + top + 0.5 - seen.top) / seen.cell)
        for px in range(picture.shape[1]):
            x0 = np.float32((px + left + 0.5 - seen.left) / seen.cell)
            if not (half < x0 < columns - half and half < y0 < rows - half):
                continue
            red, green, blue, cover = zero, zero, zero, zero
            for s in range(count):
                x, y = x0, y0
                if seen.ahead != 0.0:
                    u, v = flow_at(across[s], down[s], x, y)
                    x, y = np.float32(x - u * seen.ahead), np.float32(y - v * seen.ahead)
                i = min(max(int(x), 0), columns - 1)
                j = min(max(int(y), 0), rows - 1)
                if _is_still(levels, s, i, j):
                    continue
                uneven = zero
                if seen.frayed > 0.0 or seen.billowy > 0.0:
                    _smoothly(levels, s, x - half, y - half, MARKS, marked)
                if seen.frayed > 0.0:
                    dx, dy = zero, zero
                    for which in range(2):
                        weight = np.float32(seen.weights[which])
                        mx = marked[2 * which] * seen.finely + seen.apart[which] + 37.0 * s
                        my = marked[2 * which + 1] * seen.finely + seen.apart[which]
                        a, b = noise_in(sheet, mx, my)
                        dx += weight * a
                        dy += weight * b
                        if seen.finer > 0.0:
                            a, b = noise_in(sheet, mx * _FINER + 11.0, my * _FINER)
                            dx += np.float32(weight * seen.finer) * a
                            dy += np.float32(weight * seen.finer) * b
                    uneven = np.float32(seen.streaked) * (dx - dy)
                    x += np.float32(seen.frayed) * dx
                    y += np.float32(seen.frayed) * dy
                _smoothly(levels, s, x - half, y - half, 0, found)
                heat, fuel, soot = found[HEAT], found[FUEL], found[SOOT]
                hidden = one - np.float32(math.exp(-seen.smoky * soot))
                if hidden > np.float32(1e-4):
                    shine = _lit_at(lit, x - half, y - half) * hidden
                    if seen.billowy > 0.0 and hidden > np.float32(0.02):
                        shine *= max(zero, one + hidden * _billow(sheet, marked, seen, s))
                    kept = one - hidden
                    red = red * kept + smoke[0] * shine
                    green = green * kept + smoke[1] * shine
                    blue = blue * kept + smoke[2] * shine
                    cover = cover * kept + hidden
                if heat > np.float32(0.02):
                    hot = heat * (one + uneven)
                    place = min(max(seen.coldest + hot * seen.hotter, 0.0), table.shape[0] - 1.001)
                    k = int(place)
                    part = np.float32(place - k)
                    thick = one - np.float32(math.exp(-seen.dense * heat))
                    thick *= one - np.float32(seen.hollow) * min(one, fuel)
                    red += thick * (table[k, 0] + (table[k + 1, 0] - table[k, 0]) * part)
                    green += thick * (table[k, 1] + (table[k + 1, 1] - table[k, 1]) * part)
                    blue += thick * (table[k, 2] + (table[k + 1, 2] - table[k, 2]) * part)
                    base = np.float32(seen.blue) * heat * max(zero, min(one, fuel + fuel - one))
                    red += np.float32(0.10) * base
                    green += np.float32(0.32) * base
                    blue += base
            shown = min(one, min(min(x0, columns - x0), y0) / np.float32(_FADES * columns))
            shown = shown * shown * (np.float32(3.0) - shown - shown)
            picture[py, px, 0], picture[py, px, 1] = red * shown, green * shown
            picture[py, px, 2], picture[py, px, 3] = blue * shown, cover * shown


@compiled
def shade(soot: Field, steps: float, dense: float, lit: Field) -> None:
    """How much light from above reaches each cell through soot; it comes down by one row while it goes so
    many steps to the right."""
    rows, columns = soot.shape
    slant = np.float32(math.sqrt(1.0 + steps * steps))
    for j in range(rows):
        for i in range(columns):
            x = min(max(np.float32(i - steps), np.float32(0.0)), np.float32(columns - 1.001))
            a = int(x)
            part = np.float32(x - a)
            come = np.float32(1.0)
            if j > 0:
                come = lit[j - 1, a] + (lit[j - 1, a + 1] - lit[j - 1, a]) * part
            lit[j, i] = come * np.float32(math.exp(-dense * slant * soot[j, i]))


_FINER = 2.7
"""How many times as finely it is frayed again."""

_FADES = 0.08
"""The part of the grid's breadth over which all fades towards its sides and its top."""


@compiled
def _is_still(levels: NDArray[np.float32], s: int, i: int, j: int) -> bool:
    """Whether there is nothing in a cell and in those two away from it."""
    least = np.float32(2e-3)
    for b in range(max(0, j - 2), min(levels.shape[1], j + 3), 2):
        for a in range(max(0, i - 2), min(levels.shape[2], i + 3), 2):
            if levels[s, b, a, HEAT] > least or levels[s, b, a, SOOT] > least:
                return False
    return True
