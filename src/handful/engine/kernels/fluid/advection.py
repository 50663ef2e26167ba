"""What a flow carries along, itself and levels in the middles of cells, on all threads: MacCormack's scheme without
diffusion, held within what it comes from (Selle, Fedkiw, Kim, Liu and Rossignac, "An unconditionally stable MacCormack
method", 2008).

A row is gone through in stages, each for many cells side by side: whence they come, in which square between four
neighbours that is, and what is there. Lengths are in cells.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import (
    compiled,
    compiled_along,
    compiled_in,
    even_share,
    in_bands,
)
from handful.engine.kernels.fluid.grid import LEVELS, Carried, Field, Sheets

Line = NDArray[np.float32]
"""A number for each of a row `(W,)`."""

Places = NDArray[np.float32]
"""Where what is in a row comes from, across and down `(2, W)`, counted from the first of its field."""


_ALL = -1
"""The mask of a field all of whose rows are there."""


class Room(NamedTuple):
    """Room for a row: a flow or a place, and in which squares that is, with which parts of them across and down."""

    across: Line
    down: Line
    x: Line
    y: Line
    part_x: Line
    part_y: Line
    squares: NDArray[np.int32]


@compiled_along
def room_for(width: int) -> Room:
    """Room for a row so wide."""
    rows = np.empty((6, width), np.float32)
    return Room(rows[0], rows[1], rows[2], rows[3], rows[4], rows[5], np.empty(width, np.int32))


@compiled_along
def square(
    xs: Line,
    ys: Line,
    right: Number,
    down: Number,
    field_shape: tuple[int, int],
    mask: int,
    room: Room,
) -> None:
    """In which squares of a field of rows and columns places are that are counted from so far right and down of its
    first, held at its edges. Of the bits of a row's number those of a mask count: where rows lie in a ring, all are in it."""
    zero, stride, bits = np.float32(0.0), np.int32(field_shape[1]), np.int32(mask)
    most_x, most_y = np.float32(field_shape[1] - 1.001), np.float32(field_shape[0] - 1.001)
    for i in range(np.uint64(xs.shape[0])):
        x, y = min(max(xs[i] - right, zero), most_x), min(max(ys[i] - down, zero), most_y)
        a, b = np.int32(x), np.int32(y)
        room.part_x[i], room.part_y[i] = x - np.float32(a), y - np.float32(b)
        room.squares[i] = (b & bits) * stride + a


@compiled_along
def _look(field: Field, room: Room, out: Line) -> None:
    """The levels of a field in squares."""
    flat, below, next = field.reshape(-1), np.uint64(field.shape[1]), np.uint64(1)
    for i in range(np.uint64(out.shape[0])):
        k, part = np.uint64(np.uint32(room.squares[i])), room.part_x[i]
        left, right = flat[k], flat[k + next]
        top = left + (right - left) * part
        left, right = flat[k + below], flat[k + below + next]
        out[i] = top + (left + (right - left) * part - top) * room.part_y[i]


@compiled_along
def before(
    across: Field,
    down: Field,
    j: int,
    dx: Number,
    dy: Number,
    seconds: Number,
    room: Room,
    places: Places,
) -> None:
    """Where what is in a row that begins so far right and down of the grid, with the flow that `room` says, was so many
    seconds before, by the midpoint rule."""
    half = np.float32(0.5)
    midway, y = half * seconds, np.float32(j) + dy
    for i in range(np.uint64(places.shape[1])):
        room.x[i] = np.float32(np.int32(i)) + dx - midway * room.across[i]
        room.y[i] = y - midway * room.down[i]
    width = places.shape[1]
    zero = np.float32(0.0)
    square(room.x[:width], room.y[:width], zero, half, across.shape, _ALL, room)
    _look(across, room, room.across[:width])
    square(room.x[:width], room.y[:width], half, zero, down.shape, _ALL, room)
    _look(down, room, room.down[:width])
    for i in range(np.uint64(width)):
        places[0, i] = np.float32(np.int32(i)) - seconds * room.across[i]
        places[1, i] = np.float32(j) - seconds * room.down[i]


def flow_carried(across: Sheets, down: Sheets, seconds: float) -> tuple[Sheets, Sheets]:
    """Flow in sheets `(S, H, W + 1)` and `(S, H + 1, W)`, in cells a second, carried along by itself."""
    found = []
    for field, is_down in ((across, False), (down, True)):
        from_where = np.empty((*field.shape[:2], 2, field.shape[2]), np.float32)
        once, out = np.empty_like(field), np.empty_like(field)
        flow = (is_down, across, down, np.float32(seconds), from_where, once)
        rows = field.shape[0] * field.shape[1]
        in_bands(_flow_forth, rows, field, *flow, band=even_share(rows))
        in_bands(_flow_back, rows, field, *flow, out, band=even_share(rows))
        found.append(out)
    return found[0], found[1]


@compiled_along
def _flow_forth(
    first: int,
    last: int,
    fields: Sheets,
    is_down: bool,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Sheets,
) -> None:
    """Rows of all sheets, counted through."""
    room, zero, half = room_for(fields.shape[2]), np.float32(0.0), np.float32(0.5)
    right, below = (half, zero) if is_down else (zero, half)
    for row in range(first, last):
        s, j = row // fields.shape[1], row % fields.shape[1]
        field, places = fields[s], from_where[s, j]
        _flow_of_sides(is_down, across[s], down[s], j, places.shape[1], room)
        before(across[s], down[s], j, right, below, seconds, room, places)
        square(places[0], places[1], zero, zero, field.shape, _ALL, room)
        _look(field, room, once[s, j])


@compiled_along
def _flow_of_sides(
    is_down: bool, across: Field, down: Field, j: int, width: int, room: Room
) -> None:
    """The flow where a row of a flow itself stands."""
    half, quarter = np.float32(0.5), np.float32(0.25)
    if is_down:
        a, b = max(j - 1, 0), min(j, across.shape[0] - 1)
        for i in range(width):
            room.across[i] = quarter * (
                across[a, i] + across[a, i + 1] + across[b, i] + across[b, i + 1]
            )
            room.down[i] = down[j, i]
    else:
        above, below, last = down[j], down[j + 1], width - 1
        for i in range(1, last):
            room.down[i] = quarter * (above[i - 1] + below[i - 1] + above[i] + below[i])
        room.down[0] = half * (above[0] + below[0])
        room.down[last] = half * (above[last - 1] + below[last - 1])
        for i in range(width):
            room.across[i] = across[j, i]


@compiled_along
def _flow_back(
    first: int,
    last: int,
    fields: Sheets,
    is_down: bool,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Sheets,
    out: Sheets,
) -> None:
    rows, columns = fields.shape[1], fields.shape[2]
    room, zero, half, next = room_for(columns), np.float32(0.0), np.float32(0.5), np.uint64(1)
    right, under = (half, zero) if is_down else (zero, half)
    places, back = np.empty((2, columns), np.float32), np.empty(columns, np.float32)
    below = np.uint64(columns)
    for row in range(first, last):
        s, j = row // rows, row % rows
        flat, line, thrown, into = fields[s].reshape(-1), fields[s, j], once[s, j], out[s, j]
        _flow_of_sides(is_down, across[s], down[s], j, columns, room)
        before(across[s], down[s], j, right, under, -seconds, room, places)
        square(places[0], places[1], zero, zero, (rows, columns), _ALL, room)
        _look(once[s], room, back)
        square(from_where[s, j, 0], from_where[s, j, 1], zero, zero, (rows, columns), _ALL, room)
        for i in range(np.uint64(columns)):
            k = np.uint64(np.uint32(room.squares[i]))
            p, q, r, t = flat[k], flat[k + next], flat[k + below], flat[k + below + next]
            least, most = min(min(p, q), min(r, t)), max(max(p, q), max(r, t))
            into[i] = min(max(thrown[i] + half * (line[i] - back[i]), least), most)


def carried(levels: Carried, across: Sheets, down: Sheets, seconds: float) -> Carried:
    """The levels in the cells' middles of sheets carried along by a flow; what comes in from beyond the grid is nothing."""
    once, from_where = thrown(levels, across, down, seconds)
    out = np.empty_like(levels)
    rows = levels.shape[0] * levels.shape[1]
    in_bands(
        _carry_back, rows, levels, across, down, np.float32(seconds), from_where, once, out,
        band=even_share(rows),
    )  # fmt: skip
    return out


def thrown(
    levels: Carried, across: Sheets, down: Sheets, seconds: float
) -> tuple[Carried, NDArray[np.float32]]:
    """The levels carried along once, without the scheme's way back; and from where `(S, H, 2, W)`."""
    from_where = np.empty((*levels.shape[:2], 2, levels.shape[2]), np.float32)
    once = np.empty_like(levels)
    rows = levels.shape[0] * levels.shape[1]
    in_bands(
        _carry_forth, rows, levels, across, down, np.float32(seconds), from_where, once, band=even_share(rows)
    )  # fmt: skip
    return once, from_where


@compiled_along
def flow_of_cells(across: Field, down: Field, j: int, room: Room) -> None:
    """The flow in the middles of a row of cells."""
    half = np.float32(0.5)
    for i in range(down.shape[1]):
        room.across[i] = half * (across[j, i] + across[j, i + 1])
        room.down[i] = half * (down[j, i] + down[j + 1, i])


@compiled_along
def _carry_forth(
    first: int,
    last: int,
    levels: Carried,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Carried,
) -> None:
    """Rows of all sheets, counted through."""
    rows, columns = levels.shape[1], levels.shape[2]
    room, zero, half = room_for(columns), np.float32(0.0), np.float32(0.5)
    for row in range(first, last):
        s, j = row // rows, row % rows
        places = from_where[s, j]
        flow_of_cells(across[s], down[s], j, room)
        before(across[s], down[s], j, half, half, seconds, room, places)
        square(places[0], places[1], zero, zero, (rows, columns), _ALL, room)
        gather(levels[s], room, once[s, j])


@compiled_along
def _carry_back(
    first: int,
    last: int,
    levels: Carried,
    across: Sheets,
    down: Sheets,
    seconds: Number,
    from_where: NDArray[np.float32],
    once: Carried,
    out: Carried,
) -> None:
    rows, columns = levels.shape[1], levels.shape[2]
    room, zero, half = room_for(columns), np.float32(0.0), np.float32(0.5)
    places, back = np.empty((2, columns), np.float32), np.empty((columns, LEVELS), np.float32)
    for row in range(first, last):
        s, j = row // rows, row % rows
        whence = from_where[s, j]
        flow_of_cells(across[s], down[s], j, room)
        before(across[s], down[s], j, half, half, -seconds, room, places)
        square(places[0], places[1], zero, zero, (rows, columns), _ALL, room)
        gather(once[s], room, back)
        square(whence[0], whence[1], zero, zero, (rows, columns), _ALL, room)
        hold(levels[s], levels[s, j], rows, whence, room.squares, once[s, j], back, out[s, j])


@compiled
def hold(
    levels: NDArray[np.float32],
    line: NDArray[np.float32],
    rows: int,
    whence: Places,
    squares: NDArray[np.int32],
    came: NDArray[np.float32],
    back: NDArray[np.float32],
    out: NDArray[np.float32],
) -> None:
    """What has come to a row of a grid of so many, by half of what is lost on the way there and back more, within what it
    comes from."""
    columns = levels.shape[1]
    half, zero = np.float32(0.5), np.float32(0.0)
    stride, cell = np.uint64(columns * LEVELS), np.uint64(LEVELS)
    flat, there, once, again = (
        levels.reshape(-1),
        line.reshape(-1),
        came.reshape(-1),
        back.reshape(-1),
    )
    into = out.reshape(-1)
    c1, c2, c3, c4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    c5, c6, c7 = np.uint64(5), np.uint64(6), np.uint64(7)
    for i in range(columns):
        x, y, n = whence[0, i], whence[1, i], np.uint64(LEVELS * i)
        if not (-half <= x <= columns - half and -half <= y <= rows - half):
            for c in range(LEVELS):
                out[i, c] = zero
            continue
        k = np.uint64(np.uint32(squares[i])) * cell
        m = k + stride
        p0 = _within(flat, k, m, once[n] + half * (there[n] - again[n]))
        p1 = _within(flat, k + c1, m + c1, once[n + c1] + half * (there[n + c1] - again[n + c1]))
        p2 = _within(flat, k + c2, m + c2, once[n + c2] + half * (there[n + c2] - again[n + c2]))
        p3 = _within(flat, k + c3, m + c3, once[n + c3] + half * (there[n + c3] - again[n + c3]))
        p4 = _within(flat, k + c4, m + c4, once[n + c4] + half * (there[n + c4] - again[n + c4]))
        p5 = _within(flat, k + c5, m + c5, once[n + c5] + half * (there[n + c5] - again[n + c5]))
        p6 = _within(flat, k + c6, m + c6, once[n + c6] + half * (there[n + c6] - again[n + c6]))
        p7 = _within(flat, k + c7, m + c7, once[n + c7] + half * (there[n + c7] - again[n + c7]))
        into[n], into[n + c1], into[n + c2], into[n + c3] = p0, p1, p2, p3
        into[n + c4], into[n + c5], into[n + c6], into[n + c7] = p4, p5, p6, p7


@compiled_in
def _within(flat: NDArray[np.float32], k: np.uint64, m: np.uint64, level: Number) -> Number:
    """A level held within those of four cells, two in a row and two below them."""
    cell = np.uint64(LEVELS)
    p, q, r, t = flat[k], flat[k + cell], flat[m], flat[m + cell]
    least, most = min(min(p, q), min(r, t)), max(max(p, q), max(r, t))
    return min(max(level, least), most)


@compiled
def gather(levels: NDArray[np.float32], room: Room, out: NDArray[np.float32]) -> None:
    """All levels in squares between four cells."""
    flat, into = levels.reshape(-1), out.reshape(-1)
    stride, cell = np.uint64(levels.shape[1] * LEVELS), np.uint64(LEVELS)
    one = np.float32(1.0)
    c1, c2, c3, c4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    c5, c6, c7 = np.uint64(5), np.uint64(6), np.uint64(7)
    for i in range(out.shape[0]):
        fx, fy = room.part_x[i], room.part_y[i]
        w11 = fx * fy
        w01, w10 = fx - w11, fy - w11
        w = one - fx - w10, w01, w10, w11
        k, n = np.uint64(np.uint32(room.squares[i])) * cell, np.uint64(LEVELS * i)
        m = k + stride
        p0, p1 = _of_four(flat, k, m, w), _of_four(flat, k + c1, m + c1, w)
        p2, p3 = _of_four(flat, k + c2, m + c2, w), _of_four(flat, k + c3, m + c3, w)
        p4, p5 = _of_four(flat, k + c4, m + c4, w), _of_four(flat, k + c5, m + c5, w)
        p6, p7 = _of_four(flat, k + c6, m + c6, w), _of_four(flat, k + c7, m + c7, w)
        into[n], into[n + c1], into[n + c2], into[n + c3] = p0, p1, p2, p3
        into[n + c4], into[n + c5], into[n + c6], into[n + c7] = p4, p5, p6, p7


@compiled_in
def _of_four(
    flat: NDArray[np.float32],
    k: np.uint64,
    m: np.uint64,
    w: tuple[Number, Number, Number, Number],
) -> Number:
    """A level of four cells, two in a row and two below them, by their weights."""
    cell = np.uint64(LEVELS)
    return w[0] * flat[k] + w[1] * flat[k + cell] + w[2] * flat[m] + w[3] * flat[m + cell]
