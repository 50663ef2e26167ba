"""Discharges grown by dielectric breakdown.

Niemeyer, Pietronero and Wiesmann, "Fractal dimension of dielectric breakdown", Physical Review
Letters 52, 1984: on a square lattice the discharge is at potential 0 and a distant circle at 1;
the potential between satisfies Laplace's equation, and of all bonds from the discharge to a free
site the next is drawn with a probability that goes with its potential to the power eta. For
eta = 1 the paper gives a fractal dimension of 1.75, and less for a higher eta.

The potential is kept by relaxation: after each bond around it, and everywhere from time to time.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key, Word, boiling_normal, uniform
from handful.engine.kernels.chance.purposes import BENT, SHAKEN, WHICH_BOND
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.forms.curve import Points, Segments, laid_along
from handful.engine.kernels.forms.strokes import Stroke
from handful.engine.kernels.lengths import way_length

_WINDOW = 10
"""Sites on each side of a new one that are relaxed at once."""

_NEAR_SWEEPS = 3
_BONDS_A_SWEEP = 12
"""Bonds after which all sites are relaxed."""

_SETTLING = 3
"""Times its radius, how often all sites are relaxed before anything grows."""

_OVER = 1.5
"""Successive over-relaxation."""


_RADIUS = 72
"""Sites from the start of a discharge to its end."""

_MOST_FORWARDS = 4.0
_SHAKE = 0.28
"""Deviation, in cells, by which a site is off the lattice, so that it does not show."""

_BRANCH_LIGHT = 0.6
_FULL_BRANCH = 60.0
"""Sites that a branch must carry to shine in full."""


class Discharge(NamedTuple):
    """Sites `(N, 2)` on the lattice around its first one at 0, 0, and which one each grew from.

    A site comes after the one it grew from; the last one reached the circle.
    """

    sites: NDArray[np.int64]
    parents: NDArray[np.int64]


def breakdown(key: Key, radius: int, eta: float, forwards: float) -> Discharge:
    """A discharge from the middle of a circle of `radius` sites until it reaches it.

    With `forwards` 0 it grows to all sides; the more, the more it is drawn along positive x.
    """
    return Discharge(*_grown(*key, radius, eta, _before(radius, forwards).copy()))


@lru_cache(maxsize=64)
def _figure(key: Key, eta: float, aimed: float) -> Discharge:
    return breakdown(key, _RADIUS, eta, _MOST_FORWARDS * aimed)


def breakdown_tree(
    key: Key,
    eta: float,
    aimed: float,
    way: Points,
    along: NDArray[np.float64],
    crooked: float,
    phase: float,
    widths: tuple[float, float],
    dying: float,
    stroke: Stroke,
) -> Segments:
    """A discharge from the first to the last place of a way, as segments.

    What leads to the end is the channel; a branch is the wider and brighter, the more grew from it,
    and loses the share `dying` of its light towards its tips. `crooked` 1 hides the lattice.
    """
    figure = _figure(key, eta, aimed)
    sites = _shaken(*key, figure.sites, crooked, phase)
    end = sites[-1]
    turn = np.array([[end[0], -end[1]], [end[1], end[0]]]) / (end @ end)
    straight = sites @ turn * along[-1]
    straight[0], straight[-1] = (0.0, 0.0), (along[-1], 0.0)
    places = laid_along(straight, way, along)
    places[0], places[-1] = way[0], way[-1]
    return _bonds_as_segments(*key, places, figure.parents, crooked, phase, *widths, dying, *stroke)


@compiled
def _shaken(k0: Word, k1: Word, sites: NDArray[np.int64], crooked: float, phase: float) -> Points:
    places = np.empty(sites.shape)
    for i in range(sites.shape[0]):
        for axis in range(2):
            by = boiling_normal(k0, k1, 2 * i + axis, SHAKEN, phase)
            places[i, axis] = sites[i, axis] + _SHAKE * crooked * min(2.0, max(-2.0, by))
    return places


@compiled
def _bonds_as_segments(
    k0: Word,
    k1: Word,
    places: Points,
    parents: NDArray[np.int64],
    crooked: float,
    phase: float,
    start_width: float,
    end_width: float,
    dying: float,
    grown: float,
    channel_light: float,
    branches_light: float,
) -> Segments:
    """Two pieces for every bond that has grown, bent in its middle."""
    count = places.shape[0]
    carries = np.ones(count)
    for i in range(count - 1, 0, -1):
        carries[parents[i]] += carries[i]
    is_channel = np.zeros(count, np.bool_)
    i = count - 1
    while i > 0:
        is_channel[i] = True
        i = parents[i]
    width, light = np.empty(count), np.empty(count)
    for i in range(count):
        share = i / (count - 1.0)
        own = start_width + (end_width - start_width) * share
        if is_channel[i] or i == 0:
            width[i], light[i] = own, channel_light
        else:
            full = min(1.0, math.sqrt(carries[i] / _FULL_BRANCH))
            width[i] = own * (0.3 + 0.4 * full)
            light[i] = branches_light * _BRANCH_LIGHT * (1.0 - dying * (1.0 - full))
    shown = int(np.ceil(grown * (count - 1)))
    segments = np.empty((2 * shown, 8))
    for bond in range(shown):
        i = bond + 1
        parent = parents[i]
        ax, ay, bx, by = places[parent, 0], places[parent, 1], places[i, 0], places[i, 1]
        bend = 0.16 * crooked * boiling_normal(k0, k1, i, BENT, phase)
        mx, my = 0.5 * (ax + bx) - bend * (by - ay), 0.5 * (ay + by) + bend * (bx - ax)
        for half in range(2):
            row = segments[2 * bond + half]
            row[0], row[1] = (ax, ay) if half == 0 else (mx, my)
            row[4], row[5] = (mx, my) if half == 0 else (bx, by)
            row[2], row[3], row[6], row[7] = width[i], light[i], width[i], light[i]
    return segments


@lru_cache(maxsize=8)
def _before(radius: int, forwards: float) -> NDArray[np.float64]:
    """The potential before anything has grown, the same for every discharge."""
    size = 2 * radius + 3
    y, x = np.mgrid[:size, :size] - (radius + 1.0)
    away = np.hypot(x, y)
    turn = np.divide(x, away, out=np.zeros_like(x), where=away > 0)
    outer = (0.5 + 0.5 * turn) ** forwards
    potential: NDArray[np.float64] = outer * np.minimum(1, np.log1p(away) / math.log1p(radius))
    is_fixed = (away >= radius) | (away == 0)
    for _ in range(_SETTLING * radius):
        _relax(potential, is_fixed, 1, size - 1, 1, size - 1)
    return potential


@compiled
def _grown(
    k0: Word, k1: Word, radius: int, eta: float, potential: NDArray[np.float64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    size = 2 * radius + 3
    middle = radius + 1
    is_fixed = np.zeros((size, size), np.bool_)
    for y in range(size):
        for x in range(size):
            is_fixed[y, x] = way_length(x - middle, y - middle) >= radius
    is_fixed[middle, middle] = True
    sites = np.empty((size * size, 2), np.int64)
    parents = np.empty(size * size, np.int64)
    sites[0, 0], sites[0, 1], parents[0] = 0, 0, 0
    bonds = np.empty((4 * size * size, 3), np.int64)
    chances = np.empty(4 * size * size)
    count = _with_bonds(bonds, 0, 0, middle, middle, is_fixed)
    used, last_x, last_y, is_all_new = 1, middle, middle, True
    while count > 0:
        total, kept = 0.0, 0
        for i in range(count):
            x, y = bonds[i, 0], bonds[i, 1]
            if potential[y, x] == 0.0:
                continue
            chance = chances[i]
            if is_all_new or (abs(x - last_x) <= _WINDOW and abs(y - last_y) <= _WINDOW):
                chance = potential[y, x] if eta == 1.0 else potential[y, x] ** eta
            bonds[kept, 0], bonds[kept, 1], bonds[kept, 2] = x, y, bonds[i, 2]
            chances[kept] = chance
            total += chance
            kept += 1
        count = kept
        if count == 0:
            break
        left = uniform(k0, k1, used, WHICH_BOND) * total
        chosen = 0
        while chosen < count - 1 and left > chances[chosen]:
            left -= chances[chosen]
            chosen += 1
        x, y = bonds[chosen, 0], bonds[chosen, 1]
        sites[used, 0], sites[used, 1] = x - middle, y - middle
        parents[used] = bonds[chosen, 2]
        potential[y, x] = 0.0
        is_fixed[y, x] = True
        used += 1
        if way_length(x - middle, y - middle) >= radius - 2:
            break
        count = _with_bonds(bonds, count, used - 1, x, y, is_fixed)
        last_x, last_y = x, y
        for _ in range(_NEAR_SWEEPS):
            _relax(
                potential, is_fixed,
                max(1, x - _WINDOW), min(size - 1, x + _WINDOW + 1),
                max(1, y - _WINDOW), min(size - 1, y + _WINDOW + 1),
            )  # fmt: skip
        is_all_new = used % _BONDS_A_SWEEP == 0
        if is_all_new:
            _relax(potential, is_fixed, 1, size - 1, 1, size - 1)
    return sites[:used].copy(), parents[:used].copy()


@compiled
def _with_bonds(
    bonds: NDArray[np.int64],
    count: int,
    site: int,
    x: int,
    y: int,
    is_fixed: NDArray[np.bool_],
) -> int:
    """The bonds from a new site to its free neighbours added; how many bonds there are then."""
    for side in range(4):
        nx = x + (1 if side == 0 else -1 if side == 1 else 0)
        ny = y + (1 if side == 2 else -1 if side == 3 else 0)
        if not is_fixed[ny, nx]:
            bonds[count, 0], bonds[count, 1], bonds[count, 2] = nx, ny, site
            count += 1
    return count


@compiled
def _relax(
    potential: NDArray[np.float64],
    is_fixed: NDArray[np.bool_],
    left: int,
    right: int,
    top: int,
    bottom: int,
) -> None:
    for y in range(top, bottom):
        for x in range(left, right):
            if not is_fixed[y, x]:
                mean = 0.25 * (
                    potential[y, x - 1]
                    + potential[y, x + 1]
                    + potential[y - 1, x]
                    + potential[y + 1, x]
                )
                value = potential[y, x] + _OVER * (mean - potential[y, x])
                potential[y, x] = value if value > 1e-12 else 1e-12
