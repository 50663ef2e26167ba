"""Spots of light: each the mean over an open shutter of a round spot that moves in a straight line.

A soft spot is the bump (1 - (d / R)^2)^3, whose integral along a line is a polynomial, so that a moving
one is exact. A hard one is a disc. However small one is and wherever between px it lies, its light stays:
below what the grid can hold it is drawn wider and fainter.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled_along, in_bands
from handful.engine.kernels.drawing.bands import BAND, by_band, touched
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Spots = NDArray[np.float32]
"""`(N, 9)` in px of the scaled canvas: where each is as the shutter opens and closes, the radius at which
it ends, light in its middle, and cover there."""

LEAST_RADIUS = 2.1
"""px; a bump sampled at px centres holds its light within one percent from here on."""

LEAST_DISC = 3.0
"""px; smaller discs are drawn as bumps with as much light."""

ALONG = 32 / 35
"""The integral of a bump along its middle, in radii."""


def draw_spots(spots: Spots, region: Region, hard: bool, over: bool) -> Tile:
    """Spots drawn on what they cover of a region, added up, or each over those before it."""
    spots = np.ascontiguousarray(spots, np.float32)
    if not len(spots):
        return clear_tile(region)
    low, high = _corners(spots, hard)
    seen, shared = touched(low, high, region)
    if shared.empty:
        return clear_tile(region)
    if seen is not None:
        spots, low, high = spots[seen], low[seen], high[seen]
    picture = blank(shared)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        _draw_rows, shared.height, shared.left, shared.top, spots, low, high, starts, listed,
        hard, over, picture, band=BAND,
    )  # fmt: skip
    return Tile(picture, shared)


@compiled_along
def _corners(spots: Spots, hard: bool) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """What each covers at most."""
    low, high = np.empty((spots.shape[0], 2), np.float32), np.empty((spots.shape[0], 2), np.float32)
    twice = np.float32(2.0) if hard else np.float32(1.0)
    for i in range(spots.shape[0]):
        spread = max(twice * spots[i, 4], np.float32(LEAST_RADIUS)) + np.float32(1.0)
        for axis in range(2):
            low[i, axis] = min(spots[i, axis], spots[i, 2 + axis]) - spread
            high[i, axis] = max(spots[i, axis], spots[i, 2 + axis]) + spread
    return low, high


@compiled_along
def _swept(s: np.float32, c: np.float32, inverse: np.float32) -> np.float32:
    """The integral of (c - s^2 inverse)^3 from 0, which is nothing beyond its zeros."""
    most = np.float32(math.sqrt(c / inverse))
    s = min(most, max(-most, s))
    square = s * s * inverse
    return s * (
        c * c * c
        - c * c * square
        + np.float32(0.6) * c * square * square
        - np.float32(1.0 / 7.0) * square * square * square
    )


@compiled_along
def _draw_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    spots: Spots,
    low: NDArray[np.float32],
    high: NDArray[np.float32],
    starts: NDArray[np.int64],
    listed: NDArray[np.int64],
    hard: bool,
    over: bool,
    picture: Picture,
) -> None:
    half, one, zero = np.float32(0.5), np.float32(1.0), np.float32(0.0)
    width = picture.shape[1]
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for n in range(starts[band], starts[band + 1]):
            i = listed[n]
            x0, y0 = spots[i, 0] - np.float32(left), spots[i, 1] - np.float32(top)
            dx, dy = spots[i, 2] - spots[i, 0], spots[i, 3] - spots[i, 1]
            length = np.float32(math.sqrt(dx * dx + dy * dy))
            ux, uy = one, zero
            if length > np.float32(1e-3):
                ux, uy = dx / length, dy / length
            radius, share = spots[i, 4], one
            is_disc = hard and radius >= np.float32(LEAST_DISC)
            if is_disc:
                area = np.float32(math.pi) * radius * radius
                share = area / (area + np.float32(2.0) * radius * length)
            else:
                radius *= np.float32(2.0) if hard else one
                drawn = max(radius, np.float32(LEAST_RADIUS))
                share = (radius / drawn) * (radius / drawn)
                radius = drawn
            moves = length > np.float32(0.05) * radius
            if moves and not is_disc:
                share /= length
            inverse = one / (radius * radius)
            r, g, b = spots[i, 5] * share, spots[i, 6] * share, spots[i, 7] * share
            cover = spots[i, 8] * share
            v0 = max(first, int(low[i, 1]) - top)
            v1 = min(last, int(high[i, 1]) - top + 1)
            u0 = max(0, int(low[i, 0]) - left)
            u1 = max(u0, min(width, int(high[i, 0]) - left + 1))
            for y in range(v0, v1):
                q, line = np.float32(y) + half - y0, picture[y]
                if is_disc:
                    for x in range(np.uint64(u0), np.uint64(u1)):
                        p = np.float32(np.int64(x)) + half - x0
                        along, across = p * ux + q * uy, q * ux - p * uy
                        beyond = along - min(length, max(zero, along))
                        away = np.float32(math.sqrt(across * across + beyond * beyond))
                        level = min(one, max(zero, radius - away + half))
                        if level > zero:
                            _lay(line, x, r, g, b, cover, level, over)
                elif moves:
                    for x in range(np.uint64(u0), np.uint64(u1)):
                        p = np.float32(np.int64(x)) + half - x0
                        along, across = p * ux + q * uy, q * ux - p * uy
                        c = one - across * across * inverse
                        if c > zero:
                            level = _swept(along, c, inverse) - _swept(along - length, c, inverse)
                            if level > zero:
                                _lay(line, x, r, g, b, cover, level, over)
                else:
                    down = q - half * length * uy
                    within = one - down * down * inverse
                    if within <= zero:
                        continue
                    middle = x0 + half * length * ux - half
                    reach = radius * np.float32(math.sqrt(within))
                    w0 = max(u0, int(np.ceil(middle - reach)))
                    w1 = min(u1, int(np.floor(middle + reach)) + 1)
                    for x in range(np.uint64(w0), np.uint64(max(w0, w1))):
                        p = np.float32(np.int64(x)) - middle
                        level = max(zero, within - p * p * inverse)
                        level *= level * level
                        _lay(line, x, r, g, b, cover, level, over)


@compiled_along
def _lay(
    line: Picture,
    x: int,
    r: np.float32,
    g: np.float32,
    b: np.float32,
    cover: np.float32,
    level: np.float32,
    over: bool,
) -> None:
    """Add so much of a light and cover to a px, or lay it over what is there."""
    one = np.float32(1.0)
    if over or cover > np.float32(0.0):
        kept = one - min(one, cover * level)
        line[x, 3] = one - (one - line[x, 3]) * kept
        if over:
            line[x, 0] *= kept
            line[x, 1] *= kept
            line[x, 2] *= kept
    line[x, 0] += r * level
    line[x, 1] += g * level
    line[x, 2] += b * level
