"""Sprites: small pictures of one thing, each turned, sized, coloured and lit by itself.

A sheet holds several of a kind, in sizes that halve (Williams, "Pyramidal parametrics", SIGGRAPH 1983);
one is taken from the size that is nearest above its own, straight between px.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.patterns import Laid, Octaves, Warping, pattern_on
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.bands import BAND, by_band, touched
from handful.engine.picture import Picture, Region, Tile, blank, clear_tile

Shape = Literal["a puff", "a shard", "a ring", "a glint"]

Sprites = NDArray[np.float32]
"""`(N, 12)` in px of the scaled canvas: the middle, half of width and height, the cosine and sine of the
turn, which of the sheet, light, cover, and how much it is shaded."""

_SIZE, _KINDS, _LEVELS = 96, 6, 6
_KEY = Key(0x5EED, 0x5A17)
"""Shapes are the same in every recipe: what differs is which one, how large, and how turned."""


class Sheet(NamedTuple):
    """Shapes in sizes that halve, one after the other, by squares between four px: the cover of these (left
    and right above, then below), how they face across and down together, and twice nothing.

    `starts` says where the first of each size is in `texels` `(M, 8)`, `sides` how wide they are in px,
    beside one of nothing all round. Every shape lies within a circle, as large as `reaches` says of each.
    """

    texels: NDArray[np.float32]
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    reaches: NDArray[np.float32]


@lru_cache(maxsize=4)
def sheet_of(shape: Shape) -> Sheet:
    """The sheet of a kind of shape."""
    made = {"a puff": _puff, "a shard": _shard, "a ring": _ring, "a glint": _glint}[shape]
    texels: list[NDArray[np.float32]] = []
    starts: list[int] = []
    sides: list[int] = []
    at = 0
    level = [made(n) for n in range(_KINDS)]
    far = np.hypot(*_grid())
    reaches = [float(far[shape[..., 0] > 0].max()) for shape in level]
    for _ in range(_LEVELS):
        side = level[0].shape[0]
        starts.append(at)
        sides.append(side)
        texels.extend(_squares(each) for each in level)
        at += _KINDS * (side + 1) ** 2
        level = [
            cv2.resize(each, (side // 2, side // 2), interpolation=cv2.INTER_AREA) for each in level
        ]
    return Sheet(
        np.concatenate(texels),
        np.array(starts, np.int64),
        np.array(sides, np.int64),
        np.array(reaches, np.float32),
    )


def _squares(shape: NDArray[np.float32]) -> NDArray[np.float32]:
    """A shape `(S, S, 3)` by the squares between its px and a rim of nothing, `((S + 1)², 8)`."""
    rimmed = np.pad(shape, ((1, 1), (1, 1), (0, 0)))
    corners = [rimmed[:-1, :-1], rimmed[:-1, 1:], rimmed[1:, :-1], rimmed[1:, 1:]]
    side = shape.shape[0] + 1
    squares = np.zeros((side, side, 8), np.float32)
    squares[..., :4] = np.stack([corner[..., 0] for corner in corners], axis=2)
    squares[..., 4:6] = np.mean([corner[..., 1:] for corner in corners], axis=0)
    return squares.reshape(-1, 8)


def _grid() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Places across and down, from -1 to 1."""
    steps = (np.arange(_SIZE) + 0.5) / _SIZE * 2 - 1
    across, down = np.meshgrid(steps, steps)
    return across, down


def _puff(n: int) -> NDArray[np.float32]:
    """A small cloud: a ball of noise, thin at its edge, and facing as its lumps do."""
    x, y = _grid()
    waves = Octaves(4, 0.55, 2.0, 0.6, 0.3, 0, (0.0, 0.0), 1.0)
    laid = Laid("flat", (0.0, 0.0), (34.0, 34.0), 0.0, 1.0, 1)
    key = Key(_KEY.first + n, _KEY.second)
    lumps = pattern_on(
        Region(0, 0, _SIZE, _SIZE), 1.0, "billowed", waves, laid, Warping(1, 0.4), 0.2, (key,)
    )[..., 0]
    far = np.hypot(x, y)
    body = np.clip(1.02 - far - 0.42 * (lumps + 0.2), 0, 1)
    cover = np.clip(body * 1.5, 0, 1) ** 1.7 * np.clip((1 - far) * 3, 0, 1)
    height = cv2.GaussianBlur(np.sqrt(np.maximum(0, 1 - far**2)) - 0.2 * lumps, (0, 0), 4.5)
    return np.stack([cover, *_facing(height)], axis=2).astype(np.float32)


def _facing(height: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How a height, in half sizes, faces across and down, up to 1."""
    down, across = np.gradient(height * _SIZE / 2)
    long = np.sqrt(1 + across**2 + down**2)
    return -across / long, -down / long


def _shard(n: int) -> NDArray[np.float32]:
    """A flat splinter of three to six corners."""
    chance = np.random.Generator(np.random.Philox(key=n + 1))
    count = 3 + n % 4
    angles = np.sort((np.arange(count) + 0.7 * chance.random(count)) / count * 2 * np.pi)
    far = 0.55 + 0.42 * chance.random(count)
    corners = np.stack([far * np.cos(angles), far * np.sin(angles)], 1)
    large = np.zeros((4 * _SIZE, 4 * _SIZE), np.float32)
    cv2.fillPoly(large, [np.round((corners + 1) * 2 * _SIZE).astype(np.int32)], 1.0)
    cover = cv2.resize(large, (_SIZE, _SIZE), interpolation=cv2.INTER_AREA)
    return np.stack([cover, np.zeros_like(cover), np.zeros_like(cover)], axis=2)


def _ring(n: int) -> NDArray[np.float32]:
    """A ring, each a little thinner than the next."""
    x, y = _grid()
    far, half = np.hypot(x, y), 0.05 + 0.02 * n
    cover = np.clip((half - np.abs(far - 0.86)) * _SIZE / 2 + 0.5, 0, 1)
    flat = np.zeros_like(cover)
    return np.stack([cover, flat, flat], axis=2).astype(np.float32)


def _glint(n: int) -> NDArray[np.float32]:
    """A point of light with the spikes of an aperture: four, six or eight."""
    x, y = _grid()
    far, angle = np.hypot(x, y), np.arctan2(y, x)
    spikes = (4, 6, 8)[n % 3]
    ray = np.abs(np.cos(angle * spikes / 2)) ** 90 / (1 + 30 * far)
    cover = np.exp(-((far / 0.09) ** 2)) + ray * np.clip(1 - far, 0, 1) ** 2
    flat = np.zeros_like(cover)
    return np.stack([np.clip(cover, 0, 1), flat, flat], axis=2).astype(np.float32)


def draw_sprites(
    sheet: Sheet, sprites: Sprites, region: Region, lit_from: tuple[float, float], over: bool
) -> Tile:
    """Sprites drawn on what they cover of a region, added up, or each over those before it."""
    sprites = np.ascontiguousarray(sprites, np.float32)
    if not len(sprites):
        return clear_tile(region)
    reach = np.hypot(sprites[:, 2], sprites[:, 3]) + 1
    low, high = sprites[:, :2] - reach[:, None], sprites[:, :2] + reach[:, None]
    seen, shared = touched(low, high, region)
    if shared.empty:
        return clear_tile(region)
    if seen is not None:
        sprites, low, high = sprites[seen], low[seen], high[seen]
    picture = blank(shared)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        _sprite_rows, shared.height, shared.left, shared.top, sprites, low, high, starts, listed,
        *sheet, *lit_from, over, picture, band=BAND,
    )  # fmt: skip
    return Tile(picture, shared)


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


@compiled
def _framed(sprite: NDArray[np.float32], side: int, within: np.float32) -> _Frame:
    """The frame of a sprite whose shape is `side` px wide and lies within a part of that."""
    one, half, least_half = np.float32(1.0), np.float32(0.5), np.float32(0.6)
    wide, tall = max(sprite[2], least_half), max(sprite[3], least_half)
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


@compiled
def _spanned(
    y: int,
    left: int,
    width: int,
    frame: _Frame,
    side: int,
    parts: NDArray[np.float32],
    squares: NDArray[np.int32],
) -> tuple[int, int]:
    """From which px of a row up to which a sprite is, and for each the square of its shape that it is in,
    with which parts of it across and down `(2, N)`."""
    half, zero = np.float32(0.5), np.float32(0.0)
    dy = np.float32(y) + half - frame.y
    slant = dy * frame.b
    chord = slant * slant - frame.a * (dy * dy * frame.c - frame.least)
    if chord <= zero:
        return 0, 0
    reach, pace = np.float32(math.sqrt(chord)), np.float32(1.0) / frame.a
    first = max(0, int(math.floor(frame.x - (slant + reach) * pace)) - left)
    last = min(width, int(math.ceil(frame.x + (reach - slant) * pace)) - left + 1)
    dx = np.float32(first + left) + half - frame.x
    base_p = frame.middle + dx * frame.across[0] + dy * frame.down[0]
    base_q = frame.middle + dx * frame.across[1] + dy * frame.down[1]
    most, row = np.float32(side), np.int32(side + 1)
    for n in range(np.uint64(max(0, last - first))):
        at = np.float32(np.int32(n))
        p = min(max(zero, base_p + at * frame.across[0]), most)
        q = min(max(zero, base_q + at * frame.across[1]), most)
        i, j = np.int32(p), np.int32(q)
        parts[0, n], parts[1, n] = p - np.float32(i), q - np.float32(j)
        squares[n] = j * row + i
    return first, max(first, last)


@compiled
def _level(sprite: NDArray[np.float32], sides: NDArray[np.int64]) -> int:
    """The smallest of some sizes that is no smaller than a sprite."""
    level = 0
    while level + 1 < sides.shape[0] and sides[level + 1] >= 2.0 * max(sprite[2], sprite[3]):
        level += 1
    return level


@compiled
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
    shows, shares = np.empty(width, np.float32), np.empty(width, np.float32)
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for k in listed[starts[band] : starts[band + 1]]:
            sprite = sprites[k]
            level = _level(sprite, sides)
            side, kind = sides[level], int(sprite[6])
            # What a shape is made of spreads by a px or so of its size.
            within = min(one, reaches[kind] + np.float32(3.0) / np.float32(side))
            frame = _framed(sprite, side, within)
            begins = sheet_starts[level] + kind * (side + 1) * (side + 1)
            faint = min(one, sprite[2] / np.float32(0.6)) * min(one, sprite[3] / np.float32(0.6))
            strong = np.float32(1.4) * sprite[11]
            lx = np.float32(lit_x * sprite[4] + lit_y * sprite[5]) * strong
            ly = np.float32(lit_y * sprite[4] - lit_x * sprite[5]) * strong
            plain = one - np.float32(0.35) * sprite[11]
            r, g, b, cover = sprite[7], sprite[8], sprite[9], sprite[10]
            for y in range(max(first, int(low[k, 1]) - top), min(last, int(high[k, 1]) - top + 1)):
                u0, u1 = _spanned(y + top, left, width, frame, side, parts, squares)
                count = np.uint64(u1 - u0)
                for n in range(count):
                    s, t = parts[0, n], parts[1, n]
                    square = texels[np.uint64(begins + squares[n])]
                    w3 = s * t
                    w1, w2 = s - w3, t - w3
                    shows[n] = faint * (
                        (one - s - w2) * square[0]
                        + w1 * square[1]
                        + w2 * square[2]
                        + w3 * square[3]
                    )
                    shares[n] = plain + square[4] * lx + square[5] * ly
                line = picture[y, u0:u1]
                if cover > zero:
                    for n in range(count):
                        kept = one - min(one, cover * shows[n])
                        line[n, 3] = one - (one - line[n, 3]) * kept
                        if over:
                            line[n, 0] *= kept
                            line[n, 1] *= kept
                            line[n, 2] *= kept
                for n in range(count):
                    share = shows[n] * max(zero, shares[n])
                    line[n, 0] += r * share
                    line[n, 1] += g * share
                    line[n, 2] += b * share
