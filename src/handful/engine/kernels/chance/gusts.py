"""How wind comes and goes: a few slow waves that never meet again."""

from __future__ import annotations

import math

from handful.engine.kernels.chance.hash import Key, uniform

_WAVES = ((1.3, 1.0), (2.9, 0.6), (6.1, 0.4))
"""How fast each turns, in radians a second, and how strong it is."""


def gust(seconds: float, key: Key) -> float:
    """How strong the wind is beside its mean, of deviation 1 or so, at a moment."""
    return sum(
        strong * math.sin(turns * seconds + 2 * math.pi * uniform(*key, i, 0))
        for i, (turns, strong) in enumerate(_WAVES)
    )
