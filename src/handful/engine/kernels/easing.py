"""Smooth passages from 0 to 1."""

from __future__ import annotations

from typing import Any

import numpy as np

from handful.engine.kernels.compiled import compiled


@compiled
def smooth(part: Any) -> Any:
    """From 0 to 1 as `part`, a number or an array, goes from 0 to 1, level at both ends: 3 p^2 - 2 p^3.

    A `float32` stays one.
    """
    return part * part * (np.float32(3.0) - np.float32(2.0) * part)
