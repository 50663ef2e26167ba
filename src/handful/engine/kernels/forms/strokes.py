"""The light of a natural flash of lightning over time.

Rakov and Uman, "Lightning: Physics and Effects", Cambridge University Press 2003: a flash to
ground has 3 to 5 return strokes in one channel, the geometric mean of the time between two being
about 60 ms; the first, whose leader makes the branches, typically peaks at 30 kA and those after
it at 10 to 15 kA. Light is taken to go with the peak current, and later strokes leave the
branches dark.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from handful.engine.kernels.chance.hash import Key, uniform
from handful.engine.kernels.chance.purposes import HOW_BRIGHT, WHEN_STRUCK

_LEAST_LATER, _MOST_LATER = 10 / 30, 15 / 30
"""Light of a later stroke, of the first one's."""

_LEADER_LIGHT = 0.1
_BRANCHES_FADE = 0.6
"""How long the branches glow, of how long the channel does."""


class Stroke(NamedTuple):
    """How much of the way the leader has come, and the light of channel and branches, 0 to 1."""

    grown: float
    channel: float
    branches: float


STEADY = Stroke(1.0, 1.0, 1.0)
"""A discharge that simply burns."""


def stroke_at(
    key: Key, seconds: float, count: int, apart: float, leader: float, afterglow: float
) -> Stroke:
    """A flash at a time since its leader set out, all in seconds; `count` 0 is a steady discharge.

    Times between strokes are `apart`, give or take a fifth. The light of each goes down to 1/e
    within `afterglow`.
    """
    if count == 0:
        return STEADY
    if seconds < 0:
        return Stroke(0.0, 0.0, 0.0)
    if seconds < leader:
        return Stroke((seconds / leader) ** 1.5, _LEADER_LIGHT, _LEADER_LIGHT)
    begun, light = leader, 0.0
    for i in range(count):
        if seconds < begun:
            break
        peak = 1.0
        if i > 0:
            peak = _LEAST_LATER + (_MOST_LATER - _LEAST_LATER) * uniform(*key, i, HOW_BRIGHT)
        light = max(light, peak * math.exp(-(seconds - begun) / afterglow))
        begun += apart * (0.8 + 0.4 * uniform(*key, i, WHEN_STRUCK))
    branches = math.exp(-(seconds - leader) / (_BRANCHES_FADE * afterglow))
    return Stroke(1.0, light, branches)
