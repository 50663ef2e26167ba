"""Taking a picture's px from other places: what every warp, move and turn rests on.

Between px a picture goes along cubics whose slopes are those of Keys, "Cubic convolution
interpolation for digital image processing", IEEE Transactions on Acoustics, Speech and Signal
Processing 29(6), 1981 (a = -1/2), but never steeper than twice the way to either neighbour and
level at a sharp peak (van Leer, "Towards the ultimate conservative difference scheme IV", Journal
of Computational Physics 23, 1977; smooth peaks after Huynh, "Accurate monotone cubic
interpolation", SIAM Journal on Numerical Analysis 30, 1993). So bright light does not ring, and as
a slope belongs to a px and not to a place, the light of a thing is the same wherever between px it
comes to lie. Where the picture shrinks, it is taken from an area-averaged pyramid (Williams,
"Pyramidal parametrics", SIGGRAPH 1983).
"""

from __future__ import annotations

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along, compiled_in, in_bands
from handful.engine.picture import Picture, Region, Tile, clear_tile, unset

Edge = Literal["clear", "hold", "wrap", "mirror"]

_PADS: dict[Edge, int] = {
    "hold": cv2.BORDER_REPLICATE,
    "wrap": cv2.BORDER_WRAP,
    "mirror": cv2.BORDER_REFLECT,
}
Slopes = NDArray[np.float32]
"""`(2, H, 4 W)`: how steep each channel is at each px, across and down."""

_MARGIN = 8
"""px kept beyond the edge, so that every neighbour of a px within it is there."""

_LEVELS = 6

_EASE = 0.25
"""Octaves by which the picture may shrink before it is taken from a coarser level."""

_SHRINKS = 2**_EASE
"""Steps between neighbours, in px, from which on px of the picture would be left out."""


def resampled(
    tile: Tile,
    places: NDArray[np.float32],
    region: Region,
    edge: Edge,
    bounds: Region,
    may_shrink: bool = True,
) -> Tile:
    """The picture on `region` whose px come from `places` `(H, W, 2)`, x then y, in the tile's px.

    With the edge clear, nothing is beyond the tile. Else what lies beyond `bounds` is held,
    wrapped or mirrored from within. `may_shrink` is to be off for places that jump from px to px
    and never leave any out between.
    """
    if region.empty or tile.region.empty:
        return clear_tile(region)
    return sampled(tile, edge, bounds, may_shrink and shrinks_at(places)).taken(places, region)


def shrinks_at(places: NDArray[np.float32]) -> bool:
    """Whether places `(H, W, 2)` leave px of a picture out between neighbours."""
    return bool(_most_step(places) > _SHRINKS)


class Sampled(NamedTuple):
    """A picture made ready for its px to be taken between places, as often as is wanted."""

    table: NDArray[np.int64]
    packed: NDArray[np.float32]
    slopes: Slopes
    fold: int
    bounds: Region

    def taken(self, places: NDArray[np.float32], region: Region) -> Tile:
        """The picture on `region` whose px come from `places` `(H, W, 2)`."""
        result = unset(region)
        in_bands(
            _take_rows, region.height, places, self.table, self.packed, self.slopes, self.fold,
            *self.bounds, len(self.table) > 1, result,
        )  # fmt: skip
        return Tile(result, region)

    def taken_apart(
        self,
        red: NDArray[np.float32],
        green: NDArray[np.float32],
        blue: NDArray[np.float32],
        region: Region,
    ) -> Tile:
        """The same of a picture that does not shrink, each colour from places of its own; cover goes with green."""
        result = unset(region)
        in_bands(
            _take_apart_rows, region.height, red, green, blue, self.table, self.packed, self.slopes,
            self.fold, *self.bounds, result,
        )  # fmt: skip
        return Tile(result, region)


def sampled(tile: Tile, edge: Edge, bounds: Region, shrinks: bool) -> Sampled:
    """A picture with what is beyond its edge, its slopes, and its halves if it may shrink anywhere."""
    if edge == "clear":
        source = tile
    else:
        within = tile.within(bounds)
        around = bounds.grown(_MARGIN)
        padded = cv2.copyMakeBorder(
            np.ascontiguousarray(within), _MARGIN, _MARGIN, _MARGIN, _MARGIN, _PADS[edge]
        )
        source = Tile(padded, around)
    table, packed = _pyramid(source, _LEVELS if shrinks else 1)
    fold = ("clear", "hold", "wrap", "mirror").index(edge)
    return Sampled(table, packed, _slopes(source.pixels), fold, bounds)


def _slopes(picture: Picture) -> Slopes:
    """The slopes of a picture, beyond whose edge there is nothing."""
    height, width = picture.shape[:2]
    slopes = np.empty((2, height, 4 * width), np.float32)
    in_bands(_slope_rows, height, np.ascontiguousarray(picture).reshape(height, -1), slopes)
    return slopes


@compiled_along
def _most_step(places: NDArray[np.float32]) -> np.float32:
    """The longest way between the places of two neighbours, judged on every fourth row and column."""
    most = np.float32(0.0)
    height, width = places.shape[:2]
    for y in range(0, height, 4):
        row = places[y]
        for x in range(width - 1):
            most = max(most, abs(row[x + 1, 0] - row[x, 0]), abs(row[x + 1, 1] - row[x, 1]))
    for y in range(height - 1):
        row, below = places[y], places[y + 1]
        for x in range(0, width, 4):
            most = max(most, abs(below[x, 0] - row[x, 0]), abs(below[x, 1] - row[x, 1]))
    return most


def halved(tile: Tile) -> Tile:
    """The mean of every four px; the region of the result counts in those larger px.

    The grid is that of the canvas, so that it does not depend on how much was computed.
    """
    even = tile.region.aligned(2)
    region = Region(even.left // 2, even.top // 2, even.right // 2, even.bottom // 2)
    pixels = np.ascontiguousarray(tile.within(even))
    size = (region.width, region.height)
    return Tile(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), region)


def doubled(tile: Tile, region: Region) -> Tile:
    """A halved picture at its size again, by a cubic, on a region; light stays at least nothing."""
    even = tile.region
    whole = Region(2 * even.left, 2 * even.top, 2 * even.right, 2 * even.bottom)
    pixels = cv2.resize(tile.pixels, (whole.width, whole.height), interpolation=cv2.INTER_CUBIC)
    np.maximum(pixels, 0, out=pixels)
    return Tile(Tile(pixels, whole).within(region), region)


def _pyramid(tile: Tile, levels: int) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """The picture and its halves, one after the other; a row of the table says where each lies."""
    table, parts, start = [], [], 0
    for level in range(levels):
        tile = halved(tile) if level else tile
        region = tile.region
        table.append([start, region.left, region.top, region.width, region.height])
        parts.append(np.ascontiguousarray(tile.pixels).reshape(-1, 4))
        start += region.width * region.height
        if region.width < 4 or region.height < 4:
            break
    packed = parts[0] if len(parts) == 1 else np.concatenate(parts)
    return np.array(table, np.int64), packed


@compiled
def folded(place: float, low: float, high: float, fold: int) -> float:
    """A coordinate brought within the bounds: 1 held at the outermost px, 2 wrapped, 3 mirrored."""
    span = high - low
    if fold == 1:
        return min(high - 0.5, max(low + 0.5, place))
    turns = int(np.floor((place - low) / span))
    part = place - low - turns * span
    if fold == 3 and (turns & 1) == 1:
        part = span - part
    return low + part


@compiled
def _take_rows(
    first: int,
    last: int,
    places: NDArray[np.float32],
    table: NDArray[np.int64],
    packed: NDArray[np.float32],
    slopes: Slopes,
    fold: int,
    left: int,
    top: int,
    right: int,
    bottom: int,
    shrinks: bool,
    result: Picture,
) -> None:
    """A view of an array counts its references, so none is made for a px."""
    width = places.shape[1]
    deepest = table.shape[0] - 1
    least = np.float32(4.0**_EASE)
    flat, out = packed.reshape(-1), result.reshape(-1)
    steep, steep_down = slopes[0].reshape(-1), slopes[1].reshape(-1)
    across, down = places[:, :, 0], places[:, :, 1]
    source_left, source_top = table[0, 1] + 0.5, table[0, 2] + 0.5
    source_width, source_height = table[0, 3], table[0, 4]
    inner_right, inner_bottom = float(source_width - 1), float(source_height - 1)
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    for y in range(first, last):
        for x in range(width):
            u, v = float(across[y, x]), float(down[y, x])
            i = np.uint64(4 * (y * width + x))
            a, b, c, d = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            if abs(u) < 1.0e7 and abs(v) < 1.0e7:
                depth = 0.0
                if shrinks:
                    longest = _longest_step(across, down, y, x)
                    if longest > least:
                        depth = min(float(deepest), 0.5 * _octaves(longest) - _EASE)
                if fold > 0:
                    u, v = folded(u, left, right, fold), folded(v, top, bottom, fold)
                if depth > 0.0:
                    a, b, c, d = _taken_between(u, v, depth, table, flat)
                else:
                    u, v = u - source_left, v - source_top
                    if 0.0 <= u < inner_right and 0.0 <= v < inner_bottom:
                        column, row = int(u), int(v)
                        corner = row * source_width + column
                        s, t = np.float32(u - column), np.float32(v - row)
                        a, b, c, d = _taken_inside(
                            flat, steep, steep_down, corner, source_width, s, t
                        )
                    elif -1.0 < u < source_width and -1.0 < v < source_height:
                        a, b, c, d = _taken_at_edge(
                            flat, steep, steep_down, source_width, source_height, u, v
                        )
            out[i], out[i + one], out[i + two], out[i + three] = a, b, c, d


@compiled
def _take_apart_rows(
    first: int,
    last: int,
    red: NDArray[np.float32],
    green: NDArray[np.float32],
    blue: NDArray[np.float32],
    table: NDArray[np.int64],
    packed: NDArray[np.float32],
    slopes: Slopes,
    fold: int,
    left: int,
    top: int,
    right: int,
    bottom: int,
    result: Picture,
) -> None:
    """Each channel of a picture that does not shrink, from places of its own."""
    flat = packed.reshape(-1)
    steep, steep_down = slopes[0].reshape(-1), slopes[1].reshape(-1)
    source_left, source_top = table[0, 1] + 0.5, table[0, 2] + 0.5
    width, height = table[0, 3], table[0, 4]
    inner_right, inner_bottom = float(width - 1), float(height - 1)
    below = np.uint64(4 * width)
    for y in range(first, last):
        for x in range(red.shape[1]):
            for channel in range(4):
                u, v = float(green[y, x, 0]), float(green[y, x, 1])
                if channel == 0:
                    u, v = float(red[y, x, 0]), float(red[y, x, 1])
                elif channel == 2:
                    u, v = float(blue[y, x, 0]), float(blue[y, x, 1])
                found = np.float32(0.0)
                if abs(u) < 1.0e7 and abs(v) < 1.0e7:
                    if fold > 0:
                        u, v = folded(u, left, right, fold), folded(v, top, bottom, fold)
                    u, v = u - source_left, v - source_top
                    if 0.0 <= u < inner_right and 0.0 <= v < inner_bottom:
                        column, row = int(u), int(v)
                        corner = np.uint64(4 * (row * width + column) + channel)
                        s, t = np.float32(u - column), np.float32(v - row)
                        found = _channel(flat, steep, steep_down, corner, below, s, t)
                    elif -1.0 < u < width and -1.0 < v < height:
                        found = _taken_at_edge(flat, steep, steep_down, width, height, u, v)[
                            channel
                        ]
                result[y, x, channel] = found


@compiled
def _octaves(longest: np.float32) -> float:
    """The logarithm of a number above nothing to base 2, within 0.0001: a float's own bits tell the whole ones, and
    a polynomial the rest (fitted by least squares)."""
    bits = np.float32(longest).view(np.uint32)
    whole = np.int32(bits >> np.uint32(23)) - np.int32(127)
    t = float(np.float32(bits & np.uint32(0x7FFFFF)) * np.float32(2.0**-23))
    return whole + t * (1.44174 + t * (-0.70777 + t * (0.41234 + t * (-0.19032 + t * 0.04401))))


@compiled_in
def _longest_step(
    across: NDArray[np.float32], down: NDArray[np.float32], y: int, x: int
) -> np.float32:
    """The square of the longer of the ways to the places of the neighbours beside and below."""
    beside = x + 1 if x + 1 < across.shape[1] else max(0, x - 1)
    below = y + 1 if y + 1 < across.shape[0] else max(0, y - 1)
    u, v = across[y, x], down[y, x]
    ax, ay = across[y, beside] - u, down[y, beside] - v
    bx, by = across[below, x] - u, down[below, x] - v
    return max(ax * ax + ay * ay, bx * bx + by * by)


@compiled_along
def _slope(
    first: np.float32, back: np.float32, here: np.float32, forth: np.float32, last: np.float32
) -> np.float32:
    """At a px, from the five in a row of which it is in the middle.

    What is held is the mean of the ways from px to px. Where all five bend the same way it may be
    off what holds it by as much as they bend, so that smooth peaks stay round.
    """
    zero, half = np.float32(0.0), np.float32(0.5)
    come, go = here - back, forth - here
    mean = half * (come + go)
    twice, after = come + come, go + go
    held = max(zero, min(mean, min(twice, after))) + min(zero, max(mean, max(twice, after)))
    before, bend, behind = back - first, go - come, last - forth
    left, right = come - before, behind - go
    same = max(zero, min(bend, min(left, right))) - min(zero, max(bend, max(left, right)))
    return min(held + same, max(held - same, mean))


@compiled_along
def _slope_rows(first: int, last: int, rows: NDArray[np.float32], slopes: Slopes) -> None:
    height, width = rows.shape
    nothing = np.zeros(width, np.float32)
    wide = np.zeros(width + 16, np.float32)
    for y in range(first, last):
        row, across, down = rows[y], slopes[0, y], slopes[1, y]
        over = rows[y - 2] if y > 1 else nothing
        above = rows[y - 1] if y > 0 else nothing
        below = rows[y + 1] if y + 1 < height else nothing
        under = rows[y + 2] if y + 2 < height else nothing
        for i in range(width):
            down[i] = _slope(over[i], above[i], row[i], below[i], under[i])
        wide[8 : 8 + width] = row
        for i in range(width):
            across[i] = _slope(wide[i], wide[i + 4], wide[i + 8], wide[i + 12], wide[i + 16])


@compiled
def _taken_inside(
    flat: NDArray[np.float32],
    steep: NDArray[np.float32],
    steep_down: NDArray[np.float32],
    corner: int,
    width: int,
    s: np.float32,
    t: np.float32,
) -> tuple[np.float32, np.float32, np.float32, np.float32]:
    """A place between four px that are all there; `corner` is the first of them."""
    a, down = np.uint64(4 * corner), np.uint64(4 * width)
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    return (
        _channel(flat, steep, steep_down, a, down, s, t),
        _channel(flat, steep, steep_down, a + one, down, s, t),
        _channel(flat, steep, steep_down, a + two, down, s, t),
        _channel(flat, steep, steep_down, a + three, down, s, t),
    )


@compiled
def _channel(
    flat: NDArray[np.float32],
    steep: NDArray[np.float32],
    steep_down: NDArray[np.float32],
    a: np.uint64,
    down: np.uint64,
    s: np.float32,
    t: np.float32,
) -> np.float32:
    """Straight between four px, and off that by the bends of the rows and the columns through them,
    mixed from side to side; it stays within the four."""
    one, four = np.float32(1.0), np.uint64(4)
    b, i, j = a + down, a + four, a + down + four
    p, q, r, o = flat[a], flat[i], flat[b], flat[j]
    north, south, west, east = q - p, o - r, r - p, o - q
    top, low = p + north * s, r + south * s
    u, v = one - s, one - t
    north = u * (steep[a] - north) + s * (north - steep[i])
    south = u * (steep[b] - south) + s * (south - steep[j])
    west = v * (steep_down[a] - west) + t * (west - steep_down[b])
    east = v * (steep_down[i] - east) + t * (east - steep_down[j])
    value = v * (top + north * (s * u)) + t * (low + south * (s * u))
    value += (west * u + east * s) * (t * v)
    return min(max(max(p, q), max(r, o)), max(min(min(p, q), min(r, o)), value))


@compiled
def _taken_at_edge(
    flat: NDArray[np.float32],
    steep: NDArray[np.float32],
    steep_down: NDArray[np.float32],
    width: int,
    height: int,
    u: float,
    v: float,
) -> tuple[np.float32, np.float32, np.float32, np.float32]:
    """The same for a place with neighbours beyond the edge, where there is nothing."""
    column, row = int(np.floor(u)), int(np.floor(v))
    s, t = np.float32(u - column), np.float32(v - row)
    near = np.zeros((3, 16), np.float32)
    for j in range(2):
        for i in range(2):
            x, y = column + i, row + j
            if 0 <= x < width and 0 <= y < height:
                for c in range(4):
                    to, place = 4 * (2 * j + i) + c, 4 * (y * width + x) + c
                    near[0, to], near[1, to] = flat[place], steep[place]
                    near[2, to] = steep_down[place]
    return _taken_inside(near[0], near[1], near[2], 0, 2, s, t)


@compiled_in
def _taken_between(
    u: float, v: float, depth: float, table: NDArray[np.int64], flat: NDArray[np.float32]
) -> tuple[np.float32, np.float32, np.float32, np.float32]:
    """A place of a picture that shrinks: between the two levels that are nearest to its size."""
    level = int(depth)
    by = 1.0 / (1 << level)
    a, b, c, d = taken_straight(u * by, v * by, level, table, flat)
    part = np.float32(depth - level)
    if part > np.float32(0.02) and level < table.shape[0] - 1:
        by *= 0.5
        e, f, g, h = taken_straight(u * by, v * by, level + 1, table, flat)
        a, b = a + (e - a) * part, b + (f - b) * part
        c, d = c + (g - c) * part, d + (h - d) * part
    return a, b, c, d


@compiled_in
def _straight(
    flat: NDArray[np.float32], u: float, v: float, start: np.uint64, below: np.uint64
) -> tuple[np.float32, np.float32, np.float32, np.float32]:
    """A place straight between four px that are all there."""
    one, four = np.uint64(1), np.uint64(4)
    column, row = np.int32(u), np.int32(v)
    s, t = np.float32(u - column), np.float32(v - row)
    w11 = s * t
    w01, w10 = s - w11, t - w11
    w00 = np.float32(1.0) - w01 - w10 - w11
    i = start + np.uint64(row) * below + np.uint64(column) * four
    j = i + below
    a = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
    i, j = i + one, j + one
    b = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
    i, j = i + one, j + one
    c = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
    i, j = i + one, j + one
    d = w00 * flat[i] + w01 * flat[i + four] + w10 * flat[j] + w11 * flat[j + four]
    return a, b, c, d


@compiled_in
def taken_straight(
    x: float, y: float, level: int, table: NDArray[np.int64], flat: NDArray[np.float32]
) -> tuple[np.float32, np.float32, np.float32, np.float32]:
    """A place of a level straight between its four px, and nothing beyond its edge.

    A row of `table` says where a level begins in `flat`, its left, top, width and height.
    """
    start, width, height = table[level, 0], table[level, 3], table[level, 4]
    u, v = x - 0.5 - table[level, 1], y - 0.5 - table[level, 2]
    if 0.0 <= u < width - 1 and 0.0 <= v < height - 1:
        return _straight(flat, u, v, np.uint64(4 * start), np.uint64(4 * width))
    if not (-1.0 < u < width and -1.0 < v < height):
        return np.float32(0), np.float32(0), np.float32(0), np.float32(0)
    column, row = int(np.floor(u)), int(np.floor(v))
    s, t = np.float32(u - column), np.float32(v - row)
    w11 = s * t
    w01, w10 = s - w11, t - w11
    w00 = np.float32(1.0) - w01 - w10 - w11
    zero = np.float32(0.0)
    if column < 0 or row < 0 or column + 1 >= width or row + 1 >= height:
        w00 = w00 if column >= 0 and row >= 0 else zero
        w01 = w01 if column + 1 < width and row >= 0 else zero
        w10 = w10 if column >= 0 and row + 1 < height else zero
        w11 = w11 if column + 1 < width and row + 1 < height else zero
    west, east = max(0, column), min(width - 1, column + 1)
    north, south = start + max(0, row) * width, start + min(height - 1, row + 1) * width
    i, j = np.uint64(4 * (north + west)), np.uint64(4 * (north + east))
    k, m = np.uint64(4 * (south + west)), np.uint64(4 * (south + east))
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    return (
        w00 * flat[i] + w01 * flat[j] + w10 * flat[k] + w11 * flat[m],
        w00 * flat[i + one] + w01 * flat[j + one] + w10 * flat[k + one] + w11 * flat[m + one],
        w00 * flat[i + two] + w01 * flat[j + two] + w10 * flat[k + two] + w11 * flat[m + two],
        w00 * flat[i + three]
        + w01 * flat[j + three]
        + w10 * flat[k + three]
        + w11 * flat[m + three],
    )
