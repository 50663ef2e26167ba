"""Molten stuff on a surface: it creeps by its own weight, and is stirred.

It creeps as a film whose mean speed goes with the square of how thick it stands: Huppert, "The propagation
of two-dimensional and axisymmetric viscous gravity currents over a rigid horizontal surface", Journal of
Fluid Mechanics 121, 1982, and "Flow and instability of a viscous current down a slope", Nature 300, 1982.
It levels out in stages that reach as far as the square of how many they are: Meyer, Balsara and Aslam, "A stabilized
Runge-Kutta-Legendre method for explicit super-time-stepping of parabolic and mixed equations", Journal of
Computational Physics 257, 2014. Lengths are in cells.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import (
    compiled_along,
    even_share,
    in_bands,
    worth_a_hand,
)
from handful.engine.kernels.fading import fades
from handful.engine.kernels.fluid.grid import Carried, Field
from handful.engine.kernels.fluid.skin import CORE, DRY, SKIN

_MOST_OUT = 0.15
"""What goes through a side of a cell in a plain step, of what stands in it: all four together empty none."""

_MOST_IN_A_STAGE = 0.24
"""The same in the first of several stages: at a quarter they would be just stable."""

_MOST_STEPS = 24
_MOST_LEVELLED = _MOST_OUT * _MOST_STEPS
"""What goes through a side of a cell, of the difference of what stands on both."""

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


@lru_cache(maxsize=4)
def all_sides(rows: int, columns: int) -> tuple[Field, Field]:
    """What `sides_within` says where nothing holds it."""
    return np.ones((rows, columns + 1), np.float32), np.ones((rows + 1, columns), np.float32)


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

    It is drawn down in as many steps as the thickest of it needs, but no more than 24, and then levels out in at most
    five stages, which reach as far as 24 steps: what would need more goes no faster than they can follow. Where that
    leaves less than nothing, as it may round a lone peak, it does both step by step instead.
    """
    thick = thick + poured
    high = float(thick.max())
    draws = seconds * how.runs * max(abs(how.across), abs(how.down)) * high**2
    levels_out = seconds * how.runs * how.flat * high**3
    for stages in (_quick_stages(draws, levels_out), _plain_stages(max(draws, levels_out))):
        went = np.zeros_like(sides[0]), np.zeros_like(sides[1])
        later = np.empty_like(thick)
        in_bands(
            _creep_rows, len(thick), thick, levels, *sides, how, np.float32(seconds), stages, *went, later,
            band=max(_LEAST_ROWS, even_share(len(thick))),
        )  # fmt: skip
        if later.min() >= -_ROUNDED * high:
            break
    later *= later > 0
    rows, faster = len(thick) + 1, np.float32(_OVER_THE_MEAN / seconds)
    in_bands(_speed_rows, rows, later, faster, *went, band=worth_a_hand(*later.shape))
    return later, *went


_ROUNDED = 1e-5
"""How far below nothing, of what stands highest, is taken for nothing."""


def _plain_stages(needs: float) -> NDArray[np.float32]:
    """Of each step `(N, 4)`: how much it goes on as the last one changed it; which parts of the time it is drawn for and
    levels out in; and how often what goes through sides in it goes in all."""
    steps = min(_MOST_STEPS, max(1, math.ceil(needs / _MOST_OUT)))
    return np.tile(np.array([0, 1 / steps, 1 / steps, 1], np.float32), (steps, 1))


def _quick_stages(draws: float, levels_out: float) -> NDArray[np.float32]:
    """The same, of steps in which it is only drawn, and then of stages in which it only levels out."""
    drawn = _plain_stages(draws)
    drawn[:, 2] = 0
    needed = min(_MOST_LEVELLED, levels_out) / _MOST_IN_A_STAGE
    count = math.ceil((math.sqrt(1 + 8 * needed) - 1) / 2)
    levelling = np.zeros((count, 4), np.float32)
    for n, stage in enumerate(levelling, 1):
        stage[:] = (n - 1) / n, 0, (2 * n - 1) / n * 2 / (count**2 + count), 1
    for stage, after in zip(levelling[-2::-1], levelling[:0:-1], strict=True):
        stage[3] += after[0] * after[3]
    return np.concatenate([drawn if draws > 0 else drawn[:0], levelling])


class _Stage(NamedTuple):
    """How far it goes in a stage: as it is drawn across and down, and as it levels out, at most how far; how much it goes
    on as the last one changed it; and how often what goes through sides in it goes in all."""

    across: Number
    down: Number
    levels: Number
    most: Number
    goes_on: Number
    counts: Number


@compiled_along
def _passes(p: Number, q: Number, runs: Number, draws: Number, stage: _Stage) -> Number:
    """How much goes in a stage from what stands `p` thick to what stands `q` beside it, of what both together run."""
    half, most = np.float32(0.5), np.float32(_MOST_OUT)
    level = min(half * half * stage.levels * runs * (p * p * abs(p) + q * q * abs(q)), stage.most)
    up = p if draws > np.float32(0.0) else q
    drawn = min(max(half * draws * runs * up * up, -most), most)
    return level * (p - q) + drawn * up


@compiled_along
def _leaves(p: Number, runs: Number, draws: Number) -> Number:
    """How much goes over an edge beyond which it would go on, if it is drawn that way."""
    return min(max(np.float32(0.0), draws) * runs * p * p, np.float32(_MOST_OUT)) * p


# Rows are named by their numbers and not cut out of their arrays: who holds those would be counted each time.


@compiled_along
def _pass_across(
    film: Field, runs: Field, k: int, opened: Field, j: int, stage: _Stage, through: Field
) -> None:
    """How much goes through the sides of the cells of row `k`, which is the grid's row `j`."""
    last = film.shape[1] - 1
    for i in range(np.uint64(last)):
        passes = _passes(
            film[k, i], film[k, i + 1], runs[k, i] + runs[k, i + 1], stage.across, stage
        )
        through[i + 1] = opened[j, i + 1] * passes
    through[0] = -opened[j, 0] * _leaves(film[k, 0], runs[k, 0], -stage.across)
    through[last + 1] = opened[j, last + 1] * _leaves(film[k, last], runs[k, last], stage.across)


@compiled_along
def _pass_down(
    film: Field, runs: Field, k: int, opened: Field, j: int, stage: _Stage, through: Field, at: int
) -> None:
    """How much goes through the tops of the cells of row `k`, which is the grid's row `j`, from the row above it."""
    for i in range(np.uint64(film.shape[1])):
        passes = _passes(film[k - 1, i], film[k, i], runs[k - 1, i] + runs[k, i], stage.down, stage)
        through[at, i] = opened[j, i] * passes


@compiled_along
def _leave(
    film: Field,
    runs: Field,
    k: int,
    opened: Field,
    j: int,
    way: Number,
    draws: Number,
    through: Field,
    at: int,
) -> None:
    """How much goes over the edge of the grid at row `k`."""
    for i in range(np.uint64(film.shape[1])):
        through[at, i] = way * opened[j, i] * _leaves(film[k, i], runs[k, i], way * draws)


@compiled_along
def _stand(
    film: Field, k: int, across: Field, down: Field, above: int, stage: _Stage, later: Field
) -> None:
    """What stands in a row after a stage, written over what stood a stage before the last."""
    for i in range(np.uint64(film.shape[1])):
        stood = film[k, i] + stage.goes_on * (film[k, i] - later[k, i])
        later[k, i] = stood + (across[i] - across[i + 1] + down[above, i] - down[1 - above, i])


@compiled_along
def _count(
    across: Field,
    down: Field,
    above: int,
    counts: Number,
    went_across: Field,
    went_down: Field,
    j: int,
) -> None:
    for i in range(np.uint64(went_across.shape[1])):
        went_across[j, i] += counts * across[i]
    for i in range(np.uint64(went_down.shape[1])):
        went_down[j, i] += counts * down[above, i]


@compiled_along
def _run(levels: Carried, row: int, how: Creeping, runs: Field, k: int) -> None:
    """How fast a row of it runs, as hot as it is."""
    half, one = np.float32(0.5), np.float32(1.0)
    fast, stiffens = np.float32(how.runs), np.float32(how.stiffens)
    for i in range(np.uint64(runs.shape[1])):
        runs[k, i] = half * (levels[row, i, SKIN] + levels[row, i, CORE])
    for i in range(np.uint64(runs.shape[1])):
        runs[k, i] = fast * fades(stiffens * (one - min(one, runs[k, i])))


@compiled_along
def _creep_rows(
    first: int,
    last: int,
    thick: Field,
    levels: Carried,
    open_across: Field,
    open_down: Field,
    how: Creeping,
    seconds: Number,
    stages: NDArray[np.float32],
    went_across: Field,
    went_down: Field,
    later: Field,
) -> None:
    """How thick it stands on some rows after some stages: with as many rows about them as those reach, and one less
    at each stage, they need nothing from whoever goes through the others."""
    rows, columns = thick.shape
    one = np.float32(1.0)
    over, below = max(0, first - len(stages)), min(rows, last + len(stages))
    now = thick[over:below].copy()
    then, runs = now.copy(), np.empty_like(now)
    for j in range(over, below):
        _run(levels, j, how, runs, j - over)
    across, down = np.zeros(columns + 1, np.float32), np.zeros((2, columns), np.float32)
    for n in range(len(stages)):
        lasts, levelled = seconds * stages[n, 1], stages[n, 2]
        stage = _Stage(
            np.float32(how.across) * lasts,
            np.float32(how.down) * lasts,
            np.float32(how.flat) * seconds * levelled,
            np.float32(_MOST_LEVELLED) * levelled,
            stages[n, 0],
            stages[n, 3],
        )
        reach = len(stages) - 1 - n
        begin, end = max(0, first - reach), min(rows, last + reach)
        for j in range(begin, end):
            k, above = j - over, j & 1
            if j == 0:
                _leave(now, runs, k, open_down, j, -one, stage.down, down, above)
            elif j == begin:
                _pass_down(now, runs, k, open_down, j, stage, down, above)
            if j + 1 < rows:
                _pass_down(now, runs, k + 1, open_down, j + 1, stage, down, 1 - above)
            else:
                _leave(now, runs, k, open_down, rows, one, stage.down, down, 1 - above)
            _pass_across(now, runs, k, open_across, j, stage, across)
            _stand(now, k, across, down, above, stage, then)
            if first <= j < last:
                _count(across, down, above, stage.counts, went_across, went_down, j)
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
    band = worth_a_hand(rows, field.shape[1])
    in_bands(_stir_rows, rows, field, np.float32(strong), *sides, *flow, band=band)


@compiled_along
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
    # Each row of the field comes to one of three, what it goes off and round by apart.
    parts = np.empty((3, 2, columns + 2), np.float32)
    _part(field, first, parts)
    _part(field, first + 1, parts)
    for j in range(first, last):
        above, here, below = parts[j % 3], parts[(j + 1) % 3], parts[(j + 2) % 3]
        if j < rows:
            _part(field, j + 2, parts)
            for i in range(np.uint64(1), np.uint64(columns)):
                next = i + np.uint64(1)
                off = strong * (here[0, next] - here[0, i])
                round_it = below[1, next] + below[1, i] - above[1, next] - above[1, i]
                across[j, i] += open_across[j, i] * (off + turns * round_it)
        if 0 < j < rows:
            for i in range(np.uint64(columns)):
                next, after = i + np.uint64(1), i + np.uint64(2)
                off = strong * (here[0, next] - above[0, next])
                round_it = here[1, after] + above[1, after] - here[1, i] - above[1, i]
                down[j, i] += open_down[j, i] * (off - turns * round_it)


@compiled_along
def _part(field: Field, j: int, parts: Field) -> None:
    row, part = field[j].reshape(-1), parts[j % 3]
    for i in range(np.uint64(part.shape[1])):
        at = np.uint64(2) * i
        part[0, i], part[1, i] = row[at], row[at + np.uint64(1)]
