"""Gas that burns: fuel above a temperature turns to heat and soot, swells, rises and cools."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.waves import Number
from handful.engine.kernels.compiled import compiled, even_share, in_bands
from handful.engine.kernels.fluid.advection import carried, flow_carried
from handful.engine.kernels.fluid.grid import Carried, Field, Sheets, confine, mark_row
from handful.engine.kernels.fluid.pressure import hold_divergence

HEAT, FUEL, SOOT = 0, 1, 2
"""What each cell carries beside its marks: heat from 0 in still air to 1 in the flame, fuel and soot from 0 to 1."""

_IGNITES = 0.08
_HELD_HEAT = 0.45

NOISE_SIDE = 256

Row = NDArray[np.float32]
"""The levels of a row of cells `(W, 8)`."""

Guide = NDArray[np.float32]
"""Which way heat lifts in each cell, across and down, and how many times as quickly it cools `(H, W, 3)`; of no rows
where it goes straight up."""


class Burning(NamedTuple):
    """How gas burns, in cells and seconds: how much a second of the fuel burns; how far a share of it
    heats, and swells; by how much heat cools to the fourth power; the lift of heat and the weight of
    soot; how much soot a share leaves, and how much of it is gone a second; the strength given back to eddies;
    the wind, and how firmly still air takes hold of what is cool; how uneven the fuel comes, in how large waves, and how fast they
    change; and how long marks last."""

    burns: float
    heats: float
    swells: float
    cools: float
    lift: float
    weight: float
    soots: float
    clears: float
    eddies: float
    wind: float
    hold: float
    uneven: float
    wave: float
    pace: float
    marked: float


@lru_cache(maxsize=8)
def noise_sheet(key: Key) -> NDArray[np.float32]:
    """Two independent sheets of smooth noise `(256, 256, 2)` that return at their edges, of deviation 1."""
    random = np.random.Generator(np.random.Philox(key=int(key[0]) << 32 | int(key[1])))
    white = np.fft.rfft2(random.standard_normal((2, NOISE_SIDE, NOISE_SIDE)))
    across = np.fft.rfftfreq(NOISE_SIDE)
    down = np.fft.fftfreq(NOISE_SIDE)
    waves = np.hypot(across[None, :], down[:, None])
    shape = np.where(waves > 1 / 64, np.maximum(waves, 1e-6) ** -1.5, 0) * np.exp(
        -((waves / 0.14) ** 2)
    )
    sheets = np.fft.irfft2(white * shape, s=(NOISE_SIDE, NOISE_SIDE))
    sheets /= sheets.std(axis=(1, 2), keepdims=True)
    return np.ascontiguousarray(np.moveaxis(sheets, 0, 2).astype(np.float32))


@compiled
def noise_in(sheet: NDArray[np.float32], x: Number, y: Number) -> tuple[Number, Number]:
    """Both noises at a place on a sheet, which goes on for ever."""
    i0, j0 = int(np.floor(x)), int(np.floor(y))
    fx, fy = np.float32(x - i0), np.float32(y - j0)
    i, j = int(i0) & (NOISE_SIDE - 1), int(j0) & (NOISE_SIDE - 1)
    i1, j1 = (i + 1) & (NOISE_SIDE - 1), (j + 1) & (NOISE_SIDE - 1)
    top = sheet[j, i, 0] + (sheet[j, i1, 0] - sheet[j, i, 0]) * fx
    low = sheet[j1, i, 0] + (sheet[j1, i1, 0] - sheet[j1, i, 0]) * fx
    other_top = sheet[j, i, 1] + (sheet[j, i1, 1] - sheet[j, i, 1]) * fx
    other_low = sheet[j1, i, 1] + (sheet[j1, i1, 1] - sheet[j1, i, 1]) * fx
    return top + (low - top) * fy, other_top + (other_low - other_top) * fy


def burn(
    across: Sheets,
    down: Sheets,
    levels: Carried,
    pressure: Sheets,
    fed: Sheets,
    sides: tuple[Field, Field],
    walls: tuple[Field, Field],
    guide: Guide,
    sheet: NDArray[np.float32],
    how: Burning,
    begins: float,
    seconds: float,
    steps: int,
) -> tuple[Sheets, Sheets, Carried]:
    """Flow and levels once gas has burnt for some steps of so many seconds, in sheets that stand behind one another and
    do not touch: flow `(S, H, W + 1)` and `(S, H + 1, W)`, levels `(S, H, W, 8)`.

    `fed` `(S, H, W)` is how much fuel comes into each cell, from 0 to 1. `sides` that are shut go as fast as their
    `walls` do, in cells a second. All sheets have one `guide`. The two sets of marks are made anew by turns. What it begins with is changed,
    `pressure` to that of the last step.
    """
    count, rows = levels.shape[:2]
    swelling = np.empty(levels.shape[:3], np.float32)
    share = even_share(count * rows)
    for step in range(steps):
        now = begins + step * seconds
        gas = (across, down, levels)
        in_bands(
            _burn_rows,
            count * rows,
            levels,
            fed,
            guide,
            sheet,
            how,
            now,
            seconds,
            swelling,
            band=share,
        )
        in_bands(_push_rows, count * rows, *gas, guide, how, seconds, band=share)
        in_bands(
            _flow_on, count, *gas, pressure, *sides, *walls, how, seconds, swelling, band=1
        )  # fmt: skip
        levels = carried(levels, across, down, seconds)
        across, down = flow_carried(across, down, seconds)
    return across, down, levels


@compiled
def _burn_rows(
    first: int,
    last: int,
    levels: Carried,
    fed: Sheets,
    guide: Guide,
    sheet: NDArray[np.float32],
    how: Burning,
    now: float,
    seconds: float,
    swelling: Sheets,
) -> None:
    """What happens in cells by themselves, in rows of all sheets, counted through."""
    for row in range(first, last):
        s, j = row // levels.shape[1], row % levels.shape[1]
        q = levels[s, j]
        for which in range(2):
            before = np.floor((now - seconds) / how.marked + 0.5 * which)
            if np.floor(now / how.marked + 0.5 * which) != before:
                mark_row(q, j, which)
        _feed(q, fed[s, j], sheet, how, now, s, j)
        if guide.shape[0] > 0:
            _cool_more(q, guide[j], how, seconds)
        _burn_cells(q, swelling[s, j], how, seconds)


@compiled
def _push_rows(
    first: int,
    last: int,
    across: Sheets,
    down: Sheets,
    levels: Carried,
    guide: Guide,
    how: Burning,
    seconds: float,
) -> None:
    """What drives the flow, in rows of all sheets, counted through."""
    for row in range(first, last):
        s, j = row // levels.shape[1], row % levels.shape[1]
        above = levels[s, max(0, j - 1)]
        _push(across[s, j], down[s, j], levels[s, j], above, j > 0, how, seconds)
        if guide.shape[0] > 0:
            _lean(across[s, j], down[s, j], levels[s, j], above, guide[j], how, seconds)


@compiled
def _flow_on(
    first: int,
    last: int,
    across: Sheets,
    down: Sheets,
    levels: Carried,
    pressure: Sheets,
    open_across: Field,
    open_down: Field,
    wall_across: Field,
    wall_down: Field,
    how: Burning,
    seconds: float,
    swelling: Sheets,
) -> None:
    """What the flow of whole sheets does by itself."""
    rows, columns = levels.shape[1:3]
    spin = np.empty((rows, columns), np.float32)
    for s in range(first, last):
        u, v = across[s], down[s]
        if how.eddies > 0:
            confine(u, v, how.eddies, seconds, spin)
        _hold_back(u, rows / seconds)
        _hold_back(v, rows / seconds)
        hold_divergence(
            u, v, swelling[s], open_across, open_down, wall_across, wall_down, pressure[s]
        )


@compiled
def _hold_back(flow: Field, most: float) -> None:
    """Nothing flows farther in a step than the grid is high, however hard it is pushed."""
    limit = np.float32(most)
    for j in range(flow.shape[0]):
        for i in range(flow.shape[1]):
            flow[j, i] = min(max(flow[j, i], -limit), limit)


@compiled
def _feed(
    q: Row,
    fed: NDArray[np.float32],
    sheet: NDArray[np.float32],
    how: Burning,
    now: float,
    s: int,
    j: int,
) -> None:
    for i in range(fed.shape[0]):
        share = fed[i]
        if share <= np.float32(0.0):
            continue
        x, t = i / how.wave * 8.0 + 97.0 * s, now * how.pace * 8.0 + j / how.wave * 8.0
        level = 0.6 + 0.5 * noise_in(sheet, x, t)[0]
        share = np.float32(share * (1.0 - how.uneven * (1.0 - min(1.0, max(0.0, level)))))
        q[i, FUEL] = max(q[i, FUEL], share)
        q[i, HEAT] = max(q[i, HEAT], np.float32(_HELD_HEAT) * share)


@compiled
def _burn_cells(q: Row, swelling: NDArray[np.float32], how: Burning, seconds: float) -> None:
    most = np.float32(how.burns * seconds)
    gone = np.float32(math.exp(-how.clears * seconds))
    for i in range(q.shape[0]):
        heat, fuel = q[i, HEAT], q[i, FUEL]
        burnt = np.float32(0.0)
        if heat > np.float32(_IGNITES) and fuel > np.float32(0.0):
            burnt = min(fuel, most)
        heat += np.float32(how.heats) * burnt * max(np.float32(0.0), np.float32(1.15) - heat)
        q[i, HEAT], q[i, FUEL] = _cooled(heat, how.cools * seconds), fuel - burnt
        q[i, SOOT] = q[i, SOOT] * gone + np.float32(how.soots) * burnt
        swelling[i] = np.float32(how.swells / seconds) * burnt


@compiled
def _cooled(heat: Number, cools: float) -> Number:
    """Heat after some cooling by the fourth power."""
    if heat <= np.float32(1e-3):
        return heat
    cube = heat * heat * heat
    return np.float32(heat * (1.0 + 3.0 * cools * cube) ** (-1.0 / 3.0))


@compiled
def _cool_more(q: Row, guide: NDArray[np.float32], how: Burning, seconds: float) -> None:
    """What a row cools by where it does so more quickly, and what fuel of it no longer burns there."""
    for i in range(q.shape[0]):
        more = guide[i, 2] - np.float32(1.0)
        if more > np.float32(0.0):
            q[i, HEAT] = _cooled(q[i, HEAT], how.cools * seconds * more)
            q[i, FUEL] *= np.float32(math.exp(-how.burns * seconds * more))


@compiled
def _lean(
    u: NDArray[np.float32],
    v: NDArray[np.float32],
    q: Row,
    above: Row,
    guide: NDArray[np.float32],
    how: Burning,
    seconds: float,
) -> None:
    """Turns the lift of a row from straight up to where it is guided."""
    lift, half = np.float32(0.5 * how.lift * seconds), np.float32(0.5)
    for i in range(q.shape[0]):
        v[i] += lift * (np.float32(1.0) + guide[i, 1]) * (q[i, HEAT] + above[i, HEAT])
        before = max(0, i - 1)
        turn = half * (guide[before, 0] + guide[i, 0])
        u[i] += lift * turn * (q[before, HEAT] + q[i, HEAT])


@compiled
def _push(
    u: NDArray[np.float32],
    v: NDArray[np.float32],
    q: Row,
    above: Row,
    has_above: bool,
    how: Burning,
    seconds: float,
) -> None:
    half, one = np.float32(0.5), np.float32(1.0)
    lift, weight = np.float32(how.lift * seconds), np.float32(how.weight * seconds)
    held, wind = np.float32(1.0 - math.exp(-how.hold * seconds)), np.float32(how.wind)
    for i in range(q.shape[0]):
        if has_above:
            heat = half * (q[i, HEAT] + above[i, HEAT])
            soot = half * (q[i, SOOT] + above[i, SOOT])
            v[i] += weight * soot - lift * heat
        cool = held * max(np.float32(0.15), one - np.float32(3.0) * q[i, HEAT])
        u[i] += (wind - u[i]) * cool
        v[i] -= v[i] * cool
