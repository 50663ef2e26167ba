"""The exact share of each px that an outline covers, and soft edges for it."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Matte, Region

_SOFT_ENOUGH = 3.0
"""px of deviation from which on a matte is reduced before it is softened."""

_REACH = 4.0

_HARD = 0.05
"""px of deviation below which a matte stays as it is."""


def filled(outline: NDArray[np.float64], region: Region) -> Matte:
    """The share `(H, W)` of each px inside a closed outline `(N, 2)`, from 0 to 1.

    Signed areas under the edges, summed along each row: the trapezoid rule is exact for straight
    edges. What is wound around twice is covered once.
    """
    sums = np.zeros((region.height, region.width + 2), np.float64)
    corner = np.array([region.left, region.top], np.float64)
    closed = np.concatenate([outline, outline[:1]]) - corner
    _sum_edges(closed, sums)
    shares = np.empty((region.height, region.width), np.float32)
    in_bands(_add_up_rows, region.height, sums, shares)
    return shares


@compiled
def _add_up_rows(first: int, last: int, sums: NDArray[np.float64], shares: Matte) -> None:
    for y in range(first, last):
        total = 0.0
        for x in range(shares.shape[1]):
            total += sums[y, x]
            shares[y, x] = min(1.0, abs(total))


@compiled
def _sum_edges(outline: NDArray[np.float64], sums: NDArray[np.float64]) -> None:
    height, width = sums.shape[0], sums.shape[1] - 2
    for i in range(outline.shape[0] - 1):
        x0, y0, x1, y1 = outline[i, 0], outline[i, 1], outline[i + 1, 0], outline[i + 1, 1]
        if y0 == y1:
            continue
        sign = 1.0
        if y0 > y1:
            x0, y0, x1, y1 = x1, y1, x0, y0
            sign = -1.0
        slope = (x1 - x0) / (y1 - y0)
        for row in range(max(0, int(np.floor(y0))), min(height, int(np.ceil(y1)))):
            top, bottom = max(y0, float(row)), min(y1, row + 1.0)
            tall = (bottom - top) * sign
            if tall == 0.0:
                continue
            _add_edge(x0 + (top - y0) * slope, x0 + (bottom - y0) * slope, tall, width, sums[row])


@compiled
def _add_edge(start: float, end: float, tall: float, width: int, row: NDArray[np.float64]) -> None:
    """What lies right of a piece of an edge within one row, as differences from px to px."""
    low, high = min(start, end), max(start, end)
    low, high = min(float(width), max(0.0, low)), min(float(width), max(0.0, high))
    span = abs(end - start)
    before, after = 0.0, 0.0
    if span > 0.0:
        before = (low - min(start, end)) / span
        after = (max(start, end) - high) / span
    row[0] += tall * max(0.0, before)
    row[width] += tall * max(0.0, after)
    tall *= 1.0 - max(0.0, before) - max(0.0, after)
    if high <= low:
        column = min(width, int(low))
        right = column + 1.0 - low
        row[column] += tall * right
        row[column + 1] += tall * (1.0 - right)
        return
    column = int(low)
    place = low
    while place < high:
        until = min(high, column + 1.0)
        part = tall * (until - place) / (high - low)
        right = column + 1.0 - 0.5 * (place + until)
        row[column] += part * right
        row[column + 1] += part * (1.0 - right)
        place = until
        column += 1


def softened(matte: Matte, deviation: float) -> Matte:
    """A matte `(H, W)` after a normal blur of `deviation` px; its edge values go on beyond it.

    A wide one is done on a matte reduced by area and enlarged by a cubic, so that it costs no more
    than a narrow one.
    """
    by = reduction_for(deviation)
    height, width = matte.shape
    if by > 1:
        matte = np.pad(matte, ((0, -height % by), (0, -width % by)), "edge")
    return softened_from(reduced(matte, by), by, deviation, Region(0, 0, width, height))


def reduction_for(deviation: float) -> int:
    """How many times a matte is reduced before a blur of so many px."""
    return int(2 ** max(0, math.floor(math.log2(max(deviation, 1e-6) / _SOFT_ENOUGH))))


def reduced(matte: Matte, by: int) -> Matte:
    """The means of squares of `by` px; its sides are multiples of that."""
    size = (matte.shape[1] // by, matte.shape[0] // by)
    return matte if by == 1 else cv2.resize(matte, size, interpolation=cv2.INTER_AREA)


def softened_from(small: Matte, by: int, deviation: float, part: Region) -> Matte:
    """A part of a matte after a normal blur of `deviation` px, from the means of squares of `by` px; the
    part counts in px from its corner."""
    if deviation < _HARD:
        return small[part.top : part.bottom, part.left : part.right]
    if by == 1:
        soft = _blurred(small, deviation)
        return soft[part.top : part.bottom, part.left : part.right]
    soft = _blurred(small, math.sqrt((deviation / by) ** 2 - 1 / 12))
    whole = Region(0, 0, small.shape[1], small.shape[0])
    around = Region(*(edge // by for edge in part.aligned(by))).grown(_CUBIC).meet(whole)
    soft = soft[around.top : around.bottom, around.left : around.right]
    wide = cv2.resize(soft, None, fx=by, fy=by, interpolation=cv2.INTER_CUBIC)
    top, left = part.top - around.top * by, part.left - around.left * by
    found: Matte = np.clip(wide[top : top + part.height, left : left + part.width], 0.0, 1.0)
    return found


_CUBIC = 2
"""px on each side from which a cubic takes a value."""


def _blurred(matte: Matte, deviation: float) -> Matte:
    size = 2 * math.ceil(_REACH * deviation) + 1
    blurred: Matte = cv2.GaussianBlur(
        matte, (size, size), deviation, borderType=cv2.BORDER_REPLICATE
    )
    return blurred


def reach_of_softness(deviation: float) -> int:
    """Whole px around from which a softened matte takes its values."""
    if deviation < _HARD:
        return 0
    return math.ceil(_REACH * deviation) + (_CUBIC + 1) * reduction_for(deviation)
