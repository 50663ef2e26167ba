"""The skin of what is molten, from frame to frame: it cools, is stretched and tears, is pushed together and folds, and goes
where what it lies on goes.

All of it is done in one pass over the grid, as what a cell carries is more than a processor keeps near: a row is worn, is
carried along as soon as enough rows below it are, and so is the error of that, by which it is mended (MacCormack's scheme as
Selle, Fedkiw, Kim, Liu and Rossignac, "An unconditionally stable MacCormack method", 2008, have it). Lengths are in cells.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import (
    compiled,
    compiled_along,
    even_share,
    in_bands,
)
from handful.engine.kernels.fluid.advection import (
    Places,
    Room,
    before,
    flow_of_cells,
    gather,
    hold,
    room_for,
    square,
)
from handful.engine.kernels.fluid.grid import LEVELS, MARKS, Carried, Field

SKIN, CORE, TORN, FOLDED = 0, 1, 2, 3
"""What each cell carries beside its marks: how hot its skin is and what is under it, from 0 for what is cold
to 1 as it is poured; and how far the skin was stretched of late, and pushed together, as shares of its length."""

DRY = 1e-3
"""Below so much there is nothing."""


class Skin(NamedTuple):
    """How its skin fares: how fast it cools by the fourth power, and what is under it where it stands one cell
    thick; how much warmth comes up a second, how much of what tore heals, and how readily it tears."""

    cools: float
    chills: float
    warms: float
    heals: float
    tears: float


def fare(
    thick: Field,
    levels: Carried,
    flow: tuple[Field, Field],
    poured: Field,
    how: Skin,
    seconds: float,
) -> Carried:
    """The levels `(R, C, 8)`, of two rows and columns at least, after so many seconds of a flow across `(R, C + 1)` and down
    `(R + 1, C)`, in cells a second: worn as `how` says, new where something is poured, and carried along; what comes in from
    beyond the grid is nothing."""
    fastest = max(max(float(part.max()), -float(part.min())) for part in flow)
    # Back from where it came from it goes on by the flow of both times.
    goes, returns = (math.ceil(min(len(thick), by * seconds * fastest)) + 1 for by in (1, 3))
    reaches = _REACHES if thick.min() <= DRY else 0
    fared = np.empty_like(levels)
    in_bands(
        _fare_rows, len(thick), thick, levels, *flow, poured, how, np.float32(seconds), goes, returns, reaches, fared,
        band=max(even_share(len(thick)), 8 * goes),
    )  # fmt: skip
    return fared


_REACHES = 2
"""How far from where something stands what it carries reaches where nothing does."""


@compiled_along
def _fare_rows(
    first: int,
    last: int,
    thick: Field,
    levels: Carried,
    across: Field,
    down: Field,
    poured: Field,
    how: Skin,
    seconds: Number,
    goes: int,
    returns: int,
    reaches: int,
    fared: Carried,
) -> None:
    """Some rows, where nothing goes farther than so many cells. Row `j` is worn, and three more are, as far above it as each
    needs of the one before, reached, thrown and mended. Those at hand lie in a ring, whose first follows its last as well."""
    rows, columns = thick.shape
    zero, half = np.float32(0.0), np.float32(0.5)
    wear = _Wear(
        seconds,
        np.float32(math.exp(-how.heals * seconds)),
        np.float32(1.0 - math.exp(-how.warms * seconds)),
        np.float32(3.0 * how.cools * seconds),
        np.float32(3.0 * how.chills * seconds),
        np.float32(how.tears),
    )
    around = reaches + goes + returns
    begins, ends = max(0, first - around), min(rows, last + around)
    ring = 1
    while ring < around + returns + 1:
        ring *= 2
    worn = np.empty((ring + 1, columns, LEVELS), np.float32)
    thrown = np.empty_like(worn)
    whence = np.empty((ring, 2, columns), np.float32)
    room, apart = room_for(columns), np.empty((MARKS, columns), np.float32)
    places, again = np.empty((2, columns), np.float32), np.empty((columns, LEVELS), np.float32)
    mask = ring - 1
    for j in range(begins, last + around):
        if j < ends:
            line = levels[j].reshape(-1)
            _take_apart(line, columns, apart)
            _wear_row(thick, across, down, poured, j, wear, apart)
            _put_together(apart, line, columns, worn[j & mask].reshape(-1))
        i = j - reaches
        if begins <= i < ends:
            if reaches > 0:
                _reach_row(thick, i, begins, min(j + 1, ends), reaches, worn, mask)
            if i & mask == 0:
                worn[ring] = worn[0]
        i -= goes
        if max(0, first - returns) <= i < min(rows, last + returns):
            came = whence[i & mask]
            flow_of_cells(across, down, i, room)
            if _is_near(room, seconds):
                _just_before(across, down, i, seconds, room, came)
            else:
                before(across, down, i, half, half, seconds, room, came)
            square(came[0], came[1], zero, zero, thick.shape, mask, room)
            gather(worn, room, thrown[i & mask])
            if i & mask == 0:
                thrown[ring] = thrown[0]
        i -= returns
        if first <= i < last:
            came = whence[i & mask]
            flow_of_cells(across, down, i, room)
            _after(seconds, room, came, places)
            square(places[0], places[1], zero, zero, thick.shape, mask, room)
            gather(thrown, room, again)
            square(came[0], came[1], zero, zero, thick.shape, mask, room)
            stood, once = worn[i & mask], thrown[i & mask]
            hold(worn, stood, rows, came, room.squares, once, again, fared[i])


@compiled_along
def _is_near(room: Room, seconds: Number) -> bool:
    """Whether nothing in a row goes more than a cell."""
    one, farther = np.float32(1.0), np.int32(0)
    for i in range(np.uint64(room.across.shape[0])):
        is_farther = abs(room.across[i]) * seconds > one or abs(room.down[i]) * seconds > one
        farther += np.int32(is_farther)
    return bool(farther == 0)


@compiled_along
def _just_before(
    across: Field, down: Field, j: int, seconds: Number, room: Room, places: Places
) -> None:
    """Where what is in a row with the flow that `room` says was so many seconds before, by how that changes beside it: as
    the midpoint rule has it, where it goes no more than a cell; straight in the first and the last cell."""
    bends, quarter = np.float32(0.5) * seconds * seconds, np.float32(0.25)
    above, below = max(0, j - 1), min(across.shape[0] - 1, j + 1)
    for i in range(np.uint64(places.shape[1])):
        places[0, i] = np.float32(np.int32(i)) - seconds * room.across[i]
        places[1, i] = np.float32(j) - seconds * room.down[i]
    for i in range(np.uint64(1), np.uint64(places.shape[1] - 1)):
        a, d, next, last = room.across[i], room.down[i], i + np.uint64(1), i - np.uint64(1)
        wider, deeper = across[j, next] - across[j, i], down[j + 1, i] - down[j, i]
        askew = across[below, i] + across[below, next] - across[above, i] - across[above, next]
        aside = down[j, next] + down[j + 1, next] - down[j, last] - down[j + 1, last]
        places[0, i] += bends * (wider * a + quarter * askew * d)
        places[1, i] += bends * (deeper * d + quarter * aside * a)


@compiled_along
def _after(seconds: Number, room: Room, whence: Places, places: Places) -> None:
    """Where what is in a row with the flow that `room` says is so many seconds later, from where it was before: as far from
    there as the flow goes in both times, which is of the same order as the midpoint rule."""
    both = np.float32(2.0) * seconds
    for i in range(np.uint64(places.shape[1])):
        places[0, i] = whence[0, i] + both * room.across[i]
        places[1, i] = whence[1, i] + both * room.down[i]


@compiled_along
def _over_cube_root(x: np.float32) -> np.float32:
    """One over the cube root of a number above nothing, within 2 of 10 million: a float's own bits tell it roughly, and
    Newton's steps the rest (Moroz, Samotyy, Walczyk and Cieslinski, "Fast calculation of cube root and inverse cube root",
    2021)."""
    third, one = np.float32(1.0 / 3.0), np.float32(1.0)
    bits = np.int32(0x548C39CB) - np.int32(third * np.float32(np.float32(x).view(np.int32)))
    y = np.int32(bits).view(np.float32)
    for _ in range(3):
        y += y * third * (one - x * y * y * y)
    return y if x != one else one


class _Wear(NamedTuple):
    """How the skin fares in a step: how long it is, and the parts of it that are healed and warmed; what is cold of
    the third power of its heat, and of that under it; and how readily it tears."""

    lasts: Number
    healed: Number
    warmed: Number
    cools: Number
    chills: Number
    tears: Number


@compiled_along
def _take_apart(line: Field, columns: int, apart: Field) -> None:
    """What cells carry in a row, but for their marks, as a row for each level."""
    for i in range(np.uint64(columns)):
        at = np.uint64(LEVELS) * i
        for c in range(np.uint64(MARKS)):
            apart[c, i] = line[at + c]


@compiled_along
def _put_together(apart: Field, line: Field, columns: int, into: Field) -> None:
    """The same as cells carry it, with the marks of a row."""
    c0, c1, c2, c3 = np.uint64(0), np.uint64(1), np.uint64(2), np.uint64(3)
    for i in range(np.uint64(columns)):
        at = np.uint64(LEVELS) * i
        marks = at + np.uint64(MARKS)
        into[at], into[at + c1] = apart[c0, i], apart[c1, i]
        into[at + c2], into[at + c3] = apart[c2, i], apart[c3, i]
        into[marks], into[marks + c1] = line[marks], line[marks + c1]
        into[marks + c2], into[marks + c3] = line[marks + c2], line[marks + c3]


@compiled_along
def _wear_row(
    thick: Field, across: Field, down: Field, poured: Field, j: int, how: _Wear, apart: Field
) -> None:
    zero, one, dry, soon = np.float32(0.0), np.float32(1.0), np.float32(DRY), np.float32(8.0)
    for i in range(np.uint64(thick.shape[1])):
        stands, next = thick[j, i], i + np.uint64(1)
        opens = (across[j, next] - across[j, i] + down[j + 1, i] - down[j, i]) * how.lasts
        opened, shut = max(zero, opens), max(zero, -opens)
        skin, core = apart[SKIN, i], apart[CORE, i]
        fresh = min(one, poured[j, i] / stands)
        core += (one - core) * fresh
        skin += (one - skin) * min(one, soon * fresh)
        tears = min(one, how.tears * opened)
        skin += (core - skin) * (tears + how.warmed * (one - tears))
        skin *= _over_cube_root(one + how.cools * skin * skin * skin)
        core *= _over_cube_root(one + how.chills / max(stands, one) * core * core * core)
        kept = how.healed * (one - fresh)
        if stands > dry:
            apart[SKIN, i], apart[CORE, i] = skin, core
            apart[TORN, i] = (apart[TORN, i] + opened) * kept
            apart[FOLDED, i] = (apart[FOLDED, i] + shut) * kept


@compiled
def _reach_row(
    thick: Field, j: int, begins: int, ends: int, reaches: int, worn: Carried, mask: int
) -> None:
    """In cells of a row where nothing stands yet what those about them in which it does would have there, so that a front
    brings along what is behind it; rows from one on to another are at hand."""
    columns = thick.shape[1]
    dry, one = np.float32(DRY), np.float32(1.0)
    for i in range(columns):
        if thick[j, i] > dry:
            continue
        levels = worn[j & mask, i]
        count, across, down = np.float32(0.0), np.float32(0.0), np.float32(0.0)
        for b in range(max(begins, j - reaches), min(ends, j + reaches + 1)):
            for a in range(max(0, i - reaches), min(columns, i + reaches + 1)):
                if thick[b, a] > dry:
                    if count == np.float32(0.0):
                        levels[:] = np.float32(0.0)
                    for c in range(LEVELS):
                        levels[c] += worn[b & mask, a, c]
                    across += np.float32(i - a)
                    down += np.float32(j - b)
                    count += one
        if count == np.float32(0.0):
            continue
        # Marks say where they were made: beside one another they go on by one.
        for c in range(MARKS, LEVELS, 2):
            levels[c] += across
            levels[c + 1] += down
        for c in range(LEVELS):
            levels[c] /= count
