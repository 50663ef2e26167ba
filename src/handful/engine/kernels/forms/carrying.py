"""Particles carried on, a step at a time: by what the closed forms of flight cannot tell.

Within a step the pull and the wind are as they are where a particle is as it begins, and flight through
them is exact (Hochbruck and Ostermann, "Exponential integrators", Acta Numerica 2010). Walls are found
along the way by going as far as they are away (Hart, "Sphere tracing", The Visual Computer 1996).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.curl import stirred
from handful.engine.kernels.compiled import compiled, compiled_along, in_bands
from handful.engine.kernels.forms.flight import LIES, RESTS, falls_to, flown, gone, pace
from handful.engine.kernels.lengths import way_length
from handful.engine.picture import Tile

Numbers = NDArray[np.float64]
Pair = tuple[float, float]

_BAND = 2048
_MOST_LOOKS = 64

_HOLDS = 2.0
"""Cells of a picture of walls within which what sticks to one goes with it."""


class Distance(NamedTuple):
    """How far places are from the edge of a body, in px of the full-size canvas: within it below 0. The
    first of `far` `(H, W)` is at `left`, `top`, and they are `cell` apart; `(1, 1)` is no body at all."""

    far: NDArray[np.float32]
    left: float
    top: float
    cell: float


NOTHING: Numbers = np.empty((0, 2))
NONE: NDArray[np.bool_] = np.empty(0, np.bool_)
NOWHERE = Distance(np.full((1, 1), np.inf, np.float32), 0.0, 0.0, 1.0)


class Air(NamedTuple):
    """What carries particles through a step, in px and seconds.

    `drag` is in proportion to speed and `drag_fast` to its square, a px. `stir` is the speed of swirls
    `stir_size` wide that are turned over `turns` times by then. What draws, draws with `pull` and blows
    about itself with `whirl`, most at `reach` from it (Scully's vortex), and swallows what comes within
    `swallows`; it is at `(x, y)`, unless there is a line or a body, or its edge where `to_edge`. `along` that
    line or edge blows more wind, half as much at `reach` from it.
    """

    gravity: Pair
    wind: Pair
    drag: float
    drag_fast: float
    stir: float
    stir_size: float
    turns: float
    pull: float
    whirl: float
    reach: float
    swallows: float
    x: float
    y: float
    to_edge: bool
    along: float
    floor: float
    bounce: float
    slide: float


def distance_to(tile: Tile, scale: float) -> Distance:
    """How far from the cover of a picture at a scale; beyond the picture as at its edge."""
    solid = (tile.pixels[..., 3] > 0.5).astype(np.uint8)
    if not solid.any():
        return NOWHERE
    solid = np.pad(solid, 1)
    outside = cv2.distanceTransform(1 - solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    within = cv2.distanceTransform(solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # A px is half a px from its own side.
    far = np.where(solid > 0, 0.5 - within, outside - 0.5) / scale
    left, top = (tile.region.left - 0.5) / scale, (tile.region.top - 0.5) / scale
    return Distance(far.astype(np.float32), left, top, 1 / scale)


@compiled
def _sampled(
    far: NDArray[np.float32], left: float, top: float, cell: float, x: float, y: float
) -> tuple[float, float, float]:
    """The distance at a place, and how it rises across and down; beyond the picture as at its edge."""
    across = min(max((x - left) / cell, 0.0), far.shape[1] - 1.000001)
    down = min(max((y - top) / cell, 0.0), far.shape[0] - 1.000001)
    i, j = int(across), int(down)
    s, t = across - i, down - j
    a, b, c, d = far[j, i], far[j, i + 1], far[j + 1, i], far[j + 1, i + 1]
    value = (1 - t) * (a + s * (b - a)) + t * (c + s * (d - c))
    return value, ((1 - t) * (b - a) + t * (d - c)) / cell, ((1 - s) * (c - a) + s * (d - b)) / cell


@compiled
def _nearest(line: Numbers, x: float, y: float) -> tuple[float, float, float, float]:
    """The way from a place to the nearest on a line of straight pieces, and which way the line goes there."""
    best, bx, by, ux, uy = np.inf, 0.0, 0.0, 0.0, 0.0
    for k in range(line.shape[0] - 1):
        dx, dy = line[k + 1, 0] - line[k, 0], line[k + 1, 1] - line[k, 1]
        px, py = x - line[k, 0], y - line[k, 1]
        long = dx * dx + dy * dy
        along = min(1.0, max(0.0, (px * dx + py * dy) / long)) if long > 0.0 else 0.0
        wx, wy = along * dx - px, along * dy - py
        far = wx * wx + wy * wy
        if far < best and long > 0.0:
            best, bx, by = far, wx, wy
            ux, uy = dx / math.sqrt(long), dy / math.sqrt(long)
    return bx, by, ux, uy


@compiled
def _winds(places: Numbers, air: Air, k0: int, k1: int) -> Numbers:
    """How the air is stirred at places `(N, 2)`, across and down `(2, N)`; nothing where it is not."""
    count = places.shape[0] if air.stir > 0.0 else 0
    found, winds = np.empty((2, count)), np.empty((2, count))
    for n in range(count):
        found[0, n], found[1, n] = places[n, 0] / air.stir_size, places[n, 1] / air.stir_size
    stirred(found[0], found[1], air.turns, k0, k1, winds[0], winds[1])
    return winds


@compiled_along
def _carry_some(
    first: int,
    last: int,
    places: Numbers,
    speeds: Numbers,
    spans: Numbers,
    driven: Numbers,
    air: Air,
    line: Numbers,
    body: Distance,
    walls: Distance,
    k0: int,
    k1: int,
    kept: NDArray[np.bool_],
    clings: NDArray[np.bool_],
    hits: Numbers,
) -> None:
    winds = _winds(places[first:last], air, k0, k1)
    for n in range(first, last):
        x, y, vx, vy = places[n, 0], places[n, 1], speeds[n, 0], speeds[n, 1]
        sticky = clings.shape[0] > 0 and clings[n]
        if sticky and vx == 0.0 and vy == 0.0:
            held, places[n, 0], places[n, 1] = _held(x, y, air.floor, walls)
            if held:
                continue
        gx, gy = air.gravity
        if driven.shape[0] > 0:
            gx += driven[n, 0]
            gy += driven[n, 1]
        wx, wy = air.wind
        if air.stir > 0.0:
            wx += air.stir * winds[0, n - first]
            wy += air.stir * winds[1, n - first]
        if air.pull != 0.0 or air.whirl != 0.0 or air.along != 0.0 or air.swallows > 0.0:
            ux, uy = 0.0, 0.0
            if line.shape[0] > 1:
                tx, ty, ux, uy = _nearest(line, x, y)
            elif body.far.shape[0] > 1:
                value, rx, ry = _sampled(body.far, body.left, body.top, body.cell, x, y)
                steep = max(1e-9, way_length(rx, ry))
                rx, ry, ux, uy = rx / steep, ry / steep, -ry / steep, rx / steep
                if not air.to_edge:
                    value = max(0.0, value)
                tx, ty = -rx * value, -ry * value
            else:
                tx, ty = air.x - x, air.y - y
            far = way_length(tx, ty)
            if far < air.swallows:
                kept[n] = False
                continue
            share = far / air.reach
            near = air.along / (1.0 + share * share)
            wx += near * ux
            wy += near * uy
            if far > 1e-9:
                strong = 2.0 * share / (1.0 + share * share) / far
                gx += air.pull * strong * tx
                gy += air.pull * strong * ty
                wx += air.whirl * strong * ty
                wy -= air.whirl * strong * tx
        drag = air.drag
        if air.drag_fast > 0.0:
            drag += air.drag_fast * way_length(vx - wx, vy - wy)
        if hits.shape[0] > 0:
            _meet_floor(n, x, y, vx, vy, spans[n], (gx, gy), (wx, wy), drag, air, hits)
        span, stuck = spans[n], False
        if sticky and gy > 0.0 and y < air.floor:
            span = falls_to(air.floor, y, vy, gy, drag, wy, span)
            stuck = span < spans[n]
        nx, ny, vx, vy = flown(
            x, y, vx, vy, span, (gx, gy), (wx, wy), drag, air.floor, air.bounce, air.slide
        )
        if walls.far.shape[0] > 1:
            nx, ny, vx, vy, part = _off_walls(x, y, nx, ny, vx, vy, walls, air.bounce, air.slide)
            if part < 1.0 and hits.shape[0] > 0:
                _, rx, ry = _sampled(walls.far, walls.left, walls.top, walls.cell, nx, ny)
                steep = max(1e-9, way_length(rx, ry))
                rx, ry = rx / steep, ry / steep
                if vx * rx + vy * ry >= RESTS:
                    hits[n, 0], hits[n, 1], hits[n, 2] = part * spans[n], nx, ny
                    hits[n, 3], hits[n, 4], hits[n, 5], hits[n, 6] = vx, vy, rx, ry
            stuck = part < 1.0 or stuck
        if sticky and stuck:
            vx, vy = 0.0, 0.0
        places[n, 0], places[n, 1], speeds[n, 0], speeds[n, 1] = nx, ny, vx, vy


@compiled
def _held(x: float, y: float, floor: float, walls: Distance) -> tuple[bool, float, float]:
    """Whether what lies still somewhere and sticks is held by a floor or a wall there, and where that has it now."""
    if abs(y - floor) <= LIES:
        return True, x, y
    if walls.far.shape[0] > 1:
        value, rx, ry = _sampled(walls.far, walls.left, walls.top, walls.cell, x, y)
        steep = way_length(rx, ry)
        if abs(value) < _HOLDS * walls.cell and steep > 1e-9:
            out = (1e-3 * walls.cell - value) / steep
            return True, x + out * rx / steep, y + out * ry / steep
    return False, x, y


@compiled
def _meet_floor(
    n: int,
    x: float,
    y: float,
    vx: float,
    vy: float,
    span: float,
    gravity: Pair,
    wind: Pair,
    drag: float,
    air: Air,
    hits: Numbers,
) -> None:
    """Write down when and where a thing first meets the floor in a step, and how fast it goes on; not if it
    only lies there."""
    if gravity[1] <= 0.0 or y >= air.floor:
        return
    falls = falls_to(air.floor, y, vy, gravity[1], drag, wind[1], span)
    up = -air.bounce * pace(vy, gravity[1], drag, wind[1], falls)
    if falls < span and -up >= RESTS:
        hits[n, 0], hits[n, 2], hits[n, 4] = falls, air.floor, up
        hits[n, 1] = gone(x, vx, gravity[0], drag, wind[0], falls)
        hits[n, 3] = air.slide * pace(vx, gravity[0], drag, wind[0], falls)
        hits[n, 5], hits[n, 6] = 0.0, -1.0


@compiled
def _off_walls(
    x: float,
    y: float,
    nx: float,
    ny: float,
    vx: float,
    vy: float,
    walls: Distance,
    bounce: float,
    slide: float,
) -> tuple[float, float, float, float, float]:
    """Where a way ends that walls may stop, how fast it goes on from there, and after which part of it that
    was: 1 where nothing was met."""
    way = way_length(nx - x, ny - y)
    passed, px, py = 0.0, x, y
    value, rx, ry = _sampled(walls.far, walls.left, walls.top, walls.cell, x, y)
    for _ in range(_MOST_LOOKS):
        if value <= 0.0 or passed >= way:
            break
        passed = min(way, passed + max(value, 0.5 * walls.cell))
        px, py = x + (nx - x) * passed / way, y + (ny - y) * passed / way
        value, rx, ry = _sampled(walls.far, walls.left, walls.top, walls.cell, px, py)
    if value > 0.0:
        return nx, ny, vx, vy, 1.0
    part = min(passed / way, 0.999999) if way > 0.0 else 0.0
    steep = way_length(rx, ry)
    if steep < 1e-9:
        return px, py, 0.0, 0.0, part
    rx, ry = rx / steep, ry / steep
    out = 1e-3 * walls.cell - value
    px, py = px + rx * out, py + ry * out
    into = vx * rx + vy * ry
    if into >= 0.0:
        return px, py, vx, vy, 1.0
    tx, ty = vx - into * rx, vy - into * ry
    return px, py, slide * tx - bounce * into * rx, slide * ty - bounce * into * ry, part


def carry(
    places: Numbers,
    speeds: Numbers,
    spans: Numbers,
    air: Air,
    line: Numbers,
    body: Distance,
    walls: Distance,
    key: tuple[int, int],
    driven: Numbers = NOTHING,
    clings: NDArray[np.bool_] = NONE,
    hits: Numbers = NOTHING,
) -> NDArray[np.bool_]:
    """Carry particles `(N, 2)` on for `spans` `(N,)` seconds each, in place; which of them are left.

    They may be `driven` `(N, 2)`, in px/s², beside what air does. What `clings` `(N,)` stays where it meets a
    floor or a wall, and goes with that as long as it is near. Into `hits` `(N, 7)`, if there are any, goes
    when each bounced, where, how fast it went on, and which way is off what it met; what did not, or only lies there, is left as it is.
    """
    kept = np.ones(len(places), np.bool_)
    in_bands(
        _carry_some, len(places), places, speeds, spans, driven, air, line, body, walls, key[0], key[1],
        kept, clings, hits, band=_BAND,
    )  # fmt: skip
    return kept
