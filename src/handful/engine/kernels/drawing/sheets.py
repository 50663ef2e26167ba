"""What sprites are made of: shapes and pictures, in sizes that halve (Williams, "Pyramidal parametrics",
SIGGRAPH 1983)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.patterns import Laid, Octaves, Warping, pattern_on
from handful.engine.picture import Picture, Region

Shape = Literal["a puff", "a shard", "a ring", "a glint"]

_SIZE, _KINDS, _LEVELS = 96, 6, 6
_LEAST_SIDE = 4
_KEY = Key(0x5EED, 0x5A17)
"""Shapes are the same in every recipe: what differs is which one, how large, and how turned."""


class Sheet(NamedTuple):
    """Shapes in sizes that halve, one after the other, by squares between four px: the cover of the first, how much more it
    is beside it, below it, and across from it beyond both; how they face across and down together, and twice nothing.

    `starts` says where the first of each size is in `texels` `(M, 8)`, `sides` how wide they are in px,
    beside one of nothing all round. Every shape lies within a circle, as large as `reaches` says of each
    size and shape `(L, K)`, in halves of a side.
    """

    texels: NDArray[np.float32]
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    reaches: NDArray[np.float32]


@lru_cache(maxsize=4)
def sheet_of(shape: Shape) -> Sheet:
    """The sheet of a kind of shape."""
    made = {"a puff": _puff, "a shard": _shard, "a ring": _ring, "a glint": _glint}[shape]
    return _sheet([made(n) for n in range(_KINDS)])


@lru_cache(maxsize=2)
def sheet_of_figures(figures: str) -> Sheet:
    """The sheet of the letters, digits and signs of a text, in their order."""
    return _sheet(_figures(figures))


def _sheet(level: list[NDArray[np.float32]]) -> Sheet:
    texels: list[NDArray[np.float32]] = []
    starts: list[int] = []
    sides: list[int] = []
    at = 0
    reaches: list[list[float]] = []
    for _ in range(_LEVELS):
        side = level[0].shape[0]
        starts.append(at)
        sides.append(side)
        texels.extend(_squares(each) for each in level)
        reaches.append([_reach(each[..., 0]) for each in level])
        at += len(level) * (side + 1) ** 2
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
    first, beside, below, across = (corner[..., 0] for corner in corners)
    squares[..., 0], squares[..., 1], squares[..., 2] = first, beside - first, below - first
    squares[..., 3] = first - beside - below + across
    squares[..., 4:6] = np.mean([corner[..., 1:] for corner in corners], axis=0)
    return squares.reshape(-1, 8)


def _reach(cover: NDArray[np.float32]) -> float:
    """How far from the middle something of a shape `(S, S)` is taken between px, in halves of its side."""
    side = cover.shape[0]
    # A px counts up to those round it.
    grown = cv2.dilate(np.pad(cover, 1), np.ones((3, 3), np.uint8))
    steps = (np.arange(-1, side + 1) + 0.5) / side * 2 - 1
    return float(np.hypot(*np.meshgrid(steps, steps))[grown > 0].max(initial=0))


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


def _figures(figures: str) -> list[NDArray[np.float32]]:
    """Letters, digits and signs, each in the middle of its square, all as large as lets the largest in."""
    boxes = [ImageFont.load_default(_SIZE).getbbox(figure, anchor="ls") for figure in figures]
    above, below = min(box[1] for box in boxes), max(box[3] for box in boxes)
    wide = max(box[2] - box[0] for box in boxes)
    larger = _SIZE * _INK / max(1.0, math.hypot(wide, below - above))
    font = ImageFont.load_default(_SIZE * larger)
    line = (_SIZE - (above + below) * larger) / 2
    drawn = []
    for figure in figures:
        sheet = Image.new("L", (_SIZE, _SIZE))
        left, _, right, _ = font.getbbox(figure, anchor="ls")
        place = ((_SIZE - left - right) / 2, line)
        ImageDraw.Draw(sheet).text(place, figure, 255, font, anchor="ls")
        cover = np.asarray(sheet, np.float32) / np.float32(255)
        flat = np.zeros_like(cover)
        drawn.append(np.stack([cover, flat, flat], axis=2))
    return drawn


_INK = 0.98
"""The part of a circle's width within which all figures are."""


class Album(NamedTuple):
    """Pictures in sizes that halve, one after the other: premultiplied light and cover `(M, 4)`, row by
    row with a px of nothing all round. `starts` says where the first of each size is, `sides` how wide they
    are, and there are so many `pages` of each, whose longer side `fills` a part of that."""

    texels: NDArray[np.float32]
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    pages: int
    fills: float


def album_of(pictures: Sequence[Picture]) -> Album:
    """An album of pictures of one size, each in the middle of a square; of none, one of no pages."""
    if not pictures:
        nothing = np.empty(0, np.int64)
        return Album(np.empty((0, 4), np.float32), nothing, nothing, 0, 1.0)
    height, width = pictures[0].shape[:2]
    side = _LEAST_SIDE
    while side < max(height, width):
        side *= 2
    fills = max(height, width) / side
    above, before = (side - height) // 2, (side - width) // 2
    around = ((above, side - height - above), (before, side - width - before), (0, 0))
    level = [np.pad(picture, around) for picture in pictures]
    texels: list[NDArray[np.float32]] = []
    starts: list[int] = []
    sides: list[int] = []
    at = 0
    while True:
        starts.append(at)
        sides.append(side)
        texels.extend(np.pad(each, ((1, 1), (1, 1), (0, 0))).reshape(-1, 4) for each in level)
        at += len(level) * (side + 2) ** 2
        if side == _LEAST_SIDE:
            break
        side //= 2
        level = [cv2.resize(each, (side, side), interpolation=cv2.INTER_AREA) for each in level]
    return Album(
        np.concatenate(texels).astype(np.float32),
        np.array(starts, np.int64),
        np.array(sides, np.int64),
        len(pictures),
        fills,
    )
