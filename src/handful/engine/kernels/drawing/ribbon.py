"""Ribbons: bands of light along a curve, with an uneven inside and a rough edge.

First every px gets its place along and across the nearest piece of the curve, then its light from
that; unevenness comes from a small table of noise over along and across.
"""

from __future__ import annotations

import math
from typing import Literal, NamedTuple, get_args

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.noise import field_on
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.lit import Planes, bounds_of, planes_of, with_radius
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.forms.curve import Curve, Segments
from handful.engine.picture import Matte, Region

SAMPLES_A_CELL = 8
_LEAST_HALF = 1.05
"""px; half a width below which a ribbon is widened and dimmed instead, so that the grid holds it."""

_LEAST_EDGE = 1.0
"""px over which an edge rises at least."""

Tip = Literal["round", "flat", "faded"]
TIPS: tuple[Tip, ...] = get_args(Tip)

NOWHERE = np.float32(1e9)
"""Across, where the curve does not reach."""


class Body(NamedTuple):
    """The light of a ribbon. Lengths are in px of the picture.

    `reach` is where it begins and ends along the curve; `halves` half its width at the curve's two
    ends, halfway down its edge; `feather` the share of that over which the edge rises; `tips`
    numbers `TIPS` for both ends and `tip` the length of a faded one at each; `uneven` and `rough` are the shares of
    light and of width that the tables take away or move.
    """

    reach: tuple[float, float]
    halves: tuple[float, float]
    feather: float
    tips: tuple[int, int] = (0, 0)
    tip: tuple[float, float] = (1.0, 1.0)
    uneven: float = 0.0
    rough: float = 0.0
    fades: float = 0.0


class Mottle(NamedTuple):
    """A table of noise `(H, W, 2)` over across and along: `cell` px of the picture to a cell."""

    table: NDArray[np.float32]
    cell: float
    start: float


class Unevenness(NamedTuple):
    """Noise along a ribbon: its size and how far it has travelled, in px of the picture."""

    size: float
    travelled: float
    phase: float
    key: Key


def mottle(length: float, reach: float, how: Unevenness) -> Mottle:
    """Noise for a ribbon of a length and reach across, in px.

    It is stretched along the ribbon: a cell is half as wide as it is long. Where its table would
    be too large, cells are larger.
    """
    area = (length + 2 * reach) * 4 * reach * SAMPLES_A_CELL**2
    cell = max(how.size, math.sqrt(area / _MOST_TABLE))
    across = 2 * math.ceil(reach / (0.5 * cell) * SAMPLES_A_CELL) + 4
    columns = math.ceil((length + 2 * reach) / cell * SAMPLES_A_CELL) + 3
    left = -math.ceil(reach / cell * SAMPLES_A_CELL)
    moved = (how.travelled / cell * SAMPLES_A_CELL, 0.0)
    table = field_on(
        left,
        -across // 2,
        columns,
        across,
        float(SAMPLES_A_CELL),
        2,
        0.5,
        moved,
        how.phase,
        how.key,
    )
    return Mottle(table, cell, left)


_MOST_TABLE = 4_000_000


def coordinates(curve: Curve, reach: NDArray[np.float64], region: Region) -> NDArray[np.float32]:
    """For each px `(H, W, 2)`: how far along the curve it is, and how far to the right of it.

    `reach` `(N,)` is how far across from each vertex counts; beyond it across is `NOWHERE`. Before
    the first vertex along is below 0, and beyond the last above the length.
    """
    places = np.empty((region.height, region.width, 2), np.float32)
    pieces = np.column_stack([curve.points - (region.left, region.top), curve.along, reach])
    in_bands(_place_rows, region.height, pieces.astype(np.float32), places)
    return places


@compiled
def _place_rows(
    first: int, last: int, pieces: NDArray[np.float32], places: NDArray[np.float32]
) -> None:
    width, count = places.shape[1], pieces.shape[0]
    half, zero, one = np.float32(0.5), np.float32(0.0), np.float32(1.0)
    best = np.full((last - first, width), NOWHERE, np.float32)
    for y in range(first, last):
        for x in range(width):
            places[y, x, 0], places[y, x, 1] = zero, NOWHERE
    for i in range(count - 1):
        ax, ay, along, wide = pieces[i, 0], pieces[i, 1], pieces[i, 2], pieces[i, 3]
        bx, by = pieces[i + 1, 0], pieces[i + 1, 1]
        reach = max(wide, pieces[i + 1, 3])
        dx, dy = bx - ax, by - ay
        length = math.sqrt(dx * dx + dy * dy)
        if length == zero:
            continue
        ux, uy = dx / length, dy / length
        low = -reach if i == 0 else zero
        high = length + (reach if i == count - 2 else zero)
        top = max(first, int(np.floor(min(ay, by) - reach)))
        bottom = min(last, int(np.ceil(max(ay, by) + reach)) + 1)
        for y in range(top, bottom):
            py = np.float32(y) + half - ay
            left, right = min(ax, bx) - reach, max(ax, bx) + reach
            if abs(uy) > np.float32(1e-3):
                middle, spread = ax + ux * py / uy, reach / abs(uy)
                left, right = max(left, middle - spread), min(right, middle + spread)
            for x in range(max(0, int(left) - 1), min(width, int(right) + 2)):
                px = np.float32(x) + half - ax
                t = px * ux + py * uy
                held = min(high, max(low, t))
                across = py * ux - px * uy
                over = t - held
                away = across * across + over * over
                if away < best[y - first, x] and away <= reach * reach:
                    best[y - first, x] = away
                    places[y, x, 0] = along + held
                    side = one if across >= zero else -one
                    places[y, x, 1] = side * math.sqrt(away)


def lit(places: NDArray[np.float32], length: float, body: Body, noise: Mottle | None) -> Matte:
    """The light `(H, W)`, 1 in the middle, of a ribbon on a curve of a length at `coordinates`."""
    light = np.empty(places.shape[:2], np.float32)
    table = np.zeros((4, 4, 2), np.float32) if noise is None else noise.table
    cell, start = (1.0, 0.0) if noise is None else (noise.cell, noise.start)
    in_bands(
        _light_rows,
        len(light),
        places,
        np.float32(length),
        np.array([*body.reach, *body.halves, body.feather, *body.tip, body.uneven, body.rough,
                  body.fades], np.float32),
        *body.tips,
        table,
        np.float32(SAMPLES_A_CELL / cell),
        np.float32(start),
        noise is not None and (body.uneven > 0 or body.rough > 0),
        light,
    )  # fmt: skip
    return light


@compiled
def _light_rows(
    first: int,
    last: int,
    places: NDArray[np.float32],
    length: np.float32,
    body: NDArray[np.float32],
    near_tip: int,
    far_tip: int,
    table: NDArray[np.float32],
    pace: np.float32,
    start: np.float32,
    is_uneven: bool,
    light: Matte,
) -> None:
    zero, half, one = np.float32(0.0), np.float32(0.5), np.float32(1.0)
    two = np.float32(2.0)
    begins, ends, wide, narrow, feather = body[0], body[1], body[2], body[3], body[4]
    uneven, rough, fades = body[7], body[8], body[9]
    least = np.float32(_LEAST_HALF)
    rows, columns = table.shape[0], table.shape[1]
    middle = np.float32(rows // 2)
    for y in range(first, last):
        for x in range(places.shape[1]):
            across = places[y, x, 1]
            if across == NOWHERE:
                light[y, x] = zero
                continue
            along = places[y, x, 0]
            share = min(one, max(zero, along / length))
            true = wide + (narrow - wide) * share
            radius = max(true, least)
            shine = (true / radius) * (one - fades * share)
            if is_uneven:
                place = min(np.float32(columns - 1.01), max(zero, along * pace - start))
                side = min(np.float32(rows - 1.01), max(zero, two * across * pace + middle))
                c, d = np.int64(place), np.int64(side)
                u, v = place - np.float32(c), side - np.float32(d)
                i, j = np.uint64(c), np.uint64(d)
                i1, j1 = i + np.uint64(1), j + np.uint64(1)
                top = table[j, i, 0] + (table[j, i1, 0] - table[j, i, 0]) * u
                low = table[j1, i, 0] + (table[j1, i1, 0] - table[j1, i, 0]) * u
                dip = half - (top + (low - top) * v) * np.float32(1.15)
                shine *= one - uneven * min(one, max(zero, dip))
                if rough > zero:
                    j = np.uint64(middle) + np.uint64(2 if across > zero else 0)
                    push = table[j, i, 1] + (table[j, i1, 1] - table[j, i, 1]) * u
                    radius *= max(np.float32(0.1), one + rough * np.float32(1.8) * push)
            for end in range(2):
                tips = near_tip if end == 0 else far_tip
                over = begins - along if end == 0 else along - ends
                if tips == 0 and over > zero:
                    across = math.sqrt(across * across + over * over)
                elif tips == 1:
                    shine *= min(one, max(zero, half - over))
                elif tips == 2:
                    into = min(one, max(zero, -over / body[5 + end]))
                    shine *= smooth(into)
            soft = max(feather, min(one, np.float32(_LEAST_EDGE) / radius))
            edge = half + (one - abs(across) / radius) / (two * soft)
            edge = min(one, max(zero, edge))
            light[y, x] = shine * smooth(edge)


def reach_across(half: float, feather: float, rough: float) -> float:
    """px across from the curve to which a ribbon of half a width can shine."""
    widest = max(half * (1 + 1.9 * rough), _LEAST_HALF)
    return widest * (1 + max(feather, min(1.0, _LEAST_EDGE / widest))) + 1


class Ribbon(NamedTuple):
    """The core of a ribbon and what is around it, on a region of the picture."""

    core: Planes
    sheath: Planes | None
    region: Region


def ribbon(
    curve: Curve,
    core: Body,
    sheath: Body | None,
    unevenness: Unevenness,
    strands: Segments,
    finer: int,
    finest: int,
    wanted: Region,
) -> Ribbon | None:
    """A ribbon, with what is around it and strands as lines on it if there are any, or nothing
    where it does not meet what is wanted.

    Curve, bodies and strands are in px `finer` times finer than those of the picture; the strands
    are drawn in px `finest` times finer.
    """
    bodies = [core] if sheath is None else [core, sheath]
    reach = [
        max(reach_across(body.halves[end], body.feather, body.rough) for body in bodies)
        for end in (0, 1)
    ]
    reaches = np.interp(curve.along, [0, max(1e-9, curve.length)], reach)
    region = _bounds(curve, reaches, finer)
    if len(strands):
        strands = with_radius(strands, finest / finer)
        region = region.around(bounds_of(strands, finest))
    region = region.meet(wanted)
    if region.empty:
        return None
    places = coordinates(curve, reaches, Region(*(edge * finer for edge in region)))
    noise = mottle(curve.length, max(reach), unevenness)
    inner = lit(places, curve.length, core, noise)
    outer = None if sheath is None else Planes(lit(places, curve.length, sheath, noise), None)
    wide = None
    if len(strands):
        fine, wide = planes_of(strands, region, finest)
        if finest > finer:
            inner = cv2.resize(inner, fine.shape[::-1], interpolation=cv2.INTER_LINEAR)
        np.maximum(inner, fine, out=inner)
    return Ribbon(Planes(inner, wide), outer, region)


def _bounds(curve: Curve, reaches: NDArray[np.float64], finer: int) -> Region:
    low = (curve.points - reaches[:, None]).min(0) / finer
    high = (curve.points + reaches[:, None]).max(0) / finer
    return Region(
        math.floor(low[0]) - 1, math.floor(low[1]) - 1, math.ceil(high[0]) + 1, math.ceil(high[1]) + 1
    )  # fmt: skip
