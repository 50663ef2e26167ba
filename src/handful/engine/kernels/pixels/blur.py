"""Normal (Gaussian) blur whose cost hardly depends on its radius.

The picture is reduced by a power of two, blurred small, and enlarged again. The small blur gets
what variance the other two leave over, so that the whole is a normal curve of the deviation asked
for.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.pixels.spline import MARGIN, reduced, spline_weights, widened_into
from handful.engine.picture import MOST_LIGHT, Picture, Region, Tile, clear_tile

REACH = 4.0
"""Deviations after which the curve has come down to exactly nothing."""

_LEAST_SMALL_DEVIATION = 1.5


class Lobe(NamedTuple):
    """One blur of a picture: its deviation in px, and what each channel of it is multiplied by."""

    deviation: float
    gain: tuple[float, float, float, float]


class Far(NamedTuple):
    """A picture whose px are so many times as large, known around an inner region on which there is a finer one."""

    tile: Tile
    inner: Region
    times: int


def reach_of(deviation: float) -> int:
    """Whole px over which a blur of this deviation spreads light."""
    return int(math.ceil(REACH * deviation)) + 5 * reduction_for(deviation)


def reduction_for(deviation: float) -> int:
    """The power of two by which a picture can be reduced before a blur of this deviation."""
    return int(2 ** max(0, math.floor(math.log2(max(deviation, 1e-6) / _LEAST_SMALL_DEVIATION))))


def gaussian(picture: Picture, deviation: float) -> Picture:
    """A picture `(H, W, 4)` blurred by a normal curve of `deviation` px; clear beyond its edges."""
    region = Region(0, 0, picture.shape[1], picture.shape[0])
    lobe = Lobe(deviation, (1.0, 1.0, 1.0, 1.0))
    return with_lobes(clear_tile(region), Tile(picture, region), [lobe], region).pixels


def with_lobes(
    base: Tile, bright: Tile, lobes: Sequence[Lobe], region: Region, far: Far | None = None
) -> Tile:
    """`base` plus the blurred `bright` picture of each lobe, on `region`, in one pass over its px. What is `far` is
    seen by lobes that can be blurred in px as large as its own.

    Small rows are widened first, once each; a row of the result is then the row of `base` and,
    for each lobe, a sum of four widened rows.
    """
    if region.empty:
        return clear_tile(region)
    if base.region.empty and len(lobes) == 1 and _is_plain(lobes[0]):
        narrow = _blurred(_seen(bright, lobes[0], region), lobes[0].deviation)
        return Tile(np.minimum(narrow.within(region), np.float32(MOST_LIGHT)), region)
    wide_lobes = [lobe for lobe in lobes if reduction_for(lobe.deviation) > 1]
    sizes = [reduction_for(lobe.deviation) for lobe in wide_lobes]
    halves = _halves(bright, wide_lobes, region, far)
    smalls = [
        _blurred(
            _seen(halves[by], lobe, region, by),
            math.sqrt((lobe.deviation / by) ** 2 - _spread_by(by)),
        )
        for lobe, by in zip(wide_lobes, sizes, strict=True)
    ]
    starts = np.cumsum([0, *(small.region.height + 2 * MARGIN for small in smalls)])
    wide = np.zeros((int(starts[-1]), region.width, 4), np.float32)
    for lobe, by, small, start in zip(wide_lobes, sizes, smalls, starts, strict=False):
        part = wide[start : start + small.region.height + 2 * MARGIN]
        widened_into(part, small, by, lobe.gain, region.left)
    shared = base.region.meet(region)
    if shared.empty:
        base = clear_tile(region)
        shared = base.region
    result = np.empty((region.height, region.width, 4), np.float32)
    in_bands(
        _sum_rows,
        region.height,
        np.ascontiguousarray(base.within(shared)).reshape(shared.height, 4 * shared.width),
        shared.top - region.top,
        4 * (shared.left - region.left),
        wide.reshape(len(wide), 4 * region.width),
        starts,
        np.array([small.region.top - MARGIN for small in smalls], np.int64),
        np.array(sizes, np.int64),
        np.concatenate([_NO_WEIGHTS, *(spline_weights(by) for by in sizes)]),
        region.top,
        result.reshape(region.height, -1),
    )
    for lobe in lobes:
        if lobe not in wide_lobes:
            _add_unreduced(_seen(bright, lobe, region), lobe, Tile(result, region))
    return Tile(result, region)


def _is_plain(lobe: Lobe) -> bool:
    """Whether it is a blur and no more, too narrow for a reduced picture."""
    return reduction_for(lobe.deviation) == 1 and lobe.gain == (1.0, 1.0, 1.0, 1.0)


def _halves(
    bright: Tile, lobes: Sequence[Lobe], region: Region, far: Far | None
) -> dict[int, Tile]:
    """What lobes need of a picture, halved again and again: by how much each is smaller."""
    if not lobes:
        return {}
    widest = max(lobes, key=lambda lobe: lobe.deviation)
    found, by = {1: _seen(bright, widest, region)}, 1
    while by < reduction_for(widest.deviation):
        by *= 2
        found[by] = reduced(found[by // 2], 2)
        if far is not None and by == far.times:
            found[by] = _within_far(found[by], far)
    return found


def _within_far(small: Tile, far: Far) -> Tile:
    """A reduced picture within one that is as coarse and goes farther, as much spread as it: what is reduced tells
    nothing near the edge of where it is known."""
    taps = np.array([1, 4, 1], np.float32) / 6
    region = far.tile.region.grown(2)
    spread = cv2.sepFilter2D(
        np.ascontiguousarray(far.tile.within(region)),
        -1,
        taps,
        taps,
        borderType=cv2.BORDER_CONSTANT,
    )
    inner = Region(
        *(-(-edge // far.times) for edge in far.inner[:2]),
        *(edge // far.times for edge in far.inner[2:]),
    )
    inner = inner.grown(-_UNTOLD).meet(region)
    if not inner.empty:
        Tile(spread, region).within(inner)[...] = small.within(inner)
    return Tile(spread, region)


_UNTOLD = 3
"""px at the edge of a picture that was halved twice which lack what lies beyond it."""


def _spread_by(by: int) -> float:
    """The variance, in small px squared, that halving down to them and enlarging in one adds: a third of a
    px for each."""
    return (1 + sum(0.25**k for k in range(int(math.log2(by))))) / 3


def _seen(bright: Tile, lobe: Lobe, region: Region, by: int = 1) -> Tile:
    """What of a picture, or of one reduced `by` times, a lobe spreads to some region; a little more at its
    sides where cutting that off would cost a copy."""
    around = region.grown(reach_of(lobe.deviation)).aligned(by)
    part = bright.region.meet(Region(*(edge // by for edge in around)))
    if part.width > _WORTH_CUTTING * bright.region.width:
        part = part._replace(left=bright.region.left, right=bright.region.right)
    return Tile(bright.within(part), part)


_WORTH_CUTTING = 0.7


def _add_unreduced(bright: Tile, lobe: Lobe, target: Tile) -> None:
    """Add a lobe too narrow for a reduced picture."""
    blurred = _blurred(bright, lobe.deviation)
    part = blurred.region.meet(target.region)
    if not part.empty:
        gain = np.array(lobe.gain, np.float32)
        in_bands(_add_rows, part.height, blurred.within(part), gain, target.within(part))


def _blurred(tile: Tile, deviation: float) -> Tile:
    """A normal blur in the tile's own px, on all that it reaches and two clear px around."""
    taps = _taps(round(deviation, 9))
    reach = len(taps) // 2
    room = tile.region.grown(reach + 2)
    padded = np.ascontiguousarray(tile.within(room))
    blurred = np.empty_like(padded)

    def blur_rows(first: int, last: int) -> None:
        top, bottom = max(0, first - reach), min(room.height, last + reach)
        part = cv2.sepFilter2D(padded[top:bottom], -1, taps, taps, borderType=cv2.BORDER_CONSTANT)
        blurred[first:last] = part[first - top : last - top]

    in_bands(blur_rows, room.height, band=max(_LEAST_BAND, 8 * reach))
    return Tile(blurred, room)


_LEAST_BAND = 64


@lru_cache(maxsize=256)
def _taps(deviation: float) -> NDArray[np.float32]:
    """Weights of a normal curve that reaches zero at its ends and has the variance asked for."""
    radius = max(1, int(math.ceil(REACH * deviation)))
    x = np.arange(-radius, radius + 1, dtype=np.float64)
    inner = deviation
    for _ in range(24):
        weights = np.maximum(np.exp(-0.5 * (x / inner) ** 2) - math.exp(-0.5 * REACH**2), 0)
        weights /= weights.sum()
        inner *= math.sqrt(deviation**2 / max(float((weights * x**2).sum()), 1e-12))
    return weights.astype(np.float32)


_NO_WEIGHTS = np.zeros((0, 4), np.float32)


@compiled
def _sum_rows(
    first: int,
    last: int,
    base: NDArray[np.float32],
    base_top: int,
    base_left: int,
    wide: NDArray[np.float32],
    starts: NDArray[np.int64],
    tops: NDArray[np.int64],
    sizes: NDArray[np.int64],
    weights: NDArray[np.float32],
    top: int,
    result: NDArray[np.float32],
) -> None:
    most = np.float32(MOST_LIGHT)
    for y in range(first, last):
        line = result[y]
        line[:] = 0
        if 0 <= y - base_top < base.shape[0]:
            below = base[y - base_top]
            for i in range(below.shape[0]):
                line[base_left + i] = below[i]
        table = 0
        for lobe in range(sizes.shape[0]):
            by = sizes[lobe]
            cell = (y + top) // by
            phase = (y + top) - cell * by
            row = cell - tops[lobe] - (2 if 2 * phase + 1 < by else 1)
            w = weights[table + phase]
            table += by
            if row < 0 or row + 4 > starts[lobe + 1] - starts[lobe]:
                continue
            row += starts[lobe]
            a, b, c, d = wide[row], wide[row + 1], wide[row + 2], wide[row + 3]
            wa, wb, wc, wd = w[0], w[1], w[2], w[3]
            for i in range(line.shape[0]):
                line[i] += wa * a[i] + wb * b[i] + wc * c[i] + wd * d[i]
        for i in range(line.shape[0]):
            line[i] = min(line[i], most)


@compiled
def _add_rows(
    first: int, last: int, source: Picture, gain: NDArray[np.float32], target: Picture
) -> None:
    for y in range(first, last):
        line, row = target[y], source[y]
        for x in range(row.shape[0]):
            for c in range(4):
                line[x, c] = min(np.float32(MOST_LIGHT), line[x, c] + row[x, c] * gain[c])
