"""How long ways are."""

from __future__ import annotations

import math

from handful.engine.kernels.compiled import compiled


@compiled
def way_length(x: float, y: float) -> float:
    """How long a way across and down is. What the mathematical library has for it guards against numbers that no picture
    holds, and is a call."""
    return math.sqrt(x * x + y * y)
