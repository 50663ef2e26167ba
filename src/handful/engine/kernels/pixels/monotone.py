"""Curves through points that never swing beyond them.

Fritsch and Butland, "A method for constructing local monotone piecewise cubic interpolants", SIAM
Journal on Scientific and Statistical Computing 5(2), 1984.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]


def curve_through(points: Iterable[tuple[float, float]], at: Numbers) -> Numbers:
    """The curve through points in any order, at places; of two at one place the last counts, and straight on
    beyond the ends."""
    known = dict(points)
    x = np.array(sorted(known))
    return monotone(x, np.array([known[place] for place in x]), at)


def monotone(x: Numbers, y: Numbers, at: Numbers) -> Numbers:
    """The curve through points with rising `x`, at places; straight on beyond its ends."""
    if len(x) == 1:
        return np.full(at.shape, y[0])
    step, rise = np.diff(x), np.diff(y) / np.diff(x)
    slopes = _slopes(step, rise)
    i = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(step) - 1)
    t = np.clip((at - x[i]) / step[i], 0, 1)
    within = (
        (2 * t**3 - 3 * t**2 + 1) * y[i]
        + (t**3 - 2 * t**2 + t) * step[i] * slopes[i]
        + (3 * t**2 - 2 * t**3) * y[i + 1]
        + (t**3 - t**2) * step[i] * slopes[i + 1]
    )
    beyond = np.where(at > x[-1], (at - x[-1]) * slopes[-1], 0)
    beyond += np.where(at < x[0], (at - x[0]) * slopes[0], 0)
    curve: Numbers = within + beyond
    return curve


def _slopes(step: Numbers, rise: Numbers) -> Numbers:
    """Weighted harmonic means of the slopes on both sides, and nothing at a turn."""
    if len(step) == 1:
        return np.array([rise[0], rise[0]])
    first, second = 2 * step[1:] + step[:-1], step[1:] + 2 * step[:-1]
    same = rise[:-1] * rise[1:] > 0
    safe = np.where(same, rise[:-1] * rise[1:], 1)
    inner = np.where(
        same,
        (first + second)
        * safe
        / (first * np.where(same, rise[1:], 1) + second * np.where(same, rise[:-1], 1)),
        0,
    )
    ends = (_end(step[0], step[1], rise[0], rise[1]), _end(step[-1], step[-2], rise[-1], rise[-2]))
    return np.concatenate([[ends[0]], inner, [ends[1]]])


def _end(near: float, far: float, rise: float, next_rise: float) -> float:
    """The slope at an end: of a parabola, held to what keeps the shape."""
    slope = ((2 * near + far) * rise - near * next_rise) / (near + far)
    if np.sign(slope) != np.sign(rise):
        return 0.0
    if np.sign(rise) != np.sign(next_rise) and abs(slope) > 3 * abs(rise):
        return 3 * rise
    return float(slope)
