"""Where things are that were thrown: flight through air, and bouncing on a floor, in closed form.

Drag is in proportion to speed (Stokes), so that v' = g - d (v - w) for gravity g, drag d and wind w; the
speed goes to w + g / d (textbook mechanics).
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import uniform
from handful.engine.kernels.compiled import compiled

Numbers = NDArray[np.float64]
Pair = tuple[float, float]

_HARDLY = 1e-7
"""Drag times seconds below which air is hardly felt, and the closed form would lose its digits."""

_MOST_BOUNCES = 40
RESTS = 6.0
"""px a second of a bounce below which a thing lies and slides."""

LIES = 1e-6
"""px within which a thing is on the floor."""


@compiled
def _lost(drag: float, t: float) -> float:
    """Which part of its speed in the air a thing has lost after `t` seconds."""
    return -math.expm1(-drag * t)


@compiled
def _flown(
    start: float, speed: float, pull: float, drag: float, air: float, t: float, lost: float
) -> tuple[float, float]:
    """The place and the speed along one axis after `t` seconds, in which it has lost that part of its speed."""
    if drag * t < _HARDLY:
        more = (pull + drag * (air - speed)) * t
        return start + speed * t + 0.5 * more * t, speed + more
    over = air + pull / drag - speed
    return start + (speed + over) * t - over * lost / drag, speed + over * lost


@compiled
def gone(start: float, speed: float, pull: float, drag: float, air: float, t: float) -> float:
    """The place along one axis after `t` seconds."""
    return _flown(start, speed, pull, drag, air, t, _lost(drag, t))[0]


@compiled
def pace(speed: float, pull: float, drag: float, air: float, t: float) -> float:
    """The speed along one axis after `t` seconds."""
    return _flown(0.0, speed, pull, drag, air, t, _lost(drag, t))[1]


@compiled
def falls_to(
    floor: float, y: float, vy: float, g: float, drag: float, air: float, most: float
) -> float:
    """Seconds until a thing above a floor comes down to it, or `most` if it does not till then."""
    low, high = 0.0, most
    if vy < 0.0:
        if pace(vy, g, drag, air, most) < 0.0:
            return most
        for _ in range(40):
            mid = 0.5 * (low + high)
            if pace(vy, g, drag, air, mid) < 0.0:
                low = mid
            else:
                high = mid
        low, high = high, most
    if gone(y, vy, g, drag, air, most) < floor:
        return most
    for _ in range(44):
        mid = 0.5 * (low + high)
        if gone(y, vy, g, drag, air, mid) < floor:
            low = mid
        else:
            high = mid
    return high


@compiled
def flown(
    x: float,
    y: float,
    vx: float,
    vy: float,
    t: float,
    gravity: Pair,
    wind: Pair,
    drag: float,
    floor: float,
    bounce: float,
    slide: float,
) -> tuple[float, float, float, float]:
    """The place and the speed after `t` seconds.

    On a floor a thing comes back up with `bounce` of its speed, and keeps `slide` of that along it; when
    it hardly bounces any more it slides till it lies. What begins below the floor does not meet it.
    """
    left = t
    lies = y >= floor - LIES and vy >= 0.0 and bounce * vy < RESTS
    if gravity[1] <= 0.0 or y > floor + LIES or floor == math.inf:
        lost = _lost(drag, left)
        x, vx = _flown(x, vx, gravity[0], drag, wind[0], left, lost)
        y, vy = _flown(y, vy, gravity[1], drag, wind[1], left, lost)
        return x, y, vx, vy
    for _ in range(_MOST_BOUNCES):
        if lies:
            break
        falls = falls_to(floor, y, vy, gravity[1], drag, wind[1], left)
        lost = _lost(drag, falls)
        x, vx = _flown(x, vx, gravity[0], drag, wind[0], falls, lost)
        y, vy = _flown(y, vy, gravity[1], drag, wind[1], falls, lost)
        if falls >= left:
            return x, y, vx, vy
        vx, vy = slide * vx, -bounce * vy
        y, left = floor, left - falls
        lies = -vy < RESTS
    rubs = 4.0 * (1.0 - slide) + drag + 0.5
    kept = math.exp(-rubs * left)
    return x + vx * (1.0 - kept) / rubs, floor, vx * kept, 0.0


@compiled
def fly(
    starts: Numbers,
    speeds: Numbers,
    ages: Numbers,
    gravity: Pair,
    wind: Pair,
    drag: float,
    floor: float,
    bounce: float,
    slide: float,
    places: Numbers,
) -> None:
    """Places `(N, 2)` after `ages` `(N,)` seconds from `starts` at `speeds`; see `flown`."""
    for i in range(ages.shape[0]):
        places[i, 0], places[i, 1], _, _ = flown(
            starts[i, 0], starts[i, 1], speeds[i, 0], speeds[i, 1], ages[i], gravity, wind, drag,
            floor, bounce, slide,
        )  # fmt: skip


@compiled
def fall(
    starts: Numbers,
    speeds: Numbers,
    most: Numbers,
    gravity: Pair,
    wind: Pair,
    drag: float,
    floor: float,
    found: Numbers,
) -> None:
    """Seconds `(N,)` until what is above a floor comes down to it, or `most` of each if it does not till then."""
    for i in range(most.shape[0]):
        found[i] = most[i]
        if gravity[1] > 0.0 and starts[i, 1] < floor:
            found[i] = falls_to(
                floor, starts[i, 1], speeds[i, 1], gravity[1], drag, wind[1], most[i]
            )


@compiled
def shares(k0: Any, k1: Any, which: NDArray[np.int64], purpose: int, found: Numbers) -> None:
    """Numbers in [0, 1) for things by their number, the same whatever others there are."""
    for i in range(which.shape[0]):
        found[i] = uniform(k0, k1, which[i], purpose)
