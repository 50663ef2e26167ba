"""A sheet of cloth: points on a grid, tied to one another, in air.

Ties are solved one after the other in many small steps (XPBD: Macklin, Müller and Chentanez, "XPBD:
position-based simulation of compliant constrained dynamics", MIG 2016; one pass in each of many steps:
Macklin and others, "Small steps in physics simulation", SCA 2019). Air pushes a piece along its normal as it
does a flat plate, and hardly along it. Places are in px, with the third axis towards the eye.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.curl import stirred
from handful.engine.kernels.compiled import compiled

Points = NDArray[np.float64]
"""`(R, C, 3)`: rows down the sheet, columns across it."""

TIES = (
    (0, 0, 0, 1),
    (0, 0, 0, 2),
    (0, 1, 0, 0),
    (0, 1, 0, 1),
    (0, 1, 1, 0),
    (0, 2, 0, 0),
)
"""Of each sort of tie the rows of its two points, and their columns: across and over the next, down, both aslant, and
down over the next."""

WHOLE = np.empty((0, 0, 0), np.float32)
"""Of a sheet whose ties all hold."""

_REACH, _MOST_NEAR = 1.8, 24
"""Points are looked for so many times as far as a sheet keeps from itself, so that who is near is known for some
steps; so many for each, at most, and of those in one cell no more are looked at, however a sheet has been crushed."""

_HALF = np.array(
    [(0, 0, 0)]
    + [
        (x, y, z)
        for x in (-1, 0, 1)
        for y in (-1, 0, 1)
        for z in (-1, 0, 1)
        if (x, y, z) > (0, 0, 0)
    ]
)
"""A cell, and that half of those about it from which each pair of cells is met once."""

_SKIN = 0.04
"""How much of what air does to a plate it does along it."""


class Sheet(NamedTuple):
    """What a sheet is like, in px and seconds: how far its points are apart across and down; how much
    each kind of tie gives, as px a px of pull on the mass of a point; how fast it loses motion; its pull
    downwards; how strongly air holds it, a px; the wind, its eddies as a part of it and how wide they are;
    a ball, which is none without a radius; the floor; how much what touches rubs; and how far the sheet keeps from
    itself, which is nothing where it may pass."""

    across: float
    down: float
    stretch: float
    shear: float
    bend: float
    loses: float
    gravity: float
    held: float
    wind_x: float
    wind_z: float
    eddies: float
    eddy: float
    ball_x: float
    ball_y: float
    ball_z: float
    ball: float
    floor: float
    rubs: float
    apart: float


@compiled
def _tie(
    places: NDArray[np.float64],
    free: NDArray[np.float64],
    i: np.uint64,
    j: np.uint64,
    length: float,
    gives: float,
    holds: float,
) -> None:
    """Bring two points to their distance; `gives` is the compliance over the squared step, and what does not hold is 0."""
    w0, w1 = free[i], free[j]
    dx = places[j, 0] - places[i, 0]
    dy = places[j, 1] - places[i, 1]
    dz = places[j, 2] - places[i, 2]
    far = math.sqrt(dx * dx + dy * dy + dz * dz) + 1e-12
    push = holds * (far - length) / (far * (w0 + w1 + gives + 1e-12))
    p0, p1 = w0 * push, w1 * push
    places[i, 0] += p0 * dx
    places[i, 1] += p0 * dy
    places[i, 2] += p0 * dz
    places[j, 0] -= p1 * dx
    places[j, 1] -= p1 * dy
    places[j, 2] -= p1 * dz


@compiled
def _tie_lines(
    places: NDArray[np.float64],
    free: NDArray[np.float64],
    i: int,
    j: int,
    apart: int,
    count: int,
    length: float,
    gives: float,
    left: NDArray[np.float32],
    sort: int,
    at: int,
) -> None:
    """Tie a line of points to another, from `i` and from `j` on; those of a line do not depend on one
    another, so that the processor works on many of them at a time. Of a sheet that is torn only those ties that are `left`,
    of their sort `(6, N)` from `at` on."""
    if left.shape[0] == 0:
        for n in range(np.uint64(count)):
            step = n * np.uint64(apart)
            _tie(places, free, np.uint64(i) + step, np.uint64(j) + step, length, gives, 1.0)
        return
    for n in range(np.uint64(count)):
        step = n * np.uint64(apart)
        holds = left[np.uint64(sort), np.uint64(at) + step]
        _tie(places, free, np.uint64(i) + step, np.uint64(j) + step, length, gives, holds)


@compiled
def _tied(
    places: Points,
    free: NDArray[np.float64],
    left: NDArray[np.float32],
    sheet: Sheet,
    h: float,
) -> None:
    """All ties once, line by line, always from the same corner on: to and fro would feed it motion."""
    rows, columns = places.shape[0], places.shape[1]
    flat, free = places.reshape(rows * columns, 3), free.reshape(rows * columns)
    ties = left.reshape(left.shape[0], left.shape[1] * left.shape[2])
    square = 1.0 / (h * h)
    stretch, shear, bend = sheet.stretch * square, sheet.shear * square, sheet.bend * square
    aslant = math.sqrt(sheet.across * sheet.across + sheet.down * sheet.down)
    for c in range(columns - 1):
        _tie_lines(flat, free, c, c + 1, columns, rows, sheet.across, stretch, ties, 0, c)
        if c + 2 < columns:
            _tie_lines(flat, free, c, c + 2, columns, rows, 2.0 * sheet.across, bend, ties, 1, c)
    for r in range(rows - 1):
        at = r * columns
        under, fewer = at + columns, columns - 1
        _tie_lines(flat, free, at, under, 1, columns, sheet.down, stretch, ties, 2, at)
        _tie_lines(flat, free, at, under + 1, 1, fewer, aslant, shear, ties, 3, at)
        _tie_lines(flat, free, at + 1, under, 1, fewer, aslant, shear, ties, 4, at)
        if under + columns < flat.shape[0]:
            below = under + columns
            _tie_lines(flat, free, at, below, 1, columns, 2.0 * sheet.down, bend, ties, 5, at)


@compiled
def facing(places: Points | NDArray[np.float32], r: int, c: int) -> tuple[float, float, float]:
    """The normal of a sheet at a point, towards the eye where its rows go down and its columns right."""
    rows, columns = places.shape[0], places.shape[1]
    r0, r1, c0, c1 = max(0, r - 1), min(rows - 1, r + 1), max(0, c - 1), min(columns - 1, c + 1)
    ax = places[r, c1, 0] - places[r, c0, 0]
    ay = places[r, c1, 1] - places[r, c0, 1]
    az = places[r, c1, 2] - places[r, c0, 2]
    bx = places[r1, c, 0] - places[r0, c, 0]
    by = places[r1, c, 1] - places[r0, c, 1]
    bz = places[r1, c, 2] - places[r0, c, 2]
    nx, ny, nz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    long = math.sqrt(nx * nx + ny * ny + nz * nz)
    if long < 1e-12:
        return 0.0, 0.0, 1.0
    return nx / long, ny / long, nz / long


@compiled
def _winds(places: Points, sheet: Sheet, seconds: float, k0: int, k1: int) -> Points:
    """The wind at each point at a moment: even, and eddies that go along with it."""
    winds = np.empty(places.shape)
    strong = math.sqrt(sheet.wind_x * sheet.wind_x + sheet.wind_z * sheet.wind_z)
    gone = seconds * strong / sheet.eddy
    turned = sheet.eddies * strong
    found, turns = np.empty((2, places.shape[1])), np.zeros((2, places.shape[1]))
    for r in range(places.shape[0]):
        if turned > 0.0:
            for c in range(places.shape[1]):
                found[0, c] = places[r, c, 0] / sheet.eddy - gone
                found[1, c] = places[r, c, 1] / sheet.eddy
            stirred(found[0], found[1], 0.35 * gone, k0, k1, turns[0], turns[1])
        for c in range(places.shape[1]):
            a, b = turns[0, c], turns[1, c]
            winds[r, c, 0] = sheet.wind_x + 0.5 * turned * b
            winds[r, c, 1] = 0.5 * turned * a
            winds[r, c, 2] = sheet.wind_z + turned * a
    return winds


@compiled
def _blown(
    places: Points, speeds: Points, free: NDArray[np.float64], winds: Points, sheet: Sheet, h: float
) -> None:
    """What weight and air do to the speeds in a step."""
    for r in range(places.shape[0]):
        for c in range(places.shape[1]):
            if free[r, c] == 0.0:
                continue
            speeds[r, c, 1] += h * sheet.gravity
            if sheet.held <= 0.0:
                continue
            vx = speeds[r, c, 0] - winds[r, c, 0]
            vy = speeds[r, c, 1] - winds[r, c, 1]
            vz = speeds[r, c, 2] - winds[r, c, 2]
            nx, ny, nz = facing(places, r, c)
            fast = math.sqrt(vx * vx + vy * vy + vz * vz)
            share = min(1.0, sheet.held * fast * h)
            through = vx * nx + vy * ny + vz * nz
            skin = _SKIN * share
            speeds[r, c, 0] -= share * through * nx + skin * (vx - through * nx)
            speeds[r, c, 1] -= share * through * ny + skin * (vy - through * ny)
            speeds[r, c, 2] -= share * through * nz + skin * (vz - through * nz)


@compiled
def _kept_out(places: Points, before: Points, free: NDArray[np.float64], sheet: Sheet) -> None:
    """Points out of the ball and above the floor, where they keep a part of their way along it."""
    for r in range(places.shape[0]):
        for c in range(places.shape[1]):
            if free[r, c] == 0.0:
                continue
            if places[r, c, 1] > sheet.floor:
                places[r, c, 1] = sheet.floor
                places[r, c, 0] -= sheet.rubs * (places[r, c, 0] - before[r, c, 0])
                places[r, c, 2] -= sheet.rubs * (places[r, c, 2] - before[r, c, 2])
            if sheet.ball <= 0.0:
                continue
            dx = places[r, c, 0] - sheet.ball_x
            dy = places[r, c, 1] - sheet.ball_y
            dz = places[r, c, 2] - sheet.ball_z
            far = math.sqrt(dx * dx + dy * dy + dz * dz)
            if far >= sheet.ball or far < 1e-9:
                continue
            out = sheet.ball / far
            x, y, z = sheet.ball_x + dx * out, sheet.ball_y + dy * out, sheet.ball_z + dz * out
            places[r, c, 0] = x - sheet.rubs * (x - before[r, c, 0])
            places[r, c, 1] = y - sheet.rubs * (y - before[r, c, 1])
            places[r, c, 2] = z - sheet.rubs * (z - before[r, c, 2])


@compiled
def _slot(x: int, y: int, z: int, mask: int) -> int:
    return ((x * 92837111) ^ (y * 689287499) ^ (z * 283923481)) & mask


@compiled
def _by_cell(
    flat: NDArray[np.float64],
    side: float,
    cells: NDArray[np.int32],
    starts: NDArray[np.int32],
    listed: NDArray[np.int32],
) -> None:
    """Points `(N, 3)` by the cells `(N, 3)` of a grid of cubes that they are in, of which several share one of
    `len(starts) - 1` slots, a power of 2, by a hash."""
    mask = len(starts) - 2
    starts[:] = 0
    for i in range(len(flat)):
        for axis in range(3):
            cells[i, axis] = int(np.floor(flat[i, axis] / side))
        starts[_slot(cells[i, 0], cells[i, 1], cells[i, 2], mask)] += 1
    for k in range(mask + 1):
        starts[k + 1] += starts[k]
    for i in range(len(flat)):
        slot = _slot(cells[i, 0], cells[i, 1], cells[i, 2], mask)
        starts[slot] -= 1
        listed[starts[slot]] = i


@compiled
def _near(places: Points, reach: float, pairs: NDArray[np.int32]) -> int:
    """Which points of a sheet are nearer than `reach` to one another, but for those that are side by side, as
    pairs `(M, 2)`; how many of them there are, or as many as there is room for."""
    rows, columns = places.shape[0], places.shape[1]
    flat = places.reshape(rows * columns, 3)
    slots = 1
    while slots < 2 * len(flat):
        slots *= 2
    cells, listed = np.empty((len(flat), 3), np.int32), np.empty(len(flat), np.int32)
    starts = np.empty(slots + 1, np.int32)
    _by_cell(flat, reach, cells, starts, listed)
    found = 0
    for i in range(len(flat)):
        for n in range(14):
            x, y, z = (
                cells[i, 0] + _HALF[n, 0],
                cells[i, 1] + _HALF[n, 1],
                cells[i, 2] + _HALF[n, 2],
            )
            slot = _slot(x, y, z, slots - 1)
            for k in range(starts[slot], min(starts[slot + 1], starts[slot] + _MOST_NEAR)):
                j = listed[k]
                if cells[j, 0] != x or cells[j, 1] != y or cells[j, 2] != z:
                    continue
                if found == len(pairs) or (n == 0 and j <= i):
                    continue
                dx, dy = flat[j, 0] - flat[i, 0], flat[j, 1] - flat[i, 1]
                dz = flat[j, 2] - flat[i, 2]
                if dx * dx + dy * dy + dz * dz > reach * reach:
                    continue
                if abs(j // columns - i // columns) > 1 or abs(j % columns - i % columns) > 1:
                    pairs[found, 0], pairs[found, 1] = i, j
                    found += 1
    return found


@compiled
def _farthest(places: Points, since: Points) -> float:
    """How far a point has gone at most, beside what all have."""
    count = places.shape[0] * places.shape[1]
    mx, my, mz = 0.0, 0.0, 0.0
    for r in range(places.shape[0]):
        for c in range(places.shape[1]):
            mx += places[r, c, 0] - since[r, c, 0]
            my += places[r, c, 1] - since[r, c, 1]
            mz += places[r, c, 2] - since[r, c, 2]
    mx, my, mz = mx / count, my / count, mz / count
    most = 0.0
    for r in range(places.shape[0]):
        for c in range(places.shape[1]):
            dx, dy = places[r, c, 0] - since[r, c, 0] - mx, places[r, c, 1] - since[r, c, 1] - my
            dz = places[r, c, 2] - since[r, c, 2] - mz
            most = max(most, dx * dx + dy * dy + dz * dz)
    return math.sqrt(most)


@compiled
def _keep_apart(
    places: Points,
    before: Points,
    free: NDArray[np.float64],
    sheet: Sheet,
    pairs: NDArray[np.int32],
) -> None:
    """Points that are nearer to one another than a sheet keeps from itself pushed apart; what touches goes along
    together a little."""
    count = places.shape[0] * places.shape[1]
    flat, was, held = places.reshape(count, 3), before.reshape(count, 3), free.reshape(count)
    for n in range(len(pairs)):
        i, j = pairs[n]
        dx, dy = flat[j, 0] - flat[i, 0], flat[j, 1] - flat[i, 1]
        dz = flat[j, 2] - flat[i, 2]
        square = dx * dx + dy * dy + dz * dz
        weight = held[i] + held[j]
        if square >= sheet.apart * sheet.apart or square < 1e-18 or weight == 0.0:
            continue
        far = math.sqrt(square)
        push = (sheet.apart - far) / (far * weight)
        for axis in range(3):
            way = flat[j, axis] - flat[i, axis]
            slid = flat[j, axis] - was[j, axis] - flat[i, axis] + was[i, axis]
            change = 0.5 * sheet.rubs * slid / weight - push * way
            flat[i, axis] += held[i] * change
            flat[j, axis] -= held[j] * change


@compiled
def hang(
    places: Points,
    speeds: Points,
    free: NDArray[np.float64],
    left: NDArray[np.float32],
    driven: Points,
    sheet: Sheet,
    seconds: float,
    lasts: float,
    steps: int,
    k0: int,
    k1: int,
) -> None:
    """Bring a sheet on by so many steps of `lasts` seconds, in place, from a moment on. What is not `free`
    `(R, C)`, which is 1 or 0, is `driven` at so many px a second. `left` `(6, R, C)`
    says which ties hold, 1 or 0; `WHOLE` is all of them."""
    before, winds = places.copy(), _winds(places, sheet, seconds, k0, k1)
    room = _MOST_NEAR * places.shape[0] * places.shape[1] if sheet.apart > 0.0 else 0
    pairs, known, found_at = np.empty((room, 2), np.int32), 0, places.copy()
    for step in range(steps):
        _blown(places, speeds, free, winds, sheet, lasts)
        before[:] = places
        for r in range(places.shape[0]):
            for c in range(places.shape[1]):
                for axis in range(3):
                    goes = speeds[r, c, axis] if free[r, c] > 0.0 else driven[r, c, axis]
                    places[r, c, axis] += lasts * goes
        _tied(places, free, left, sheet, lasts)
        if sheet.apart > 0.0:
            slack = (_REACH - 1.0) / 2.0 * sheet.apart
            if step == 0 or _farthest(places, found_at) > slack:
                known = _near(places, _REACH * sheet.apart, pairs)
                found_at[:] = places
            _keep_apart(places, before, free, sheet, pairs[:known])
        _kept_out(places, before, free, sheet)
        kept = math.exp(-sheet.loses * lasts) / lasts
        for r in range(places.shape[0]):
            for c in range(places.shape[1]):
                for axis in range(3):
                    speeds[r, c, axis] = kept * (places[r, c, axis] - before[r, c, axis])
