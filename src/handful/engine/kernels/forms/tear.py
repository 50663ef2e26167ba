"""A tear in a sheet: which of its ties are cut along a line, and how each side goes on without the other.

A sheet stays one grid. Where it is seen there is one for each side of the tear, in which the points of the other side
go on as their own side leads (as virtual nodes do: Molino, Bao and Fedkiw, "A virtual node algorithm for changing mesh
topology during simulation", SIGGRAPH 2004).
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.forms.sheet import TIES, Points

Field = NDArray[np.float32]

_GOES_ON, _LOOKS = 5.0, 2
"""Points across the tear up to which a side goes on, and points away to which it is looked at for that."""

_OPENS = 2.5
"""Points within which a side comes to lead, from where the tear ends on."""


class Tear(NamedTuple):
    """Of each point of a sheet `(R, C)`, laid flat: how far it is beside a line, to the right of its way above nothing, and
    how far the tear has gone on from it on both ways, below nothing where it has not come; in px."""

    beside: Field
    gone: Field


def tear_along(
    line: NDArray[np.float64], torn: float, across: float, down: float, rows: int, columns: int
) -> Tear:
    """A tear so far along a line `(N, 2)` from a sheet's upper left corner on, whose points are so far apart across and
    down. An open line goes on straight at its ends; one that closes is torn out once it is torn along."""
    long = float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())
    is_closed = bool((line[0] == line[-1]).all())
    beside, along = _laid(line.tobytes(), is_closed, across, down, rows, columns)
    far = np.array([across * (columns - 1), down * (rows - 1)])
    behind, ahead = along, np.float32(torn) - along
    # Where it comes from beyond the edge, or goes on beyond it, it opens the edge.
    if _is_outside(line[0], far) or (is_closed and torn >= long):
        behind = along + _FAR
    if torn >= long and (is_closed or _is_outside(line[-1], far)):
        ahead = ahead + _FAR
    return Tear(beside, np.minimum(behind, ahead))


_FAR = np.float32(1e6)

_MOST_PIECES = 400
"""Straight pieces of a line; of one that has more, so many of one length."""


@lru_cache(maxsize=16)
def _laid(
    line: bytes, is_closed: bool, across: float, down: float, rows: int, columns: int
) -> tuple[Field, Field]:
    """How far each point is beside a line and how far along it."""
    places = np.frombuffer(line).reshape(-1, 2)
    if len(places) > _MOST_PIECES + 1:
        steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
        along = np.concatenate([[0.0], np.cumsum(steps)])
        evenly = np.linspace(0, along[-1], _MOST_PIECES + 1)
        places = np.stack([np.interp(evenly, along, axis) for axis in places.T], axis=1)
    beside, along = np.zeros((rows, columns), np.float32), np.zeros((rows, columns), np.float32)
    _lay(np.array(places), is_closed, across, down, beside, along)
    return beside, along


def _is_outside(place: NDArray[np.float64], far: NDArray[np.float64]) -> bool:
    return bool((place < 0).any() or (place > far).any())


@compiled
def _lay(
    line: NDArray[np.float64],
    is_closed: bool,
    across: float,
    down: float,
    beside: Field,
    along: Field,
) -> None:
    last = line.shape[0] - 2
    for r in range(beside.shape[0]):
        for c in range(beside.shape[1]):
            nearest, most, passed = math.inf, 0.0, 0.0
            for n in range(last + 1):
                dx, dy = line[n + 1, 0] - line[n, 0], line[n + 1, 1] - line[n, 1]
                long = math.sqrt(dx * dx + dy * dy)
                if long <= 0.0:
                    continue
                x, y = c * across - line[n, 0], r * down - line[n, 1]
                t = (x * dx + y * dy) / long
                held = max(t, 0.0) if n > 0 or is_closed else t
                held = min(held, long) if n < last or is_closed else held
                side = (dx * y - dy * x) / long
                far = (t - held) * (t - held) + side * side
                # At a corner two pieces are as near: the one that it lies more beside tells its side.
                if far < nearest - 1e-9 or (far < nearest + 1e-9 and abs(side) > abs(most)):
                    nearest, most = min(far, nearest), side
                    beside[r, c] = math.copysign(math.sqrt(far), side)
                    along[r, c] = passed + held
                passed += long


def ties_left(tear: Tear) -> Field:
    """Which ties of a sheet hold where it is torn, 1 or 0, each sort of tie at its first point `(6, R, C)`."""
    left = np.ones((len(TIES), *tear.beside.shape), np.float32)
    _cut(*tear, np.array(TIES), left)
    return left


@compiled
def _cut(beside: Field, gone: Field, ties: NDArray[np.int64], left: Field) -> None:
    rows, columns = beside.shape
    for k in range(ties.shape[0]):
        for r in range(rows):
            for c in range(columns):
                i, j, m, n = r + ties[k, 0], c + ties[k, 2], r + ties[k, 1], c + ties[k, 3]
                if max(i, m) >= rows or max(j, n) >= columns:
                    continue
                a, b = beside[i, j], beside[m, n]
                if (a > 0.0) == (b > 0.0):
                    continue
                if gone[i, j] + a / (a - b) * (gone[m, n] - gone[i, j]) >= 0.0:
                    left[k, r, c] = 0.0


def each_side(places: Points, tear: Tear, apart: float) -> tuple[Points, Points]:
    """A sheet `(R, C, 3)` as the right side of a tear has it, and as the left side has it: each goes on beyond the tear as
    it is about it. Its points are so far `apart`."""
    right, left = places.copy(), places.copy()
    _go_on(places, tear.beside, tear.gone, apart, right)
    _go_on(places, -tear.beside, tear.gone, apart, left)
    return right, left


@compiled
def _go_on(places: Points, beside: Field, gone: Field, apart: float, own: Points) -> None:
    """Each point near the tear's other side by the plane through what is about it on this side, the nearer the more
    (moving least squares: Lancaster and Salkauskas 1981)."""
    rows, columns = beside.shape
    sums, found = np.empty((3, 6)), np.empty(3)
    for r in range(rows):
        for c in range(columns):
            beyond, inside = -beside[r, c] / apart, gone[r, c] / apart
            if beyond < 0.0 or beyond > _GOES_ON or inside <= 0.0:
                continue
            looks = _LOOKS + int(np.ceil(beyond))
            sums[:] = 0.0
            for i in range(max(0, r - looks), min(rows, r + looks + 1)):
                for j in range(max(0, c - looks), min(columns, c + looks + 1)):
                    if beside[i, j] <= 0.0:
                        continue
                    y, x = float(i - r), float(j - c)
                    weight = 1.0 / (x * x + y * y) ** 2
                    row = (1.0, x, y)
                    for p in range(3):
                        for q in range(3):
                            sums[p, q] += weight * row[p] * row[q]
                            sums[p, 3 + q] += weight * row[p] * places[i, j, q]
            if sums[0, 0] <= 0.0:
                continue
            # What leans hardly held is held as flat.
            sums[1, 1] += 1e-3 * sums[0, 0]
            sums[2, 2] += 1e-3 * sums[0, 0]
            _solve(sums, found)
            share = min(1.0, inside / _OPENS)
            for axis in range(3):
                own[r, c, axis] += share * (found[axis] - own[r, c, axis])


@compiled
def _solve(sums: NDArray[np.float64], found: NDArray[np.float64]) -> None:
    """The first of three unknowns for each of three right sides, by elimination."""
    for p in (2, 1):
        for q in range(p):
            by = sums[q, p] / sums[p, p]
            for k in range(6):
                sums[q, k] -= by * sums[p, k]
    for axis in range(3):
        found[axis] = sums[0, 3 + axis] / sums[0, 0]
