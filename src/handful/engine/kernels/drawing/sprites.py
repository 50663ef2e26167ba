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
    """Shapes in sizes that halve, one after the other: cover, and how they face across and down.

    `starts` says where the first of each size is in `texels` `(M, 3)`, `sides` how wide they are, beside
    a px of nothing all round. Every shape lies within a circle.
    """

    texels: NDArray[np.float32]
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]


@lru_cache(maxsize=4)
def sheet_of(shape: Shape) -> Sheet:
    """The sheet of a kind of shape."""
    made = {"a puff": _puff, "a shard": _shard, "a ring": _ring, "a glint": _glint}[shape]
    texels: list[NDArray[np.float32]] = []
    starts: list[int] = []
    sides: list[int] = []
    at = 0
    level = [made(n) for n in range(_KINDS)]
    for _ in range(_LEVELS):
        side = level[0].shape[0]
        starts.append(at)
        sides.append(side)
        texels.extend(np.pad(each, ((1, 1), (1, 1), (0, 0))).reshape(-1, 3) for each in level)
        at += _KINDS * (side + 2) ** 2
        level = [
            cv2.resize(each, (side // 2, side // 2), interpolation=cv2.INTER_AREA) for each in level
        ]
    return Sheet(
        np.concatenate(texels).astype(np.float32),
        np.array(starts, np.int64),
        np.array(sides, np.int64),
    )


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
    sprites, low, high = sprites[seen], low[seen], high[seen]
    picture = blank(shared)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        _sprite_rows, shared.height, shared.left, shared.top, sprites, low, high, starts, listed,
        *sheet, *lit_from, over, picture, band=BAND,
    )  # fmt: skip
    return Tile(picture, shared)


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
    lit_x: float,
    lit_y: float,
    over: bool,
    picture: Picture,
) -> None:
    half, one, zero = np.float32(0.5), np.float32(1.0), np.float32(0.0)
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for n in range(starts[band], starts[band + 1]):
            k = listed[n]
            mx, my = sprites[k, 0], sprites[k, 1]
            wide, tall = max(sprites[k, 2], np.float32(0.6)), max(sprites[k, 3], np.float32(0.6))
            faint = sprites[k, 2] * sprites[k, 3] / (wide * tall)
            cosine, sine, shade = sprites[k, 4], sprites[k, 5], sprites[k, 11]
            level = 0
            while level + 1 < sides.shape[0] and sides[level + 1] >= 2.0 * max(wide, tall):
                level += 1
            side = sides[level]
            row = np.uint64(side + 2)
            begins = np.uint64(sheet_starts[level]) + np.uint64(sprites[k, 6]) * row * row
            lx = np.float32(lit_x * cosine + lit_y * sine) * np.float32(1.4) * shade
            ly = np.float32(lit_y * cosine - lit_x * sine) * np.float32(1.4) * shade
            plain = one - np.float32(0.35) * shade
            middle = half * np.float32(side + 1)
            pace_x, pace_y = half * np.float32(side) / wide, half * np.float32(side) / tall
            r, g, b, cover = sprites[k, 7], sprites[k, 8], sprites[k, 9], sprites[k, 10]
            c2 = (cosine / wide) ** 2 + (sine / tall) ** 2
            v0 = max(first, int(low[k, 1]) - top)
            v1 = min(last, int(high[k, 1]) - top + 1)
            for y in range(v0, v1):
                dy = np.float32(y + top) + half - my
                # All of a shape is within an ellipse, of which a row of px cuts out a piece.
                c1 = dy * cosine * sine * (one / (wide * wide) - one / (tall * tall))
                c0 = dy * dy * ((sine / wide) ** 2 + (cosine / tall) ** 2) - one
                within = c1 * c1 - c2 * c0
                if within <= zero:
                    continue
                reach = np.float32(math.sqrt(within))
                u0 = max(0, int(math.floor(mx + (-c1 - reach) / c2)) - left)
                u1 = min(picture.shape[1], int(math.ceil(mx + (reach - c1) / c2)) - left + 1)
                base_p, base_q = dy * sine * pace_x + middle, dy * cosine * pace_y + middle
                step_p, step_q = cosine * pace_x, -sine * pace_y
                line = picture[y]
                for x in range(u0, u1):
                    dx = np.float32(x + left) + half - mx
                    p = min(max(zero, base_p + dx * step_p), np.float32(side))
                    q = min(max(zero, base_q + dx * step_q), np.float32(side))
                    i, j = np.uint64(p), np.uint64(q)
                    s, t = p - np.float32(i), q - np.float32(j)
                    at = begins + j * row + i
                    below = at + row
                    w3 = s * t
                    w1, w2 = s - w3, t - w3
                    w0 = one - s - w2
                    shows = (
                        w0 * texels[at, 0]
                        + w1 * texels[at + np.uint64(1), 0]
                        + w2 * texels[below, 0]
                        + w3 * texels[below + np.uint64(1), 0]
                    )
                    if shows <= zero:
                        continue
                    near = at + np.uint64(s > half) + (row if t > half else np.uint64(0))
                    lit = max(zero, plain + texels[near, 1] * lx + texels[near, 2] * ly)
                    shows *= faint
                    kept = one - min(one, cover * shows)
                    share = shows * lit
                    if over:
                        line[x, 0] = line[x, 0] * kept + r * share
                        line[x, 1] = line[x, 1] * kept + g * share
                        line[x, 2] = line[x, 2] * kept + b * share
                    else:
                        line[x, 0] += r * share
                        line[x, 1] += g * share
                        line[x, 2] += b * share
                    line[x, 3] = one - (one - line[x, 3]) * kept
