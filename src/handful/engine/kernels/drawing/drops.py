"""Drops that run together: balls whose fields add up, and the one surface they have (Blinn, "A generalization
of algebraic surface drawing", ACM Transactions on Graphics 1, 1982; the field that ends is that of Wyvill,
McPheeters and Wyvill, "Data structure for soft objects", The Visual Computer 2, 1986)."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.bands import BAND, by_band, touched
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Field = NDArray[np.float32]
Colours = tuple[float, float, float]

_X, _Y, _RADIUS, _RED, _GREEN, _BLUE = range(6)
_NOTHING = np.float32(-1e30)
"""What a surface has where no ball reaches."""

_KEPT = 6
"""Numbers that each px keeps of all balls: their field, and by their shares of it and how large they are their
size and their colour."""


class Surface(NamedTuple):
    """How a surface of drops is seen: how high it stands of a ball's height; how much of its own light goes
    with how deep it is; the way that light comes from, and how bright; how narrow and bright what gleams is;
    how bright and in which colour its surroundings are; what it mirrors straight ahead; and how
    much it hides."""

    high: float
    deep: float
    way: Colours
    gleams: float
    narrow: float
    around: Colours
    mirrors: float
    hides: float


def reach_for(merges: float) -> float:
    """How far the field of a ball of radius 1 reaches, for how readily balls merge, from 0 to 1."""
    return 1.15 + 1.35 * merges


def surface_of(balls: Field, merges: float, region: Region) -> tuple[Field, Region]:
    """The surface of balls `(N, 6)` (place and radius in px, and colour): the square of how high it stands at
    each px, less than none beside it, and its colour `(H, W, 4)`, on what they can touch of a region.

    One ball alone is a ball.
    """
    reach = reach_for(merges)
    far = balls[:, _RADIUS] * np.float32(reach) + 1
    low = np.stack([balls[:, _X] - far, balls[:, _Y] - far], axis=1)
    high = np.stack([balls[:, _X] + far, balls[:, _Y] + far], axis=1)
    near, shared = touched(low, high, region)
    if shared.empty:
        return np.zeros((0, 0, 4), np.float32), shared
    if near is not None:
        balls, low, high = balls[near], low[near], high[near]
    surface = np.zeros((shared.height, shared.width, 4), np.float32)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        _add_rows, shared.height, shared.left, shared.top, balls, np.float32(reach), starts, listed,
        surface, band=BAND,
    )  # fmt: skip
    return surface, shared


@compiled
def _add_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    balls: Field,
    reach: np.float32,
    starts: NDArray[np.int64],
    listed: NDArray[np.int64],
    surface: Field,
) -> None:
    width = surface.shape[1]
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    kept = np.zeros((width, _KEPT), np.float32)
    inner = one / (reach * reach)
    for y in range(first, last):
        kept[:] = zero
        middle = np.float32(y + top) + half
        for n in listed[starts[y // BAND] : starts[y // BAND + 1]]:
            radius = balls[n, _RADIUS]
            far = radius * reach
            down = balls[n, _Y] - middle
            left_over = far * far - down * down
            if left_over <= zero:
                continue
            side = np.float32(math.sqrt(left_over))
            x = balls[n, _X] - np.float32(left)
            begins = max(0, int(np.ceil(x - side - half)))
            ends = min(width, int(np.floor(x + side - half)) + 1)
            by, square = one / (far * far), radius * radius
            for i in range(begins, ends):
                across = np.float32(i) + half - x
                share = max(zero, one - (across * across + down * down) * by)
                share = share * share * share
                kept[i, 0] += share
                # A small one in a large one counts as little as it is of it.
                share *= square
                kept[i, 1] += share
                kept[i, 2] += share * square
                kept[i, 3] += share * balls[n, _RED]
                kept[i, 4] += share * balls[n, _GREEN]
                kept[i, 5] += share * balls[n, _BLUE]
        for i in range(width):
            field = kept[i, 0]
            if field <= zero:
                surface[y, i, 0] = _NOTHING
                continue
            mean = one / max(kept[i, 1], np.float32(1e-30))
            # Of one ball the field tells how far its middle is; of several, as if of one.
            square = kept[i, 2] * mean
            away = one - np.float32(math.pow(field, 1.0 / 3.0))
            surface[y, i, 0] = square * (one - away / inner)
            surface[y, i, 1] = kept[i, 3] * mean
            surface[y, i, 2] = kept[i, 4] * mean
            surface[y, i, 3] = kept[i, 5] * mean


def heights_of(surface: Field, high: float) -> Field:
    """How high a surface stands at each px, in px."""
    found: Field = np.sqrt(np.maximum(0, surface[..., 0])) * np.float32(high)
    return found


def draw_surface(surface: Field, seen: Surface, region: Region) -> Tile:
    """The picture of a surface on its region: its own light, what gleams on it and what it mirrors."""
    if region.empty:
        return clear_tile(region)
    picture = blank(region)
    in_bands(_shine_rows, region.height, surface, seen, picture)
    return Tile(picture, region)


@compiled
def _or(square: np.float32, other: np.float32) -> np.float32:
    """What a neighbour has, or else the same as here."""
    return square if square > _NOTHING else other


@compiled
def _shine_rows(first: int, last: int, surface: Field, seen: Surface, picture: Picture) -> None:
    rows, columns, _ = surface.shape
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    wx, wy, wz = np.float32(seen.way[0]), np.float32(seen.way[1]), np.float32(seen.way[2])
    long = np.float32(math.sqrt(wx * wx + wy * wy + (wz + one) * (wz + one)))
    high = np.float32(seen.high)
    for y in range(first, last):
        up, down = max(0, y - 1), min(rows - 1, y + 1)
        for x in range(columns):
            square = surface[y, x, 0]
            if square <= _NOTHING:
                continue
            left, right = max(0, x - 1), min(columns - 1, x + 1)
            across = half * (_or(surface[y, right, 0], square) - _or(surface[y, left, 0], square))
            falls = half * (_or(surface[down, x, 0], square) - _or(surface[up, x, 0], square))
            steep = np.float32(math.sqrt(across * across + falls * falls))
            cover = min(one, max(zero, half + square / max(steep, np.float32(1e-6))))
            if cover <= zero:
                continue
            stands = np.float32(math.sqrt(max(zero, square)))
            # The slope of a height is that of its square, by twice the height.
            nx, ny, nz = -half * across * high, -half * falls * high, max(stands, half)
            by = one / np.float32(math.sqrt(nx * nx + ny * ny + nz * nz))
            nx, ny, nz = nx * by, ny * by, nz * by
            met = max(zero, nx * wx + ny * wy + nz * (wz + one)) / long
            gleam = np.float32(seen.gleams) * np.float32(math.pow(met, seen.narrow))
            aside = one - nz
            mirrors = np.float32(seen.mirrors)
            mirrored = mirrors + (one - mirrors) * aside * aside * aside * aside * aside
            covers = mirrored
            turned = half * (one - nx * wx - ny * wy - nz * wz)
            own = (one - mirrored) * (one - np.float32(seen.deep) * (turned + half * aside))
            # What is mirrored comes from above more than from below.
            mirrored *= one - np.float32(0.8) * (half + nz * ny)
            own = max(zero, own)
            for c in range(3):
                light = own * surface[y, x, c + 1] + mirrored * np.float32(seen.around[c]) + gleam
                picture[y, x, c] = cover * light
            hides = np.float32(seen.hides) + (one - np.float32(seen.hides)) * covers
            picture[y, x, 3] = cover * hides
