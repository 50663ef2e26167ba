"""What fades by so much for each step, in plain arithmetic: a loop over many is worked on side by side."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled_along


@compiled_along
def fades(x: np.float32) -> np.float32:
    """The exponential of -x, for x from 0 on, within 8 of a million of it; beyond 80 it is as at 80. A float's own bits take
    the whole powers of two, and a polynomial the rest (Taylor)."""
    t = min(x, np.float32(80.0)) * np.float32(1.4426950408889634)
    whole = np.floor(t + np.float32(0.5))
    f = t - whole
    share = np.float32(0.0096181) + f * (np.float32(-0.0013333) + f * np.float32(0.000154))
    share = np.float32(0.2402265) + f * (np.float32(-0.0555041) + f * share)
    share = np.float32(1.0) + f * (np.float32(-0.6931472) + f * share)
    power = np.int32((np.int32(127) - np.int32(whole)) << np.int32(23)).view(np.float32)
    return np.float32(share * power)
