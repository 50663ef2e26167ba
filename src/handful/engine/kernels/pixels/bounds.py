"""Keeping light finite, whatever is done to it."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled
from handful.engine.picture import MOST_LIGHT, Picture


@compiled
def hold_bounds(rows: Picture) -> None:
    """Light from nothing to `MOST_LIGHT` and cover from 0 to 1, in place; not-a-number is nothing."""
    zero, one, most = np.float32(0.0), np.float32(1.0), np.float32(MOST_LIGHT)
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            for c in range(3):
                value = line[x, c]
                value = value if value > zero else zero
                line[x, c] = value if value < most else most
            cover = line[x, 3]
            cover = cover if cover > zero else zero
            line[x, 3] = cover if cover < one else one
