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
    if not over:
        order = np.argsort((low[:, 0] // _STRIP).astype(np.int16), kind="stable")
        sprites, low, high = sprites[order], low[order], high[order]
    picture = blank(shared)
    starts, listed = by_band(low[:, 1] - shared.top, high[:, 1] - shared.top, shared.height)
    in_bands(
        rows, shared.height, shared.left, shared.top, sprites, starts, listed, *made_of,
        over, picture, band=BAND,
    )  # fmt: skip
    return Tile(picture, shared)


def draw_album(album: Album, sprites: Sprites, region: Region, over: bool) -> Tile:
    """Pictures drawn as sprites: light times that of the sprite, cover times its cover; added up, or each
    over those before it."""
    return _drawn(_album_rows, sprites, region, over, album.texels, album.starts, album.sides)


LEAST_HALF = 1.5
"""px: a sprite that is less than twice as wide or high is drawn so large and fainter."""


_STRIP = 64
"""px: what is added up is drawn strip by strip, so that what it falls on stays near the processor. Strips belong to the
canvas, so that sums are the same on any part of it."""

_CORNER = 1.4143
"""How far the corners of a square are from its middle, in halves of its side."""


class _Frame(NamedTuple):
    """How a sprite lies on its picture: its middle, the ellipse it is within (`a` x² + 2 `b` x y + `c` y² <
    `least`) and one over its `a`, how far that reaches aside and down, how far a px across and down is in px of its shape,
    and the middle of the shape."""

    x: np.float32
    y: np.float32
    a: np.float32
    b: np.float32
    c: np.float32
    least: np.float32
    over_a: np.float32
    aside: np.float32
    below: np.float32
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
    a = (cosine / wide) * (cosine / wide) + (sine / tall) * (sine / tall)
    c = (sine / wide) * (sine / wide) + (cosine / tall) * (cosine / tall)
    return _Frame(
        sprite[0],
        sprite[1],
        a,
        cosine * sine * (one / (wide * wide) - one / (tall * tall)),
        c,
        within * within,
        one / a,
        np.float32(within * wide * tall * math.sqrt(c)),
        np.float32(within * wide * tall * math.sqrt(a)),
        (cosine * pace_x, -sine * pace_y),
        (sine * pace_x, cosine * pace_y),
        half * (long + one),
    )


Line = NDArray[np.float32]


class _Room(NamedTuple):
    """Room for the px of a sprite on a few rows, one row after the other: with which parts of squares of its shape, across
    and down, they are in which; the numbers of that square; and how much of the shape shows in each. Of each row from which
    px up to which it goes, and where the first of them is on the shape; and that px counted through the picture, how many it
    has, and how many are before it."""

    part_x: Line
    part_y: Line
    squares: NDArray[np.int32]
    numbers: Line
    shows: Line
    firsts: NDArray[np.int32]
    lasts: NDArray[np.int32]
    p: Line
    q: Line
    rows: NDArray[np.int64]


_PIECE = 2048
"""So many px of a sprite at once stay near the processor."""

_EIGHT = 7
"""Px are placed by eights: what is beyond the end of a row the next one writes over."""


@compiled_along
def _room(width: int) -> _Room:
    size = max(_PIECE, width) + _EIGHT
    return _Room(
        np.empty(size, np.float32),
        np.empty(size, np.float32),
        np.empty(size, np.int32),
        np.empty(4 * size, np.float32),
        np.empty(size, np.float32),
        np.empty(BAND, np.int32),
        np.empty(BAND, np.int32),
        np.empty(BAND, np.float32),
        np.empty(BAND, np.float32),
        np.empty((BAND, 3), np.int64),
    )


@compiled_along
def _rows_of(frame: _Frame, first: int, last: int, top: int, width: int) -> tuple[int, int, int]:
    """From which of some rows of a picture, whose first is at `top`, up to which a sprite is, and how many of them are
    one piece of it."""
    upper = max(first, int(np.floor(frame.y - frame.below)) - top)
    lower = min(last, int(np.ceil(frame.y + frame.below)) - top)
    return upper, lower, max(1, min(BAND, _PIECE // min(width, int(2 * frame.aside) + 4)))


@compiled_along
def _end(top: int, count: int, left: int, width: int, frame: _Frame, room: _Room) -> None:
    """From which px of some rows up to which a sprite is, and where the first of them is on its shape."""
    half, zero = np.float32(0.5), np.float32(0.0)
    begins, right = np.float32(left), np.float32(width)
    for n in range(np.uint64(count)):
        dy = np.float32(np.int32(top) + np.int32(n)) + half - frame.y
        slant = dy * frame.b
        chord = slant * slant - frame.a * (dy * dy * frame.c - frame.least)
        reach = np.float32(math.sqrt(max(zero, chord)))
        near = np.ceil(frame.x - (slant + reach) * frame.over_a - half) - begins
        far = np.floor(frame.x + (reach - slant) * frame.over_a + half) - begins
        first = min(max(zero, near), right)
        last = min(max(first, far), right) if chord > zero else first
        dx = first + begins + half - frame.x
        room.firsts[n], room.lasts[n] = np.int32(first), np.int32(last)
        room.p[n] = frame.middle + dx * frame.across[0] + dy * frame.down[0]
        room.q[n] = frame.middle + dx * frame.across[1] + dy * frame.down[1]


@compiled_along
def _place(
    first_p: np.float32,
    first_q: np.float32,
    pace_p: np.float32,
    pace_q: np.float32,
    side: int,
    stride: int,
    before: int,
    count: int,
    part_x: Line,
    part_y: Line,
    squares: NDArray[np.int32],
) -> None:
    """In which squares of a shape, of rows of a stride, the px of a row are."""
    zero, most, row = np.float32(0.0), np.float32(side) + np.float32(0.999), np.int32(stride)
    begins = np.uint64(before)
    for n in range(np.uint64((count + _EIGHT) & ~_EIGHT)):
        at = np.float32(np.int32(n))
        p = min(max(zero, first_p + at * pace_p), most)
        q = min(max(zero, first_q + at * pace_q), most)
        i, j = np.int32(p), np.int32(q)
        part_x[begins + n], part_y[begins + n] = p - np.float32(i), q - np.float32(j)
        squares[begins + n] = j * row + i


@compiled_along
def _spread(
    top: int,
    bottom: int,
    canvas_left: int,
    canvas_top: int,
    width: int,
    frame: _Frame,
    side: int,
    stride: int,
    room: _Room,
) -> int:
    """Place the px of a sprite on some rows of a picture of a width, and say how many they are."""
    _end(top + canvas_top, bottom - top, canvas_left, width, frame, room)
    # Taken out of the room once: who holds an array would be counted each time.
    firsts, lasts, p, q, rows = room.firsts, room.lasts, room.p, room.q, room.rows
    part_x, part_y, squares = room.part_x, room.part_y, room.squares
    count = 0
    for row in range(bottom - top):
        first, long = firsts[row], lasts[row] - firsts[row]
        _place(
            p[row], q[row], frame.across[0], frame.across[1], side, stride, count, long, part_x, part_y, squares
        )  # fmt: skip
        rows[row, 0], rows[row, 1], rows[row, 2] = (top + row) * width + first, long, count
        count += long
    return count


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
    room, flat, canvas = _room(width), texels.reshape(-1), picture.reshape(-1)
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for k in listed[starts[band] : starts[band + 1]]:
            sprite = sprites[k]
            level = _level(sprite, sides)
            side, kind = sides[level], int(sprite[6])
            frame = _framed(sprite, side, reaches[level, kind])
            begins = sheet_starts[level] + kind * (side + 1) * (side + 1)
            strong = np.float32(1.4) * sprite[11]
            lx = np.float32(lit_x * sprite[4] + lit_y * sprite[5]) * strong
            ly = np.float32(lit_y * sprite[4] - lit_x * sprite[5]) * strong
            plain = one - np.float32(0.35) * sprite[11]
            upper, lower, each = _rows_of(frame, first, last, top, width)
            for y in range(upper, lower, each):
                below = min(lower, y + each)
                count = _spread(y, below, left, top, width, frame, side, side + 1, room)
                _fetch(flat, begins, count, room)
                _show(_faint(sprite), count, room)
                if sprite[10] > zero:
                    for row in range(below - y):
                        _hide(room, row, sprite[10], over, canvas)
                if strong > zero:
                    _shade(flat, begins, plain, lx, ly, count, room)
                for row in range(below - y):
                    _add(room, row, sprite[7], sprite[8], sprite[9], canvas)


@compiled
def _fetch(flat: Line, begins: int, count: int, room: _Room) -> None:
    """The numbers of the squares that px are in."""
    long, one, two, three, four = (
        np.uint64(8),
        np.uint64(1),
        np.uint64(2),
        np.uint64(3),
        np.uint64(4),
    )
    numbers = room.numbers
    for n in range(np.uint64(count)):
        k = (np.uint64(begins) + np.uint64(np.uint32(room.squares[n]))) * long
        m = n * four
        a, b, c, d = flat[k], flat[k + one], flat[k + two], flat[k + three]
        numbers[m], numbers[m + one], numbers[m + two], numbers[m + three] = a, b, c, d


@compiled_along
def _show(faint: np.float32, count: int, room: _Room) -> None:
    """How much of a shape shows in px: straight between the px of the shape."""
    one, two, three, four = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    for n in range(np.uint64(count)):
        m, part = n * four, room.part_x[n]
        above = room.numbers[m] + part * room.numbers[m + one]
        below = room.numbers[m + two] + part * room.numbers[m + three]
        room.shows[n] = faint * (above + room.part_y[n] * below)


@compiled_along
def _shade(
    flat: Line,
    begins: int,
    plain: np.float32,
    lx: np.float32,
    ly: np.float32,
    count: int,
    room: _Room,
) -> None:
    """How bright a shape is in px, as it faces the light there."""
    long, four, five = np.uint64(8), np.uint64(4), np.uint64(5)
    for n in range(np.uint64(count)):
        k = (np.uint64(begins) + np.uint64(np.uint32(room.squares[n]))) * long
        room.shows[n] *= max(np.float32(0.0), plain + flat[k + four] * lx + flat[k + five] * ly)


@compiled_along
def _hide(room: _Room, row: int, cover: np.float32, over: bool, canvas: Line) -> None:
    """Cover what is behind a row of a sprite, and take its light where it lies over that."""
    one, begins, before = (
        np.float32(1.0),
        np.uint64(room.rows[row, 0]),
        np.uint64(room.rows[row, 2]),
    )
    for n in range(np.uint64(room.rows[row, 1])):
        m = (begins + n) * np.uint64(4)
        kept = one - min(one, cover * room.shows[before + n])
        canvas[m + np.uint64(3)] = one - (one - canvas[m + np.uint64(3)]) * kept
        if over:
            canvas[m] *= kept
            canvas[m + np.uint64(1)] *= kept
            canvas[m + np.uint64(2)] *= kept


@compiled
def _add(
    room: _Room, row: int, red: np.float32, green: np.float32, blue: np.float32, canvas: Line
) -> None:
    """Add the light of a row of a sprite; no cover is added, so that the four channels of a px go side by side."""
    one, two, three, none = np.uint64(1), np.uint64(2), np.uint64(3), np.float32(0.0)
    begins, before = np.uint64(room.rows[row, 0]), np.uint64(room.rows[row, 2])
    for n in range(np.uint64(room.rows[row, 1])):
        m, share = (begins + n) * np.uint64(4), room.shows[before + n]
        p, q, r, s = canvas[m], canvas[m + one], canvas[m + two], canvas[m + three]
        p, q, r, s = p + red * share, q + green * share, r + blue * share, s + none * share
        canvas[m], canvas[m + one], canvas[m + two], canvas[m + three] = p, q, r, s


@compiled_along
def _album_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    sprites: Sprites,
    starts: NDArray[np.int64],
    listed: NDArray[np.int64],
    texels: NDArray[np.float32],
    album_starts: NDArray[np.int64],
    sides: NDArray[np.int64],
    over: bool,
    picture: Picture,
) -> None:
    width = picture.shape[1]
    room, flat, canvas = _room(width), texels.reshape(-1), picture.reshape(-1)
    for band in range(first // BAND, (last + BAND - 1) // BAND):
        for k in listed[starts[band] : starts[band + 1]]:
            sprite = sprites[k]
            level = _level(sprite, sides)
            side = sides[level]
            # Up to the corners of the px of nothing round it.
            frame = _framed(sprite, side, np.float32(_CORNER + _CORNER / side))
            begins = album_starts[level] + int(sprite[6]) * (side + 2) * (side + 2)
            faint = _faint(sprite)
            red, green, blue = faint * sprite[7], faint * sprite[8], faint * sprite[9]
            upper, lower, each = _rows_of(frame, first, last, top, width)
            for y in range(upper, lower, each):
                below = min(lower, y + each)
                count = _spread(y, below, left, top, width, frame, side, side + 2, room)
                _weigh(count, room)
                _mix(flat, begins, side + 2, count, room)
                for row in range(below - y):
                    _hide(room, row, faint * sprite[10], over, canvas)
                    _tint(room, row, red, green, blue, canvas)


@compiled_along
def _weigh(count: int, room: _Room) -> None:
    """From the parts of squares how much of their second, third and last px there is in a px."""
    for n in range(np.uint64(count)):
        last = room.part_x[n] * room.part_y[n]
        room.part_x[n], room.part_y[n] = room.part_x[n] - last, room.part_y[n] - last
        room.shows[n] = last


@compiled
def _mix(flat: Line, begins: int, stride: int, count: int, room: _Room) -> None:
    """What is in px of a picture whose rows are of a stride: its light as numbers, and its cover as what shows."""
    one, two, three, four = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    numbers, down = room.numbers, four * np.uint64(stride)
    for n in range(np.uint64(count)):
        w1, w2, w3 = room.part_x[n], room.part_y[n], room.shows[n]
        w0 = np.float32(1.0) - w1 - w2 - w3
        a = four * (np.uint64(begins) + np.uint64(np.uint32(room.squares[n])))
        b, c = a + four, a + down
        d, m = c + four, four * n
        p = w0 * flat[a] + w1 * flat[b] + w2 * flat[c] + w3 * flat[d]
        q = w0 * flat[a + one] + w1 * flat[b + one] + w2 * flat[c + one] + w3 * flat[d + one]
        r = w0 * flat[a + two] + w1 * flat[b + two] + w2 * flat[c + two] + w3 * flat[d + two]
        s = (
            w0 * flat[a + three]
            + w1 * flat[b + three]
            + w2 * flat[c + three]
            + w3 * flat[d + three]
        )
        numbers[m], numbers[m + one], numbers[m + two], numbers[m + three] = p, q, r, s
    for n in range(np.uint64(count)):
        room.shows[n] = numbers[four * n + three]


@compiled
def _tint(
    room: _Room, row: int, red: np.float32, green: np.float32, blue: np.float32, canvas: Line
) -> None:
    """Add the light of a row of a picture, and no cover."""
    one, two, three, none = np.uint64(1), np.uint64(2), np.uint64(3), np.float32(0.0)
    begins, before, light = (
        np.uint64(4 * room.rows[row, 0]),
        np.uint64(4 * room.rows[row, 2]),
        room.numbers,
    )
    for n in range(np.uint64(room.rows[row, 1])):
        m, k = begins + n * np.uint64(4), before + n * np.uint64(4)
        p, q, r, s = canvas[m], canvas[m + one], canvas[m + two], canvas[m + three]
        p, q = p + red * light[k], q + green * light[k + one]
        r, s = r + blue * light[k + two], s + none * light[k + three]
        canvas[m], canvas[m + one], canvas[m + two], canvas[m + three] = p, q, r, s
