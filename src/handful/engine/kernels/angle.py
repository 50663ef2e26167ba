"""The angle of a place about another, in plain arithmetic that a compiler makes wide."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled_along

_HALF, _WHOLE = 0.5 * math.pi, math.pi
_LEAST = 1e-300
"""Added to what is divided by, so that a place upon the other has an angle, of 0."""


@compiled_along
def angle_of(y: float, x: float) -> float:
    """Radians from -pi to pi, as `math.atan2` gives them to 1e-15, and many times as quick in a row.

    Moshier, "Methods and Programs for Mathematical Functions", 1989: a ratio of polynomials up to
    0.66, beyond which a quarter of a half turn is taken away first.
    """
    across, down = abs(x), abs(y)
    far = max(across, down)
    ratio = min(across, down) / (far + _LEAST)
    over = ratio > 0.66
    t = (ratio - 1.0) / (ratio + 1.0) if over else ratio
    z = t * t
    upper = -8.750608600031904122785e-1 * z - 1.615753718733365076637e1
    upper = (upper * z - 7.500855792314704667340e1) * z - 1.228866684490136173410e2
    upper = upper * z - 6.485021904942025371773e1
    lower = (z + 2.485846490142306297962e1) * z + 1.650270098316988542046e2
    lower = (lower * z + 4.328810604912902668951e2) * z + 4.853903996359136964868e2
    lower = lower * z + 1.945506571482613964425e2
    angle = t + t * (z * upper / lower)
    angle = 0.25 * math.pi + angle if over else angle
    angle = _HALF - angle if down > across else angle
    angle = _WHOLE - angle if x < 0.0 else angle
    return -angle if y < 0.0 else angle


@compiled_along
def cosine_of(turns: np.float32) -> np.float32:
    """The cosine of so many whole turns, within 1 of 100,000: a polynomial (Taylor) of what is left of the last one."""
    t = turns - np.rint(turns)
    z = t * t
    upper = np.float32(-1.7143907) * z + np.float32(7.9035364)
    upper = (upper * z - np.float32(26.426257)) * z + np.float32(60.244641)
    upper = (upper * z - np.float32(85.456817)) * z + np.float32(64.939394)
    return np.float32((upper * z - np.float32(19.739209)) * z + np.float32(1.0))
