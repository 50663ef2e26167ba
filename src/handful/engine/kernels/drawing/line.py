"""Lines of light: a smooth profile splatted along tapered segments.

The profile across a line is (1 - (d / R)^2)^3, a compact bump close to a normal curve. Where a
line is thinner than the px grid can hold, R is widened and the height lowered by the same
factor, so that the light carried by each px of length stays the analytic one.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.lengths import way_length
from handful.engine.picture import Matte, Picture

RADIUS_FOR_WIDTH = 0.5 / math.sqrt(1.0 - 0.5 ** (1.0 / 3.0))
"""Radius R of the bump whose full width at half its height is 1."""

LEAST_RADIUS = 2.1
"""px; a line sampled at px centres holds its energy within one percent from here on."""


@compiled
def _splat_rows(
    first: int, last: int, segments: NDArray[np.float32], width: int, flat: NDArray[np.float32]
) -> None:
    zero, half, one = np.float32(0.0), np.float32(0.5), np.float32(1.0)
    for i in range(segments.shape[0]):
        ax, ay, ar, al = segments[i, 0], segments[i, 1], segments[i, 2], segments[i, 3]
        bx, by, br, bl = segments[i, 4], segments[i, 5], segments[i, 6], segments[i, 7]
        reach = max(ar, br)
        top = max(first, int(np.floor(min(ay, by) - reach)))
        bottom = min(last, int(np.ceil(max(ay, by) + reach)) + 1)
        if top >= bottom:
            continue
        left = max(0, int(np.floor(min(ax, bx) - reach)))
        right = min(width, int(np.ceil(max(ax, bx) + reach)) + 1)
        dx, dy = bx - ax, by - ay
        squared = dx * dx + dy * dy
        inverse = one / squared if squared > 0 else zero
        near, brighter = one / (ar * ar), bl - al
        narrower = one / (br * br) - near
        for y in range(top, bottom):
            py = np.float32(y) + half - ay
            row = np.uint64(y) * np.uint64(width)
            for x in range(left, right):
                px = np.float32(x) + half - ax
                t = min(one, max(zero, (px * dx + py * dy) * inverse))
                ox, oy = px - t * dx, py - t * dy
                fall = max(zero, one - (ox * ox + oy * oy) * (near + t * narrower))
                light = (al + t * brighter) * fall * fall * fall
                place = row + np.uint64(x)
                flat[place] = max(flat[place], light)


def splat_lines(segments: NDArray[np.float32], plane: Matte) -> None:
    """Draw segments `(N, 8)` into a plane `(H, W)`, keeping the brighter where they overlap.

    A row is x, y, radius, light at one end, then at the other, in px of the plane with centres
    at .5. Along a piece 1 / radius^2 goes evenly from one end to the other. Because the brighter wins, joints and forks show neither beads nor gaps.
    """
    in_bands(_splat_rows, plane.shape[0], segments, plane.shape[1], plane.reshape(-1))


@compiled
def merged_lines(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    """Segments `(N, 8)` with runs of pieces too short to be told apart at their radius made one.

    Pieces of one channel follow each other, each beginning where the last ends. A bend within
    half the radius does not show in the bump, and each px would be drawn many times.
    """
    merged = np.empty_like(segments)
    used = 0
    for i in range(segments.shape[0]):
        row = segments[i]
        if used > 0:
            last = merged[used - 1]
            follows = last[4] == row[0] and last[5] == row[1]
            length = way_length(row[4] - last[0], row[5] - last[1])
            if follows and length < 0.5 * min(last[2], row[6]):
                last[4:] = row[4:]
                continue
        merged[used] = row
        used += 1
    return merged[:used]


def held_by_grid(
    radius: NDArray[np.float64], light: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Radius and light widened and lowered so that thin lines keep their energy on the px grid."""
    widened = np.sqrt(radius**2 + LEAST_RADIUS**2 * np.exp(-((radius / LEAST_RADIUS) ** 2)))
    return widened, light * radius / widened


_HALF_HOT = 0.1
"""Share of its full light at which a core is about halfway from its dim colour to its own; from
half its light on it has its own colour."""


@compiled
def _light_rows(
    first: int,
    last: int,
    core: Matte,
    wide: Matte,
    edge: Matte,
    finer: int,
    hot: NDArray[np.float32],
    dim: NDArray[np.float32],
    around: NDArray[np.float32],
    picture: Picture,
) -> None:
    half = np.float32(_HALF_HOT)
    hottest = np.float32((0.5 + _HALF_HOT) / 0.5)
    zero, one = np.float32(0.0), np.float32(1.0)
    share = one / np.float32(finer * finer)
    has_wide, has_edge = wide.shape[0] > 0, edge.shape[0] > 0
    hot_red, hot_green, hot_blue = hot[0] - dim[0], hot[1] - dim[1], hot[2] - dim[2]
    for y in range(first, last):
        for x in range(picture.shape[1]):
            outer = edge[y, x] if has_edge else zero
            light, heated, cover = zero, zero, zero
            for down in range(finer):
                for right in range(finer):
                    inner = core[np.uint64(finer * y + down), np.uint64(finer * x + right)]
                    if has_wide:
                        inner = max(inner, wide[y, x])
                    if inner == zero:
                        continue
                    light += inner
                    heated += inner * min(one, inner / (inner + half) * hottest)
                    cover += min(one, inner)
            light, heated, cover = light * share, heated * share, cover * share
            picture[y, x, 0] = light * dim[0] + heated * hot_red + outer * around[0]
            picture[y, x, 1] = light * dim[1] + heated * hot_green + outer * around[1]
            picture[y, x, 2] = light * dim[2] + heated * hot_blue + outer * around[2]
            picture[y, x, 3] = cover


def light_lines(
    core: Matte,
    wide: Matte | None,
    edge: Matte | None,
    finer: int,
    hot: NDArray[np.float32],
    dim: NDArray[np.float32],
    around: NDArray[np.float32],
    picture: Picture,
) -> None:
    """Fill a picture `(H, W, 4)` from planes of light; cover is the core's.

    `core` is `finer` times finer and averaged here, as its colour does not go with its light;
    `wide` is what of the core was drawn in the picture's own px, if anything. Lights are RGB
    `(3,)`: the core is `hot` at full light and turns to `dim` as it fades, as what glows does; the
    edge is `around`.
    """
    wide, edge = (
        np.zeros((0, 0), np.float32) if plane is None else plane for plane in (wide, edge)
    )
    in_bands(_light_rows, picture.shape[0], core, wide, edge, finer, hot, dim, around, picture)


def averaged(lines: NDArray[np.float64], finer: int) -> NDArray[np.float64]:
    """Wide segments as they are after averaging `finer` x `finer` px: in larger px, and as wide and
    dim as the average makes them. A bump of radius R has the variance R^2 / 9, an average over n
    px that of (1 - 1/n^2) / 12 of the larger px."""
    larger = lines.copy()
    larger[:, [0, 1, 2, 4, 5, 6]] /= finer
    for radius, light in ((2, 3), (6, 7)):
        wider = np.sqrt(larger[:, radius] ** 2 + 0.75 * (1 - 1 / finer**2))
        larger[:, light] *= larger[:, radius] / wider
        larger[:, radius] = wider
    return larger
