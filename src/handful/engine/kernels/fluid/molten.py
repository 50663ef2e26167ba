"""Molten stuff on a surface: it creeps by its own weight, and is stirred.

It creeps as a film whose mean speed goes with the square of how thick it stands: Huppert, "The propagation
of two-dimensional and axisymmetric viscous gravity currents over a rigid horizontal surface", Journal of
Fluid Mechanics 121, 1982, and "Flow and instability of a viscous current down a slope", Nature 300, 1982.
Where it levels out by more than goes step by step, it does by lines down and lines across in turn, each solved at once:
Yanenko, "The Method of Fractional Steps", 1971. Lengths are in cells.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np

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
"""What goes through a side of a cell in a step, of what stands in it: all four together empty none."""

_MOST_STEPS, _MOST_LEVELLING = 24, 4
"""In so many steps it is drawn, and in so many of them it levels out as well."""

_TIMES, _TIMES_AT_ONCE, _AT_ONCE = 4, 2, 8.0
"""So often it levels out by lines; and where more than the last would go through a side of a cell, of how much higher it
stands, as it is level at once anyhow. Each time it comes a cell farther over what is dry; where nothing is, once will do."""

_MOST_ALONG_LINES = 64.0
"""What goes through a side each time at the most: what is more could not be told to a part of it."""

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

    It is drawn down in as many steps as the thickest of it needs, but no more than 24: what would need more goes no faster
    than they can follow. It levels out in the same steps or, where four are not enough, by lines in between.
    """
    thick = thick + poured
    high = float(thick.max())
    draws = seconds * how.runs * max(abs(how.across), abs(how.down)) * high**2
    levels_out = seconds * how.runs * how.flat * high**3
    went = np.zeros_like(sides[0]), np.zeros_like(sides[1])
    if levels_out <= _MOST_OUT * _MOST_LEVELLING:
        steps = min(_MOST_STEPS, math.ceil(max(draws, levels_out) / _MOST_OUT))
        thick = _drawn(thick, levels, sides, how, seconds, steps, went)
    else:
        is_calm = draws == 0 and thick.min() > DRY
        times = _TIMES if levels_out < _AT_ONCE else 1 if is_calm else _TIMES_AT_ONCE
        lines = _Lines(thick, levels, sides, how, seconds / times, went)
        steps = math.ceil(min(_MOST_STEPS, draws / _MOST_OUT) / times)
        level = how._replace(flat=0.0)
        for _ in range(times):
            thick = _drawn(thick, levels, sides, level, seconds / times, steps, went)
            lines.level(thick)
        lines.count()
    rows, faster = len(thick) + 1, np.float32(_OVER_THE_MEAN / seconds)
    in_bands(_speed_rows, rows, thick, faster, *went, band=worth_a_hand(*thick.shape))
    return thick, *went


def _drawn(
    thick: Field,
    levels: Carried,
    sides: tuple[Field, Field],
    how: Creeping,
    seconds: float,
    steps: int,
    went: tuple[Field, Field],
) -> Field:
    """How thick it stands after so many steps; adds what went through sides."""
    if not steps:
        return thick
    later = np.empty_like(thick)
    in_bands(
        _creep_rows, len(thick), thick, levels, *sides, how, np.float32(seconds / steps), steps, *went,
        later, band=max(_LEAST_ROWS, even_share(len(thick))),
    )  # fmt: skip
    return later


class _Lines:
    """Levels out what stands in columns, and in rows as columns of the same turned over; and counts what goes through
    sides."""

    def __init__(
        self,
        thick: Field,
        levels: Carried,
        sides: tuple[Field, Field],
        how: Creeping,
        seconds: float,
        went: tuple[Field, Field],
    ) -> None:
        runs = np.empty_like(thick)
        in_bands(_run_rows, len(thick), levels, how, runs, band=worth_a_hand(*thick.shape))
        self._by = np.float32(how.flat * seconds)
        self._down = runs, sides[1], went[1]
        self._across = (
            cv2.transpose(runs), cv2.transpose(sides[0]),
            np.zeros(went[0].shape[::-1], np.float32),
        )  # fmt: skip
        self._turned = np.empty(thick.shape[::-1], np.float32)
        self._went = went[0]

    def level(self, thick: Field) -> None:
        """Once: changes `thick`."""
        self._level(thick, self._down)
        cv2.transpose(thick, self._turned)
        self._level(self._turned, self._across)
        cv2.transpose(self._turned, thick)

    def count(self) -> None:
        """Add what went through sides across to the rest."""
        self._went += cv2.transpose(self._across[2])

    def _level(self, thick: Field, about: tuple[Field, Field, Field]) -> None:
        runs, opened, through = about
        in_bands(
            _level_lines,
            thick.shape[1],
            thick,
            runs,
            opened,
            self._by,
            through,
            band=worth_a_hand(*thick.shape[::-1]),
        )


@compiled_along
def _run_rows(first: int, last: int, levels: Carried, how: Creeping, runs: Field) -> None:
    for j in range(first, last):
        _run(levels, j, how, runs, j)


@compiled_along
def _level_lines(
    first: int, last: int, thick: Field, runs: Field, opened: Field, by: Number, through: Field
) -> None:
    """Level columns out at once: what goes through each side is what is higher above it than below it afterwards, times
    what goes there by how thick it stood. Gauss's elimination, downwards and back."""
    rows, width, begin = thick.shape[0], np.uint64(last - first), np.uint64(first)
    goes, on = np.zeros((rows + 1, width), np.float32), np.zeros((rows + 1, width), np.float32)
    stands = np.zeros((rows + 1, width), np.float32)
    zero, one, most = np.float32(0.0), np.float32(1.0), np.float32(_MOST_ALONG_LINES)
    quarter = np.float32(0.25) * by
    for j in range(1, rows):
        for i in range(width):
            p, q = thick[j - 1, begin + i], thick[j, begin + i]
            both = (runs[j - 1, begin + i] + runs[j, begin + i]) * (p * p * p + q * q * q)
            goes[j, i] = opened[j, begin + i] * min(most, quarter * both)
    for j in range(rows):
        for i in range(width):
            above, below = goes[j, i], goes[j + 1, i]
            share = one / (one + below + above * (one - on[j, i]))
            on[j + 1, i] = below * share
            stands[j + 1, i] = (thick[j, begin + i] + above * stands[j, i]) * share
    for j in range(rows - 1, 0, -1):
        for i in range(width):
            stands[j, i] += on[j, i] * stands[j + 1, i]
            goes[j, i] *= stands[j, i] - stands[j + 1, i]
    for j in range(rows):
        for i in range(width):
            through[j, begin + i] += goes[j, i]
            stood = thick[j, begin + i] + (goes[j, i] - goes[j + 1, i])
            thick[j, begin + i] = max(zero, stood)


class _Step(NamedTuple):
    """How far it goes in a step: as it is drawn across and down, and as it levels out."""

    across: Number
    down: Number
    levels: Number


@compiled_along
def _passes(p: Number, q: Number, runs: Number, draws: Number, step: _Step) -> Number:
    """How much goes in a step from what stands `p` thick to what stands `q` beside it, of what both together run."""
    half, most = np.float32(0.5), np.float32(_MOST_OUT)
    level = half * half * step.levels * runs * (p * p * p + q * q * q)
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
    film: Field, runs: Field, k: int, opened: Field, j: int, step: _Step, through: Field
) -> None:
    """How much goes through the sides of the cells of row `k`, which is the grid's row `j`."""
    last = film.shape[1] - 1
    for i in range(np.uint64(last)):
        passes = _passes(film[k, i], film[k, i + 1], runs[k, i] + runs[k, i + 1], step.across, step)
        through[i + 1] = opened[j, i + 1] * passes
    through[0] = -opened[j, 0] * _leaves(film[k, 0], runs[k, 0], -step.across)
    through[last + 1] = opened[j, last + 1] * _leaves(film[k, last], runs[k, last], step.across)


@compiled_along
def _pass_down(
    film: Field, runs: Field, k: int, opened: Field, j: int, step: _Step, through: Field, at: int
) -> None:
    """How much goes through the tops of the cells of row `k`, which is the grid's row `j`, from the row above it."""
    for i in range(np.uint64(film.shape[1])):
        passes = _passes(film[k - 1, i], film[k, i], runs[k - 1, i] + runs[k, i], step.down, step)
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
def _stand(film: Field, k: int, across: Field, down: Field, above: int, later: Field) -> None:
    """What stands in a row after a step."""
    for i in range(np.uint64(film.shape[1])):
        later[k, i] = film[k, i] + (across[i] - across[i + 1] + down[above, i] - down[1 - above, i])


@compiled_along
def _count(
    across: Field, down: Field, above: int, went_across: Field, went_down: Field, j: int
) -> None:
    for i in range(np.uint64(went_across.shape[1])):
        went_across[j, i] += across[i]
    for i in range(np.uint64(went_down.shape[1])):
        went_down[j, i] += down[above, i]


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
    lasts: Number,
    steps: int,
    went_across: Field,
    went_down: Field,
    later: Field,
) -> None:
    """How thick it stands on some rows after some steps: with as many rows about them as those are, and one less at
    each, they need nothing from whoever goes through the others."""
    rows, columns = thick.shape
    one = np.float32(1.0)
    over, below = max(0, first - steps), min(rows, last + steps)
    now = thick[over:below].copy()
    then, runs = now.copy(), np.empty_like(now)
    for j in range(over, below):
        _run(levels, j, how, runs, j - over)
    across, down = np.zeros(columns + 1, np.float32), np.zeros((2, columns), np.float32)
    step = _Step(
        np.float32(how.across) * lasts, np.float32(how.down) * lasts, np.float32(how.flat) * lasts
    )
    for n in range(steps):
        reach = steps - 1 - n
        begin, end = max(0, first - reach), min(rows, last + reach)
        for j in range(begin, end):
            k, above = j - over, j & 1
            if j == 0:
                _leave(now, runs, k, open_down, j, -one, step.down, down, above)
            elif j == begin:
                _pass_down(now, runs, k, open_down, j, step, down, above)
            if j + 1 < rows:
                _pass_down(now, runs, k + 1, open_down, j + 1, step, down, 1 - above)
            else:
                _leave(now, runs, k, open_down, rows, one, step.down, down, 1 - above)
            _pass_across(now, runs, k, open_across, j, step, across)
            _stand(now, k, across, down, above, then)
            if first <= j < last:
                _count(across, down, above, went_across, went_down, j)
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
