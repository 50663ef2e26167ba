"""Curves as even pieces: arc lengths, tangents, and shapes laid along them."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.noise import MOST_PUSH, octaves
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.lengths import way_length

Points = NDArray[np.float64]

Segments = NDArray[np.float64]
"""`(N, 8)`: x, y, width, light at one end of each piece, then at the other."""

_MOST_PIECES = 20_000
_LOOKED_AROUND = 24.0
"""px on each side over which a direction is taken, so that corners turn softly."""


class Curve(NamedTuple):
    """Vertices `(N, 2)` in px and their distances `(N,)` along the curve from its first one."""

    points: Points
    along: NDArray[np.float64]

    @property
    def length(self) -> float:
        """From its first point to its last along it, in px."""
        return float(self.along[-1])


def curve_through(points: Points, spacing: float) -> Curve:
    """A line through points `(N, 2)`, in even pieces of at most `spacing` px; its ends to the bit."""
    along = _distances(points)
    pieces = min(_MOST_PIECES, max(1, math.ceil(float(along[-1]) / spacing)))
    places = np.linspace(0.0, along[-1], pieces + 1)
    even = np.stack([np.interp(places, along, points[:, axis]) for axis in (0, 1)], axis=1)
    even[0], even[-1] = points[0], points[-1]
    return Curve(even, places)


def measured(points: Points) -> Curve:
    """Points as they are, with their distances along."""
    return Curve(points, _distances(points))


def _distances(points: Points) -> NDArray[np.float64]:
    steps = np.hypot(*np.diff(points, axis=0).T)
    return np.concatenate([[0.0], np.cumsum(steps)])


@compiled
def place_on(points: Points, along: NDArray[np.float64], s: float) -> tuple[float, float]:
    """Where a curve is at a distance along it; straight on beyond its ends."""
    last = along.shape[0] - 1
    i = int(np.searchsorted(along, s)) - 1
    i = min(last - 1, max(0, i))
    span = along[i + 1] - along[i]
    part = (s - along[i]) / span if span > 0.0 else 0.0
    return (
        points[i, 0] + part * (points[i + 1, 0] - points[i, 0]),
        points[i, 1] + part * (points[i + 1, 1] - points[i, 1]),
    )


@compiled
def laid_along(shape: Points, points: Points, along: NDArray[np.float64]) -> Points:
    """A shape `(N, 2)` drawn along and across a straight line, laid along a curve instead.

    x is the distance along, y the distance to its right; y = 0 falls on the curve itself.
    """
    laid = np.empty_like(shape)
    end = along[along.shape[0] - 1]
    around = min(_LOOKED_AROUND, 0.25 * end)
    for i in range(shape.shape[0]):
        s, n = shape[i, 0], shape[i, 1]
        x, y = place_on(points, along, s)
        middle = min(end - around, max(around, s))
        bx, by = place_on(points, along, middle - around)
        ax, ay = place_on(points, along, middle + around)
        length = max(1e-9, way_length(ax - bx, ay - by))
        laid[i, 0] = x - n * (ay - by) / length
        laid[i, 1] = y + n * (ax - bx) / length
    return laid


def waved(
    curve: Curve,
    key: Key,
    push: float,
    size: float,
    travelled: float,
    phase: float,
    soft: tuple[float, float],
) -> Curve:
    """A curve with waves that push it sideways by up to `push` and have `travelled` along it.

    `soft` is the distance from its first and from its last vertex over which they set in; the end
    itself is not moved at all. 0 leaves that end free. All in the px of the curve.
    """
    return measured(
        _waved(curve.points, curve.along, *key, push / MOST_PUSH, size, travelled, phase, *soft)
    )


@compiled
def _waved(
    points: Points,
    along: NDArray[np.float64],
    k0: int,
    k1: int,
    push: float,
    size: float,
    travelled: float,
    phase: float,
    near: float,
    far: float,
) -> Points:
    shape = np.empty_like(points)
    end = along[along.shape[0] - 1]
    for i in range(points.shape[0]):
        s = along[i]
        free = 1.0
        for soft, away in ((near, s), (far, end - s)):
            if soft > 0.0:
                part = min(1.0, away / soft)
                free *= smooth(part)
        first, second = octaves((s - travelled) / size, 0.0, phase, k0, k1, 2, 0.4)
        shape[i, 0] = s + 0.25 * push * free * second
        shape[i, 1] = push * free * first
    return laid_along(shape, points, along)
