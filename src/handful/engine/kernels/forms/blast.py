"""How a blast's front grows, and the pressure behind it.

Taylor, "The formation of a blast wave by a very intense explosion", Proceedings of the Royal Society A
201, 1950, for a strong front; Friedlander, "The diffraction of sound pulses", Proceedings of the Royal
Society A 186, 1946, for what follows it.
"""

from __future__ import annotations

import math

from handful.engine.kernels.compiled import compiled

AIR = 1.225
"""kg in a cubic metre of air at sea level (ISO 2533)."""

SOUND = 343.0
"""Metres a second in air of 20 °C (handbook)."""

_STRONG = 1.033
"""Of a strong front in air, whose ratio of specific heats is 1.4 (Taylor 1950)."""


def front_of(joules: float, seconds: float) -> float:
    """Metres that a front has gone: as t^(2/5) while it is faster than sound, and as sound from then on."""
    if seconds <= 0:
        return 0.0
    pace = _STRONG * (joules / AIR) ** 0.2
    slows = (0.4 * pace / SOUND) ** (5 / 3)
    if seconds <= slows:
        return float(pace * seconds**0.4)
    return float(pace * slows**0.4 + SOUND * (seconds - slows))


@compiled
def pressure(behind: float, lasts: float, sharp: float) -> float:
    """Of 1 at the front, after a part `behind` of the way that the push `lasts`: Friedlander's curve,
    which goes below nothing after that, and comes back."""
    part = behind / lasts
    return (1.0 - part) * math.exp(-sharp * part)
