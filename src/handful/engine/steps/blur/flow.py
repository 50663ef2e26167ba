"""Flow: a blur along the directions of another layer."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.pixels.resample import taken_straight
from handful.engine.kinds import At, LayerId, Step, register, setting
from handful.engine.picture import Picture, Tile, unset


@register
class Flow(Step):
    """A blur along the directions of another layer: its offsets, or red to the right and green down.

    Cabral and Leedom, "Imaging vector fields using line integral convolution", SIGGRAPH 1993.
    Where that layer's values have length 1, or its offsets are 100 px long, the smear is as long as is
    set; signed values are meant.
    """

    family = "blur"
    says = "Smears over {length} along the layer {by}."

    by: LayerId = setting(
        "",
        takes=("light", "offsets"),
        help="The layer whose offsets, or red and green, are directions.",
    )
    length: float = setting(
        60, unit="px", least=0, most=1000, usual=(0, 300), help="Length where directions are 1."
    )

    def reach(self) -> float:
        return self.length / 2 + 4

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        length = self.length * at.scale
        if not others or length < 0.1:
            return tile
        wanted = tile.region.grown(math.ceil(length / 2) + 2).meet(at.wanted)
        coarse = max(1, round(_COARSE * at.scale))
        region = tile.region.around(wanted).aligned(coarse)
        passes = 2 if length <= _SHORT else 3
        taps = _odd(min(length, _MOST_SAMPLES) ** (1 / passes))
        whole = _WHOLE_OFFSET if others[0].kind == "offsets" else 1.0
        ahead = _reduced(others[0].within(region)[..., :2], coarse) * np.float32(
            length / taps**passes / whole
        )
        back = -ahead
        for turn in range(passes):
            if turn:
                ahead, back = _repeated(ahead, taps, coarse), _repeated(back, taps, coarse)
            result = unset(region)
            in_bands(
                _walk_rows, region.height, np.ascontiguousarray(tile.within(region)), ahead, back,
                np.float32(1 / coarse), taps // 2, result,
            )  # fmt: skip
            tile = Tile(result, region)
        return Tile(tile.within(wanted), wanted)


Ways = NDArray[np.float32]
"""How far it is to the next sample along the directions, in px, on a coarse grid `(h, w, 2)`."""

_WHOLE_OFFSET = 100.0
"""px of an offset along which the smear is as long as is set."""

_COARSE = 4
"""px of the full-size canvas between two directions that are kept."""

_SHORT = 25.0
_MOST_SAMPLES = 343.0


def _odd(count: float) -> int:
    """The next odd number, and at least 3, so that as many samples lie ahead as behind."""
    return max(3, 2 * math.ceil((count - 1) / 2) + 1)


def _reduced(field: Ways, by: int) -> Ways:
    """The mean direction of each coarse px."""
    height, width = field.shape[:2]
    padded = np.pad(field, ((0, -height % by), (0, -width % by), (0, 0)), "edge")
    size = (padded.shape[1] // by, padded.shape[0] // by)
    reduced: Ways = cv2.resize(padded, size, interpolation=cv2.INTER_AREA)
    return reduced


def _repeated(way: Ways, times: int, coarse: int) -> Ways:
    """The way gone `times` times over, by doubling: on by m and then by n is on by m + n."""
    total, doubled = None, way
    while times:
        if times % 2:
            total = doubled if total is None else _joined(total, doubled, coarse)
        times //= 2
        if times:
            doubled = _joined(doubled, doubled, coarse)
    assert total is not None
    return total


def _joined(first: Ways, second: Ways, coarse: int) -> Ways:
    """First one way and from there the other."""
    both = np.empty_like(first)
    in_bands(_join_rows, first.shape[0], first, second, np.float32(1 / coarse), both)
    return both


@compiled
def _join_rows(
    first: int, last: int, one: Ways, other: Ways, share: np.float32, both: Ways
) -> None:
    for y in range(first, last):
        for x in range(one.shape[1]):
            dx, dy = one[y, x, 0], one[y, x, 1]
            ex, ey = _way_at(other, np.float32(x) + dx * share, np.float32(y) + dy * share)
            both[y, x, 0] = dx + ex
            both[y, x, 1] = dy + ey


@compiled
def _way_at(way: Ways, u: np.float32, v: np.float32) -> tuple[np.float32, np.float32]:
    """The way at a place of the coarse grid, straight between its px and held beyond its edges."""
    zero = np.float32(0.0)
    u = min(max(u, zero), np.float32(way.shape[1] - 1))
    v = min(max(v, zero), np.float32(way.shape[0] - 1))
    column, row = np.int32(u), np.int32(v)
    beside, below = min(column + 1, way.shape[1] - 1), min(row + 1, way.shape[0] - 1)
    s, t = u - np.float32(column), v - np.float32(row)
    w11 = s * t
    w01, w10 = s - w11, t - w11
    w00 = np.float32(1.0) - w01 - w10 - w11
    return (
        w00 * way[row, column, 0]
        + w01 * way[row, beside, 0]
        + w10 * way[below, column, 0]
        + w11 * way[below, beside, 0],
        w00 * way[row, column, 1]
        + w01 * way[row, beside, 1]
        + w10 * way[below, column, 1]
        + w11 * way[below, beside, 1],
    )


@compiled
def _walk_rows(
    first: int,
    last: int,
    source: Picture,
    ahead: Ways,
    back: Ways,
    share: np.float32,
    count: int,
    result: Picture,
) -> None:
    """The mean of a px and of `count` samples ahead of it and as many behind."""
    half = np.float32(0.5)
    flat = source.reshape(-1)
    table = np.array([[0, 0, 0, source.shape[1], source.shape[0]]])
    mean = np.float32(1.0 / (2 * count + 1))
    for y in range(first, last):
        for x in range(source.shape[1]):
            a, b, c, d = source[y, x, 0], source[y, x, 1], source[y, x, 2], source[y, x, 3]
            for side in range(2):
                way = ahead if side == 0 else back
                u, v = np.float32(x), np.float32(y)
                for _ in range(count):
                    dx, dy = _way_at(way, (u + half) * share - half, (v + half) * share - half)
                    u, v = u + dx, v + dy
                    e, f, g, h = taken_straight(float(u) + 0.5, float(v) + 0.5, 0, table, flat)
                    a, b, c, d = a + e, b + f, c + g, d + h
            result[y, x, 0], result[y, x, 1] = a * mean, b * mean
            result[y, x, 2], result[y, x, 3] = c * mean, d * mean
