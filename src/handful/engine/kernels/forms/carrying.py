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
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.flight import flown
from handful.engine.picture import Tile

Numbers = NDArray[np.float64]
Pair = tuple[float, float]

_BAND = 2048
_MOST_LOOKS = 64


class Distance(NamedTuple):
    """How far places are from the edge of a body, in px of the full-size canvas: within it below 0. The
    first of `far` `(H, W)` is at `left`, `top`, and they are `cell` apart; `(1, 1)` is no body at all."""

    far: NDArray[np.float32]
    left: float
    top: float
    cell: float


NOWHERE = Distance(np.full((1, 1), np.inf, np.float32), 0.0, 0.0, 1.0)


class Air(NamedTuple):
    """What carries particles through a step, in px and seconds.

    `drag` is in proportion to speed and `drag_fast` to its square, a px. `stir` is the speed of swirls
    `stir_size` wide that are turned over `turns` times by then. What draws, draws with `pull` and blows
    about itself with `whirl`, most at `reach` from it (Scully's vortex), and swallows what comes within
    `swallows`; it is at `(x, y)`, unless there is a line or a body.
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
def _nearest(line: Numbers, x: float, y: float) -> Pair:
    """The way from a place to the nearest on a line of straight pieces."""
    best, bx, by = np.inf, 0.0, 0.0
    for k in range(line.shape[0] - 1):
        dx, dy = line[k + 1, 0] - line[k, 0], line[k + 1, 1] - line[k, 1]
        px, py = x - line[k, 0], y - line[k, 1]
        long = dx * dx + dy * dy
        along = min(1.0, max(0.0, (px * dx + py * dy) / long)) if long > 0.0 else 0.0
        wx, wy = along * dx - px, along * dy - py
        far = wx * wx + wy * wy
        if far < best:
            best, bx, by = far, wx, wy
    return bx, by


@compiled
def _carry_some(
    first: int,
    last: int,
    places: Numbers,
    speeds: Numbers,
    spans: Numbers,
    air: Air,
    line: Numbers,
    body: Distance,
    walls: Distance,
    k0: int,
    k1: int,
    kept: NDArray[np.bool_],
) -> None:
    for n in range(first, last):
        x, y, vx, vy = places[n, 0], places[n, 1], speeds[n, 0], speeds[n, 1]
        gx, gy = air.gravity
        wx, wy = air.wind
        if air.stir > 0.0:
            a, b = stirred(x / air.stir_size, y / air.stir_size, air.turns, k0, k1)
            wx += air.stir * a
            wy += air.stir * b
        if air.pull != 0.0 or air.whirl != 0.0 or air.swallows > 0.0:
            if line.shape[0] > 1:
                tx, ty = _nearest(line, x, y)
            elif body.far.shape[0] > 1:
                value, rx, ry = _sampled(body.far, body.left, body.top, body.cell, x, y)
                steep = max(1e-9, math.hypot(rx, ry))
                value = max(0.0, value)
                tx, ty = -rx / steep * value, -ry / steep * value
            else:
                tx, ty = air.x - x, air.y - y
            far = math.hypot(tx, ty)
            if far < air.swallows:
                kept[n] = False
                continue
            if far > 1e-9:
                share = far / air.reach
                strong = 2.0 * share / (1.0 + share * share) / far
                gx += air.pull * strong * tx
                gy += air.pull * strong * ty
                wx += air.whirl * strong * ty
                wy -= air.whirl * strong * tx
        drag = air.drag + air.drag_fast * math.hypot(vx - wx, vy - wy)
        nx, ny, vx, vy = flown(
            x, y, vx, vy, spans[n], (gx, gy), (wx, wy), drag, air.floor, air.bounce, air.slide
        )
        if walls.far.shape[0] > 1:
            nx, ny, vx, vy = _off_walls(x, y, nx, ny, vx, vy, walls, air.bounce, air.slide)
        places[n, 0], places[n, 1], speeds[n, 0], speeds[n, 1] = nx, ny, vx, vy


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
) -> tuple[float, float, float, float]:
    """Where a way ends that walls may stop, and how fast it goes on from there."""
    way = math.hypot(nx - x, ny - y)
    gone, px, py = 0.0, x, y
    value, rx, ry = _sampled(walls.far, walls.left, walls.top, walls.cell, x, y)
    for _ in range(_MOST_LOOKS):
        if value <= 0.0 or gone >= way:
            break
        gone = min(way, gone + max(value, 0.5 * walls.cell))
        px, py = x + (nx - x) * gone / way, y + (ny - y) * gone / way
        value, rx, ry = _sampled(walls.far, walls.left, walls.top, walls.cell, px, py)
    if value > 0.0:
        return nx, ny, vx, vy
    steep = math.hypot(rx, ry)
    if steep < 1e-9:
        return px, py, 0.0, 0.0
    rx, ry = rx / steep, ry / steep
    out = 1e-3 * walls.cell - value
    px, py = px + rx * out, py + ry * out
    into = vx * rx + vy * ry
    if into >= 0.0:
        return px, py, vx, vy
    tx, ty = vx - into * rx, vy - into * ry
    return px, py, slide * tx - bounce * into * rx, slide * ty - bounce * into * ry


def carry(
    places: Numbers,
    speeds: Numbers,
    spans: Numbers,
    air: Air,
    line: Numbers,
    body: Distance,
    walls: Distance,
    key: tuple[int, int],
) -> NDArray[np.bool_]:
    """Carry particles `(N, 2)` on for `spans` `(N,)` seconds each, in place; which of them are left."""
    kept = np.ones(len(places), np.bool_)
    in_bands(
        _carry_some, len(places), places, speeds, spans, air, line, body, walls, key[0], key[1], kept,
        band=_BAND,
    )  # fmt: skip
    return kept
