"""A tortuous channel between two points, by random midpoint displacement.

Fournier, Fussell and Carpenter, "Computer rendering of stochastic models", CACM 25(6), 1982:
each span is split near its middle and the split is pushed sideways by a normal number in
proportion to the span, level after level. The proportion is chosen so that the mean absolute
change of direction along the finished channel is the one asked for; for natural lightning that
is about 16 degrees whatever the length of the pieces (Hill, "Analysis of irregular paths of
lightning channels", J. Geophys. Res. 73, 1968; used for pictures by Reed and Wyvill 1994).
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.hash import boiling_normal, uniform

MOST_LEVELS = 13
"""8192 pieces in one channel at the most."""

_SIDEWAYS, _ALONG, _WHEN = 1, 2, 3
_MOST_TILT = 1.1


@lru_cache(maxsize=256)
def tilt_for_turn(mean_turn: float) -> float:
    """Standard deviation (radians) of one level's tilt for a mean absolute turn (radians).

    Closed form. A split tilts its two halves by +e and -e: a turn of 2e at the split, and e more
    at each older neighbour. So a vertex made `k` levels before the last turns with variance
    (4 + 2k) s^2, and a share 2^-(k+1) of all vertices is that old; the mean absolute value of a
    normal number is sqrt(2 / pi) of its deviation.
    """
    spread = sum(math.sqrt(4 + 2 * k) / 2 ** (k + 1) for k in range(40))
    return mean_turn / (math.sqrt(2 / math.pi) * spread)


@compiled
def grow_channel(
    k0: int,
    k1: int,
    start_x: float,
    start_y: float,
    end_x: float,
    end_y: float,
    levels: float,
    tilt: float,
    phase: float,
) -> NDArray[np.float64]:
    """Vertices `(n + 1, 2)` of a channel whose ends lie on the two points to the bit.

    `levels` may be fractional: the last level then fades in, so that a channel that grows longer
    gains detail without a pop. Every vertex is a function of its place in the tree alone, so a
    moved end point carries the same shape along. `tilt` comes from `tilt_for_turn`; `phase` is
    the boil in turns, slower for the large swings than for the small bends.
    """
    whole = int(math.ceil(levels))
    pieces = 1 << whole
    points = np.empty((pieces + 1, 2))
    points[0, 0], points[0, 1] = start_x, start_y
    points[pieces, 0], points[pieces, 1] = end_x, end_y
    for level in range(whole):
        weight = min(1.0, levels - level)
        stride = pieces >> level
        pace = 0.4 + 0.6 * (level + 1.0) / whole
        for i in range(1 << level):
            a, b = i * stride, (i + 1) * stride
            node = (1 << level) + i
            shift = uniform(k0, k1, node, _WHEN)
            push = boiling_normal(k0, k1, node, _SIDEWAYS, phase * pace + shift)
            sideways = min(_MOST_TILT, max(-_MOST_TILT, tilt * push * weight))
            across = 0.5 * math.tan(sideways)
            along = 0.5 + 0.3 * weight * (uniform(k0, k1, node, _ALONG) - 0.5)
            dx, dy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
            middle = (a + b) >> 1
            points[middle, 0] = points[a, 0] + along * dx - across * dy
            points[middle, 1] = points[a, 1] + along * dy + across * dx
    return points
