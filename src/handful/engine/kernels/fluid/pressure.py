"""The pressure that keeps a flow from piling up, by multigrid (Brandt 1977) on a staggered grid."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.fluid.grid import Field

COARSENINGS = 4
"""Grids have sides that are multiples of 2 to this power."""

_CYCLES = 2
_ROUNDS, _LAST_ROUNDS = 1, 8

_SHARES = (0.5147, 1.795, 0.6506, 1.0384)
"""How far each of four sweeps goes: one over the roots of Chebyshev's polynomial on 0.5 to 2, between which
what is fine lies, so that together they leave a fortieth of it."""


def open_sides(rows: int, columns: int, has_floor: bool) -> tuple[Field, Field]:
    """How open the sides of cells are on a grid without walls, `(H, W + 1)` and `(H + 1, W)`: 1, but 2
    at the grid's own edges, where still air is half a cell away, and 0 along a floor."""
    across, down = (
        np.ones((rows, columns + 1), np.float32),
        np.ones((rows + 1, columns), np.float32),
    )
    across[:, 0] = across[:, -1] = down[0] = 2
    down[-1] = 0 if has_floor else 2
    return across, down


@compiled
def hold_divergence(
    across: Field,
    down: Field,
    swells: Field,
    open_across: Field,
    open_down: Field,
    wall_across: Field,
    wall_down: Field,
    pressure: Field,
) -> None:
    """Change a flow so that each cell swells by as much a second as it is meant to.

    Flow passes a side as far as that is open; see `open_sides`. One that is shut goes as fast as its wall. `pressure` `(H + 2, W + 2)`, with a
    rim of nothing, is that of the step before, and becomes this one's.
    """
    rows, columns = swells.shape
    right = np.empty((rows, columns), np.float32)
    for j in range(rows):
        for i in range(columns):
            if open_across[j, i] == 0:
                across[j, i] = wall_across[j, i]
            if open_down[j, i] == 0:
                down[j, i] = wall_down[j, i]
    down[rows] *= np.minimum(open_down[rows], np.float32(1.0))
    for j in range(rows):
        for i in range(columns):
            out = across[j, i + 1] - across[j, i] + down[j + 1, i] - down[j, i]
            right[j, i] = out - swells[j, i]
    p, r, oa, od = [pressure], [right], [open_across], [open_down]
    other, narrow = [np.zeros_like(pressure)], [_narrow(open_across, open_down)]
    for k in range(COARSENINGS):
        walls = _coarser(oa[k], od[k])
        oa.append(walls[0])
        od.append(walls[1])
        narrow.append(_narrow(walls[0], walls[1]))
        r.append(np.empty_like(narrow[k + 1]))
        p.append(np.zeros((r[k + 1].shape[0] + 2, r[k + 1].shape[1] + 2), np.float32))
        other.append(np.zeros_like(p[k + 1]))
    last = COARSENINGS
    for _ in range(_CYCLES):
        for k in range(last):
            _smooth(p[k], other[k], r[k], oa[k], od[k], narrow[k], _ROUNDS)
            _leftover(p[k], r[k], oa[k], od[k], narrow[k], r[k + 1])
            p[k + 1][:] = np.float32(0.0)
        _smooth(p[last], other[last], r[last], oa[last], od[last], narrow[last], _LAST_ROUNDS)
        for k in range(last - 1, -1, -1):
            _add_finer(p[k], p[k + 1])
            _smooth(p[k], other[k], r[k], oa[k], od[k], narrow[k], _ROUNDS)
    for j in range(rows):
        for i in range(columns + 1):
            across[j, i] -= open_across[j, i] * (pressure[j + 1, i + 1] - pressure[j + 1, i])
    for j in range(rows + 1):
        for i in range(columns):
            down[j, i] -= open_down[j, i] * (pressure[j + 1, i + 1] - pressure[j, i + 1])


@compiled
def _narrow(oa: Field, od: Field) -> Field:
    """One over how open the sides of each cell are together; nothing for a cell that is shut in."""
    found = np.empty((oa.shape[0], od.shape[1]), np.float32)
    zero, one = np.float32(0.0), np.float32(1.0)
    for j in range(found.shape[0]):
        for i in range(found.shape[1]):
            together = oa[j, i] + oa[j, i + 1] + od[j, i] + od[j + 1, i]
            found[j, i] = one / together if together > np.float32(1e-6) else zero
    return found


@compiled
def _smooth(
    p: Field, other: Field, right: Field, oa: Field, od: Field, narrow: Field, rounds: int
) -> None:
    """Rounds of four sweeps of Jacobi's, each from one grid to the other."""
    for _ in range(rounds):
        _sweep(p, other, right, oa, od, narrow, np.float32(_SHARES[0]))
        _sweep(other, p, right, oa, od, narrow, np.float32(_SHARES[1]))
        _sweep(p, other, right, oa, od, narrow, np.float32(_SHARES[2]))
        _sweep(other, p, right, oa, od, narrow, np.float32(_SHARES[3]))


@compiled
def _sweep(
    p: Field, out: Field, right: Field, oa: Field, od: Field, narrow: Field, share: Number
) -> None:
    columns = right.shape[1]
    for j in range(right.shape[0]):
        above, here, under, into = p[j], p[j + 1], p[j + 2], out[j + 1]
        sides, top, low = oa[j], od[j], od[j + 1]
        meant, one_over = right[j], narrow[j]
        for i in range(columns):
            total = sides[i] * here[i] + sides[i + 1] * here[i + 2]
            total += top[i] * above[i + 1] + low[i] * under[i + 1]
            better = (total - meant[i]) * one_over[i]
            into[i + 1] = here[i + 1] + share * (better - here[i + 1])


@compiled
def _leftover(p: Field, right: Field, oa: Field, od: Field, narrow: Field, left: Field) -> None:
    """What is not met yet, added up over two by two cells."""
    left[:] = np.float32(0.0)
    for j in range(right.shape[0]):
        for i in range(right.shape[1]):
            if narrow[j, i] == 0:
                continue
            here = p[j + 1, i + 1]
            total = oa[j, i] * (p[j + 1, i] - here) + oa[j, i + 1] * (p[j + 1, i + 2] - here)
            total += od[j, i] * (p[j, i + 1] - here) + od[j + 1, i] * (p[j + 2, i + 1] - here)
            left[j // 2, i // 2] += right[j, i] - total


@compiled
def _coarser(oa: Field, od: Field) -> tuple[Field, Field]:
    """How open the sides of two by two cells are: half as far apart, twice as wide, and so the mean."""
    high, broad = oa.shape[0] // 2, od.shape[1] // 2
    half = np.float32(0.5)
    across = np.empty((high, broad + 1), np.float32)
    for j in range(high):
        for i in range(broad + 1):
            across[j, i] = half * (oa[2 * j, 2 * i] + oa[2 * j + 1, 2 * i])
    down = np.empty((high + 1, broad), np.float32)
    for j in range(high + 1):
        for i in range(broad):
            down[j, i] = half * (od[2 * j, 2 * i] + od[2 * j, 2 * i + 1])
    return across, down


@compiled
def _add_finer(p: Field, more: Field) -> None:
    """What was found on a grid half as fine, between its cells' middles."""
    near, far = np.float32(0.75), np.float32(0.25)
    high, broad = more.shape[0] - 2, more.shape[1] - 2
    for j in range(p.shape[0] - 2):
        b = j // 2 + 1
        b2 = min(max(b + (1 if j & 1 else -1), 1), high)
        for i in range(p.shape[1] - 2):
            a = i // 2 + 1
            a2 = min(max(a + (1 if i & 1 else -1), 1), broad)
            one = near * more[b, a] + far * more[b, a2]
            other = near * more[b2, a] + far * more[b2, a2]
            p[j + 1, i + 1] += near * one + far * other
