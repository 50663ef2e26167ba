"""Sprites: small pictures of one thing, each turned, sized, coloured and lit by itself.

Each is taken from the size in its sheet that is nearest above its own, straight between px.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along, in_bands
from handful.engine.kernels.drawing.bands import BAND, by_band, touched
from handful.engine.kernels.drawing.sheets import Album, Sheet
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Sprites = NDArray[np.float32]
"""`(N, 12)` in px of the scaled canvas: the middle, half of width and height, the cosine and sine of the
turn, which of the sheet, light, cover, and how much it is shaded."""


def draw_sprites(
    sheet: Sheet, sprites: Sprites, region: Region, lit_from: tuple[float, float], over: bool
) -> Tile:
    """Sprites drawn on what they cover of a region, added up, or each over those before it."""
    return _drawn(_sprite_rows, sprites, region, over, *sheet, *lit_from)


def _drawn(
    rows: Callable[..., None], sprites: Sprites, region: Region, over: bool, *made_of: Any
) -> Tile:
    sprites = np.ascontiguousarray(sprites, np.float32)
    if not len(sprites):
        return clear_tile(region)
    reach = np.hypot(*np.maximum(sprites[:, 2:4], LEAST_HALF).T) + 1
    low, high = sprites[:, :2] - reach[:, None], sprites[:, :2] + reach[:, None]
    seen, shared = touched(low, high, region)
    if shared.empty:
        return clear_tile(region)
    if seen is not None:
        sprites, low, high = sprites[seen], low[seen], high[seen]
    picture = blank(shared)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        rows, shared.height, shared.left, shared.top, sprites, low, high, starts, listed, *made_of,
        over, picture, band=BAND,
    )  # fmt: skip
    return Tile(picture, shared)


def draw_album(album: Album, sprites: Sprites, region: Region, over: bool) -> Tile:
    """Pictures drawn as sprites: light times that of the sprite, cover times its cover; added up, or each
    over those before it."""
    return _drawn(_album_rows, sprites, region, over, album.texels, album.starts, album.sides)


LEAST_HALF = 1.5
"""px: a sprite that is less than twice as wide or high is drawn so large and fainter."""


_CORNER = 1.4143
"""How far the corners of a square are from its middle, in halves of its side."""


class _Frame(NamedTuple):
    """How a sprite lies on its picture: its middle, the ellipse it is within (`a` x² + 2 `b` x y + `c` y² <
    `least`), how far a px across and down is in px of its shape, and the middle of the shape."""

    x: np.float32
    y: np.float32
    a: np.float32
    b: np.float32
    c: np.float32
    least: np.float32
    across: tuple[np.float32, np.float32]
    down: tuple[np.float32, np.float32]
    middle: np.float32


@compiled_along
def _framed(sprite: NDArray[np.float32], side: int, within: np.float32) -> _Frame:
    """The frame of a sprite whose shape is `side` px wide and lies within a part of that."""
    one, half, least = np.float32(1.0), np.float32(0.5), np.float32(LEAST_HALF)
    wide, tall = max(sprite[2], least), max(sprite[3], least)
    cosine, sine, long = sprite[4], sprite[5], np.float32(side)
    pace_x, pace_y = half * long / wide, half * long / tall
    return _Frame(
        sprite[0],
        sprite[1],
        (cosine / wide) * (cosine / wide) + (sine / tall) * (sine / tall),
        cosine * sine * (one / (wide * wide) - one / (tall * tall)),
        (sine / wide) * (sine / wide) + (cosine / tall) * (cosine / tall),
        within * within,
        (cosine * pace_x, -sine * pace_y),
        (sine * pace_x, cosine * pace_y),
        half * (long + one),
    )


@compiled_along
def _spanned(
    y: int,
    left: int,
    width: int,
    frame: _Frame,
    side: int,
    stride: int,
    parts: NDArray[np.float32],
    squares: NDArray[np.int32],
) -> tuple[int, int]:
    """From which px of a row up to which a sprite is, and for each the square of its shape that it is in, of
    rows of a stride, with which parts of it across and down `(2, N)`."""
    half, zero = np.float32(0.5), np.float32(0.0)
    dy = np.float32(y) + half - frame.y
    slant = dy * frame.b
    chord = slant * slant - frame.a * (dy * dy * frame.c - frame.least)
    if chord <= zero:
        return 0, 0
    reach, pace = np.float32(math.sqrt(chord)), np.float32(1.0) / frame.a
    first = max(0, int(np.floor(frame.x - (slant + reach) * pace)) - left)
    last = min(width, int(np.ceil(frame.x + (reach - slant) * pace)) - left + 1)
    dx = np.float32(first + left) + half - frame.x
    base_p = frame.middle + dx * frame.across[0] + dy * frame.down[0]
    base_q = frame.middle + dx * frame.across[1] + dy * frame.down[1]
    most, row = np.float32(side) + np.float32(0.999), np.int32(stride)
    for n in range(np.uint64(max(0, last - first))):
        at = np.float32(np.int32(n))
        p = min(max(zero, base_p + at * frame.across[0]), most)
        q = min(max(zero, base_q + at * frame.across[1]), most)
        i, j = np.int32(p), np.int32(q)
        parts[0, n], parts[1, n] = p - np.float32(i), q - np.float32(j)
        squares[n] = j * row + i
    return first, max(first, last)


@compiled_along
def _faint(sprite: NDArray[np.float32]) -> np.float32:
    """How much fainter a sprite is drawn that is drawn larger than it is."""
    one, least = np.float32(1.0), np.float32(LEAST_HALF)
    wide: np.float32 = min(one, sprite[2] / least)
    faint: np.float32 = wide * min(one, sprite[3] / least)
    return faint


@compiled_along
def _level(sprite: NDArray[np.float32], sides: NDArray[np.int64]) -> int:
    """The largest of some sizes of which hardly more than a px comes on a px of a sprite."""
    level, most = 0, 2.5 * max(sprite[2], sprite[3])
    while level + 1 < sides.shape[0] and sides[level] > most:
        level += 1
    return level


@compiled_along
def _sprite_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    sprites: Sprites,
    low: NDArray[np.float32],
    high: NDArray[np.float32],
    starts: NDArray[np.int64],
    listed: NDArray[np.int64],
    texels: NDArray[np.float32],
    sheet_starts: NDArray[np.int64],
    sides: NDArray[np.int64],
    reaches: NDArray[np.float32],
    lit_x: float,
    lit_y: float,
    over: bool,
    picture: Picture,
) -> None:
    one, zero, width = np.float32(1.0), np.float32(0.0), picture.shape[1]
    parts, squares = np.empty((2, width), np.float32), np.empty(width, np.int32)
    shows = np.empty(width, np.float32)
    flat, long = texels.reshape(-1), np.uint64(texels.shape[1])
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for k in listed[starts[band] : starts[band + 1]]:
            sprite = sprites[k]
            level = _level(sprite, sides)
            side, kind = sides[level], int(sprite[6])
            frame = _framed(sprite, side, reaches[level, kind])
            begins = sheet_starts[level] + kind * (side + 1) * (side + 1)
            faint = _faint(sprite)
            strong = np.float32(1.4) * sprite[11]
            lx = np.float32(lit_x * sprite[4] + lit_y * sprite[5]) * strong
            ly = np.float32(lit_y * sprite[4] - lit_x * sprite[5]) * strong
            plain = one - np.float32(0.35) * sprite[11]
            r, g, b, cover = sprite[7], sprite[8], sprite[9], sprite[10]
            for y in range(max(first, int(low[k, 1]) - top), min(last, int(high[k, 1]) - top + 1)):
                u0, u1 = _spanned(y + top, left, width, frame, side, side + 1, parts, squares)
                count = np.uint64(u1 - u0)
                for n in range(count):
                    s, t = parts[0, n], parts[1, n]
                    i = np.uint64(begins + squares[n]) * long
                    above = flat[i] + s * flat[i + np.uint64(1)]
                    below = flat[i + np.uint64(2)] + s * flat[i + np.uint64(3)]
                    shows[n] = faint * (above + t * below)
                line = picture[y, u0:u1]
                if cover > zero:
                    for n in range(count):
                        kept = one - min(one, cover * shows[n])
                        line[n, 3] = one - (one - line[n, 3]) * kept
                        if over:
                            line[n, 0] *= kept
                            line[n, 1] *= kept
                            line[n, 2] *= kept
                if strong > zero:
                    for n in range(count):
                        i = np.uint64(begins + squares[n]) * long
                        faces = flat[i + np.uint64(4)] * lx + flat[i + np.uint64(5)] * ly
                        shows[n] *= max(zero, plain + faces)
                for n in range(count):
                    line[n, 0] += r * shows[n]
                    line[n, 1] += g * shows[n]
                    line[n, 2] += b * shows[n]


@compiled
def _album_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    sprites: Sprites,
    low: NDArray[np.float32],
    high: NDArray[np.float32],
    starts: NDArray[np.int64],
    listed: NDArray[np.int64],
    texels: NDArray[np.float32],
    album_starts: NDArray[np.int64],
    sides: NDArray[np.int64],
    over: bool,
    picture: Picture,
) -> None:
    one, width = np.float32(1.0), picture.shape[1]
    parts, squares = np.empty((2, width), np.float32), np.empty(width, np.int32)
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for k in listed[starts[band] : starts[band + 1]]:
            sprite = sprites[k]
            level = _level(sprite, sides)
            side = sides[level]
            # Its corners are beyond the circle that a shape is within.
            frame = _framed(sprite, side, np.float32(_CORNER))
            begins = album_starts[level] + int(sprite[6]) * (side + 2) * (side + 2)
            below = np.uint64(side + 2)
            faint = _faint(sprite)
            tint, cover = faint * sprite[7:10], faint * sprite[10]
            for y in range(max(first, int(low[k, 1]) - top), min(last, int(high[k, 1]) - top + 1)):
                u0, u1 = _spanned(y + top, left, width, frame, side, side + 2, parts, squares)
                line = picture[y, u0:u1]
                for n in range(np.uint64(u1 - u0)):
                    s, t = parts[0, n], parts[1, n]
                    at = np.uint64(begins + squares[n])
                    w3 = s * t
                    w1, w2 = s - w3, t - w3
                    w0 = one - s - w2
                    right, under = at + np.uint64(1), at + below
                    across = under + np.uint64(1)
                    hides = cover * (
                        w0 * texels[at, 3]
                        + w1 * texels[right, 3]
                        + w2 * texels[under, 3]
                        + w3 * texels[across, 3]
                    )
                    kept = one - min(one, hides)
                    line[n, 3] = one - (one - line[n, 3]) * kept
                    for c in range(3):
                        light = tint[c] * (
                            w0 * texels[at, c]
                            + w1 * texels[right, c]
                            + w2 * texels[under, c]
                            + w3 * texels[across, c]
                        )
                        line[n, c] = (line[n, c] * kept if over else line[n, c]) + light
