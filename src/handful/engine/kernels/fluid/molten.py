"""Molten stuff on a surface: it creeps by its own weight, and its skin is stretched, torn and folded.

It creeps as a film whose mean speed goes with the square of how thick it stands: Huppert, "The propagation
of two-dimensional and axisymmetric viscous gravity currents over a rigid horizontal surface", Journal of
Fluid Mechanics 121, 1982, and "Flow and instability of a viscous current down a slope", Nature 300, 1982.
Lengths are in cells.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled, compiled_along, in_bands
from handful.engine.kernels.fluid.grid import LEVELS, MARKS, Carried, Field, even_share

SKIN, CORE, TORN, FOLDED = 0, 1, 2, 3
"""What each cell carries beside its marks: how hot its skin is and what is under it, from 0 for what is cold
to 1 as it is poured; and how far the skin was stretched of late, and pushed together, as shares of its length."""

DRY = 1e-3
"""Below so much there is nothing."""

_MOST_OUT = 0.15
"""What goes through a side of a cell in a step, of what stands in it: all four together empty none."""

_MOST_STEPS = 24
_LEAST_ROWS = 48
_OVER_THE_MEAN = 1.5
"""How much faster than its mean the surface of a film goes, whose speed is a parabola over its thickness."""


class Creeping(NamedTuple):
    """How it creeps: the mean speed of what stands one cell thick, straight down, in cells a second; the parts
    of its weight that draw it across, down, and flat; and the power of e by which it is stiffer where it is
    cold."""

    runs: float
    across: float
    down: float
    flat: float
    stiffens: float


class Skin(NamedTuple):
    """How its skin fares: how fast it cools by the fourth power, and what is under it where it stands one cell
    thick; how much warmth comes up a second, how much of what tore heals, and how readily it tears."""

    cools: float
    chills: float
    warms: float
    heals: float
    tears: float


def sides_within(within: Field) -> tuple[Field, Field]:
    """Through which sides of cells it may go, across `(R, C + 1)` and down `(R + 1, C)`, where it stays on what a
    cover `(R, C)` covers by half. At the edges of the grid it may run off, if it is drawn there."""
    inside = np.pad(within > 0.5, 1, mode="edge")
    across = inside[1:-1, :-1] & inside[1:-1, 1:]
    down = inside[:-1, 1:-1] & inside[1:, 1:-1]
    return across.astype(np.float32), down.astype(np.float32)


def creep(
    thick: Field,
    levels: Carried,
    sides: tuple[Field, Field],
    poured: Field,
    how: Creeping,
    seconds: float,
) -> tuple[Field, Field, Field]:
    """How thick it stands `(R, C)` so many seconds later, with so much poured on it meanwhile; and how fast its
    surface went, across `(R, C + 1)` and down `(R + 1, C)`, in cells a second.

    Steps are as short as the thickest of it needs, but no more than 24: what would need more goes no faster
    than they can follow.
    """
    rows = len(thick)
    high = float((thick + poured).max())
    draws = max(abs(how.across), abs(how.down))
    needs = seconds * how.runs * max(how.flat * high**3, draws * high**2) / _MOST_OUT
    steps = min(_MOST_STEPS, max(1, math.ceil(needs)))
    lasts = np.float32(seconds / steps)
    heat = np.float32(0.5) * (levels[..., CORE] + levels[..., SKIN])
    runs = np.float32(how.runs) * np.exp(np.float32(how.stiffens) * (np.minimum(1, heat) - 1))
    went = np.zeros_like(sides[0]), np.zeros_like(sides[1])
    later = np.empty_like(thick)
    in_bands(
        _creep_rows, rows, thick, runs, *sides, how, lasts, poured / np.float32(steps), steps, *went, later,
        band=max(_LEAST_ROWS, even_share(rows)),
    )  # fmt: skip
    thick = later
    in_bands(_speed_rows, rows + 1, thick, np.float32(_OVER_THE_MEAN / seconds), *went)
    return thick, *went


@compiled_along
def _through(
    a: Field,
    b: Field,
    runs_a: Field,
    runs_b: Field,
    opened: Field,
    draws: Number,
    flat: Number,
    lasts: Number,
    through: Field,
) -> None:
    """How much goes in a step from what stands `a` thick to what stands `b`, beside it, for a row of both."""
    half, most, zero = np.float32(0.5), np.float32(_MOST_OUT), np.float32(0.0)
    flattens, draws = half * half * flat * lasts, half * draws * lasts
    before = np.float32(1.0) if draws > zero else zero
    after = np.float32(1.0) - before
    for i in range(through.shape[0]):
        runs = runs_a[i] + runs_b[i]
        p, q = a[i], b[i]
        up = before * p + after * q
        level = min(flattens * runs * (p * p * p + q * q * q), most)
        drawn = min(max(draws * runs * up * up, -most), most)
        through[i] = opened[i] * (level * (p - q) + drawn * up)


@compiled_along
def _run_off(
    here: Field, runs: Field, opened: Field, draws: Number, lasts: Number, through: Field
) -> None:
    """How much goes over an edge beyond which it would go on, if it is drawn that way."""
    zero, most = np.float32(0.0), np.float32(_MOST_OUT)
    for i in range(through.shape[0]):
        drawn = min(max(zero, draws) * runs[i] * here[i] * here[i] * lasts, most)
        through[i] = opened[i] * drawn * here[i]


@compiled_along
def _stand(
    here: Field, came: Field, goes: Field, above: Field, below: Field, more: Field, later: Field
) -> None:
    for i in range(later.shape[0]):
        stands = here[i] + came[i] - goes[i] + above[i] - below[i] + more[i]
        later[i] = max(np.float32(0.0), stands)


@compiled_along
def _add(through: Field, went: Field) -> None:
    for i in range(went.shape[0]):
        went[i] += through[i]


@compiled_along
def _creep_rows(
    first: int,
    last: int,
    thick: Field,
    runs: Field,
    open_across: Field,
    open_down: Field,
    how: Creeping,
    lasts: Number,
    more: Field,
    steps: int,
    went_across: Field,
    went_down: Field,
    later: Field,
) -> None:
    """How thick it stands on some rows after some steps: with as many rows about them as that reaches, and one less
    at each step, they need nothing from whoever goes through the others."""
    rows, columns = thick.shape
    flat, draws, draws_down = np.float32(how.flat), np.float32(how.across), np.float32(how.down)
    across = np.zeros(columns + 1, np.float32)
    above, below = np.zeros(columns, np.float32), np.zeros(columns, np.float32)
    over = max(0, first - steps)
    now = thick[over : min(rows, last + steps)].copy()
    then = now.copy()
    for step in range(1, steps + 1):
        begin, end = max(0, first - steps + step), min(rows, last + steps - step)
        for j in range(begin, end):
            here, own = now[j - over], runs[j]
            if j == 0:
                _run_off(here, own, open_down[0], -draws_down, lasts, above)
                above[:] = -above
            elif j == begin:
                _through(
                    now[j - 1 - over], here, runs[j - 1], own, open_down[j], draws_down, flat, lasts, above
                )  # fmt: skip
            left, right = here[:1], here[-1:]
            _run_off(left, own[:1], open_across[j, :1], -draws, lasts, across[:1])
            across[0] = -across[0]
            _run_off(right, own[-1:], open_across[j, -1:], draws, lasts, across[-1:])
            _through(
                here[:-1], here[1:], own[:-1], own[1:], open_across[j, 1:-1], draws, flat, lasts,
                across[1:-1],
            )  # fmt: skip
            if j + 1 < rows:
                _through(
                    here, now[j + 1 - over], own, runs[j + 1], open_down[j + 1], draws_down, flat, lasts, below
                )  # fmt: skip
            else:
                _run_off(here, own, open_down[rows], draws_down, lasts, below)
            _stand(here, across[:-1], across[1:], above, below, more[j], then[j - over])
            if first <= j < last:
                _add(across, went_across[j])
                _add(above, went_down[j])
            above, below = below, above
        now, then = then, now
    later[first:last] = now[first - over : last - over]


@compiled_along
def _speed_rows(
    first: int, last: int, thick: Field, by: Number, across: Field, down: Field
) -> None:
    """What went through sides as speeds: by how thick it stands on both."""
    rows, columns = thick.shape
    half, dry = np.float32(0.5), np.float32(DRY)
    for j in range(first, last):
        if j < rows:
            for i in range(1, columns):
                mean = half * (thick[j, i - 1] + thick[j, i])
                across[j, i] = by * across[j, i] / mean if mean > dry else np.float32(0.0)
        if 0 < j < rows:
            for i in range(columns):
                mean = half * (thick[j - 1, i] + thick[j, i])
                down[j, i] = by * down[j, i] / mean if mean > dry else np.float32(0.0)


_TURNS = 0.7
"""How much of what stirs turns, of what wells up."""


def stir(
    field: Field, strong: float, sides: tuple[Field, Field], flow: tuple[Field, Field]
) -> None:
    """Add to a flow through sides of cells what stirs it: it goes off where the first of a field `(R + 2, C + 2, 2)` is
    high, and round where the second is. Through the edges of the grid nothing is stirred. Changes `flow` in place."""
    rows = len(field) - 1
    in_bands(_stir_rows, rows, field, np.float32(strong), *sides, *flow)


@compiled
def _stir_rows(
    first: int,
    last: int,
    field: Field,
    strong: np.float32,
    open_across: Field,
    open_down: Field,
    across: Field,
    down: Field,
) -> None:
    """The field begins a cell before the grid does."""
    rows, columns = open_across.shape[0], open_down.shape[1]
    turns = np.float32(0.25 * _TURNS) * strong
    for j in range(first, last):
        if j < rows:
            above, here, below = field[j], field[j + 1], field[j + 2]
            for i in range(1, columns):
                off = strong * (here[i + 1, 0] - here[i, 0])
                round_it = below[i + 1, 1] + below[i, 1] - above[i + 1, 1] - above[i, 1]
                across[j, i] += open_across[j, i] * (off + turns * round_it)
        if 0 < j < rows:
            above, here = field[j], field[j + 1]
            for i in range(columns):
                off = strong * (here[i + 1, 0] - above[i + 1, 0])
                round_it = here[i + 2, 1] + above[i + 2, 1] - here[i, 1] - above[i, 1]
                down[j, i] += open_down[j, i] * (off - turns * round_it)


def wear(
    thick: Field,
    levels: Carried,
    flow: tuple[Field, Field],
    poured: Field,
    how: Skin,
    seconds: float,
) -> None:
    """The skin after so many seconds of a flow, in cells a second: it cools, is stretched and tears, is pushed
    together and folds; where something is poured it is new. Changes `levels` in place."""
    in_bands(_wear_rows, len(thick), thick, *flow, poured, how, seconds, levels)
    in_bands(_reach_rows, len(thick), thick, levels)


@compiled
def _over_cube_root(x: np.float32) -> np.float32:
    """One over the cube root of a number above nothing, within 2 of 10 million: a float's own bits tell it roughly, and
    Newton's steps the rest (Moroz, Samotyy, Walczyk and Cieslinski, "Fast calculation of cube root and inverse cube root",
    2021)."""
    if x == np.float32(1.0):
        return x
    bits = np.int32(0x548C39CB) - np.int32(np.float32(x).view(np.int32) // np.int32(3))
    y, third = np.int32(bits).view(np.float32), np.float32(1.0 / 3.0)
    for _ in range(3):
        y += y * third * (np.float32(1.0) - x * y * y * y)
    return y


@compiled
def _wear_rows(
    first: int,
    last: int,
    thick: Field,
    across: Field,
    down: Field,
    poured: Field,
    how: Skin,
    seconds: float,
    levels: Carried,
) -> None:
    zero, one, dry = np.float32(0.0), np.float32(1.0), np.float32(DRY)
    lasts, healed = np.float32(seconds), np.float32(math.exp(-how.heals * seconds))
    warmed = np.float32(1.0 - math.exp(-how.warms * seconds))
    cools, chills = np.float32(3.0 * how.cools * seconds), np.float32(3.0 * how.chills * seconds)
    tears = np.float32(how.tears)
    for j in range(first, last):
        for i in range(thick.shape[1]):
            stands = thick[j, i]
            if stands <= dry:
                continue
            opens = (across[j, i + 1] - across[j, i] + down[j + 1, i] - down[j, i]) * lasts
            opened, shut = max(zero, opens), max(zero, -opens)
            skin, core = levels[j, i, SKIN], levels[j, i, CORE]
            fresh = min(one, poured[j, i] / stands)
            core += (one - core) * fresh
            if fresh > zero:
                skin += (one - skin) * min(one, np.float32(8.0) * fresh)
            torn = min(one, tears * opened)
            skin += (core - skin) * (torn + warmed * (one - torn))
            skin *= _over_cube_root(one + cools * skin * skin * skin)
            core *= _over_cube_root(one + chills / max(stands, one) * core * core * core)
            levels[j, i, SKIN], levels[j, i, CORE] = skin, core
            levels[j, i, TORN] = (levels[j, i, TORN] + opened) * healed * (one - fresh)
            levels[j, i, FOLDED] = (levels[j, i, FOLDED] + shut) * healed * (one - fresh)


@compiled
def _reach_rows(first: int, last: int, thick: Field, levels: Carried) -> None:
    """In cells where nothing stands yet what those about them in which it does would have there, so that a front brings
    along what is behind it."""
    rows, columns = thick.shape
    dry, one = np.float32(DRY), np.float32(1.0)
    for j in range(first, last):
        for i in range(columns):
            if thick[j, i] > dry:
                continue
            count, across, down = np.float32(0.0), np.float32(0.0), np.float32(0.0)
            for b in range(max(0, j - 2), min(rows, j + 3)):
                for a in range(max(0, i - 2), min(columns, i + 3)):
                    if thick[b, a] > dry:
                        if count == np.float32(0.0):
                            for c in range(LEVELS):
                                levels[j, i, c] = np.float32(0.0)
                        for c in range(LEVELS):
                            levels[j, i, c] += levels[b, a, c]
                        across += np.float32(i - a)
                        down += np.float32(j - b)
                        count += one
            if count == np.float32(0.0):
                continue
            # Marks say where they were made: beside one another they go on by one.
            for c in range(MARKS, LEVELS, 2):
                levels[j, i, c] += across
                levels[j, i, c + 1] += down
            for c in range(LEVELS):
                levels[j, i, c] /= count
